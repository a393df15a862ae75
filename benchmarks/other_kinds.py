"""How often causes are found in vehicles, projectiles and cameras, and how true resolutions are.

Causes: the built-in models with random numbers, at three rates. Resolutions: plain loops with
random numbers whose logs are printed, as games print them.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from itertools import combinations, product
from typing import Any, NamedTuple

import numpy as np
from tests.truth.camera import follow
from tests.truth.shot import lobs
from tests.truth.vehicle import drive

from benchmarks.resolution import Off, offs, table_of
from kickback.framerate.analyse import frame_rates
from kickback.kinds.measuring import measure
from kickback.kinds.models import model_named, simulate
from kickback.takes.build import build_take
from kickback.takes.header import Header, Value
from kickback.takes.take import Take

__all__ = ["causes_section", "pairs_section", "resolution_of_others"]

RATES = (30.0, 60.0, 144.0)
_ALONE, _TOGETHER, _DRAWS = 8, 2, 60
"""Draws for each mistake, for each pair of them, and of each loop."""

Values = dict[str, Value]

Truth = tuple[str, float, float]
"""A metric, when it began, s, and what it truly is."""


def _vehicle(rng: np.random.Generator) -> Values:
    drags: list[Values] = [
        {"linear_drag": rng.uniform(0.9, 1.6)},
        {"linear_drag": 0.0, "quadratic_drag": rng.uniform(0.05, 0.1)},
        {"linear_drag": rng.uniform(0.5, 0.8), "quadratic_drag": rng.uniform(0.02, 0.05)},
        {"linear_drag": 0.0, "rolling": rng.uniform(4, 7), "top_speed": rng.uniform(12, 20)},
    ]
    ends = {
        "engine": (14, 28), "brake": (12, 30), "reverse_engine": (8, 14), "grip_rate": (3, 12),
        "yaw_rate": (60, 150), "steer_rate": (6, 15), "full_steer_speed": (2, 6),
    }  # fmt: skip
    values: Values = {name: float(rng.uniform(*pair)) for name, pair in ends.items()}
    drag = drags[int(rng.integers(len(drags)))]
    return values | {name: float(value) for name, value in drag.items()}


def _shot(rng: np.random.Generator) -> Values:
    drags: list[Values] = [
        {}, {"linear_drag": rng.uniform(0.8, 1.6)}, {"quadratic_drag": rng.uniform(0.005, 0.02)},
    ]  # fmt: skip
    ends = {"launch_speed": (16, 28), "elevation": (30, 65), "gravity": (16, 30)}
    values: Values = {name: float(rng.uniform(*pair)) for name, pair in ends.items()}
    values |= {"cadence": float(rng.choice([2.013, 2.113, 1.987]))}
    values |= {"integrator": str(rng.choice(["semi-implicit", "explicit", "trapezoid"]))}
    drag = drags[int(rng.integers(len(drags)))]
    return values | {name: float(value) for name, value in drag.items()}


def _camera(rng: np.random.Generator) -> Values:
    ends = {
        "run_speed": (6, 10), "ground_acceleration": (25, 50), "coast_deceleration": (20, 40),
        "gravity_rise": (25, 50), "jump_speed": (9, 15), "camera_rate": (2, 8),
    }  # fmt: skip
    return {name: float(rng.uniform(*pair)) for name, pair in ends.items()}


class Case(NamedTuple):
    """Takes at three rates of a kind's model: its subject, numbers, drill and mistakes."""

    subject: str
    kind: str
    drill: str
    values: Values
    mistakes: tuple[str, ...]


class Subject(NamedTuple):
    """A kind, how its numbers are drawn, its drill, and the mistakes that it may make.

    ``beside``: mistakes of what a camera follows, that one of its own may come with.
    """

    kind: str
    draw: Callable[[np.random.Generator], Values]
    drill: str
    mistakes: tuple[str, ...]
    beside: tuple[str, ...] = ()

    def pairs(self) -> list[tuple[str, str]]:
        """Return the mistakes that may be made together."""
        own = self.mistakes
        every = list(product(own, self.beside) if self.beside else combinations(own, 2))
        return [one for one in every
                if "all-in-frames" not in one and set(one) not in _ONE_TERM]  # fmt: skip


