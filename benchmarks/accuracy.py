"""How often causes of a dependence on the frame rate are found: ``docs/accuracy.md`` is its output.

Takes are made by the built-in model with random parameters (seeded), one or two mistakes
switched on, at several frame rates or once at uneven ones. What the mistakes are is known;
what the analysis names is counted.
"""

import itertools
import sys
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import NamedTuple

import numpy as np

from benchmarks.cars import cars_section
from benchmarks.comparing import comparing_section
from benchmarks.faulty_games import faults_section
from benchmarks.fitting import fitting_section
from benchmarks.free_play import free_play_section
from benchmarks.moves_resolution import moves_section
from benchmarks.other_kinds import causes_section, pairs_section, resolution_of_others
from benchmarks.reading import section
from benchmarks.resolution import resolution_section
from benchmarks.shots import shots_section
from benchmarks.uneven_takes import uneven_section
from kickback.framerate.analyse import frame_rates
from kickback.kinds.foot.model.exercises import (
    belt_drill,
    edges_drill,
    moves_drill,
    plane_drill,
    slopes_drill,
    walls_drill,
)
from kickback.kinds.foot.model.parameters import GROUND_MOVEMENTS, INTEGRATORS, MISTAKES
from kickback.kinds.foot.model.simulate import simulate
from kickback.takes.build import build_take
from kickback.takes.header import ParameterSet, Value
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["Case", "expected", "main", "named", "parameters"]

DRILLS = {"side": moves_drill(), "3d": plane_drill("3d"), "top": plane_drill("top")}
OTHER_MOVES = {"edges": edges_drill(), "walls": walls_drill(), "slopes": slopes_drill(),
               "belt": belt_drill()}  # fmt: skip
DRILLS |= OTHER_MOVES
FINDABLE = [name for name in MISTAKES if name != "integration-order"]
RATES = ((30.0, 60.0, 144.0), (60.0, 144.0))
CASES = 2
"""Random parameter sets for each mistake, movement and integrator."""

UNSHOWN = {
    "constant": {"factor-per-frame", "first-order-factor"},
    "smoothing": {"acceleration-per-frame", "dt-twice"},
    "friction": set[str](),
}
"""Mistakes in terms that a kind of ground movement does not have."""

HIDDEN = (
    ("acceleration-per-frame", "dt-twice", "one term cannot be both: the model does the first"),
    ("factor-per-frame", "first-order-factor", "1 − rate·dt at one fixed step is a fixed factor"),
    ("acceleration-per-frame", "factor-per-frame", "on friction: a smoothing by a fixed factor"),
)
"""Pairs that leave the same motion as the first or the second of them alone."""


def parameters(rng: np.random.Generator, movement: str, order: str) -> dict[str, Value]:
    """Return random parameters of a character with a kind of ground movement and integrator."""
    ends = {
        "run_speed": (6, 10), "ground_acceleration": (25, 50), "coast_deceleration": (20, 40),
        "brake_deceleration": (30, 60), "smoothing_rate": (4, 10), "stop_rate": (4, 10),
        "friction_rate": (3, 7), "gravity_rise": (25, 50), "gravity_fall": (25, 60),
        "jump_speed": (9, 15), "dash_speed": (20, 30), "dash_time": (0.12, 0.25),
        "release_cut": (0.3, 0.7),
    }  # fmt: skip
    drawn: dict[str, Value] = {n: float(rng.uniform(*pair)) for n, pair in ends.items()}
    return {**drawn, "terminal_speed": 60.0, "ground_movement": movement, "integrator": order}


class Case(NamedTuple):
    """One group of takes, or a single one with uneven times (``jitter``)."""

    values: dict[str, Value]
    mistakes: tuple[str, ...] = ()
    rates: tuple[float, ...] = RATES[0]
    form: str = "exact"
    jitter: float = 0.0
    drill: str = "side"

    def takes(self) -> list[Take]:
        """Return the takes of one parameter set at each rate, in the form of the log."""
        full = {**self.values, "mistakes": " ".join(self.mistakes)}
        chosen = ParameterSet(name="lamplighter", values=full)
        takes = [
            simulate(
                chosen,
                DRILLS[self.drill],
                frame_rate=rate,
                jitter=self.jitter,
                seed=len(self.mistakes),
            )
            for rate in self.rates
        ]
        return [_FORMS[self.form](take) for take in takes]


