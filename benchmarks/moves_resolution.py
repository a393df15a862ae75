"""How true a stated resolution is for the other moves on foot: dashes, waits, walls, falls, turns.

Plain loops play each exercise with random numbers at random times, and print what they did. A
moment is that of the loop's own frame; a speed, a length or a rate is the number it was given.
"""

from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np
from tests.truth.moves import moves
from tests.truth.recurrence import during

from benchmarks.resolution import Off, Truth, offs, table_of
from kickback.takes.build import build_take
from kickback.takes.header import Header

__all__ = ["moves_section"]

RATES = (30.0, 60.0, 144.0)
DIGITS = ((3, 2), (4, 3), (5, 4))
"""Decimals of times, and of places and speeds."""

Columns = dict[str, Any]
Numbers = dict[str, Any]


class Exercise(NamedTuple):
    """What is held and when, s, over what; ``tells``: the truths of the columns it leaves."""

    seconds: float
    move: tuple[tuple[float, float, float], ...]
    jump: tuple[tuple[float, float, float], ...]
    dash: tuple[tuple[float, float, float], ...]
    draw: Callable[[np.random.Generator], Numbers]
    tells: Callable[[Columns, Numbers], Iterator[Truth]]
    down: tuple[tuple[float, float, float], ...] = ()


def _begin(c: Columns) -> Any:
    return c["t"] - c["dt"]


def _thrown(c: Columns) -> list[int]:
    """Return the frames in which it is thrown up."""
    rows: list[int] = (np.flatnonzero(np.diff(c["vy"]) > 3.0) + 1).tolist()
    return rows


def _pressed(c: Columns, name: str) -> list[int]:
    rows: list[int] = (np.flatnonzero((c[name][1:] > 0.5) & (c[name][:-1] < 0.5)) + 1).tolist()
    return rows


def _dashed(c: Columns, p: Numbers) -> Iterator[Truth]:
    fast = np.abs(np.abs(c["vx"]) - p["dash"]) < 1e-9
    for row in _pressed(c, "in_dash"):
        until = np.flatnonzero(~fast[row:])
        if not fast[row] or not until.size:
            continue
        end, at = row + int(until[0]), float(_begin(c)[row])
        yield "dash.peak_speed", at, p["dash"]
        yield "dash.duration", at, float(c["dt"][row:end].sum())
        yield "dash.distance", at, float(c["dt"][row:end].sum()) * p["dash"]


def _jumped(c: Columns, p: Numbers) -> Iterator[Truth]:
    begin, presses = _begin(c), _pressed(c, "in_jump")
    ground = c["touch_ground"] > 0.5
    for row, press in zip(_thrown(c), presses, strict=False):
        at = float(begin[row])
        yield "jump.rise_gravity", at, p["g"]
        yield "jump.fall_gravity", at, p["g_fall"]
        yield "jump.gravity_ratio", at, p["g_fall"] / p["g"]
        yield "jump.squat_time", at, float(begin[row] - begin[press])
        down = row + int(np.argmax(ground[row:]))
        free = down + 1 + int(np.argmax(np.diff(c["vx"][down:]) > 1e-9))
        yield "jump.landing_lag", at, float(begin[free] - c["t"][down])


def _fell(c: Columns, p: Numbers) -> Iterator[Truth]:
    ground = c["touch_ground"] > 0.5
    row = int(np.argmax(~ground))
    falls = row + int(np.argmax(c["vy"][row:] < 0))
    yield "fall.ledge_delay", float(c["t"][row]), float(_begin(c)[falls] - c["t"][row])
    at_limit = np.flatnonzero(np.abs(c["vy"] + p["terminal"]) < 1e-9)
    yield "fall.terminal_speed", float(_begin(c)[at_limit[0]]), p["terminal"]


def _walled(c: Columns, p: Numbers) -> Iterator[Truth]:
    begin, vy = _begin(c), c["vy"]
    slides = np.flatnonzero(np.abs(vy + p["slide"]) < 1e-9)
    if slides.size:
        yield "wall.slide_speed", float(begin[slides[0]]), p["slide"]
    stood = np.flatnonzero((c["touch_side"] > 0.5) & (vy == 0) & (c["touch_ground"] < 0.5))
    if stood.size > 2:
        gone = stood[0] + int(np.argmax(vy[stood[0] :] < 0))
        yield "wall.stick_time", float(begin[stood[0]]), float(begin[gone] - begin[stood[0]])


def _kicked(c: Columns, p: Numbers) -> Iterator[Truth]:
    row = int(np.argmax(np.abs(c["vx"] + p["wall_away"]) < 1e-9))
    at = float(_begin(c)[row])
    yield "wall_jump.away_speed", at, p["wall_away"]
    yield "wall_jump.angle", at, float(np.rad2deg(np.arctan2(p["wall_jump"], p["wall_away"])))
    slower = row + int(np.argmax(c["vx"][row:] > -p["wall_away"] + 1e-9))
    yield "wall_jump.lockout", at, float(_begin(c)[slower] - _begin(c)[row])


