"""The response to a stick that is pressed in part: dead zone, linearity, where a walk ends."""

from functools import partial

import numpy as np

from kickback.kinds.foot.metrics.run import speed_resolution
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.metrics.windows import STICK_FROM, WORKED
from kickback.motion.segments import runs
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.quantities import RATIO, SPEED
from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["METRICS"]

_LASTS = 0.2
"""Seconds that an amount is held at least to show the speed that it settles at."""

_ALIKE = 0.02
"""Amount by which a stick that is held wavers."""

_SETTLED = 0.01
"""Share of a speed by which it may change over the last half of a hold and have settled."""

_STEEP = 3.0
"""Times the usual slope of the response from which two amounts lie on either side of a step."""

_FEWEST = 3
"""Amounts that show where a response steps."""

_LEAST = 0.01
"""Amount of a stick that is one."""


class _Holds(Record, frozen=True, kw_only=True):
    """Amounts of the stick that were held on the ground, and the speed each settled at."""

    amount: FloatArray
    speed: FloatArray
    start: FloatArray
    end: FloatArray


@computed_once
def _holds(scene: Scene) -> _Holds:
    motion, size = scene.motion, scene.motion.size
    amount, rows = motion.amount, []
    partial = (amount > _LEAST) & (amount < 1 - _ALIKE)
    if not partial.any():  # the usual case of keys
        return _none_held()
    code = np.round(amount / _ALIKE).astype(np.int64) * (motion.grounded & ~motion.dashing)
    start, stop = runs(code)
    long = (motion.t[stop - 1] - motion.begin[start] >= _LASTS) & (code[start] != 0)
    walled = motion.touches_side
    for a, b in zip(start[long].tolist(), stop[long].tolist(), strict=True):
        held = median(amount[a:b])
        late = a + 2 * (b - a) // 3
        if held < _LEAST or walled[a:b].any():
            continue
        level = median(size[late:b])
        slack = _SETTLED * level + 2 * scene.across.noise + motion.rest_speed
        if abs(float(size[b - 1]) - float(size[late])) <= slack and b - late > 1:
            rows.append((held, level, float(motion.begin[a]), float(motion.t[b - 1])))
    table = np.array(rows).reshape(-1, 4).T
    return _Holds(amount=table[0], speed=table[1], start=table[2], end=table[3])


def _none_held() -> _Holds:
    nothing = np.zeros(0)
    return _Holds(amount=nothing, speed=nothing, start=nothing, end=nothing)


_NO_STICK = "no stick was recorded"
_NO_PART = "the stick was never held in part"


def _holds_shown(scene: Scene) -> tuple[_Holds, str]:
    """Return what was held, and why it tells nothing of a response."""
    motion = scene.motion
    if motion.inputs.source != "recorded":
        return _none_held(), _NO_STICK
    holds = _holds(scene)
    part = holds.amount < 1 - _ALIKE
    return holds, "" if part.any() else _NO_PART


def dead_zone(scene: Scene) -> Occurrences:
    """Measure the amount of the stick from which it moves, from amounts on either side."""
    holds, reason = _holds_shown(scene)
    if reason:
        return none(reason)
    moves = holds.speed > max(scene.motion.rest_speed, 2 * scene.across.noise)
    nothing = np.zeros(len(moves))
    return Occurrences(
        value=holds.amount,
        start=holds.start,
        end=holds.end,
        resolution=nothing,
        frame_shift=nothing,
        given={WORKED: moves.astype(np.float64)},
    )


def _response(scene: Scene) -> tuple[FloatArray, FloatArray, str]:
    """Return amounts and the speeds that they lead to, each amount once, or why there are none."""
    holds, reason = _holds_shown(scene)
    if reason:
        return holds.amount, holds.speed, reason
    key = np.round(holds.amount / _ALIKE).astype(np.int64)
    amounts = np.array([median(holds.amount[key == one]) for one in np.unique(key)])
    speeds = np.array([median(holds.speed[key == one]) for one in np.unique(key)])
    full = amounts[-1] >= 1 - _ALIKE and speeds[-1] > scene.motion.rest_speed
    return amounts, speeds, "" if full else "no full press settled at a speed"


