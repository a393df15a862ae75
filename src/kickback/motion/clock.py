"""The time base that motion is measured on, and whether its frames lasted equally long."""

import numpy as np

from kickback.motion.grids import Printed
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import ROOT_12, even_share, least_at, median, typical
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["EVEN", "Clock", "clock_of", "uneven_share"]

EVEN = 1e-6
"""Share of the usual step by which frames may differ in length and still be called even.

What arithmetic leaves of equal steps is a thousandth of it or less; more than it shows in
the exact steps of a law, so that the frame and the second can be told apart."""

_UNEVENLY = 0.002
"""Share of their unevenness by which moments between frames are less well located."""

_MOSTLY = (0.05, 0.8)
"""Frames within a twentieth of the usual step, four in five of them, have a rhythm in which
a long frame stands out."""

_PACE = 0.005
"""Share by which game time may add up to another time than the wall clock's and be it."""

_SUMMED = 16
"""Steps over whose sum a rounded step's error is stated: those of a short phase."""

_ODD_GRIDS = 2.2
"""Grids by which a step is off that is none of an even rate."""

_FEW_ODD = 0.1
"""Share of such steps up to which a take is even but for them."""

_HALVINGS = 40
"""Halvings after which a bound is found as well as numbers tell it."""

_DECIMALS = (1e-3, 1e-4, 1e-5, 1e-6)
"""What a step that never varies may have been rounded to, s."""

_COARSE = 0.2
"""Share of a usual step beyond which a lattice of steps is those steps themselves."""

_ODD_SPREADS, _ROUNDS = 4.0, 3
"""Usual deviations by which a step is off that is a long frame, and rounds that set these aside."""

_MOST_ALIKE = 400.0
"""Times less than the rounding's that a variance is not told: so far neighbours reach at most."""

_LAG = 8
"""Steps over which times go apart by the steps' own unevenness, far beyond what rounding makes."""

_NOT_ALIKE = 100.0
"""Times the rounding's variance that steps vary by themselves which tell nothing of each other."""

_WITHIN = 0.75
"""Grids by which rounded times may miss even steps: half from rounding, and some to spare."""


class Clock(Record, frozen=True, kw_only=True):
    """Times of a stretch of frames, arrays of shape (n,), s.

    ``t``: end of each frame on the wall clock, ``begin``: its start, ``step``: what lies
    between, ``dt``: the step that the game used. ``grid`` is what ``t`` is rounded to, or 0.
    ``even`` says that all frames lasted equally long: then nothing tells a constant that
    belongs to the frame from one that belongs to the second.

    ``step_grid`` is what ``dt`` is rounded to where its sums are the game's time, not ``t``;
    else 0. ``rate_error`` is the standard error of even steps, as a share of them. ``alike``: how
    far a time was told from its neighbours, as a share that each further one counts less.
    ``interrupted``: frames that something interrupts, whose steps no law made; None where nothing
    does.
    """

    t: FloatArray
    begin: FloatArray
    step: FloatArray
    dt: FloatArray
    grid: float
    even: bool
    step_grid: float = 0.0
    rate_error: float = 0.0
    alike: float = 0.0
    interrupted: BoolArray | None = None

    @property
    def time_error(self) -> float:
        """Return the standard error of the game's time in a frame, s.

        As it was rounded: what neighbours tell of it has an error that is theirs too, and which
        does not average out over them.
        """
        if self.step_grid:
            return self.step_grid / ROOT_12 * float(np.sqrt(_SUMMED))
        return self.grid / ROOT_12

    @property
    def step_error(self) -> float:
        """Return the standard error of a single time step of the game, s."""
        left = (1 - self.alike) / (1 + self.alike)  # of the variance of a time
        apart = float(np.sqrt(2 * left * (1 - self.alike)))
        return (self.step_grid or apart * self.grid) / ROOT_12

    def located(self, share: float) -> float:
        """Return the share of a frame that a law places a moment within: more of uneven ones."""
        if self.even:
            return share
        step = even_share(self.dt[1:])
        uneven = float(np.std(step) / max(float(np.mean(step)), np.finfo(np.float64).tiny))
        return share + _UNEVENLY * min(uneven, 1.0)

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

    def span_error(self, lasts: FloatArray) -> FloatArray:
        """Return the standard error of spans between two frames' ends that last so long, s."""
        spans: FloatArray = np.hypot(self.grid * 2**0.5 / ROOT_12, self.rate_error * lasts)
        return spans

    def pace(self) -> FloatArray | None:
        """Return game time over wall-clock time for each frame; None where they are equal.

        A clamped or scaled step shows as ``dt`` that adds up to another time than ``t``.
        """
        step = np.diff(self.t)
        if abs(float(np.sum(self.dt[1:]) / (self.t[-1] - self.t[0])) - 1.0) <= _PACE:
            return None
        factor = self.dt[1:] / step
        return np.concatenate((factor[:1], factor))


