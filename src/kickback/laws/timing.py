"""Timers that are read off how long something lasted, or from presses that worked or failed."""

import numpy as np

from kickback.laws.families.moments import TIMER
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.motion.motion import Motion
from kickback.motion.segments import IntArray
from kickback.takes.numeric import median
from kickback.takes.quantities import FRAMES, TIME
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["lasted", "timer"]

_LONG = 2.0
"""Usual frames that one lasts which a game may have clamped."""


def timer(
    motion: Motion,
    phase: PhaseKey,
    role: Role,
    between: tuple[float, float],
    *,
    frames: float | None = None,
    used: int = 0,
    clock: str = "even",
    reason: str | None = None,
) -> Law:
    """Return a timer that lies between two times, s: evenly likely in between.

    Its value is the middle, its standard error ``(high − low)/√12``; ``frames`` where they
    were counted, else the seconds in usual frames. Of one whose ``high`` is infinite only a
    bound is known.
    """
    step = motion.clock.usual
    length = motion.take.header.length_unit
    low, high = between
    value, error = (low + high) / 2, max(high - low, ARITHMETIC) / np.sqrt(12)
    counted, seconds = FRAMES.within(length), TIME.within(length)
    if np.isfinite(high):
        first = Constant(
            name="seconds", value=value, unit=seconds, stderr=float(error), between=between
        )
        many = Constant(
            name="frames",
            value=value / step,
            unit=counted,
            stderr=float(error / step),
            between=(low / step, high / step),
        )
    else:
        reason = "; ".join(filter(None, (f"more than {low:.4g} s", reason)))
        first = Constant(name="seconds", value=low, unit=seconds, between=between)
        many = Constant(
            name="frames", value=low / step, unit=counted, between=(low / step, float("inf"))
        )
    if frames is not None:
        many = Constant(name="frames", value=frames, unit=counted)
    return Law(
        take=motion.take.name,
        role=role,
        phase=phase,
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis=motion.tracks[role.name].axis,
        family=TIMER,
        constants=(first, many),
        reason=reason,
        frames=used,
        frame=step,
        clock=clock,
    )


def lasted(motion: Motion, phase: PhaseKey, role: Role, start: IntArray, stop: IntArray) -> Law:
    """Return the timer behind stretches of frames ``[start, stop)`` that it ended.

    One that ran out after n frames is longer than the first n − 1 of them and no longer
    than all. Where no timer in seconds can have ended all of them, it counts frames. A long frame
    may have counted for less than it lasted: stretches without one tell it, where there are any.
    """
    dt = motion.dt
    long = np.concatenate(([0], np.cumsum(dt > _LONG * motion.clock.usual)))
    plain = long[stop] == long[start]
    if plain.any():
        start, stop = start[plain], stop[plain]
    until = np.concatenate(([0.0], np.cumsum(dt)))
    whole: FloatArray = until[stop] - until[start]
    low, high = float(np.max(whole - dt[stop - 1])), float(np.min(whole))
    counts = stop - start
    frames = median(counts.astype(np.float64))
    same = int(np.ptp(counts)) == 0
    clock, reason = "even", f"it lasts {frames:g} frames"
    if low > high + ARITHMETIC:
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
        role,
        (low, high),
        frames=frames,
        used=int(counts.sum()),
        clock=clock,
        reason=reason,
    )
