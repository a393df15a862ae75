"""The time base that motion is measured on: whole milliseconds undone where that is possible."""

import numpy as np

from kickback.motion.rounding import quantum
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["Timing", "timing_of"]


class Timing(Record, frozen=True, kw_only=True):
    """Times of a take, arrays of shape (n,), s.

    ``t``: end of each frame on the wall clock, ``begin``: its start, ``step``: what lies
    between, ``dt``: the step that the game used. ``grid`` is what ``t`` is rounded to, or 0.
    """

    t: FloatArray
    begin: FloatArray
    step: FloatArray
    dt: FloatArray
    grid: float


def timing_of(take: Take) -> Timing:
    """Return the times of a take.

    Times that are rounded (to whole milliseconds, say) but lie on even steps within that
    rounding are taken as those even steps; others keep their rounding as ``grid``.
    """
    t, dt = take.numbers("t"), take.numbers("dt")
    grid = quantum(t)
    if grid:
        index = np.arange(len(t))
        slope, offset = np.polyfit(index, t, 1)
        even = offset + slope * index
        if float(np.max(np.abs(t - even))) <= 0.75 * grid:
            t, grid = even, 0.0
        if "dt" in take.derived:
            dt = np.diff(t, prepend=t[0] - (slope if not grid else dt[0]))
    begin = np.concatenate(([t[0] - dt[0]], t[:-1]))
    return Timing(t=t, begin=begin, step=t - begin, dt=dt, grid=grid)
