"""Moving sideways in the air: what input does there, against what it does on the ground."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np

from kickback.kinds.foot.laws.pools import after_dashes
from kickback.kinds.foot.metrics.pace import mean_acceleration
from kickback.kinds.foot.metrics.played import PLACE, PUSHED_FROM, PUSHED_TO
from kickback.kinds.foot.metrics.run import speed_resolution
from kickback.kinds.foot.metrics.run import top_speed as ground_top_speed
from kickback.kinds.foot.metrics.speeds import located
from kickback.kinds.foot.metrics.turning import time_to_zero
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.quantities import ACCELERATION, RATIO, SPEED, TIME
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_FEWEST = 3
"""Steps of one push in the air that show its acceleration."""

_BELOW = 0.9
"""Share of the highest speed up to which it still speeds up."""

_FROM = 0.5
"""Share of it from which a push shows no more than the end of an approach."""

_HELD = 1e-3
"""Share of a speed by which it may change in a frame and be held."""

_CHOSEN = 1.15
"""Times the error of two printed speeds that theirs is which were chosen by what they print."""

_CLAMPED = 0.1
"""Share of its largest gain in a frame below which a push in the air is at a limit."""

_BRIEF = 0.1
"""Seconds that a speed in the air is held at least."""


class _Pushes(Record, frozen=True, kw_only=True):
    """Full presses in the air, arrays of shape (k,): steps into frames ``[start, stop)``.

    ``side`` is ±1 along the line; all of a push is in the air, away from walls and dashes.
    """

    start: IntArray
    stop: IntArray
    side: FloatArray


def _free(scene: Scene) -> BoolArray:
    """Return the frames, shape (n,), whose steps begin and end in the free air."""
    motion = scene.motion
    free = ~motion.grounded & ~after_dashes(motion, scene.across)
    free &= ~motion.touches_side
    free[1:] &= free[:-1]
    free[0] = False
    return np.asarray(free & motion.straight)


@computed_once
def _pushes(scene: Scene) -> _Pushes:
    motion = scene.motion
    move = motion.inputs.move
    full = _free(scene) & (np.abs(move) == 2)
    start, stop = runs(np.where(full, motion.inputs.lined, 2))
    keep = full[start]
    start, stop = start[keep], stop[keep]
    return _Pushes(start=start, stop=stop, side=np.sign(move[start]).astype(np.float64))


_NO_INPUT = "no input was recorded"
_NO_PUSH = "no full press in the air sped it up over three frames"


class _Gain(NamedTuple):
    """The speeds from which and to which a push in the air went."""

    before: float
    after: float


def _top(scene: Scene) -> float:
    """Return the highest speed that no dash, slope or moving ground gives."""
    motion = scene.motion
    runs_freely = motion.footing.plain & ~after_dashes(motion, scene.across)
    return float(np.max(motion.size, where=runs_freely, initial=0.0))


def _accelerations(scene: Scene, top: float) -> list[tuple[Row, _Gain]]:
    """Return the mean acceleration of each push in the air that speeds up from below the top."""
    motion, track = scene.motion, scene.across
    rows, pushes, before = [], _pushes(scene), motion.before
    for a, b, side in zip(
        pushes.start.tolist(), pushes.stop.tolist(), pushes.side.tolist(), strict=True
    ):
        v = np.concatenate((before[a : a + 1], track.v[a:b])) * side
        slow = np.flatnonzero(v > _BELOW * top)
        last = int(slow[0]) if slow.size else len(v) - 1
        gain = np.diff(v[: last + 1])
        held = np.flatnonzero(gain <= _CLAMPED * float(np.max(gain, initial=0.0)))
        held = held[held > np.argmax(gain)] if len(gain) else held
        last = int(held[0]) if held.size else last  # a limit ends it
        first = int(np.argmax(v >= 0)) if (v >= 0).any() else last
        stopped = np.flatnonzero(gain[first:last] <= _CLAMPED * float(np.max(gain, initial=0.0)))
        first += int(stopped[-1]) + 1 if stopped.size else 0  # something was in its way
        if last - first < _FEWEST or v[first] > _FROM * top:
            continue
        span = float(np.sum(motion.dt[a + first : a + last]))
        gain = float(v[last] - v[first]) / span
        of_time = gain * float(motion.clock.span_error(np.array(span)))
        error = np.hypot(track.printed * 2**0.5 / ROOT_12, of_time) / span
        sure = _CHOSEN * NINETY_FIVE * float(error) + (
            2 * track.noise / span if track.rounded else 0.0
        )
        if gain > 0:
            later = gain * motion.clock.usual / span
            row = row_of(motion, gain, (a + first, a + last), sure)._replace(frame_shift=later)
            rows.append((row, _Gain(float(v[first]), float(v[last]))))
    return rows


def acceleration(scene: Scene) -> Occurrences:
    """Measure how fast a full press in the air speeds it up."""
    if scene.motion.inputs.source != "recorded":
        return none(_NO_INPUT)
    top = _top(scene)
    found = _accelerations(scene, top)
    given = {
        PUSHED_FROM.name: np.array([one.before / top for _, one in found]),
        PUSHED_TO.name: np.array([one.after / top for _, one in found]),
    }
    return occurrences_of([row for row, _ in found], _NO_PUSH, given=given)


def top_speed(scene: Scene) -> Occurrences:
    """Measure the speed that a full press in the air holds."""
    motion, track = scene.motion, scene.across
    if motion.inputs.source != "recorded":
        return none(_NO_INPUT)
    pushes, rows = _pushes(scene), []
    for a, b, side in zip(
        pushes.start.tolist(), pushes.stop.tolist(), pushes.side.tolist(), strict=True
    ):
        v = track.v[a:b] * side
        off = np.flatnonzero(np.abs(v - v[-1]) > _HELD * abs(v[-1]) + 2 * track.noise)
        since = a + (int(off[-1]) + 1 if off.size else 0)
        if v[-1] > motion.rest_speed and motion.t[b - 1] - motion.begin[since] >= _BRIEF:
            value = median(track.v[since:b] * side)
            rows.append(row_of(motion, value, (since, b), speed_resolution(scene)))
    return occurrences_of(rows, "no full press in the air held its speed for 0.1 s")


def air_time_to_zero(scene: Scene) -> Occurrences:
    """Measure the time from a press against the motion in the air to zero speed."""
    motion, track = scene.motion, scene.across
    if motion.inputs.source != "recorded":
        return none(_NO_INPUT)
    pushes, rows = _pushes(scene), []
    before, lined = motion.before, motion.inputs.lined
    for a, b, side in zip(
        pushes.start.tolist(), pushes.stop.tolist(), pushes.side.tolist(), strict=True
    ):
        v = track.v[a:b] * side
        there = np.flatnonzero(v >= 0)
        old = lined[a] == lined[a - 1]  # it turned, not the input
        if old or before[a] * side >= -motion.rest_speed or not there.size:
            continue
        hit = np.array([a + int(there[0])])
        moment = located(scene, hit, np.zeros(1), np.array([a]))
        begin, time = float(motion.begin[a]), float(moment.time[0])
        rows.append(
            Row(
                max(time - begin, 0.0),
                begin,
                time,
                float(moment.resolution[0]),
                float(motion.step[a]),
            )
        )
    return occurrences_of(rows, "no full press against the motion in the air brought it to zero")


def kept_speed(scene: Scene) -> Occurrences:
    """Measure what is left, at the end of a flight without input, of its speed at the start."""
    motion, track = scene.motion, scene.across
    if motion.inputs.source != "recorded":
        return none(_NO_INPUT)
    idle = _free(scene) & (motion.inputs.move == 0)
    start, stop = runs(idle)
    rows = []
    for a, b in zip(start[idle[start]].tolist(), stop[idle[start]].tolist(), strict=True):
        # a displacement is of the step before
        first = a if track.source == "reported" else min(a + 1, b - 1)
        before, after = abs(float(track.v[first])), abs(float(track.v[b - 1]))
        if before <= motion.rest_speed or before <= 0 or motion.t[b - 1] - motion.begin[a] < _BRIEF:
            continue
        sure = (track.printed or 2 * track.noise) / before
        lost = np.max(np.abs(np.diff(track.v[first:b])), initial=0.0) / before  # in a frame
        rows.append(row_of(motion, after / before, (a, b), sure)._replace(frame_shift=float(lost)))
    return occurrences_of(rows, "nothing was let go in the air while it moved, for 0.1 s")


def _share(scene: Scene, *, part: str, inverse: bool) -> Occurrences:
    """Measure a quantity in the air as a share of the ground's."""
    air, ground = (one(scene) for one in _PAIRS[part])
    for found, where in ((air, "in the air"), (ground, "on the ground")):
        if not len(found.value):
            return none(f"{where}: {found.reason}")
        if median(found.value) <= 0:
            return none(f"{where} it is there at once")
    up, down = (ground, air) if inverse else (air, ground)
    ratio = median(up.value) / median(down.value)
    errors = [median(one.resolution) / abs(median(one.value)) for one in (up, down)]
    start = min(float(air.start.min()), float(ground.start.min()))
    end = max(float(air.end.max()), float(ground.end.max()))
    return occurrences_of(
        [Row(ratio, start, end, ratio * float(np.hypot(errors[0], errors[1])))], ""
    )


