"""Changing direction: through zero to the opposite top speed."""

import numpy as np

from kickback.metrics.record import Occurrences, none
from kickback.metrics.registry import Metric
from kickback.metrics.scene import Scene
from kickback.metrics.speeds import push_moments, zero_moments

__all__ = ["METRICS"]


def _reversals(scene: Scene, *, to_top: bool, from_top: bool) -> Occurrences:
    if scene.no_release:
        return none(scene.no_release)
    pushes = scene.pushes
    wanted = pushes.full & (pushes.entry < -scene.motion.rest_speed)
    if not wanted.any():
        return none("no full press against the motion on the ground")
    if from_top:
        entry_top = scene.top_speed(-pushes.side)
        slack = 0.02 if scene.across.rounded else 0.01
        with np.errstate(invalid="ignore"):
            wanted &= -pushes.entry >= (1 - slack) * entry_top - 2 * scene.across.noise
        if not wanted.any():
            return none("no full press against the motion at top speed")
    if to_top and not np.isfinite(scene.push_tops[wanted]).any():
        return none(scene.motion.thresholds.no_plateau)
    moments = push_moments(scene, 0.99) if to_top else zero_moments(scene)
    keep = wanted & np.isfinite(moments.time)
    if not keep.any():
        return none("no press against the motion was held long enough")
    press = scene.motion.begin[pushes.press]
    return Occurrences(
        value=moments.time - press,
        start=press,
        end=moments.time,
        resolution=moments.resolution,
        slack=scene.motion.step[pushes.press] * (2 if to_top else 1),
        remark=scene.remark,
    ).only(keep)


def time_to_zero(scene: Scene) -> Occurrences:
    """Measure the time from an opposite press to zero speed."""
    return _reversals(scene, to_top=False, from_top=False)


def time_to_top_speed(scene: Scene) -> Occurrences:
    """Measure the time from an opposite press to the opposite top speed."""
    return _reversals(scene, to_top=True, from_top=False)


def turn_time(scene: Scene) -> Occurrences:
    """Measure a reversal that was entered at top speed."""
    return _reversals(scene, to_top=True, from_top=True)


METRICS = (
    Metric(
        name="reverse.time_to_zero",
        dimension="time",
        title="Reverse: time to zero",
        definition="From a full press against the motion until speed is zero.",
        formula="t(v = 0) − t(press)",
        measure=time_to_zero,
    ),
    Metric(
        name="reverse.time_to_top_speed",
        dimension="time",
        title="Reverse: time to top speed",
        definition="From a full press against the motion, through zero, to 99 % of the top"
        " speed the other way.",
        formula="t(v = 0.99·v_top the other way) − t(press)",
        measure=time_to_top_speed,
    ),
    Metric(
        name="turn.time",
        dimension="time",
        title="Turn time",
        definition="A reverse that was entered at top speed: full left to full right, or back.",
        formula="t(v = 0.99·v_top the other way) − t(press at top speed)",
        measure=turn_time,
    ),
)