SUBJECTS = {
    "vehicle": Subject("vehicle", _vehicle, "flats", (
        "acceleration-per-frame", "position-per-frame", "dt-twice", "factor-per-frame",
        "first-order-factor", "steering-per-frame", "all-in-frames", "dt-clamped")),
    "shot": Subject("shot", _shot, "lob", (
        "gravity-per-frame", "position-per-frame", "impulse-times-dt", "factor-per-frame",
        "first-order-factor", "timer-in-frames", "cadence-rounded", "dt-clamped")),
    "camera": Subject("foot", _camera, "standard", ("factor-per-frame", "first-order-factor"), (
        "gravity-per-frame", "acceleration-per-frame", "position-per-frame", "impulse-times-dt",
        "timer-in-frames", "dt-clamped")),
}  # fmt: skip

_ONE_TERM = (
    {"acceleration-per-frame", "dt-twice"}, {"factor-per-frame", "first-order-factor"},
    {"timer-in-frames", "cadence-rounded"},
)  # fmt: skip
"""Mistakes of one and the same term: code makes one of them."""


def _needed(subject: str, mistakes: Iterable[str], values: Values) -> Values:
    """Return numbers under which mistakes show: a drag for a factor of a projectile."""
    factors = {"factor-per-frame", "first-order-factor"} & set(mistakes)
    if subject == "shot" and factors and "linear_drag" not in values:
        return values | {"linear_drag": 1.2, "quadratic_drag": 0.0}
    return values


def _found(case: Case) -> set[str]:
    drill = model_named(case.kind).drills[case.drill]()
    values = {**case.values, "mistakes": " ".join(case.mistakes)}
    takes = [simulate(values, drill, kind=case.kind, frame_rate=rate) for rate in RATES]
    return {cause.name for _, cause in frame_rates(takes).causes if cause.verdict != "note"}


def _cases(sets: Sequence[tuple[str, tuple[str, ...]]], each: int) -> list[Case]:
    rng = np.random.default_rng(20)
    out = []
    for subject, mistakes in sets:
        one = SUBJECTS[subject]
        for _ in range(each):
            values = _needed(subject, mistakes, one.draw(rng))
            out.append(Case(subject, one.kind, one.drill, values, mistakes))
    return out


def _rows(sets: Sequence[tuple[str, tuple[str, ...]]], each: int) -> list[str]:
    cases = _cases(sets, each)
    with ProcessPoolExecutor() as pool:
        answers = list(pool.map(_found, cases, chunksize=2))
    lines = ["| subject | in the code | right | besides 'unexplained' | otherwise |",
             "|---|---|---|---|---|"]  # fmt: skip
    total = right = 0
    for at, (subject, mistakes) in enumerate(sets):
        found = answers[at * each : (at + 1) * each]
        wanted = set(mistakes)
        good = sum(one == wanted for one in found)
        nearly = sum(one != wanted and one - {"unexplained"} == wanted for one in found)
        others = [one for one in found if one - {"unexplained"} != wanted]
        said = ", ".join(dict.fromkeys(" + ".join(sorted(one)) or "nothing" for one in others))
        total, right = total + each, right + good
        what = " + ".join(f"`{name}`" for name in mistakes) or "nothing"
        lines.append(f"| {subject} | {what} | {good}/{each} | {nearly or ''} | {said} |")
    lines.append(f"\n{right} of {total} right.")
    return lines


def causes_section() -> list[str]:
    """Return the table of no mistake and of one at a time."""
    sets = [(name, mistakes) for name, one in SUBJECTS.items()
            for mistakes in ((), *((single,) for single in one.mistakes))]  # fmt: skip
    return _rows(sets, _ALONE)


