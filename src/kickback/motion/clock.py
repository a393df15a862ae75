"""The time base that motion is measured on, and whether its frames lasted equally long."""

import numpy as np

from kickback.motion.grids import Printed
from kickback.takes.numeric import median, typical
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["EVEN", "Clock", "clock_of", "uneven_share"]

EVEN = 1e-6
"""Share of the usual step by which frames may differ in length and still be called even.

What arithmetic leaves of equal steps is a thousandth of it or less; more than it shows in
the exact steps of a law, so that the frame and the second can be told apart."""

_MOSTLY = (0.05, 0.8)
"""Frames within a twentieth of the usual step, four in five of them, have a rhythm in which
a long frame stands out."""

_PACE = 0.005
"""Share by which game time may add up to another time than the wall clock's and be it."""

_WITHIN = 0.75
"""Grids by which rounded times may miss even steps: half from rounding, and some to spare."""


class Clock(Record, frozen=True, kw_only=True):
    """Times of a stretch of frames, arrays of shape (n,), s.

    ``t``: end of each frame on the wall clock, ``begin``: its start, ``step``: what lies
    between, ``dt``: the step that the game used. ``grid`` is what ``t`` is rounded to, or 0.
    ``even`` says that all frames lasted equally long: then nothing tells a constant that
    belongs to the frame from one that belongs to the second.
    """

    t: FloatArray
    begin: FloatArray
    step: FloatArray
    dt: FloatArray
    grid: float
    even: bool

    @property
    def usual(self) -> float:
        """Return the usual time step of the game, s."""
        return typical(self.dt[1:])

    @property
    def rhythmic(self) -> bool:
        """Whether most frames last as long as usual, so that a long one stands out."""
        near, share = _MOSTLY
        step = np.diff(self.t)
        return float(np.mean(np.abs(step / median(step) - 1) < near)) > share

    def pace(self) -> FloatArray | None:
        """Return game time over wall-clock time for each frame; None where they are equal.

        A clamped or scaled step shows as ``dt`` that adds up to another time than ``t``.
        """
        step = np.diff(self.t)
        if abs(float(np.sum(self.dt[1:]) / (self.t[-1] - self.t[0])) - 1.0) <= _PACE:
            return None
        factor = self.dt[1:] / step
        return np.concatenate((factor[:1], factor))


def clock_of(take: Take, t_printed: Printed) -> Clock:
    """Return the times of a take, whose ``t`` was printed as ``t_printed`` says.

    Times that are rounded (to whole milliseconds, say) but lie on even steps within that
    rounding are taken as those even steps; others keep their rounding as ``grid``.
    """
    t, dt = take.numbers("t"), take.numbers("dt")
    grid = t_printed.grid
    if grid:
        index = np.arange(len(t))
        slope, offset = np.polyfit(index, t, 1)
        even = offset + slope * index
        if float(np.max(np.abs(t - even))) <= _WITHIN * grid:
            t, grid = even, 0.0
        if "dt" in take.derived:
            dt = np.diff(t, prepend=t[0] - (slope if not grid else dt[0]))
    begin = np.concatenate(([t[0] - dt[0]], t[:-1]))
    even_steps = uneven_share(dt[1:]) <= EVEN
    return Clock(t=t, begin=begin, step=t - begin, dt=dt, grid=grid, even=even_steps)


def uneven_share(dt: FloatArray) -> float:
    """Return by which share of the usual one steps, shape (n,), differ at most."""
    return float(np.ptp(dt)) / typical(dt) if len(dt) else 0.0
