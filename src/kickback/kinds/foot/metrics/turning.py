"""Changing direction: through zero to the opposite top speed."""

import numpy as np

from kickback.kinds.foot.metrics.played import ENTRY, entry_given
from kickback.kinds.foot.metrics.speeds import push_moments, zero_moments
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.takes.quantities import TIME

__all__ = ["METRICS"]

_FROM_TOP = 0.01
"""Share of the top speed that a turn may be entered below it."""

_FROM_TOP_ROUNDED = 0.02
"""The same where speeds are fitted to rounded positions."""


def _reversals(scene: Scene, *, to_top: bool, from_top: bool) -> Occurrences:
    if scene.no_release:
        return none(scene.no_release)
    pushes = scene.pushes
    wanted = pushes.full & (pushes.entry < -scene.motion.rest_speed)
    if not wanted.any():
        return none("no full press against the motion on the ground")
    if from_top:
        entry_top = scene.top_speed(scene.motion.toward(pushes.press, -pushes.side))
        slack = _FROM_TOP_ROUNDED if scene.across.rounded else _FROM_TOP
        with np.errstate(invalid="ignore"):
            wanted &= -pushes.entry >= (1 - slack) * entry_top - 2 * scene.across.noise
        if not wanted.any():
            return none("no full press against the motion at top speed")
    if to_top and not np.isfinite(scene.push_tops[wanted]).any():
        return none(scene.no_plateau)
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
        frame_shift=scene.motion.step[pushes.press] * (2 if to_top else 1),
        remark=scene.remark,
        given=entry_given(scene, pushes.entry),
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
        group="reverse",
        part="time_to_zero",
        dimension=TIME,
        title="Reverse: time to zero",
        definition="From a full press against the motion until speed is zero.",
        formula="t(v = 0) − t(press)",
        measure=time_to_zero,
        needs=(ACROSS,),
        depends=(ENTRY,),
    ),
    Metric(
        group="reverse",
        part="time_to_top_speed",
        dimension=TIME,
        title="Reverse: time to top speed",
        definition="From a full press against the motion, through zero, to 99 % of the top"
        " speed the other way.",
        formula="t(v = 0.99·v_top the other way) − t(press)",
        measure=time_to_top_speed,
        needs=(ACROSS,),
        depends=(ENTRY,),
    ),
    Metric(
        group="turn",
        part="time",
        dimension=TIME,
        title="Turn time",
        definition="A reverse that was entered at top speed: full left to full right, or back.",
        formula="t(v = 0.99·v_top the other way) − t(press at top speed)",
        measure=turn_time,
        phrases=("turns {} more slowly", "turns {} quicker", "turns"),
        needs=(ACROSS,),
        depends=(ENTRY,),
    ),
)
