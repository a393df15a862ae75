"""How a run begins, and whether it is the same both ways: pace, overshoot, asymmetry."""

from functools import partial

import numpy as np

from kickback.kinds.foot.metrics.run import NO_PUSH, speed_resolution, time_to_90
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.takes.numeric import median
from kickback.takes.quantities import ACCELERATION, RATIO, SPEED
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["METRICS", "mean_acceleration"]

_SHARE = 0.9
"""Share of the top speed over which the mean acceleration is taken."""


def _clean(share: float) -> float:
    """Return a share, 0 where it is no more than arithmetic leaves."""
    return share if share > ARITHMETIC else 0.0


def first_frame_speed(scene: Scene) -> Occurrences:
    """Measure the speed after the first frame that moves, from a full press at rest."""
    motion, pushes, track = scene.motion, scene.pushes, scene.across
    wanted = pushes.full & (np.abs(pushes.entry) <= motion.rest_speed)
    if not wanted.any():
        return none(NO_PUSH)
    if track.rounded:
        return none("speeds are fitted over several frames: none is that of the first")
    rows = []
    for a, b, side in zip(
        pushes.press[wanted].tolist(),
        pushes.stop[wanted].tolist(),
        pushes.side[wanted].tolist(),
        strict=True,
    ):
        moved = np.flatnonzero(track.v[a:b] * side > motion.rest_speed)
        if moved.size:
            row = a + int(moved[0])
            value, begin = float(track.v[row] * side), float(motion.begin[a])
            # a displacement is of the speeds on either side of its step
            sure = value if track.source == "displacement" else speed_resolution(scene)
            rows.append(Row(value, begin, float(motion.t[row]), sure, value))
    return occurrences_of(rows, "no full press from rest moved it")


def mean_acceleration(scene: Scene) -> Occurrences:
    """Measure the mean acceleration from a press at rest to 90 % of the top speed."""
    found = time_to_90(scene)
    if not len(found.value):
        return found
    pushes, motion = scene.pushes, scene.motion
    tops = scene.push_tops[np.searchsorted(motion.begin[pushes.press], found.start)]
    rows, step = [], motion.clock.usual
    for top, time, start, end, sure in zip(
        tops, found.value, found.start, found.end, found.resolution, strict=True
    ):
        gain = _SHARE * top / time if time > 0 else float("nan")
        share = 1 / time if time > 0 else 0.0
        rows.append(Row(gain, start, end, gain * sure * share, gain * step * share))
    return occurrences_of(rows, "the top speed is there at once", remark=found.remark)


def overshoot(scene: Scene) -> Occurrences:
    """Measure by how much a push from rest goes beyond the speed that it settles at."""
    motion, pushes, track = scene.motion, scene.pushes, scene.across
    wanted = pushes.full & (np.abs(pushes.entry) <= motion.rest_speed) & (pushes.plateau >= 0)
    if not wanted.any():
        return none(NO_PUSH)
    wanted[wanted] = scene.plateaus.speed[pushes.plateau[wanted]] > 0  # NaN where none held on
    rows = []
    for a, b, side, at in zip(
        pushes.press[wanted].tolist(),
        pushes.stop[wanted].tolist(),
        pushes.side[wanted].tolist(),
        pushes.plateau[wanted].tolist(),
        strict=True,
    ):
        top = float(scene.plateaus.speed[at])
        peak = float(np.max(track.v[a:b] * side))
        sure = 2 * speed_resolution(scene) / top + (track.noise / top if track.rounded else 0.0)
        sure = max(sure, ARITHMETIC)
        rows.append(
            Row(_clean(peak / top - 1), float(motion.begin[a]), float(motion.t[b - 1]), sure)
        )
    return occurrences_of(rows, "no push from rest went on until its speed held")


def _by_direction(toward: FloatArray, value: FloatArray) -> dict[int, float]:
    """Return the median of what is known in each direction."""
    known = np.isfinite(value)
    return {int(way): median(value[known & (toward == way)]) for way in set(toward[known].tolist())}


def _asymmetry(scene: Scene, *, starts: bool) -> Occurrences:
    """Measure how far directions differ, as a share of their mean: the widest pair."""
    motion = scene.motion
    if starts:
        found = time_to_90(scene)
        row = np.searchsorted(motion.begin[scene.pushes.press], found.start)
        toward, value = scene.pushes.toward[row], found.value
        sure = median(found.resolution) if len(found.value) else 0.0
    else:
        plateaus = scene.plateaus
        toward, value, sure = plateaus.toward, plateaus.speed, speed_resolution(scene)
    if motion.plane is not None:  # diagonals have a ratio of their own
        keep = toward % 2 == 0
        toward, value = toward[keep], value[keep]
    sides = _by_direction(toward.astype(np.float64), value)
    if len(sides) < 2:
        return none("full presses settled in one direction only")
    low, high = min(sides.values()), max(sides.values())
    middle = sum(sides.values()) / len(sides)
    span = (float(motion.t[0]), float(motion.t[-1]))
    sure = max(2**0.5 * sure / middle, ARITHMETIC)
    later = 2 * motion.clock.usual / middle if starts else 0.0
    return occurrences_of([Row(_clean((high - low) / middle), *span, sure, later)], "")


_metric = partial(Metric, group="run", needs=(ACROSS,))


METRICS = (
    _metric(
        part="first_frame_speed",
        framed=True,
        detail=True,
        dimension=SPEED,
        title="First-frame speed",
        definition="The speed after the first frame that moves, from a full press at rest.",
        formula="|v| of the first moving frame; a·dt for constant acceleration",
        measure=first_frame_speed,
    ),
    _metric(
        part="mean_acceleration",
        dimension=ACCELERATION,
        title="Mean acceleration",
        definition="The mean acceleration from a full press at rest to 90 % of the top speed.",
        formula="0.90·v_top / run.time_to_90 of the same press",
        measure=mean_acceleration,
    ),
    _metric(
        part="overshoot",
        detail=True,
        dimension=RATIO,
        title="Overshoot",
        definition="By how much a push from rest goes beyond the speed that it then settles at, as"
        " a share of that.",
        formula="max(|v|) / v_top − 1",
        measure=overshoot,
    ),
    _metric(
        part="speed_asymmetry",
        detail=True,
        dimension=RATIO,
        title="Asymmetry of the top speed",
        definition="How far the top speeds of two directions differ at most, as a share of their"
        " mean: left and right in a side view, the four ends of the input's axes in a plane.",
        formula="(max − min) / mean of v_top by direction",
        measure=partial(_asymmetry, starts=False),
    ),
    _metric(
        part="start_asymmetry",
        detail=True,
        dimension=RATIO,
        title="Asymmetry of the start",
        definition="How far the times to 90 % of the top speed of two directions differ at most, as"
        " a share of their mean.",
        formula="(max − min) / mean of run.time_to_90 by direction",
        measure=partial(_asymmetry, starts=True),
    ),
)
