"""``demo``: the Lantern Row project on disk, and the steps of the walk through it."""

from collections.abc import Sequence
from importlib import resources
from pathlib import Path

from kickback.errors import UsageError, nearest
from kickback.files.atomic import write_new
from kickback.project.parameter_sets import read_drill
from kickback.takes.record import Record, replace
from kickback.takes.take import Take
from kickback.workflows.demo_logs import LOG_MAPPING, console_log, foreign_log
from kickback.workflows.demo_wishes import WISHES
from kickback.workflows.simulating import simulate_takes, write_takes

__all__ = ["WALKS", "Step", "Walk", "walk_named", "write_demo"]


class Step(Record, frozen=True, kw_only=True):
    """One step: what it shows, and the command's arguments."""

    title: str
    text: str
    arguments: Sequence[str]


_PLAYED = (
    "--drill",
    "drills/rooftop-basics.toml",
    "--run",
    "kickback simulate {parameters} --send {address} --fast",
    "--parameters",
    "params/brisk.toml",
    "--parameters",
    "params/heavy.toml",
)
"""The built-in model in a game's place, once for each of two parameter sets."""

_TOUR = (
    Step(
        title="What is in a take",
        text="A take is one recorded run: the lamplighter plays the drill 'rooftop-basics'.",
        arguments=("inspect", "takes/brisk-60.jsonl"),
    ),
    Step(
        title="How two parameter sets feel",
        text="'brisk' and 'floaty' beside each other: every number with its unit.",
        arguments=("measure", "takes/brisk-60.jsonl", "takes/floaty-60.jsonl"),
    ),
    Step(
        title="What changed between them",
        text="The same two: what happened in words, how far each metric moved, and why.",
        arguments=(
            "compare",
            "takes/brisk-60.jsonl",
            "takes/floaty-60.jsonl",
            "--figure",
            "figures/brisk-floaty-sides.png",
            "--force",
        ),
    ),
    Step(
        title="A baseline",
        text="What 'brisk' is like is accepted as it is: a text file for version control.",
        arguments=(
            "accept",
            "takes/brisk-[0-9]*.jsonl",
            "--because",
            "the rooftops were built for it",
        ),
    ),
    Step(
        title="A build that may pass",
        text="A takeoff of 13.1 m/s in the place of 13: it moved, within every budget.",
        arguments=("gate", "builds/nudged"),
    ),
    Step(
        title="A build that may not",
        text="13.8 m/s: leaps are an eighth higher, more than anybody allowed.",
        arguments=("gate", "builds/overdone"),
    ),
    Step(
        title="Does 'brisk' hold at other frame rates?",
        text="The same parameter set and drill at 30, 60 and 144 frames/s.",
        arguments=("framerate", "takes/brisk-[0-9]*.jsonl"),
    ),
    Step(
        title="Does 'brisk-slipup'?",
        text="The same numbers in code that forgets the time step in gravity and running: the"
        " causes, what they break, and what to write instead; also as a figure.",
        arguments=(
            "framerate",
            "takes/brisk-slipup-*.jsonl",
            "--figure",
            "figures/brisk-slipup-rates.png",
            "--force",
        ),
    ),
    Step(
        title="A constant at another frame rate",
        text="A friction factor of 0.86 a frame, tuned at 60 frames/s, as code with the time step.",
        arguments=("retime", "0.86", "--kind", "factor", "--from", "60"),
    ),
    Step(
        title="What is the code doing?",
        text="The update rule read off one take: what is added to the speed in each frame.",
        arguments=("law", "takes/brisk-60.jsonl"),
    ),
    Step(
        title="Recording a running game",
        text="The built-in model stands in for the game: it is started, sends frames over TCP and"
        " plays the drill that the recorder names, once for each parameter set.",
        arguments=(
            "record",
            "--into",
            "live",
            *_PLAYED,
        ),
    ),
    Step(
        title="A picture",
        text="Speed, height, inputs and phases over time, and the arcs of the jumps.",
        arguments=(
            "plot",
            "takes/brisk-60.jsonl",
            "takes/floaty-60.jsonl",
            "-o",
            "figures/brisk-floaty.png",
            "--force",
        ),
    ),
)

_RECORDING = (
    Step(
        title="What a game sends with",
        text="One small file a language, to be copied beside the game.",
        arguments=("senders", "--copy", "python", "--into", "senders", "--force"),
    ),
    Step(
        title="Two parameter sets in one go",
        text="The built-in model stands in for the game: it is started once for each parameter"
        " set, and plays the drill that the recorder names.",
        arguments=(
            "record",
            "--into",
            "live",
            "--quiet",
            *_PLAYED,
        ),
    ),
    Step(
        title="What was recorded",
        text="The takes of both sets, beside each other.",
        arguments=("measure", "live", "--only", "run,coast,jump"),
    ),
    Step(
        title="The whole check in one line",
        text="[gate] in kickback.toml says how to play the game: every drill, set and rate.",
        arguments=("gate",),
    ),
)


