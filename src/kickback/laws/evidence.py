"""What poor data of a stretch tell: fits of lines and decays to its path, and their noise.

At an even rate every rule leaves the same kind of path, whatever the order of integration:
a line, a parabola, or an exponential toward a speed. So the path is fitted, not the steps,
and what the rounding does to it is noise of known size. Shapes, for the speed (and,
integrated, for the position): ``v = c``, ``c + a·t``, ``B·exp(−k·t)``, ``g + B·exp(−k·t)``.
Several stretches of one rule are fitted together: each has its own start (the position, and
for a line its speed, for an exponential its ``B``), the constants are shared.
"""

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from kickback.laws.least_squares import curved, linear, solved
from kickback.laws.path_fit import PathFit
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Path", "PathEvidence", "Try"]

Path = tuple[FloatArray, FloatArray]
"""Times, s, and positions or speeds of a stretch, shape (n,) each."""

_SURE = 3.0
"""Standard errors beyond which noise explains nothing."""

_ENOUGH = 10
"""Degrees of freedom from which what is left tells the noise better than its known size."""

_OWN = 2.0
"""How many times its rounding a noise is that is one of its own."""

_REPEATS = 3.0**0.5
"""``√12/√4``: rounding at a steady speed counts as four independent errors, not as n."""

_GRAIN = 1e-9
"""Share of the largest value below which what is left is that of the arithmetic."""

_FLATTEST, _STEEPEST = 1e-3, 80.0
"""Rates, over the length of a stretch, between which a decay is no line and not over at once."""

_GRID = np.geomspace(0.05, 60, 24)
"""Rates that a decay's fit begins from: from hardly bent to over in a sixtieth of a stretch."""


class Try(Record, frozen=True, kw_only=True):
    """One shape's fit: parameters, their covariance without noise, and what it leaves."""

    found: FloatArray
    spread: FloatArray
    left: FloatArray
    k: float = 0.0

    @property
    def rss(self) -> float:
        """Return the sum of squares of what is left."""
        return float(self.left @ self.left)

    @property
    def echo(self) -> float:
        """Return how alike neighbouring residuals are: their autocorrelation at one frame."""
        rss = self.rss
        return float(self.left[1:] @ self.left[:-1]) / rss if rss else 0.0


class _Stretches:
    """Stretches laid end to end: ``s`` runs from −½ in each, ½ where the longest ends."""

    def __init__(self, paths: Sequence[tuple[FloatArray, FloatArray]]) -> None:
        self.span = max(float(t[-1] - t[0]) for t, _ in paths)
        self.s = np.concatenate([(t - t[0]) / self.span - 0.5 for t, _ in paths])
        self.y = np.concatenate([y for _, y in paths])
        self.which = np.repeat(np.arange(len(paths)), [len(y) for _, y in paths])
        self._own = (self.which[:, None] == np.arange(len(paths))).astype(np.float64)

    def design(self, own: Sequence[FloatArray], shared: Sequence[FloatArray]) -> FloatArray:
        """Return a column for each stretch of each of ``own``, then the shared ones."""
        columns = [self._own * one[:, None] for one in own]
        return np.concatenate([*columns, *(one[:, None] for one in shared)], axis=1)