def named(case: Case) -> set[str]:
    """Return the causes that are named as findings, or suspected of a single take."""
    result = frame_rates(case.takes())
    causes = {cause.name for _, cause in result.causes if cause.verdict != "note"}
    return causes | {cause.name for item in result.suspicions for cause in item.causes}


def _without_velocity(take: Take) -> Take:
    return replace(take, columns={n: c for n, c in take.columns.items() if n not in {"vx", "vy"}})


def _pixels(take: Take) -> Take:
    """Return a take in whole pixels, 32 to the metre, without a velocity."""
    bare = _without_velocity(take)
    rounded = {n: np.round(32 * c) if n in {"x", "y"} else c for n, c in bare.columns.items()}
    return replace(bare, header=replace(bare.header, length_unit="px"), columns=rounded)


def _printed(take: Take, t: int, v: int, x: int, *, dt: bool = True) -> Take:
    """Return a take with times, velocities and positions to so many decimals."""
    places = {"t": t, "dt": t, "x": x, "y": x, "vx": v, "vy": v}
    rounded = {
        name: np.round(column, places[name]) if name in places else column
        for name, column in take.columns.items()
        if dt or name != "dt"
    }
    return build_take(take.header, rounded, name=take.name)


_FORMS = {
    "exact": lambda take: take,
    "without a velocity": _without_velocity,
    "in whole pixels, without a velocity": _pixels,
    "printed": lambda take: _printed(take, 4, 3, 3),
    "printed coarsely, no `dt`": lambda take: _printed(take, 3, 2, 2, dt=False),
}
_PRINTED = ("printed", "printed coarsely, no `dt`")


def expected(mistakes: Iterable[str], movement: str, slowest: float) -> set[str]:
    """Return the causes that mistakes leave in the takes of a movement."""
    found = set(mistakes) - UNSHOWN[movement] - {"integration-order"}
    if slowest >= 40:  # the model's largest step is that of 40 frames/s
        found.discard("dt-clamped")
    for kept, lost, _ in HIDDEN[:2]:
        if {kept, lost} <= found:
            found.discard(lost)
    if movement == "friction" and {"acceleration-per-frame", "factor-per-frame"} <= found:
        found.discard("acceleration-per-frame")
    if "all-in-frames" in found:
        found &= {"all-in-frames", "dt-clamped"}
    return found


class _Count:
    """Right, and what was named instead."""

    def __init__(self) -> None:
        self.right = self.all = 0
        self.wrong: Counter[str] = Counter()

    def add(self, got: set[str], wanted: set[str]) -> None:
        self.all += 1
        if got == wanted:
            self.right += 1
        else:
            missed = [f"no {name}" for name in sorted(wanted - got)]
            self.wrong[", ".join([*missed, *sorted(got - wanted)])] += 1

    def cells(self) -> str:
        told = "; ".join(f"{text} ({count})" for text, count in self.wrong.most_common(3))
        return f"{self.right} of {self.all} | {told or '—'}"


def _each(movements: Sequence[str], cases: int, seed: int) -> Iterable[dict[str, Value]]:
    rng = np.random.default_rng(seed)
    for movement, order, _ in itertools.product(movements, INTEGRATORS, range(cases)):
        yield parameters(rng, movement, order)


def _counted(cases: Sequence[Case]) -> str:
    """Return how many cases are right, and what was named instead, as two cells of a table."""
    count = _Count()
    with ProcessPoolExecutor(2) as pool:
        for case, got in zip(cases, pool.map(named, cases, chunksize=4), strict=True):
            movement = str(case.values["ground_movement"])
            count.add(got, expected(case.mistakes, movement, min(case.rates)))
    return count.cells()


def _told(rates: Sequence[float]) -> str:
    return "{" + ", ".join(f"{rate:g}" for rate in rates) + "}"


def _movements(*mistakes: str) -> list[str]:
    """Return the kinds of ground movement that have the terms of all mistakes, or friction."""
    have = [one for one in GROUND_MOVEMENTS if not set(mistakes) & UNSHOWN[one]]
    return have or ["friction"]


def _alone() -> list[str]:
    lines = ["| mistake | rates | right | named instead |", "|---|---|---|---|"]
    for mistake, rates in itertools.product(FINDABLE, RATES):
        if mistake == "dt-clamped" and min(rates) >= 40:
            continue
        every = [Case(v, (mistake,), rates) for v in _each(_movements(mistake), CASES, 1)]
        lines.append(f"| `{mistake}` | {_told(rates)} | {_counted(every)} |")
    return lines