_LOGS = (
    Step(
        title="A log that is not ours",
        text="Pixels, y down, milliseconds, a semicolon between cells: a mapping reads it.",
        arguments=(
            "measure",
            "logs/roof-run.csv",
            "--map",
            "logs/roof-run.map.toml",
            "--only",
            "run,coast,jump",
        ),
    ),
    Step(
        title="A log that nobody has described",
        text="Console output with frames as JSON in between: a mapping is guessed from it.",
        arguments=("new", "logs", "--from", "logs/console.log", "--force"),
    ),
    Step(
        title="What that log is good for",
        text="What to know before building on it: the lamplighter was set back to the start.",
        arguments=("inspect", "logs/console.log", "--map", "logs/console.log.map.toml"),
    ),
)


_GROUND = (
    Step(
        title="Over the ground in three dimensions",
        text="The lamplighter crosses a courtyard: runs, turns and a diagonal beside its leaps.",
        arguments=("measure", "courtyard/brisk-3d.jsonl", "--only", "run,plane,dash,jump"),
    ),
    Step(
        title="By what rule it turns",
        text="What is added to a velocity over the ground, and what limits it on diagonals.",
        arguments=("law", "courtyard/brisk-3d.jsonl"),
    ),
    Step(
        title="From above, with a mistake",
        text="The same courtyard on the town's map; the input is not shortened on diagonals.",
        arguments=("inspect", "courtyard/brisk-above.jsonl"),
    ),
    Step(
        title="The way as a picture",
        text="The way over the ground with its speed as a colour and each press as an arrow.",
        arguments=(
            "plot", "courtyard/brisk-above.jsonl", "-o", "figures/courtyard-above.png", "--force",
        ),
    ),
)  # fmt: skip


_SLED = (
    Step(
        title="What the salt sled is like",
        text="It is hauled over the flats: driven, let go, braked, turned both ways.",
        arguments=("measure", "flats/sled-60.jsonl", "--only", "drive,steer"),
    ),
    Step(
        title="Which forces move it",
        text="What drives it and what resists, its grip, and how the wheel turns it.",
        arguments=("law", "flats/sled-60.jsonl"),
    ),
    Step(
        title="What waxed runners change",
        text="One drag less, one grip less: top speed, turns and slides move at once.",
        arguments=("compare", "flats/sled-60.jsonl", "flats/sled-waxed-60.jsonl"),
    ),
    Step(
        title="Over the dunes, at three frame rates",
        text="Its tilt goes after the slope by a constant factor a frame: the usual mistake.",
        arguments=("framerate", "dunes/sled-slipup-*.jsonl"),
    ),
    Step(
        title="The way as a picture",
        text="Speed, turning and slide over time, and the way from above with where it points.",
        arguments=("plot", "flats/sled-60.jsonl", "-o", "figures/sled.png", "--force"),
    ),
)


_FLARE = (
    Step(
        title="What the flare does",
        text="It is lobbed at a beacon four times: launch, flight, impact, spread.",
        arguments=("measure", "flares/flare-60.jsonl", "--only", "shot"),
    ),
    Step(
        title="Would another elevation have hit?",
        text="A beacon 24 m away and 4 m up: how near they come, and what would have hit.",
        arguments=(
            "measure", "flares/flare-60.jsonl", "--target", "24,4", "--only",
            "shot.miss,shot.low_elevation,shot.high_elevation",
        ),
    ),
    Step(
        title="By what rule it flies",
        text="Gravity, drag and launch, and the time between shots.",
        arguments=("law", "flares/flare-60.jsonl"),
    ),
    Step(
        title="At three frame rates",
        text="Gravity is added once a frame: at 30 frames/s flares fly on for twice as long.",
        arguments=("framerate", "flares/flare-slipup-*.jsonl", "--only", "shot"),
    ),
    Step(
        title="The flights as a picture",
        text="Over each other, under what that speed can reach, with the beacon.",
        arguments=("plot", "flares/flare-60.jsonl", "-o", "figures/flare.png", "--force"),
    ),
)  # fmt: skip


_CAMERA = (
    Step(
        title="How the camera follows",
        text="Its lag behind the lamplighter, the largest offset, what it shows of a leap; and how"
        " smoothly all of it is shown, at uneven frame times.",
        arguments=("measure", "filmed/filmed-60.jsonl", "--only", "camera,smoothness"),
    ),
    Step(
        title="By what rule",
        text="The smoothing of the camera, told from the second or from the frame.",
        arguments=("law", "filmed/filmed-60.jsonl"),
    ),
    Step(
        title="What the player sees",
        text="Where the lamplighter is on the screen, and how long each frame lasts.",
        arguments=("plot", "filmed/filmed-60.jsonl", "-o", "figures/filmed.png", "--force"),
    ),
)


_WISHES = tuple(
    Step(title=title, text=text, arguments=arguments) for title, text, arguments in WISHES
)


