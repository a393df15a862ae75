"""How true a stated resolution is: metrics of printed logs, held against closed forms.

Each occurrence is held against what the rules that moved it make of it, worked out from the
exact state at its press or takeoff: not against what is measured of an exact log.
"""

from collections.abc import Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from math import log
from typing import Any, NamedTuple

import numpy as np

from benchmarks.game_loop import Log, Rules, frame_times, hands, log_of, play, random_rules
from benchmarks.reading import SECONDS, Setting, settings
from kickback.kinds.measuring import measure
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.take import Take

__all__ = ["Off", "offs", "resolution_section", "truths"]

_SLACK = 1e-9
"""Seconds or lengths that arithmetic leaves of a closed form."""

Truth = tuple[str, float, float]
"""A metric, when its occurrence begins, s, and what it is."""


class Off(NamedTuple):
    """By how much one occurrence is off, its stated resolution, and its size."""

    metric: str
    off: float
    resolution: float
    size: float
    where: str


def truths(columns: dict[str, Any], rules: Rules) -> Iterator[Truth]:
    """Return what the rules make of the presses, releases and takeoffs of an exact log."""
    t, dt, v, move = (columns[name] for name in ("t", "dt", "vx", "in_move_x"))
    begin = t - dt
    ground = columns["touch_ground"] > 0.5
    for row in (np.flatnonzero(np.diff(move)) + 1).tolist():
        until = np.flatnonzero(move[row:] != move[row])
        last = row + int(until[0]) if until.size else len(t)
        if not ground[row - 1 : last].all():
            continue
        v0, at = float(v[row - 1]), float(begin[row])
        lasts = float(t[last - 1] - at)
        yield from _across(rules, columns, move[row], v0, at, lasts)
    yield from _upward(columns)


def _across(
    rules: Rules, columns: dict[str, Any], move: float, v0: float, at: float, lasts: float
) -> Iterator[Truth]:
    still, speed, k = 1e-3 * float(np.max(np.abs(columns["vx"]))), abs(v0), rules.rate
    if move == 0 and speed > 0.2 * rules.top:
        below = max(0.01 * speed, still)
        if rules.movement == "constant":
            time = (speed - below) / rules.coast
        else:
            time = log(speed / below) / k
        if time < lasts:
            yield "coast.stop_time", at, time
    if move * v0 < 0 and speed > 0.2 * rules.top and rules.movement != "friction":
        time = speed / rules.brake
        if rules.movement == "smoothing":
            time = log((speed + rules.top) / rules.top) / k
        if time < lasts:
            yield "brake.stop_time", at, time
    if move and speed < 1e-9 and rules.movement == "constant":  # others never reach their top
        time = 0.9 * rules.top / rules.push
        if lasts > 2.5 * time + 0.3:
            yield "run.time_to_90", at, time


def _upward(columns: dict[str, Any]) -> Iterator[Truth]:
    """Return what each jump is, from the parabolas that its frames lie on at an even rate."""
    t, dt, y, vy = (columns[name] for name in ("t", "dt", "y", "vy"))
    ground = columns["touch_ground"] > 0.5
    even = float(np.ptp(dt)) < 1e-9
    begin = t - dt
    for row in (np.flatnonzero(ground[:-1] & ~ground[1:]) + 1).tolist():
        down = np.flatnonzero(ground[row:])
        if not down.size or not np.all(vy[row] > 0):
            continue
        stop, at = row + int(down[0]), float(begin[row])
        yield "jump.apex_height", at, float(y[row:stop].max() - y[row - 1])
        if not even:
            continue
        h = float(dt[0])
        yield "jump.time_to_apex", at, _vertex(y, t, row, h) - at
        fall = [n for n in range(row + 1, stop) if vy[n] < 0 and vy[n - 1] < 0]
        if len(fall) < 4:
            continue
        crossing, speed = _crossing(y, vy, t, fall[-1], float(y[row - 1]), h)
        yield "jump.air_time", at, crossing - at
        yield "jump.landing_speed", at, speed


def _vertex(y: Any, t: Any, row: int, h: float) -> float:
    """Return where the parabola through the first three frames of a rise tops out."""
    a, b, c = y[row], y[row + 1], y[row + 2]
    bend = a - 2 * b + c
    return float(t[row + 1] + h * (a - c) / (2 * bend))


def _crossing(y: Any, vy: Any, t: Any, i: int, level: float, h: float) -> tuple[float, float]:
    """Return when the parabola of the last frames of a fall is at a level, and the speed there."""
    a, b, c = y[i - 2] - level, y[i - 1] - level, y[i] - level
    bend, slope = (a - 2 * b + c) / 2, (c - a) / 2
    root = (-slope - np.sqrt(slope * slope - 4 * bend * b)) / (2 * bend)
    later = float(root) - 1
    return float(t[i] + later * h), -float(vy[i] + (vy[i] - vy[i - 1]) * later)


def offs(take: Take, expected: Iterable[Truth], where: str) -> list[Off]:
    """Return how far the measured occurrences of a take are from what they should be."""
    measured = measure(take).by_metric()
    step = float(np.median(np.diff(take.numbers("t"))))
    found = []
    for metric, at, value in expected:
        shown = measured[metric].occurrences
        near = np.flatnonzero(np.abs(shown.start - at) < 0.75 * step)
        if near.size != 1:
            continue
        k = int(near[0])
        off = abs(float(shown.value[k]) - value)
        found.append(Off(metric, off, float(shown.resolution[k]), abs(value), where))
    return found


def _of_setting(setting: Setting) -> list[Off]:
    rng = np.random.default_rng(setting.seed)
    unit = 32.0 if setting.pixels else 1.0
    rules = random_rules(rng, setting.movement, setting.order, unit)
    dt = frame_times(rng, setting.rate, SECONDS, setting.uneven)
    log: Log = play(rules, dt, *hands(rng, SECONDS))
    header = Header(length_unit="px" if setting.pixels else "m")
    take = build_take(header, log_of(log, setting.printing), name="log")
    return offs(take, truths(log.columns, rules), "printed loops")


def resolution_section(many: int = 400, seed: int = 17) -> str:
    """Return the page's table: how often a metric lies within its stated resolution."""
    with ProcessPoolExecutor(2) as pool:
        every = [one for found in pool.map(_of_setting, settings(seed, many), chunksize=8)
                 for one in found]  # fmt: skip
    lines = ["| metric | occurrences | within its resolution | resolution over error, median |",
             "|---|---|---|---|"]  # fmt: skip
    for metric in dict.fromkeys(one.metric for one in every):
        own = [one for one in every if one.metric == metric]
        within = np.mean([one.off <= one.resolution + _SLACK * (1 + one.size) for one in own])
        ratio = float(np.median([one.resolution / max(one.off, 1e-12) for one in own]))
        lines.append(f"| `{metric}` | {len(own)} | {within:.1%} | {ratio:.2g} |")
    return "\n".join(lines)