def _single() -> list[str]:
    lines = ["| log | mistake | right | named instead |", "|---|---|---|---|"]
    for form, mistake in itertools.product(("exact", *_PRINTED), ("", *FINDABLE)):
        if mistake == "dt-clamped":
            continue
        mistakes = (mistake,) if mistake else ()
        every = [
            Case(values, mistakes, (60.0,), form, jitter=0.2)
            for values in _each(_movements(*mistakes), CASES, 2)
        ]
        lines.append(f"| {form} | {f'`{mistake}`' if mistake else 'none'} | {_counted(every)} |")
    return lines


def _pairs(view: str) -> list[str]:
    lines = ["| pair | right | named instead |", "|---|---|---|"]
    for pair in itertools.combinations(FINDABLE, 2):
        every = [Case(values, pair, drill=view) for values in _each(_movements(*pair), 1, 3)]
        lines.append(f"| `{pair[0]}` + `{pair[1]}` | {_counted(every)} |")
    return lines


def _over_a_plane() -> list[str]:
    lines = ["| view | mistake | rates | right | named instead |", "|---|---|---|---|---|"]
    for view, mistake, rates in itertools.product(("3d", "top"), ("", *FINDABLE), RATES):
        unseen = {"gravity-per-frame"} if view == "top" else set[str]()
        if mistake in unseen or (mistake == "dt-clamped" and min(rates) >= 40):
            continue
        mistakes = (mistake,) if mistake else ()
        drawn = _each(_movements(*mistakes), 1, 5)
        every = [Case(v, mistakes, rates, drill=view) for v in drawn]
        shown = f"`{mistake}`" if mistake else "none"
        lines.append(f"| {view} | {shown} | {_told(rates)} | {_counted(every)} |")
    return lines


def _other_moves() -> list[str]:
    lines = ["| drill | mistake | right | named instead |", "|---|---|---|---|"]
    rng = np.random.default_rng(6)
    for drill, mistake in itertools.product(OTHER_MOVES, ("", *FINDABLE)):
        mistakes = (mistake,) if mistake else ()
        drawn = [v | _moves_too(rng) for v in _each(_movements(*mistakes), 1, 6)]
        count = _counted([Case(v, mistakes, drill=drill) for v in drawn])
        lines.append(f"| {drill} | {f'`{mistake}`' if mistake else 'none'} | {count} |")
    return lines


def _moves_too(rng: np.random.Generator) -> dict[str, Value]:
    """Return random parameters of squats, lags, walls, slopes and what moves underfoot."""
    ends = {
        "squat_time": (0.04, 0.1), "landing_lag": (0.05, 0.15), "ledge_hang": (0.05, 0.12),
        "fast_fall": (1.4, 2.0), "wall_slide_speed": (2, 4), "wall_stick_time": (0.1, 0.2),
        "wall_jump_speed": (10, 13), "wall_jump_lockout": (0.1, 0.25), "slope_effect": (0.2, 0.6),
        "slide_acceleration": (10, 25), "belt_kept": (0.3, 1.0), "air_acceleration": (15, 30),
        "jump_speed": (12, 14), "gravity_rise": (36, 44), "gravity_fall": (36, 44),
        "run_speed": (7.5, 8.5),
    }  # fmt: skip
    drawn: dict[str, Value] = {n: float(rng.uniform(*pair)) for n, pair in ends.items()}
    return {**drawn, "slide_angle": 15.0, "slope_speed": str(rng.choice(["level", "along"]))}


def _correct() -> list[str]:
    lines = ["| correct controllers | without a finding | named instead |", "|---|---|---|"]
    forms = [form for form in _FORMS if form not in _PRINTED]
    for form, rates in itertools.product(forms, RATES):
        every = [Case(v, (), rates, form) for v in _each(GROUND_MOVEMENTS, 2 * CASES, 4)]
        lines.append(f"| {form}, {_told(rates)} | {_counted(every)} |")
    return lines