class Walk(Record, frozen=True, kw_only=True):
    """A walk through a topic: its name, what it is about, and its steps."""

    name: str
    about: str
    steps: Sequence[Step]


WALKS = (
    Walk(name="tour", about="the whole job, once through", steps=_TOUR),
    Walk(name="recording", about="from a running game to numbers", steps=_RECORDING),
    Walk(name="logs", about="logs that are not ours", steps=_LOGS),
    Walk(name="wishes", about="a game as parameters, and wishes as numbers", steps=_WISHES),
    Walk(name="ground", about="over a plane: from above and in three dimensions", steps=_GROUND),
    Walk(name="camera", about="a camera after its subject, and smoothness", steps=_CAMERA),
    Walk(name="flare", about="a projectile: flight, spread, cadence and aim", steps=_FLARE),
    Walk(name="sled", about="a vehicle: forces, grip, steering and tilt", steps=_SLED),
)
"""The walks; the first is the usual one. A later topic gets one of its own."""


def walk_named(name: str) -> Walk:
    """Return a walk; raises UsageError naming the nearest where there is none."""
    known = {walk.name: walk for walk in WALKS}
    if name not in known:
        raise UsageError(f"no walk '{name}'{nearest(name, known)}")
    return known[name]


def _courtyard(folder: Path) -> list[Take]:
    """Write the takes over a plane; in the one from above the input is not shortened."""
    takes = []
    for name, drill, mistakes in (
        ("brisk-3d", "courtyard", ()),
        ("brisk-above", "courtyard-above", ("diagonal-faster",)),
    ):
        played = read_drill(folder / "drills" / f"{drill}.toml")
        own = simulate_takes(
            [str(folder / "params" / "brisk.toml")], played, rates=(60.0,), mistakes=mistakes
        )
        takes += [replace(take, name=name) for take in own]
    write_takes(takes, folder / "courtyard", encoding="jsonl", force=True)
    return takes


def _sleds_and_flares(folder: Path) -> list[Take]:
    """Write the takes of the salt sled, over the flats and the dunes, and of the flare."""
    takes = []
    for place, drill, name, rates in (
        ("flats", "flats", "sled", (60.0,)),
        ("flats", "flats", "sled-waxed", (60.0,)),
        ("dunes", "dunes", "sled", (60.0,)),
        ("dunes", "dunes", "sled-slipup", (30.0, 60.0, 144.0)),
        ("flares", "lob", "flare", (60.0,)),
        ("flares", "lob", "flare-slipup", (30.0, 60.0, 144.0)),
    ):
        file = str(folder / "params" / f"{name}.toml")
        own = simulate_takes([file], read_drill(Path(drill)), rates=rates)
        write_takes(own, folder / place, encoding="jsonl", force=True)
        takes += own
    return takes


def write_demo(folder: Path) -> int:
    """Write the demo project; returns the number of takes.

    Files of the project that exist are kept, so that a changed parameter shows in the
    takes, which are made anew.
    """
    source = resources.files("kickback.workflows") / "lantern_row"
    for part in ("kickback.toml", "params", "drills", "builds", "levels"):
        item = source / part
        for file in [item] if item.is_file() else list(item.iterdir()):
            target = folder / (part if item.is_file() else f"{part}/{file.name}")
            if not target.exists():
                write_new(target, file.read_bytes())
    drill = read_drill(folder / "drills" / "rooftop-basics.toml")
    takes: list[Take] = []
    for name, rates in (
        ("brisk", (30.0, 60.0, 144.0)),
        ("brisk-slipup", (30.0, 60.0, 144.0)),
        ("floaty", (60.0,)),
        ("heavy", (60.0,)),
    ):
        takes += simulate_takes([str(folder / "params" / f"{name}.toml")], drill, rates=rates)
    write_takes(takes, folder / "takes", encoding="jsonl", force=True)
    for build in ("nudged", "overdone"):
        file = folder / "builds" / f"{build}.toml"
        own = simulate_takes([str(file)], drill, rates=(30.0, 60.0, 144.0))
        write_takes(own, folder / "builds" / build, encoding="jsonl", force=True)
        takes += own
    takes += _courtyard(folder)
    takes += _sleds_and_flares(folder)
    filmed = simulate_takes(
        [str(folder / "params" / "filmed.toml")], drill, rates=(60.0,), jitter=0.1, seed=4
    )
    write_takes(filmed, folder / "filmed", encoding="jsonl", force=True)
    takes += filmed
    write_new(folder / "logs" / "roof-run.csv", foreign_log(takes[1]), replace=True)
    write_new(folder / "logs" / "console.log", console_log(takes[1]), replace=True)
    mapping = folder / "logs" / "roof-run.map.toml"
    if not mapping.exists():
        write_new(mapping, LOG_MAPPING.encode())
    (folder / "figures").mkdir(exist_ok=True)
    return len(takes)
