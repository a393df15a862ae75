"""Running: top speed and how long it takes to get there."""

from functools import partial

import numpy as np

from kickback.kinds.foot.inputs import input_segments
from kickback.kinds.foot.metrics.played import PLACE
from kickback.kinds.foot.metrics.speeds import push_moments
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.grids import fitted_speed
from kickback.motion.segments import IntArray
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import typical
from kickback.takes.quantities import SPEED, TIME
from kickback.takes.take import FloatArray

__all__ = ["METRICS", "speed_resolution"]

_WINDOW = 0.35
"""Seconds of a window that shows the highest of rounded speeds: the largest of many short,
noisy ones is too large."""

NO_PUSH = "no full press from rest on the ground"


def speed_resolution(scene: Scene) -> float:
    """Return how well a settled speed is known, length/s."""
    track = scene.across
    if track.rounded:
        return 2 * track.blur / scene.motion.options.plateau_time
    return track.noise


def _drifts(scene: Scene, start: IntArray, stop: IntArray) -> FloatArray:
    """Return how far speeds still go on in the later half of plateaus, beyond their noise."""
    track = scene.across
    if track.rounded:
        return np.zeros(len(start))
    size = np.abs(track.v)
    drifts = [float(np.ptp(size[(a + b) // 2 : b])) for a, b in zip(start, stop, strict=True)]
    return np.maximum(np.array(drifts) - 2 * track.noise, 0.0)


@computed_once
def top_speed(scene: Scene) -> Occurrences:
    """Measure the speed at which full input settles."""
    plateaus = scene.plateaus
    known = np.isfinite(plateaus.speed)
    if not known.any():
        return none(scene.no_plateau)
    start, stop = plateaus.settled[known], plateaus.stop[known]
    return Occurrences(
        value=plateaus.speed[known],
        start=scene.motion.begin[start],
        end=scene.motion.t[stop - 1],
        resolution=speed_resolution(scene) + _drifts(scene, start, stop),
        frame_shift=np.zeros(len(start)),
        remark=scene.remark,
    )


def highest_speed(scene: Scene) -> Occurrences:
    """Measure the largest sideways speed of all frames."""
    size, located, width = scene.motion.size, speed_resolution(scene), 1
    if scene.across.rounded:
        step = typical(scene.motion.step)
        width = max(1, round(_WINDOW / 2 / step))
        segment = input_segments(scene.motion.inputs)
        slope, _ = fitted_speed(scene.across.p, scene.motion.t, width, segment)
        ends = np.abs(np.diff(segment, append=segment[-1])) + np.abs(
            np.diff(segment, prepend=segment[0])
        )
        size = np.where(ends == 0, np.abs(slope), 0.0)
        located = scene.across.blur / _WINDOW
    at = int(np.argmax(size))
    if scene.across.rounded and len(scene.motion.dashes):  # a dash is shorter than the window
        near = np.abs(scene.across.v[max(0, at - width) : at + width + 1])
        located += abs(float(near.max() - size[at]))
    change = np.abs(np.diff(scene.motion.size))
    slack = float(change[max(0, at - 1) : at + 1].max(initial=0.0))
    return Occurrences(
        value=size[at : at + 1].copy(),
        start=scene.motion.begin[at : at + 1],
        end=scene.motion.t[at : at + 1],
        resolution=np.array([located]),
        frame_shift=np.array([slack]),
    )


def _time_to(scene: Scene, share: float) -> Occurrences:
    pushes = scene.pushes
    rest = scene.motion.rest_speed
    wanted = pushes.full & (np.abs(pushes.entry) <= rest)
    if not wanted.any():
        return none(NO_PUSH)
    if not np.isfinite(scene.push_tops[wanted]).any():
        return none(scene.no_plateau)
    moments = push_moments(scene, share)
    keep = wanted & np.isfinite(moments.time)
    if not keep.any():
        return none(f"no press from rest was held until {share:.0%} of the top speed")
    press = scene.motion.begin[pushes.press]
    return Occurrences(
        value=moments.time - press,
        start=press,
        end=moments.time,
        resolution=moments.resolution,
        frame_shift=scene.motion.step[pushes.press],
        remark=scene.remark,
    ).only(keep)


def time_to_90(scene: Scene) -> Occurrences:
    """Measure the time from a press at rest to 90 % of the top speed."""
    return _time_to(scene, 0.90)


def time_to_top_speed(scene: Scene) -> Occurrences:
    """Measure the time from a press at rest to 99 % of the top speed."""
    return _time_to(scene, 0.99)


_metric = partial(Metric, group="run", needs=(ACROSS,))


METRICS = (
    _metric(
        part="top_speed",
        dimension=SPEED,
        title="Top speed",
        definition="The speed at which full input on the ground settles: the median over the"
        " later half (at least 0.2 s) of the time in which it changes by less than 0.1 %."
        " Without such a plateau there is none.",
        formula="median(|v|) over the plateau",
        measure=top_speed,
        phrases=("runs {} faster", "runs {} slower", "runs"),
    ),
    _metric(
        part="highest_speed",
        dimension=SPEED,
        title="Highest speed",
        definition="The largest sideways speed of any frame, whatever the input.",
        formula="max(|v|)",
        measure=highest_speed,
        combine=LARGEST,
        depends=(PLACE,),
    ),
    _metric(
        part="time_to_90",
        dimension=TIME,
        title="Time to 90 % of top speed",
        definition="From the press, at rest on the ground, to 90 % of the top speed.",
        formula="t(|v| = 0.90·v_top) − t(press); 0.90·v_top/a for constant acceleration,"
        " ln(10)/k for smoothing of rate k",
        measure=time_to_90,
        phrases=("speeds up {} more slowly", "speeds up {} sooner", "speeds up"),
    ),
    _metric(
        part="time_to_top_speed",
        dimension=TIME,
        title="Time to top speed",
        definition="From the press, at rest on the ground, to 99 % of the top speed. Divided by"
        " the time to 90 % it gives 1.1 for constant acceleration and 2 for smoothing.",
        formula="t(|v| = 0.99·v_top) − t(press); 0.99·v_top/a for constant acceleration,"
        " ln(100)/k for smoothing of rate k",
        measure=time_to_top_speed,
    ),
)