_INTRODUCTION = """\
# How often causes are found

Made by `make accuracy`: takes of the built-in model with random parameters (seeded), three
kinds of ground movement (those that have the mistaken term) and three orders of integration. A
case is right where exactly the causes of the mistakes that were switched on are named; the note
on the order of integration is not counted. "no" before a name: it was missed."""
_PLANE = """\
The same, with a drill of runs each way, diagonals, turns by 45, 90 and 180 degrees and a dash: in
three dimensions, with jumps, and from above."""
_MOVES = """\
Drills of takeoffs, landings and ledges, between walls, over a hill, and on ground that moves, at
{30, 60, 144} frames/s: squats, landing lags, falls with the stick held down, slides down walls
and slopes, and jumps off walls, with random numbers."""
_OTHERS = """\
Plain loops of dashes, squats, lags, ledges, walls and turns in the air, with random numbers at
random times, even or uneven by a fifth, printed to two to four decimals."""
_UNEVEN = """\
Plain loops that share nothing with the package, each with one mistake, two, or none, at {60, 120}
or {30, 60, 144} frames/s, played freely, never twice alike. Right: these causes and no others
(`integration-order` aside, which all of these loops have); sound ones pass where nothing is named
and the exit status is 0. The loops are played from the side, from above and in 3D. One take alone
misses most timers in frames, whose lengths differ by less than a frame, and is not asked for a
clamped step. Before uneven takes were read so, from the side alone: 56 of 168 uneven ones right,
12 of 48 sound ones passed, 118 lost."""
_LAWS = """\
Plain loops that share nothing with the package, random rules and hands; times, velocities and
positions printed to a few decimals. Of phases of at least twelve frames: how many have a law, how
many of these are of the right family, and how many constants lie within one and three of their
standard errors."""
_RESOLUTION = """\
Metrics of the same logs, occurrence by occurrence, held against closed forms of the rules."""
_COMPARISONS = """\
Plain loops again, twenty seconds a take, times and speeds printed to a few digits, frame times
uneven by a fifth, played by hands that are never alike: a script with presses off by up to 30 ms
and holds by up to 20 ms, or freely. Equal sets are held against a budget of 2 % for everything,
and a comparison counts where any metric regressed; sets that differ have no budgets, and count
where any metric is called changed. Each take of a comparison is another one; with "the same
inputs" both sides are fed alike, by hands and frame times, and numbers have all their digits."""
_FREE_PLAY = """\
A platform game of plain lines with ledges, steps and gaps, jumps in the air, a coyote time, a
buffer and cuts, random numbers at {30, 60, 144} frames/s, even or uneven, all digits or times and
places to three or more decimals, played freely for twenty seconds by hands that never press alike.
Right: a jump is told with its kind, the bounds of a window hold the number that the game has. Then
two sides of one game, each played by other hands: equal numbers, or one number changed. Before
such games were looked at: 276 of 710 jumps in the air and 1374 of 1418 from the ground right, 44 of
104 coyote windows, and 118 of 120 equal sides had something changed, lost or new."""
_FAULTS = """\
The same game by a script of runs and jumps, even or uneven, all digits or four or three decimals,
with one fault put into it: in how many games it is told. A fall through a floor onto a lower one,
at a place where it never stood, is not told: that may be a pit. Before such games were looked at,
six of these eighteen were told in all games, and eight in none."""
_CARS = """\
Cars of plain lines that share nothing with the package: one goes along its heading, one slides and
grips, one turns by its front wheels; random numbers, pushes, drags and rolling in three orders,
five ways in which turning goes with the speed, the wheel smoothed or not. Driven freely for thirty
seconds, at {30, 60, 144} frames/s, even or uneven, exactly or printed. First what one take tells,
within four standard errors and a five-hundredth; before such cars were looked at, 25 of 60 turnings
were told and right, and pushes and brakes that something rolls against had no cause. Then groups of
takes at three rates, two, or one uneven one, with one mistake or two: right are these causes and no
others, and a sound car that passes. Missed is most a brake of few frames, or in turns alone."""
_SHOTS = """\
First six shots one after the other, written until they are below the ground, with a pause between
them; random numbers, three orders of integration, no drag, a linear or a quadratic one, at {30, 60,
144} frames/s, even or uneven, exactly or printed to three or two decimals; the first row is the
launch or the state after a step. The header says how high the ground is. Right: within the stated
resolution, or a thousandth. Before such shots were looked at, 12 of 48 flight times and ranges were
right and 20 wrong: the pause counted as flight.

Then fire that is held, of which the newest shot is written: constants of its flights within four
standard errors or a five-hundredth; and with one mistake, at three rates, two, or one uneven one:
right are this cause and no other. Before, one uneven take named neither cadence, and at several
rates most rounded ones had no name."""
_HIDDEN_TOO = """\
- `all-in-frames` with a missing time step or a fixed factor: it has them all.
- `acceleration-per-frame` with `gravity-per-frame` and `position-per-frame`, in takes without a
  timer: named `all-in-frames`, with the other reading.
- A factor per frame on a push toward a speed: acceleration and friction both once per frame are
  the same map; the answer says both.
- One take tells a timer in frames only where it ran many times: with about ten frames of uneven
  length its seconds vary by less than the frame that they are known to.
- A step clamped below the lowest rate of the group leaves no trace.
- Without a velocity column, `position-per-frame` with `dt-twice` or `impulse-times-dt` cancel
  in the motion; a velocity column tells them."""