class PathEvidence:
    """Fits of every shape to stretches, each made when it is first asked for.

    ``span``: the length of the longest stretch, s; ``position``: the data are positions, not
    speeds. ``noise`` is the standard deviation of the data, of which ``rounding`` is a part.
    """

    def __init__(
        self, paths: Sequence[Path], noise: float, *, position: bool, rounding: float
    ) -> None:
        self._paths, self._data = paths, _Stretches(paths)
        self._noise, self._rounding, self._n = noise, rounding, len(self._data.y)
        self._own = int(position)
        self._grain = _GRAIN * float(np.max(np.abs(self._data.y)))
        self.position, self.span = position, self._data.span

    @cached_property
    def line(self) -> Try:
        """Return the fit of a constant speed."""
        return _linear(self._data, self._own, self._own + 1)

    @cached_property
    def bent(self) -> Try:
        """Return the fit of a constant acceleration."""
        return _linear(self._data, self._own + 1, self._own + 2)

    @cached_property
    def decays(self) -> Try:
        """Return the fit of a decay toward rest."""
        return _decay(self._data, position=self.position, toward=False)

    @cached_property
    def goes(self) -> Try:
        """Return the fit of a decay toward a speed, the last of its parameters."""
        return _decay(self._data, position=self.position, toward=True)

    @cached_property
    def _curved(self) -> Try:
        return _linear(self._data, self._own + 1, self._own + 3)

    def fine(self, one: Try) -> bool:
        """Whether what is left is no more than the noise: chi squared within three sigmas.

        An exponential that is over at once, or hardly bends, is none; nor is one whose
        residuals wander (their autocorrelation is 0 ± 1/√n for noise that does not).
        """
        if one.k and not _FLATTEST < one.k < _STEEPEST:
            return False
        material = one.rss > self._n * self._grain**2
        own = self._noise > _OWN * self._rounding and material
        if own and one.echo > _SURE / self._n**0.5:
            return False
        free = self._free(one)
        return one.rss <= self._noise**2 * (free + _SURE * float(np.sqrt(2 * free)))

    def alike(self, one: Try, other: Try) -> bool:
        """Whether two shapes explain the data so equally well that noise may decide."""
        return abs(one.rss - other.rss) <= (_SURE * self._noise) ** 2

    def told(self, law: str, one: Try, *constants: tuple[str, int, float]) -> PathFit:
        """Return a fit; a constant is its name, its place in the parameters, and its scale.

        Errors come from what is left; from the noise where few frames leave too little.
        """
        free = self._free(one)
        size = max(float(np.sqrt(one.rss / free)), self._rounding)
        size = size if free >= _ENOUGH else max(size, self._noise)
        every = [*one.found.tolist(), one.k]
        # at a steady speed rounding repeats itself, and does not average out over the frames
        steadiest = _REPEATS * self._rounding / (self.span if self.position else 1.0)
        floor = {"goal": steadiest, "speed": steadiest}
        return PathFit(
            law=law,
            values={name: every[at] * scale for name, at, scale in constants},
            stderr={
                name: max(_root(one.spread[at, at]) * size * scale, floor.get(name, 0.0))
                for name, at, scale in constants
            },
            misfit=float(np.sqrt(one.rss / self._n)),
            frames=self._n,
        )

    def hidden_bend(self) -> float:
        """Return the change of speed over the stretch that could hide in the noise."""
        return _root(self.bent.spread[-1, -1]) * self._noise * (1 + self.position)

    def rate_error(self, one: Try) -> float:
        """Return the error of a decay's rate times the stretch's length."""
        return _root(one.spread[-1, -1]) * self._noise

    def goal(self) -> tuple[float, float]:
        """Return the speed that a decay goes toward and its error, as shares of its first speed."""
        goes, n = self.goes, len(self.goes.found) - 1
        first = float(np.max(np.abs(goes.found[n - len(self._paths) : n])))
        first = first * goes.k if self.position else first + abs(float(goes.found[n]))
        error = _root(goes.spread[n, n]) * self._noise
        return (float(goes.found[n]) / first, error / first) if first else (0.0, np.inf)

    def curve(self) -> tuple[float, float]:
        """Return the acceleration's own change over the stretch and its error, as shares."""
        steep, n = abs(float(self.bent.found[-1])), 2 + self.position
        if not steep:
            return 0.0, float("inf")
        error = _root(self._curved.spread[-1, -1]) * self._noise
        return n * abs(float(self._curved.found[-1])) / steep, n * error / steep

    def ramp_explains(self) -> bool:
        """Whether a push up to a limit explains the data as well as a way toward a speed."""
        ramps = [_ramp_rss(_Stretches([one]), position=self.position) for one in self._paths]
        return sum(ramps) - self.goes.rss <= (_SURE * self._noise) ** 2

    def _free(self, one: Try) -> int:
        """Return the degrees of freedom that a fit leaves."""
        return max(1, self._n - len(one.found) - (one.k != 0))


def _root(variance: float) -> float:
    return float(np.sqrt(max(0.0, variance)))


def _linear(data: _Stretches, own: int, terms: int) -> Try:
    """Fit a polynomial of so many terms in ``s``, of which each stretch has its ``own`` first."""
    powers = [data.s**power for power in range(terms)]
    done = solved(data.design(powers[:own], powers[own:]), data.y)
    return Try(found=done.found, spread=done.spread, left=done.left)


def _decay(data: _Stretches, *, position: bool, toward: bool) -> Try:
    """Fit ``B·exp(−k·s)`` with a constant for positions, and a speed that it goes toward.

    The rate is looked for on a grid, and from the best one on with the linear parameters.
    Parameters: the constants, each stretch's ``B``, and last the speed.
    """
    one, s, y = np.ones(len(data.s)), data.s + 0.5, data.y
    before = [one] if position else []
    goal = ([data.s] if position else [one]) if toward else []
    stretches = int(data.which.max()) + 1
    first = stretches * len(before)

    def design(k: float) -> FloatArray:
        return data.design([*before, np.exp(-k * s)], goal)

    def slopes(p: FloatArray) -> FloatArray:
        bend = -p[first + data.which] * s * np.exp(-p[-1] * s)
        return np.concatenate((design(float(p[-1])), bend[:, None]), axis=1)

    def rss(k: float) -> float:
        x = design(k)
        return float(np.sum((y - x @ linear(x, y)) ** 2))

    k = min((float(trial) for trial in _GRID), key=rss)
    start = np.append(linear(design(k), y), k)
    done = curved(lambda p: design(float(p[-1])) @ p[:-1], slopes, start, y)
    if not done.settled:
        return Try(found=start[:-1], spread=done.spread, left=y - design(k) @ start[:-1], k=np.inf)
    return Try(found=done.found[:-1], spread=done.spread, left=done.left, k=float(done.found[-1]))


def _ramp_rss(data: _Stretches, *, position: bool) -> float:
    """Return what a constant acceleration up to a limit leaves of one stretch, at its best.

    The speed is ``v0 + a·min(s, τ)``; for each τ the rest is linear.
    """
    s, best = data.s + 0.5, np.inf
    for tau in np.unique(s)[2:]:
        speed = np.minimum(s, tau)
        path = np.where(s < tau, s * s / 2, tau * (s - tau / 2))
        x = np.stack([np.ones(len(s)), *((s, path) if position else (speed,))], axis=1)
        best = min(best, float(np.sum((data.y - x @ linear(x, data.y)) ** 2)))
    return best
