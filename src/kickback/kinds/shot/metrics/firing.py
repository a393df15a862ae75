"""What is measured of how a projectile is fired: cadence, bursts, cooldown, latency."""

from functools import partial

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.shot.launches import Bursts, bursts_of, launches_of, waits_of
from kickback.kinds.shot.metrics.rows import shot_metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import IntArray
from kickback.takes.quantities import RATIO, TIME

__all__ = ["FIRE_METRICS"]


def _gaps(found: Bursts, rows: IntArray) -> Occurrences:
    """Return gaps before some launches as occurrences; known to a frame."""
    step = found.step[rows]
    return Occurrences(
        value=found.gap[rows],
        start=found.start[rows],
        end=found.end[rows],
        resolution=step,
        frame_shift=step,
    )


def _cadence(analysis: AnyAnalysis, *, jitter: bool) -> Occurrences:
    """Measure the time between launches under one press, or how much that varies."""
    launches = launches_of(analysis)
    if len(launches.time) < 2:
        return none("fewer than two launches in the take")
    found = bursts_of(launches)
    rows = np.flatnonzero(~found.long)
    if not len(rows):
        return none("no two launches under one press of the button")
    gaps = _gaps(found, rows)
    if not jitter:
        return gaps
    return Occurrences(
        value=np.std(gaps.value, keepdims=True),
        start=gaps.start[:1],
        end=gaps.end[-1:],
        frame_shift=gaps.frame_shift[:1],
        resolution=gaps.resolution[:1],
    )


def _burst(analysis: AnyAnalysis) -> Occurrences:
    """Count the launches of each burst that is whole: the next has begun."""
    launches = launches_of(analysis)
    found = bursts_of(launches)
    if not found.long.any():
        return none("no bursts: launches under one press come at one pace")
    size, rows = found.sizes()
    zero = np.zeros(len(rows))
    return Occurrences(
        value=size.astype(np.float64),
        start=found.start[rows],
        end=found.end[rows],
        resolution=zero,
        frame_shift=zero,
    )


def _cooldown(analysis: AnyAnalysis) -> Occurrences:
    """Measure the wait after a burst, or, under presses that come sooner, after a launch."""
    launches = launches_of(analysis)
    found = bursts_of(launches)
    if found.long.any():
        return _gaps(found, np.flatnonzero(found.long))
    waits = waits_of(launches)
    if waits is None:
        return none("no bursts, and no press came too soon after a launch to work")
    low, high, start, end = waits
    half = np.array([(high - low) / 2])
    return Occurrences(
        value=np.array([(low + high) / 2]),
        start=np.array([start]),
        end=np.array([end]),
        resolution=half,
        frame_shift=half,
    )


def _latency(analysis: AnyAnalysis) -> Occurrences:
    """Measure the time from a press of the fire button to the launch."""
    found = launches_of(analysis)
    if found.pressed is None:
        return none("no fire button was recorded (in_fire)")
    waits = found.time - found.pressed
    keep = np.isfinite(waits)
    if not keep.any():
        return none("no launch after a press of the button")
    value = np.where(np.abs(waits) < 1e-9, 0.0, waits)
    return Occurrences(
        value=value,
        start=found.pressed,
        end=found.time,
        resolution=0 * value,
        frame_shift=found.step,
    ).only(keep)


FIRE_METRICS = (
    shot_metric("cadence", partial(_cadence, jitter=False), TIME, "Cadence",
                "The time from launch to launch under one press of the button; within bursts,"
                " where there are any.",
                "t(launch) − t(one before)", display=True),
    shot_metric("cadence_jitter", partial(_cadence, jitter=True), TIME, "Jitter of the cadence",
                "How much that varies, as a standard deviation: up to half a frame in sound code.",
                "√(mean (gap − mean gap)²)", display=True, detail=True, framed=True),
    shot_metric("burst", _burst, RATIO, "Shots of a burst",
                "How many launches follow each other before a longer wait under the same press.",
                "launches from one long gap to the next", display=True, detail=True),
    shot_metric("cooldown", _cooldown, TIME, "Cooldown",
                "The wait after a burst under the same press; without bursts what lies between"
                " the longest wait after which a press did nothing and the shortest after which"
                " it worked.",
                "t(first launch of a burst) − t(last one before)", display=True, detail=True),
    shot_metric("fire_latency", _latency, TIME, "Latency of the button",
                "From the press of the fire button to the launch; 0 where both are in one update.",
                "t(launch) − t(press)", display=True, detail=True),
)  # fmt: skip
