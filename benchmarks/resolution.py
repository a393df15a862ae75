"""How true a stated resolution is: metrics of printed logs, held against closed forms.

Each occurrence is held against what the rules that moved it make of it, worked out from the
exact state at its press or takeoff: not against what is measured of an exact log. The logs are
plain loops' and those of two physics libraries.
"""

from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from math import log
from typing import Any, NamedTuple

import numpy as np
from tests.truth.physics import LIBRARIES, physics_take

from benchmarks.game_loop import Log, Rules, frame_times, hands, log_of, play, random_rules
from benchmarks.reading import SECONDS, Setting, settings
from kickback.kinds.measuring import measure
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.take import Take

__all__ = ["Off", "offs", "resolution_section", "table_of", "truths"]

_SLACK = 1e-9
"""Seconds or lengths that arithmetic leaves of a closed form."""

_THETA = {"pymunk": 0.0, "box2d": 1.0}
"""The weight of the new speed in a step of the libraries' places."""

_SINGLE = 1e-5
"""Share by which a speed in single precision may be off."""

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
    """Return what the rules make of the presses and releases of an exact log."""
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
    expected = [*truths(log.columns, rules), *_upward(log.columns)]
    return offs(take, expected, "plain loops")


def _of_library(setting: Setting) -> list[Off]:
    rng = np.random.default_rng(setting.seed)
    library = sorted(LIBRARIES)[setting.seed % 2]
    rules = random_rules(rng, "constant", "semi-implicit")
    rules = rules._replace(brake=rules.push, fall=rules.rise)
    stick, button = hands(rng, SECONDS)
    body = {"top": rules.top, "accel": rules.push, "slow": rules.coast,
            "v0": rules.jump, "g": rules.rise}  # fmt: skip
    columns = physics_take(library, setting.rate, stick, button, SECONDS, **body)
    printing = setting.printing._replace(x=setting.printing.x or 3)
    take = build_take(Header(), log_of(Log(columns, [], []), printing), name="log")
    step, order = 1 / setting.rate, 2 * _THETA[library] - 1
    jumps = _library_jumps(columns, rules, step, order)
    return offs(take, [*truths(columns, rules), *jumps], "physics libraries")


def _library_jumps(
    columns: dict[str, Any], rules: Rules, step: float, order: float
) -> Iterator[Truth]:
    """Return what jumps from a floor are in closed form: the parabola that their frames lie on.

    ``y(τ) = y + v·τ − g/2·(τ² + order·h·τ)`` from the first frame in the air, with ``order`` 1
    where the speed is moved before the place and −1 after it; the solver may have pushed the
    body out of the floor in that frame.
    """
    v0, g, vy, y, t = rules.jump, rules.rise, *(columns[name] for name in ("vy", "y", "t"))
    for row in (np.flatnonzero(np.diff(vy) > 0.5 * v0) + 1).tolist():
        v, level, at = float(vy[row]), float(y[row - 1]), float(t[row - 1])
        down = row + int(np.argmax((columns["touch_ground"][row:] > 0.5) & (vy[row:] <= 0)))
        if abs(v - (v0 - g * step)) > _SINGLE * v0 or abs(vy[row - 1]) > _SINGLE * v0:
            continue  # a landing, or a jump at once after one
        pull = v - order * g * step / 2
        lands = max(level, float(y[down]))  # solvers let it rest a little deeper or higher
        root = float(np.sqrt(pull * pull + 2 * g * (y[row] - lands)))
        yield "jump.apex_height", at, float(y[row : row + round(2 * v0 / g / step)].max() - level)
        yield "jump.time_to_apex", at, step + pull / g
        yield "jump.air_time", at, step + (pull + root) / g
        yield "jump.landing_speed", at, g * (pull + root) / g - v


def resolution_section(many: int = 2000, seed: int = 17) -> str:
    """Return the page's table: how often a metric lies within its stated resolution."""
    cases = settings(seed, many)
    with ProcessPoolExecutor(2) as pool:
        found = [*pool.map(_of_setting, cases, chunksize=8),
                 *pool.map(_of_library, cases[: many // 8], chunksize=8)]  # fmt: skip
    return table_of([one for own in found for one in own])


def table_of(every: Sequence[Off]) -> str:
    """Return a table of how often each metric lies within its stated resolution."""
    head = (
        "| logs of | metric | occurrences | within its resolution | resolution over error, median |"
    )
    lines = [f"{head} median over median |", "|---|---|---|---|---|---|"]
    for where, metric in dict.fromkeys((one.where, one.metric) for one in every):
        own = [one for one in every if (one.where, one.metric) == (where, metric)]
        within = np.mean([one.off <= one.resolution + _SLACK * (1 + one.size) for one in own])
        ratio = float(np.median([one.resolution / max(one.off, 1e-12) for one in own]))
        whole = np.median([one.resolution for one in own]) / np.median([one.off for one in own])
        row = f"{len(own)} | {within:.1%} | {ratio:.2g} | {whole:.2g}"
        lines.append(f"| {where} | `{metric}` | {row} |")
    return "\n".join(lines)
