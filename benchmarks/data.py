"""The takes that benchmarks read: made once, kept in benchmarks/data."""

from pathlib import Path

import msgspec
import numpy as np
from scipy.signal import lfilter

from benchmarks.comparing import Case, rules_of, take_of
from kickback.files.parquet import encode_parquet
from kickback.files.write import write_take
from kickback.kinds.foot.model.drills import FootDrill
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.simulate import simulate
from kickback.kinds.models import model_named
from kickback.kinds.playing.drills import TimedInput
from kickback.takes.build import build_take
from kickback.takes.record import replace
from kickback.takes.take import Take

FOLDER = Path(__file__).with_name("data")
FRAMES = 1_000_000
NAMES = [
    "t",
    "dt",
    "x",
    "y",
    "vx",
    "vy",
    "touch_ground",
    "touch_side",
    "in_move_x",
    "in_jump",
    "in_brake",
    "heading",
    "camera_x",
    "camera_y",
]
HEADER = {"kickback": 1, "subject": "lamplighter", "length_unit": "m", "frame_rate": 60}


def sides(many: int) -> list[Path]:
    """Return two folders of takes of one parameter set, each played by other hands."""
    case = Case(7000, many)
    rules = rules_of(case)
    made = [FOLDER / f"side-{side}-{many}" for side in "ab"]
    for place, folder in enumerate(made):
        for number in range(many):
            path = folder / f"take-{number:03}.csv"
            if not path.exists():
                path.parent.mkdir(parents=True, exist_ok=True)
                write_take(take_of(rules, case, place * many + number), path)
    return made


def columns(frames: int) -> dict[str, np.ndarray]:
    """Return a long run: the standard drill over and over, each where the last one ended."""
    take = simulate(frame_rate=60)
    count, left = len(take), frames
    again = -(-frames // count)
    one = {name: np.asarray(take.columns[name]) for name in take.columns}
    one |= {"in_brake": np.zeros(count), "heading": np.where(one["vx"] < 0, 180.0, 0.0)}
    out = {name: np.tile(one[name], again) for name in NAMES if name in one}
    lap = np.repeat(np.arange(again), count)
    out["t"] = out["t"] + lap * one["t"][-1]
    out["x"] = out["x"] + lap * one["x"][-1]
    out |= {f"camera_{axis}": _followed(out[axis], 1 / 60) for axis in "xy"}
    return {name: column[:left] for name, column in out.items()}


def _followed(path: np.ndarray, step: float) -> np.ndarray:
    """Return what follows a path by a smoothing of 6/s, from where it begins."""
    gain = -np.expm1(-6 * step)
    return path[0] + lfilter([gain], [1, gain - 1], path - path[0])


def long_take_of(view: str, frames: int) -> Take:
    """Return the standard drill's moves over and over, each where the last one ended, in a view."""
    drill = standard_drill()
    if view != "side":
        still = TimedInput(at=0.0, until=0.1, values={"in_move_y": 0.0})
        drill = replace(
            drill, view=view, inputs=(*drill.inputs, still), columns=(*drill.columns, "in_move_y")
        )
    take = simulate(drill=drill, frame_rate=60)
    again = -(-frames // len(take))
    lap = np.repeat(np.arange(again), len(take))
    columns = {name: np.tile(np.asarray(take.columns[name]), again) for name in take.columns}
    for name in ("t", "x"):
        columns[name] = columns[name] + lap * float(take.numbers(name)[-1])
    cut = {name: column[:frames] for name, column in columns.items()}
    return build_take(take.header, cut, name=view)


def files(frames: int, *, filmed: bool = True, pauses: int = 0) -> dict[str, Path]:
    """Return the same take as CSV, as Parquet, and as JSON Lines of arrays and of objects.

    With a camera or without; ``pauses`` of a second lie in it at even distances.
    """
    FOLDER.mkdir(exist_ok=True)
    name = f"foot-{frames}" + ("-filmed" if filmed else "") + (f"-{pauses}" if pauses else "")
    made = {
        "csv": FOLDER / f"{name}.csv",
        "parquet": FOLDER / f"{name}.parquet",
        "arrays": FOLDER / f"{name}-arrays.jsonl",
        "objects": FOLDER / f"{name}-objects.jsonl",
    }
    if all(path.exists() for path in made.values()):
        return made
    table = columns(frames)
    names = [name for name in NAMES if filmed or not name.startswith("camera")]
    if pauses:
        at = np.linspace(0, frames, pauses + 2)[1:-1].astype(np.int64)
        table["t"] = table["t"] + np.searchsorted(at, np.arange(frames), side="right")
    rows = [list(row) for row in zip(*(table[name].tolist() for name in names), strict=True)]
    made["parquet"].write_bytes(encode_parquet(HEADER, names, [table[name] for name in names]))
    encode = msgspec.json.Encoder()
    head = msgspec.json.encode(HEADER)
    with made["csv"].open("wb") as out:
        out.write(b"# " + head + b"\n" + ",".join(names).encode() + b"\n")
        out.write(encode.encode_lines(rows).replace(b"[", b"").replace(b"]", b""))
    with made["arrays"].open("wb") as out:
        out.write(msgspec.json.encode({**HEADER, "columns": names}) + b"\n")
        out.write(encode.encode_lines(rows))
    with made["objects"].open("wb") as out:
        out.write(head + b"\n")
        out.write(encode.encode_lines([dict(zip(names, row, strict=True)) for row in rows]))
    return made


def thousand() -> Path:
    """Return a folder of a thousand takes of 1,200 frames."""
    folder = FOLDER / "thousand"
    if not folder.exists():
        folder.mkdir(parents=True)
        take = long_take_of("side", 1200)
        for number in range(1000):
            write_take(replace(take, name=f"take-{number:04}"), folder / f"take-{number:04}.csv")
    return folder


def of_kind(kind: str) -> Path:
    """Return a take of a kind's usual drill at 60 frames/s."""
    path = FOLDER / f"{kind}-60.jsonl"
    if not path.exists():
        FOLDER.mkdir(exist_ok=True)
        write_take(model_named(kind).simulate({}, frame_rate=60.0), path)
    return path


def minutes() -> Path:
    """Return a folder of ten takes of a minute: five rates, two takes of each."""
    folder = FOLDER / "minutes"
    if not folder.exists():
        once = standard_drill()
        inputs = [
            replace(item, at=item.at + 12 * k, until=item.until + 12 * k)
            for k in range(5)
            for item in once.inputs
        ]
        drill = FootDrill(name="minute", length=60.0, inputs=inputs, floor=once.floor)
        folder.mkdir(parents=True)
        for rate in (30.0, 60.0, 90.0, 120.0, 144.0):
            for seed in (1, 2):
                take = simulate({}, drill, frame_rate=rate, jitter=0.01, seed=seed)
                write_take(take, folder / f"minute-{rate:g}-{seed}.jsonl")
    return folder