_PAIRS: dict[str, tuple[Callable[[Scene], Occurrences], ...]] = {
    "acceleration": (acceleration, mean_acceleration),
    "top speed": (top_speed, ground_top_speed),
    "turn": (air_time_to_zero, time_to_zero),
}

_metric = partial(Metric, group="air", needs=(ACROSS, UP))


METRICS = (
    _metric(
        part="acceleration",
        detail=True,
        dimension=ACCELERATION,
        title="Acceleration in the air",
        definition="The mean acceleration of a full press in the air that begins between zero and"
        " half of the highest speed, up to 90 % of that, over three frames at least.",
        formula="(v[last] − v[first]) / Σdt",
        measure=acceleration,
        depends=(PUSHED_FROM, PUSHED_TO),
    ),
    _metric(
        part="acceleration_ratio",
        dimension=RATIO,
        title="Control in the air",
        definition="The acceleration in the air as a share of the ground's: 1 steers in the air as"
        " on the ground, 0 not at all.",
        formula="air.acceleration / run.mean_acceleration",
        measure=partial(_share, part="acceleration", inverse=False),
        depends=(PLACE,),
    ),
    _metric(
        part="top_speed",
        detail=True,
        dimension=SPEED,
        title="Speed held in the air",
        definition="The speed that a full press in the air holds for at least 0.1 s.",
        formula="median(|v|) while it changes by less than 0.1 %",
        measure=top_speed,
        depends=(PLACE,),
    ),
    _metric(
        part="top_speed_ratio",
        dimension=RATIO,
        title="Speed held in the air against the ground",
        definition="The speed held in the air as a share of the top speed on the ground.",
        formula="air.top_speed / run.top_speed",
        measure=partial(_share, part="top speed", inverse=False),
        depends=(PLACE,),
    ),
    _metric(
        part="turn_time",
        detail=True,
        dimension=TIME,
        title="Turning round in the air: time to zero",
        definition="From a full press against the motion in the air until the speed is zero.",
        formula="t(v = 0) − t(press)",
        measure=air_time_to_zero,
        depends=(PLACE,),
    ),
    _metric(
        part="turn_ratio",
        dimension=RATIO,
        title="Turning round in the air against the ground",
        definition="How quickly it turns round in the air as a share of the ground's quickness.",
        formula="reverse.time_to_zero / air.turn_time",
        measure=partial(_share, part="turn", inverse=True),
        depends=(PLACE,),
    ),
    _metric(
        part="kept_speed",
        dimension=RATIO,
        title="Momentum in the air",
        definition="What is left of the speed over the ground after nothing was pressed in the air"
        " for 0.1 s or more: 1 keeps its momentum, 0 stops dead.",
        formula="|v(last frame)| / |v(first frame without input)|",
        measure=kept_speed,
        depends=(PLACE,),
    ),
)