def clock_of(take: Take, t_printed: Printed, dt_printed: Printed) -> Clock:
    """Return the times of a take, whose ``t`` and ``dt`` were printed as is said.

    Times that are rounded (to whole milliseconds, say) but lie on even steps within that
    rounding are taken as those even steps; others keep their rounding as ``grid``. Steps that
    are the spacing of the times within the rounding of both are read off the times, unless
    they were printed far more finely: the times' rounding does not add up.
    """
    t, dt, derived = take.numbers("t"), take.numbers("dt"), "dt" in take.derived
    if not np.all(dt > 0):  # frozen: what moves by nothing does so in any time
        dt = np.where(dt > 0, dt, np.diff(t, prepend=t[0] - median(np.diff(t))))
    grid, step_grid = t_printed.grid, _step_grid(take, dt_printed)
    follows = derived or _follows(t, dt, grid, step_grid)
    even = _evened(t, grid, follows=follows) if grid else None
    error = 0.0
    if even is not None:
        (t, error), grid = even, 0.0
    read_off = follows and (derived or not 0 < step_grid * _SUMMED < grid)
    alike = 0.0
    if read_off:
        t, alike = _likeliest(t, grid, None if derived else (dt, step_grid))
        dt, step_grid = _read_off(t, dt, grid, printed=bool(grid or step_grid or error)), 0.0
    elif not np.ptp(dt):
        step_grid = 0.0
    begin = np.concatenate(([t[0] - dt[0]], t[:-1]))
    even_steps = uneven_share(dt[1:]) <= EVEN
    return Clock(
        t=t,
        begin=begin,
        step=t - begin,
        dt=dt,
        grid=grid,
        even=even_steps,
        step_grid=step_grid,
        rate_error=error,
        alike=alike,
    )


def _likeliest(
    t: FloatArray, grid: float, steps: tuple[FloatArray, float] | None
) -> tuple[FloatArray, float]:
    """Return rounded times as they most likely were, and how far neighbours told them.

    Steps that are about alike, with a variance ``s²`` beside what the rounding makes of them, tell
    of each time from those about it: the likeliest leave least of ``Σ (t − T)²/e² + Σ (ΔT − h)²/s²
    + Σ (ΔT − dt)²/d²``, with ``e`` and ``d`` the errors of a time and of a step that was printed,
    too (``steps``: these, and what they were rounded to). That is a share for each neighbour which
    falls by one factor from one to the next. Long frames tell nothing of others.
    """
    if not grid:
        return t, 0.0
    step, noise = np.diff(t), grid**2 / 12
    odd = np.zeros(len(step), dtype=bool)
    for _ in range(_ROUNDS):
        usual, spread = float(np.mean(step[~odd])), float(np.std(step[~odd]))
        odd = np.abs(step - usual) > max(_ODD_SPREADS * spread, _ODD_GRIDS * grid)
        if odd.mean() > _FEW_ODD:
            return t, 0.0
    base = t[0] + np.concatenate(([0.0], np.cumsum(np.where(odd, step, usual))))
    off = t - base
    own = _own_variance(off, spread**2, noise)
    if own > _NOT_ALIKE * noise:
        return t, 0.0
    tied = noise / own
    right = off
    if steps is not None and steps[1]:
        share = grid**2 / steps[1] ** 2
        tied += share
        beside = share * (steps[0][1:] - np.diff(base))
        right = off + np.diff(np.concatenate(([0.0], -beside, [0.0])))
    alike = (1 + 2 * tied - float(np.sqrt(1 + 4 * tied))) / (2 * tied)
    reach = min(int(np.log(ARITHMETIC) / np.log(alike)) + 1, len(t))
    weights = alike ** np.abs(np.arange(-reach, reach + 1)) * (1 - alike) / (1 + alike)
    found = np.convolve(np.pad(right, reach, mode="symmetric"), weights, mode="valid")
    return base + np.clip(found, off - grid / 2, off + grid / 2), alike