_OTHER_KINDS = (
    "The built-in vehicle over the flats, the projectile and a camera after the character, with"
    " random numbers, at {30, 60, 144} frames/s. Right: these causes and no others; besides: also"
    " `unexplained`, for a metric that a mistake moves by another way."
)
_OTHER_LOOPS = (
    "Plain loops with random numbers, uneven frames, and logs printed to 2 or 3 decimals (times to"
    " 4 or 5)."
)

_FITTED = (
    "The built-in character with random numbers, at 30, 60 or 144 frames/s, fitted from one take."
    " It fits where 98 of 100 frames of each column lie within four standard errors of the take's"
    " own digits; where it does not, that is said, and its numbers are not counted here. Left out"
    " are timers, and with friction the numbers that a smoothing would share out otherwise."
)

SECTIONS: dict[str, Callable[[], Sequence[str]]] = {
    "Correct controllers": _correct,
    "One mistake, several rates": _alone,
    "One mistake over a plane": lambda: (_PLANE, "", *_over_a_plane()),
    "One mistake in the other moves": lambda: (_MOVES, "", *_other_moves()),
    "One take with frame times uneven by a fifth": _single,
    "Several takes, each uneven, by other hands": lambda: (_UNEVEN, "", *uneven_section()),
    "Two mistakes, {30, 60, 144} frames/s": lambda: _pairs("side"),
    "Two mistakes over a plane, {30, 60, 144} frames/s": lambda: _pairs("3d"),
    "Laws read off printed logs": lambda: (_LAWS, "", section()),
    "How true a stated resolution is": lambda: (_RESOLUTION, "", resolution_section()),
    "How true it is for the other moves": lambda: (_OTHERS, "", moves_section()),
    "Vehicles, shots and cameras: one mistake": lambda: (_OTHER_KINDS, "", *causes_section()),
    "Vehicles, shots and cameras: two mistakes": lambda: (_OTHER_KINDS, "", *pairs_section()),
    "Cars by other hands": lambda: (_CARS, "", *cars_section()),
    "Shots by other hands": lambda: (_SHOTS, "", *shots_section()),
    "Vehicles and shots: how true a resolution is": lambda: (
        _OTHER_LOOPS,
        "",
        resolution_of_others(),
    ),
    "A game as parameters": lambda: (_FITTED, "", *fitting_section()),
    "Comparisons of parameter sets": lambda: (_COMPARISONS, "", comparing_section()),
    "Free play by other hands": lambda: (_FREE_PLAY, "", *free_play_section()),
    "Faults of games": lambda: (_FAULTS, "", *faults_section()),
    "What cannot be told apart": lambda: [
        *(f"- `{a}` with `{b}`: {why}." for a, b, why in HIDDEN),
        _HIDDEN_TOO,
    ],
}
"""The page's parts, by their titles."""


def _kept(path: Path) -> dict[str, str]:
    """Return the parts that the page has, by their titles."""
    text = path.read_text(encoding="utf-8") if path.exists() else ""
    parts = [part.partition("\n\n") for part in text.split("\n## ")[1:]]
    return {title: body.strip() for title, _, body in parts}


def main(wanted: Sequence[str], path: Path = Path("docs/accuracy.md")) -> None:
    """Count, and write the page; of it only the parts that are ``wanted``, all without."""
    kept = _kept(path) if wanted else {}
    parts = [_INTRODUCTION]
    for title, make in SECTIONS.items():
        anew = title not in kept or any(word in title for word in wanted)
        parts.append(f"## {title}\n\n" + ("\n".join(make()) if anew else kept[title]))
    path.write_text("\n\n".join(parts) + "\n", encoding="utf-8")
    sys.stdout.write(f"{path} written\n")


if __name__ == "__main__":
    main(sys.argv[1:])