def _steered(c: Columns, p: Numbers) -> Iterator[Truth]:
    turned = np.flatnonzero(np.diff(c["in_move_x"]) == -2.0) + 1
    for row in turned.tolist():
        yield "air.turn_time", float(_begin(c)[row]), float(c["vx"][row - 1]) / p["air_accel"]
        zero = row + int(np.argmax(c["vx"][row:] <= 0))
        yield "air.acceleration", float(_begin(c)[zero + 1]), p["air_accel"]


def _ran(c: Columns, p: Numbers) -> Iterator[Truth]:
    for row in (np.flatnonzero(np.diff(np.abs(c["in_move_x"])) == 1.0) + 1).tolist():
        yield "run.first_frame_speed", float(_begin(c)[row]), p["accel"] * float(c["dt"][row])
        yield "run.mean_acceleration", float(_begin(c)[row]), p["accel"]


def _numbers(**ends: tuple[float, float]) -> Callable[[np.random.Generator], Numbers]:
    return lambda rng: {name: float(rng.uniform(*pair)) for name, pair in ends.items()}


_WALL = _numbers(slide=(2, 4), stick=(0.08, 0.3), jump=(14, 18), g=(30, 45))
_KICK = _numbers(
    wall_jump=(11, 13), wall_away=(7, 9), wall_lock=(0.08, 0.25), jump=(15, 16), air_accel=(40, 60)
)
EXERCISES = (
    Exercise(
        7.0, ((0.5, 3, 1), (4, 6, 1)), (), ((1.5, 1.6, 1), (3.4, 3.5, 1), (5, 5.1, 1)),
        _numbers(dash=(18, 30), dash_time=(0.08, 0.25)), _dashed,
    ),
    Exercise(
        7.0, ((0.5, 6.5, 1),), ((1.5, 2.5, 1), (4, 5, 1)), (),
        _numbers(g=(30, 50), g_fall=(40, 70), jump=(11, 15), squat=(0.03, 0.12), lag=(0.05, 0.25)),
        _jumped,
    ),
    Exercise(
        6.0, ((0.5, 6.0, 1),), (), (),
        lambda rng: {"ledge": 12.0, **_numbers(hang=(0.04, 0.2), terminal=(5, 7))(rng)}, _fell,
    ),
    Exercise(
        5.0, ((0.2, 5, 1),), ((1.1, 1.9, 1),), (),
        lambda rng: {"walls": (6.0,), **_WALL(rng)}, _walled,
    ),
    Exercise(
        4.0, ((0.2, 4, 1),), ((1.4, 1.7, 1), (1.85, 2.4, 1)), (),
        lambda rng: {"walls": (8.5,), "slide": 3.0, **_KICK(rng)}, _kicked,
    ),
    Exercise(
        6.0, ((0.5, 1.8, 1), (1.8, 2.8, -1)), ((1.5, 2.6, 1),), (),
        _numbers(air_accel=(15, 30), g=(14, 18), jump=(13, 15)), _steered,
    ),
    Exercise(
        7.0, ((0.5, 2, 1), (3, 4.5, -1), (5, 6.5, 1)), (), (), _numbers(accel=(15, 40)), _ran,
    ),
)  # fmt: skip


def _of(seed: int) -> list[Off]:
    rng = np.random.default_rng(seed)
    one = EXERCISES[seed % len(EXERCISES)]
    rate, (t_places, places) = float(rng.choice(RATES)), DIGITS[int(rng.integers(len(DIGITS)))]
    dt = np.full(round(one.seconds * rate), 1 / rate)
    dt = dt * rng.uniform(0.8, 1.2, len(dt)) if rng.random() < 0.5 else dt
    late = float(rng.uniform(0.0, 0.05))
    held = [
        during(*((a + late, b + late, v) for a, b, v in spans)) if spans else lambda _: 0
        for spans in (one.move, one.jump, one.dash)
    ]
    numbers = one.draw(rng)
    columns = moves(dt, *held, **{"g_fall": numbers.get("g", 40.0), **numbers})
    digits = {n: t_places if n in {"t", "dt"} else places for n in columns}
    printed = {n: np.round(c, digits[n]) for n, c in columns.items()}
    take = build_take(Header(length_unit="m"), printed, name="log")
    return offs(take, one.tells(columns, numbers), "plain loops")


def moves_section(many: int = 1400, seed: int = 41) -> str:
    """Return the page's table for the other moves."""
    with ProcessPoolExecutor(2) as pool:
        every = [one for own in pool.map(_of, range(seed, seed + many), chunksize=8) for one in own]
    return table_of(every)