def _own_variance(off: FloatArray, variance: float, noise: float) -> float:
    """Return the variance of steps without what rounding makes of it, no less than chance hides.

    ``off``: how far times are off even ones, ``variance`` that of the steps. Over more steps it
    grows by their own alone, also where the rounding of one time is like that of the next.
    """
    least = variance * 2 * (2 / len(off)) ** 0.5
    far = off[_LAG:] - off[:-_LAG]
    grown = (float(np.var(far)) - variance) / (_LAG - 1) if len(far) else 0.0
    return float(max(variance - 2 * noise, grown, least, noise / _MOST_ALIKE))


def _read_off(t: FloatArray, dt: FloatArray, grid: float, *, printed: bool) -> FloatArray:
    """Return the spacing of times as their steps, where either was printed; else the steps."""
    if not printed:
        return dt
    first = float(dt[0]) if grid else float(t[-1] - t[0]) / (len(t) - 1)
    return np.diff(t, prepend=t[0] - first)


def _evened(t: FloatArray, grid: float, *, follows: bool) -> tuple[FloatArray, float] | None:
    """Return even times that were rounded, and the error of their step as a share; else None.

    ``follows``: whether steps go with the times, so that a long frame is no other's.
    """
    index = np.arange(len(t), dtype=np.float64)
    slope, offset = (float(one) for one in np.polyfit(index, t, 1))
    if float(np.max(np.abs(t - offset - slope * index))) > _WITHIN * grid:
        return _even_parts(t, grid) if follows else None
    slope, error = _even_step(t, grid, slope)
    return float(np.mean(t - slope * index)) + slope * index, error


def _even_parts(t: FloatArray, grid: float) -> tuple[FloatArray, float] | None:
    """Return times that are even but for some frames, and the error of their step as a share.

    A hitch or a pause parts a take into stretches of one step: a line each, of one slope. None
    where frames are uneven throughout.
    """
    step = np.diff(t)
    usual = median(step)
    odd = np.abs(step - usual) > _ODD_GRIDS * grid
    if np.mean(odd) > _FEW_ODD or not odd.any():
        return None
    part = np.concatenate(([0], np.cumsum(odd)))
    index = np.arange(len(t), dtype=np.float64)
    many = np.bincount(part)
    centred = index - (np.bincount(part, index) / many)[part]
    off = t - (np.bincount(part, t) / many)[part]
    slope = float(centred @ off) / float(centred @ centred)
    if float(np.max(np.abs(off - slope * centred))) > _WITHIN * grid:
        return None
    longest = int(many.max())
    return t - off + slope * centred, grid / ROOT_12 / longest / slope


def _even_step(t: FloatArray, grid: float, near: float) -> tuple[float, float]:
    """Return the one step behind times that were rounded, s, and its error as a share of it.

    Only some steps leave every time within half a grid: the width of ``t − h·n`` is convex in
    ``h``, and between the two ``h`` at which it is a grid lies the step, evenly likely.
    """
    index = np.arange(len(t))

    def width(h: float) -> float:
        return float(np.ptp(t - h * index))

    reach = 2 * grid / len(t)
    best = least_at(width, near - reach, near + reach)
    if width(best) > grid:  # not quite even: a line's slope through times with such errors
        return near, grid / ROOT_12 / len(t) / near
    ends = []
    for way in (-1, 1):
        inside, outside = 0.0, 2 * reach
        for _ in range(_HALVINGS):
            middle = (inside + outside) / 2
            inside, outside = (
                (middle, outside) if width(best + way * middle) <= grid else (inside, middle)
            )
        ends.append(best + way * inside)
    step = (ends[0] + ends[1]) / 2
    return step, (ends[1] - ends[0]) / ROOT_12 / step


def _step_grid(take: Take, dt_printed: Printed) -> float:
    """Return what the steps were rounded to: their lattice, where it is coarse beside them."""
    if "dt" in take.derived:
        return 0.0
    dt = take.numbers("dt")
    usual = typical(dt)
    if not np.ptp(dt):  # one number, as written
        return next((g for g in _DECIMALS if abs(usual / g - round(usual / g)) < EVEN), 0.0)
    return dt_printed.lattice if dt_printed.lattice < _COARSE * usual else dt_printed.grid


def _follows(t: FloatArray, dt: FloatArray, grid: float, step_grid: float) -> bool:
    """Whether steps are the spacing of the times, within what both were rounded to."""
    slack = grid + step_grid + EVEN * typical(dt)
    return bool(np.mean(np.abs(np.diff(t) - dt[1:]) <= slack) > _MOSTLY[1])


def uneven_share(dt: FloatArray) -> float:
    """Return by which share of the usual one steps, shape (n,), differ at most."""
    return float(np.ptp(dt)) / typical(dt) if len(dt) else 0.0