def linearity(scene: Scene) -> Occurrences:
    """Measure how far speeds are from being in proportion to the stick."""
    amounts, speeds, reason = _response(scene)
    if reason:
        return none(reason)
    motion, top = scene.motion, float(speeds[-1])
    off = float(np.max(np.abs(speeds / top - amounts / amounts[-1])))
    sure = max(2 * speed_resolution(scene) / top, ARITHMETIC)
    return occurrences_of([Row(off, float(motion.t[0]), float(motion.t[-1]), sure)], "")


def _step(scene: Scene) -> tuple[int, FloatArray, FloatArray, str]:
    """Return below which amount a response steps up, the amounts, the speeds, or why it is not."""
    amounts, speeds, reason = _response(scene)
    if reason:
        return -1, amounts, speeds, reason
    if len(amounts) < _FEWEST:
        return -1, amounts, speeds, "fewer than three amounts of the stick were held"
    slope = np.diff(speeds) / np.diff(amounts)
    steepest = int(np.argmax(slope))
    others = np.delete(slope, steepest)
    usual, still = median(np.abs(others)), speeds[steepest] <= scene.motion.rest_speed
    if slope[steepest] < _STEEP * usual or still:
        return -1, amounts, speeds, "no step in the response: it walks and runs in one"
    return steepest, amounts, speeds, ""


def run_threshold(scene: Scene) -> Occurrences:
    """Measure the amount of the stick between a walk and a run."""
    step, amounts, _, reason = _step(scene)
    if reason:
        return none(reason)
    motion = scene.motion
    low, high = float(amounts[step]), float(amounts[step + 1])
    row = Row((low + high) / 2, float(motion.t[0]), float(motion.t[-1]), (high - low) / 2)
    return occurrences_of([row], "", remark=f"{low:.3g} walks, {high:.3g} runs")


def walk_speed(scene: Scene) -> Occurrences:
    """Measure the highest speed of a walk: of the amounts below the step to a run."""
    step, _, speeds, reason = _step(scene)
    if reason:
        return none(reason)
    motion = scene.motion
    span = (float(motion.t[0]), float(motion.t[-1]))
    return occurrences_of([Row(float(speeds[step]), *span, speed_resolution(scene))], "")


_metric = partial(Metric, group="stick", needs=(ACROSS,))


METRICS = (
    _metric(
        part="dead_zone",
        dimension=RATIO,
        title="Dead zone",
        definition="The amount of the stick from which it moves: the middle between the largest"
        " amount held that did nothing and the smallest larger one that moved it.",
        formula="(max(amount that did nothing) + min(larger amount that moved it)) / 2",
        measure=dead_zone,
        combine=STICK_FROM,
    ),
    _metric(
        part="linearity",
        detail=True,
        dimension=RATIO,
        title="Distance from a linear response",
        definition="How far the speed of any amount that was held is from its share of the top"
        " speed: 0 where half a stick is half the speed.",
        formula="max |v(amount)/v_top − amount|",
        measure=linearity,
    ),
    _metric(
        part="run_threshold",
        dimension=RATIO,
        title="Threshold of walk and run",
        definition="The amount of the stick between two that were held where the speed steps up,"
        " three times as steeply as it usually does or more.",
        formula="middle of the two amounts, resolved to half of what lies between",
        measure=run_threshold,
    ),
    _metric(
        part="walk_speed",
        detail=True,
        dimension=SPEED,
        title="Walking speed",
        definition="The speed of the largest amount that was held below the step to a run.",
        formula="|v| settled at the amount below stick.run_threshold",
        measure=walk_speed,
    ),
)