def pairs_section() -> list[str]:
    """Return the table of two mistakes at once."""
    sets = [(name, pair) for name, one in SUBJECTS.items() for pair in one.pairs()]
    return _rows(sets, _TOGETHER)


def _driven(rng: np.random.Generator, dt: Any) -> tuple[dict[str, Any], list[Truth]]:
    """Return a vehicle's columns, and what is true of them."""
    a, top, brake = rng.uniform(8, 16), rng.uniform(10, 18), rng.uniform(12, 30)
    yaw, rate, grip = rng.uniform(60, 140), rng.uniform(5, 12), rng.uniform(3, 9)
    roll = rng.uniform(2, 5)
    press, turn = 0.5 + rng.uniform(0, 0.1), 8.0 + rng.uniform(0, 0.1)
    stop, again, free = 14.0 + rng.uniform(0, 0.1), 18.0, 27.0 + rng.uniform(0, 0.1)
    columns = drive(
        dt, [(press, stop, 1), (again, free, 1)], [(turn, turn + 2, 1)], [(stop, stop + 3, 1)],
        engine=a + roll, rolling=roll, top=top, brake=brake, yaw=yaw, yaw_rate=rate, grip=grip,
        start=(0.0, 0.0, float(rng.uniform(-180, 180))),
    )  # fmt: skip
    read, restart = _presses(columns, columns["in_throttle"] > 0)
    released = _presses(columns, (columns["in_throttle"] == 0) & (columns["t"] > free - 1))[0]
    braked = _presses(columns, columns["in_brake"] > 0)[0]
    wheel = _presses(columns, columns["in_steer"] > 0)[0]
    straight = _presses(columns, (columns["in_steer"] == 0) & (columns["t"] > turn + 1))[0]
    return columns, [
        ("drive.top_speed", read, top),
        ("drive.time_to_50", read, 0.5 * top / a),
        ("drive.time_to_90", read, 0.9 * top / a),
        ("drive.time_to_top_speed", restart, 0.99 * top / a),
        ("drive.brake_time", braked, top / (brake + roll)),
        ("drive.brake_distance", braked, _way(columns, braked, top / (brake + roll))),
        ("drive.coast_time", released, 0.99 * top / roll),
        ("drive.coast_distance", released, _way(columns, released, 0.99 * top / roll)),
        ("drive.half_time", released, 0.5 * top / roll),
        ("drive.engine_braking", released, roll),
        ("steer.yaw_rate", wheel, yaw),
        ("steer.time_to_yaw_rate", wheel, np.log(10) / rate),
        ("steer.return_time", straight, np.log(10) / rate),
    ]


def _presses(columns: dict[str, Any], mask: Any) -> list[float]:
    """Return when the frames of a mask begin, s, each time that it begins to hold."""
    begins = np.flatnonzero(mask & ~np.concatenate(([False], mask[:-1])))
    return (columns["t"] - columns["dt"])[begins].tolist()


def _way(columns: dict[str, Any], begin: float, time: float) -> float:
    """Return how far it is over the ground from one time on, s, in so much time."""
    way = np.hypot(np.diff(columns["x"], prepend=columns["x"][0]),
                   np.diff(columns["y"], prepend=columns["y"][0]))  # fmt: skip
    gone = np.cumsum(way)
    return float(np.interp(begin + time, columns["t"], gone) - np.interp(begin, columns["t"], gone))


def _filmed(rng: np.random.Generator, dt: Any) -> tuple[dict[str, Any], list[Truth]]:
    """Return a runner's and his camera's columns, and what is true of the camera."""
    v, k = rng.uniform(5, 9), rng.uniform(2, 7)
    end = np.cumsum(dt)
    pace = np.where((end - dt >= 0.5) & (end - dt < 7.0), v, 0.0)
    x = np.cumsum(pace * dt)
    camera = follow(x, dt, k)
    columns = {"t": end, "dt": dt, "x": x, "y": np.zeros(len(dt)), "vx": pace, "camera_x": camera,
               "in_move_x": (pace > 0) * 1.0}  # fmt: skip
    late = (end > 5.0) & (end < 6.9)
    behind = float(np.median((x - camera)[late]))
    return columns, [("camera.lag_distance", np.nan, behind),
                     ("camera.lag_time", np.nan, behind / v)]  # fmt: skip


