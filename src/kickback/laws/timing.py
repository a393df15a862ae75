"""Timers that are read off how long something lasted, or from presses that worked or failed."""

import numpy as np

from kickback.laws.record import Constant, Law
from kickback.motion.analyse import Motion
from kickback.motion.segments import IntArray
from kickback.takes.numeric import median, typical
from kickback.takes.take import FloatArray

__all__ = ["lasted", "timer"]

_SLACK = 1e-9


def timer(
    motion: Motion,
    phase: str,
    axis: str,
    between: tuple[float, float],
    *,
    frames: float | None = None,
    used: int = 0,
    clock: str = "even",
    reason: str | None = None,
) -> Law:
    """Return a timer that lies between two times, s: evenly likely in between.

    Its value is the middle, its standard error ``(high − low)/√12``; ``frames`` where they
    were counted, else the seconds in usual frames.
    """
    step = typical(motion.dt[1:])
    low, high = between
    value, error = (low + high) / 2, max(high - low, _SLACK) / np.sqrt(12)
    many = Constant(name="frames", value=value / step, unit="frames", stderr=float(error / step))
    if frames is not None:
        many = Constant(name="frames", value=frames, unit="frames")
    return Law(
        take=motion.take.name,
        track="vertical" if axis == motion.take.header.up[1] else "travel",
        phase=phase,
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis=axis,
        law="timer",
        constants=(Constant(name="seconds", value=value, unit="s", stderr=float(error)), many),
        reason=reason,
        frames=used,
        frame=step,
        clock=clock,
    )


def lasted(motion: Motion, phase: str, axis: str, start: IntArray, stop: IntArray) -> Law:
    """Return the timer behind stretches of frames ``[start, stop)`` that it ended.

    One that ran out after n frames is longer than the first n − 1 of them and no longer
    than all. Where no timer in seconds can have ended all of them, it counts frames.
    """
    dt = motion.dt
    until = np.concatenate(([0.0], np.cumsum(dt)))
    whole: FloatArray = until[stop] - until[start]
    low, high = float(np.max(whole - dt[stop - 1])), float(np.min(whole))
    counts = stop - start
    frames = median(counts.astype(np.float64))
    same = int(np.ptp(counts)) == 0
    clock, reason = "even", f"it lasts {frames:g} frames"
    if low > high + _SLACK:
        clock = "frame" if same else "even"
        low, high = float(np.min(whole)), float(np.max(whole))
        reason = (
            f"it is counted in frames: {frames:g} each time"
            if same
            else f"it lasts {int(counts.min())} to {int(counts.max())} frames"
        )
    elif not same:
        clock = "second"
    return timer(
        motion,
        phase,
        axis,
        (low, high),
        frames=frames,
        used=int(counts.sum()),
        clock=clock,
        reason=reason,
    )