def _lobbed(rng: np.random.Generator, dt: Any) -> tuple[dict[str, Any], list[Truth]]:
    """Return a projectile's columns, and what is true of them."""
    v, g, high = rng.uniform(14, 26), rng.uniform(12, 30), rng.uniform(0.5, 2.0)
    elevation = rng.uniform(30, 70)
    bounce, kept = rng.uniform(0.3, 0.6), rng.uniform(0.5, 0.9)
    columns = lobs(dt, speed=v, elevation=elevation, gravity=g, muzzle=(0.0, high), every=6.0,
                   bounce=bounce, kept=kept)  # fmt: skip
    up = v * np.sin(np.radians(elevation))
    along = v * np.cos(np.radians(elevation))
    time = (up + np.sqrt(up * up + 2 * g * high)) / g
    first = int(np.argmax(columns["vx"] > 0))
    at = float(columns["t"][first] - columns["dt"][first])
    return columns, [
        ("shot.launch_speed", at, v),
        ("shot.launch_angle", at, elevation),
        ("shot.gravity", at, g),
        ("shot.flight_time", at, time),
        ("shot.range", at, along * time),
        ("shot.apex_height", at, up * up / (2 * g)),
        ("shot.time_to_apex", at, up / g),
        ("shot.impact_speed", at, float(np.sqrt(v * v + 2 * g * high))),
        (
            "shot.impact_angle",
            at,
            float(np.degrees(np.arctan2(np.sqrt(up * up + 2 * g * high), along))),
        ),
        ("shot.bounce_factor", at, bounce),
        ("shot.bounce_kept", at, kept),
        ("shot.cadence", at, 6.0),
    ]


_LOOPS: tuple[tuple[Callable[..., Any], str, float], ...] = (
    (_driven, "vehicles", 40.0), (_lobbed, "shots", 12.0), (_filmed, "cameras", 8.0),
)  # fmt: skip


def _off_of(seed: int) -> list[Off]:
    """Return how far what is measured of each loop lies from what is true, in its resolution."""
    rng = np.random.default_rng(seed)
    rate = RATES[seed % len(RATES)]
    digits = ((4, 2), (5, 3))[seed % 2]
    found = []
    for loop, where, seconds in _LOOPS:
        n = round(seconds * rate)
        dt = np.full(n, 1 / rate) * rng.uniform(0.8, 1.2, n)
        columns, truths = loop(rng, dt)
        printed = {
            name: np.round(column, digits[0] if name in {"t", "dt"} else digits[1])
            for name, column in columns.items()
        }
        take = build_take(
            Header(view="top" if loop is _driven else "side", length_unit="m"), printed, name="loop"
        )
        found += offs(take, [one for one in truths if np.isfinite(one[1])], where)
        found += _whole(take, [one for one in truths if not np.isfinite(one[1])], where)
    return found


def _whole(take: Take, expected: Sequence[Truth], where: str) -> list[Off]:
    """Return how far what is measured of a whole take is from what it should be."""
    measured = measure(take).by_metric() if expected else {}
    found = []
    for metric, _, value in expected:
        row = measured[metric]
        if row.value is not None and row.resolution is not None:
            found.append(Off(metric, abs(row.value - value), row.resolution, abs(value), where))
    return found


def resolution_of_others() -> str:
    """Return the table of how true stated resolutions are."""
    with ProcessPoolExecutor() as pool:
        every: Iterator[list[Off]] = pool.map(_off_of, range(_DRAWS * len(RATES)), chunksize=4)
        return table_of([off for part in every for off in part])
