"""Fitting a rule to poor data: to a whole stretch of positions or speeds, with their noise.

At an even rate every rule leaves the same kind of path, whatever the order of integration:
a line, a parabola, or an exponential toward a speed. So the path is fitted, not the steps,
and what the rounding does to it is noise of known size. Families, for the speed (and,
integrated, for the position): ``v = c``, ``c + a·t``, ``B·exp(−k·t)``, ``g + B·exp(−k·t)``.
"""

from collections.abc import Mapping

import numpy as np

from kickback.laws.linear import least_squares, unscaled
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["LAWLESS", "PathFit", "fit_path"]

LAWLESS = "no rule of the known kinds explains these frames"
"""Why there is no law where the noise hides none."""

FEWEST = 8
"""Frames below which poor data tell no law."""

_ROUNDS = 40
_BENDS = 0.04
_CURVES = 0.25
_SURE = 3.0
_VAGUE = 0.3
_ENOUGH = 10
_FLATTEST = 1e-3
_STEEPEST = 80.0


class PathFit(Record, frozen=True, kw_only=True):
    """A path's outcome: ``law`` with values and standard errors by name, or ``none``.

    ``a``: acceleration, ``k``: rate, ``g``: the speed toward which it goes, ``c``: a
    constant speed. ``misfit``: root mean square of what is left, in the unit of the data.
    """

    law: str
    values: Mapping[str, float] = {}
    stderr: Mapping[str, float] = {}
    misfit: float = 0.0
    reason: str = ""


class _Try(Record, frozen=True, kw_only=True):
    """One family's fit: parameters, their covariance without noise, and the sum of squares."""

    found: FloatArray
    spread: FloatArray
    rss: float
    k: float = 0.0


def fit_path(
    t: FloatArray, y: FloatArray, sigma: float, *, position: bool, rounding: float = 0.0
) -> PathFit:
    """Return the simplest family that explains a stretch within its noise.

    ``t``: times, s, ``y``: positions or speeds, shape (n,); ``sigma``: the standard
    deviation of their noise, 0 where it is not known: then it is told from third
    differences, ``σ² = mean(Δ³y²)/20``; ``rounding``: the part of it that is rounding, below
    which no error is believed. A family is no answer where another one of the
    same size explains as much, or where the noise hides a bend that would matter.
    """
    if len(y) < FEWEST:
        return PathFit(law="none", reason=f"fewer than {FEWEST} frames, too few with such noise")
    noise = sigma or float(np.sqrt(np.mean(np.diff(y, 3) ** 2) / 20))
    noise = max(noise, 1e-12 * float(np.max(np.abs(y))))
    found = _Families(t, y, noise, position=position, rounding=rounding)
    return found.level() or found.line_or_decay() or found.toward() or found.nothing()


class _Families:
    """The families' fits to one stretch, and the choice between them, the simplest first."""

    def __init__(
        self, t: FloatArray, y: FloatArray, noise: float, *, position: bool, rounding: float
    ) -> None:
        self._rounding = rounding
        self._span = float(t[-1] - t[0])
        s = (t - t[0]) / self._span - 0.5
        self._n, self._noise, self._position = len(y), noise, position
        self._line, self._bent = _linear(s, y, 1 + position), _linear(s, y, 2 + position)
        self._curved = _linear(s, y, 3 + position)
        self._decays = _decay(s, y, position=position, toward=False)
        self._goes = _decay(s, y, position=position, toward=True)

    def _fine(self, one: _Try) -> bool:
        """Whether what is left is no more than the noise: chi squared within three sigmas.

        An exponential that is over at once, or hardly bends, is none.
        """
        if one.k and not _FLATTEST < one.k < _STEEPEST:
            return False
        free = max(1, self._n - len(one.found) - (one.k != 0))
        return one.rss / self._noise**2 <= free + _SURE * float(np.sqrt(2 * free))

    def _told(self, law: str, one: _Try, *constants: tuple[str, int, float]) -> PathFit:
        """Return a fit; a constant is its name, its place in the parameters, and its scale.

        Errors come from what is left; from the noise where few frames leave too little.
        """
        free = max(1, self._n - len(one.found) - (one.k != 0))
        size = max(float(np.sqrt(one.rss / free)), self._rounding)
        size = size if free >= _ENOUGH else max(size, self._noise)
        every = [*one.found.tolist(), one.k]
        return PathFit(
            law=law,
            values={name: every[at] * scale for name, at, scale in constants},
            stderr={
                name: float(np.sqrt(max(0.0, one.spread[at, at]))) * size * scale
                for name, at, scale in constants
            },
            misfit=float(np.sqrt(one.rss / self._n)),
        )

    def level(self) -> PathFit | None:
        """Return a constant speed, where one explains the stretch."""
        if not self._fine(self._line):
            return None
        # the change of speed over the stretch that could hide in the noise
        bend = float(np.sqrt(self._bent.spread[-1, -1])) * self._noise * (1 + self._position)
        last = len(self._line.found) - 1
        if bend > _BENDS * abs(float(self._line.found[last])):
            return PathFit(law="none", reason="the noise hides whether the speed changes")
        scale = 1 / self._span if self._position else 1.0
        return self._told("constant-speed", self._line, ("c", last, scale))

    def line_or_decay(self) -> PathFit | None:
        """Return a constant acceleration or a friction, where one explains it and shows."""
        bent, decays = self._fine(self._bent), self._fine(self._decays)
        apart = abs(self._bent.rss - self._decays.rss) / self._noise**2
        if bent and decays and apart <= _SURE**2:
            return PathFit(law="none", reason="a line and a decay explain it equally well")
        if bent and (not decays or self._bent.rss <= self._decays.rss):
            change, error = self._curve()
            if error > _CURVES or change > 2 * error:
                reason = "the noise hides whether the change itself changes"
                return PathFit(law="none", reason=reason)
            scale = 2 / self._span**2 if self._position else 1 / self._span
            last = len(self._bent.found) - 1
            return self._told("constant-acceleration", self._bent, ("a", last, scale))
        if decays and self._rate_error(self._decays) > _VAGUE * self._decays.k:
            return PathFit(law="none", reason="the noise hides how quickly it decays")
        if decays:
            rate = ("k", len(self._decays.found), 1 / self._span)
            return self._told("friction", self._decays, rate)
        return None

    def toward(self) -> PathFit | None:
        """Return a smoothing toward a speed, where one explains the stretch."""
        if not self._fine(self._goes):
            return None
        if self._rate_error(self._goes) > _VAGUE * self._goes.k:
            return PathFit(law="none", reason="the noise hides how quickly it goes there")
        at = 1 if self._position else 0
        scale = 1 / self._span
        goal = ("g", at, scale if self._position else 1.0)
        return self._told("smoothing", self._goes, ("k", len(self._goes.found), scale), goal)

    def _rate_error(self, one: _Try) -> float:
        """Return the error of the rate times the stretch's length."""
        return float(np.sqrt(max(0.0, one.spread[-1, -1]))) * self._noise

    def _curve(self) -> tuple[float, float]:
        """Return the acceleration's own change over the stretch and its error, as shares."""
        steep, n = abs(float(self._bent.found[-1])), len(self._curved.found) - 1
        if not steep:
            return 0.0, float("inf")
        error = float(np.sqrt(self._curved.spread[-1, -1])) * self._noise
        return n * abs(float(self._curved.found[-1])) / steep, n * error / steep

    def nothing(self) -> PathFit:
        """Return that no family explains the stretch."""
        return PathFit(law="none", reason=LAWLESS)


def _linear(s: FloatArray, y: FloatArray, terms: int) -> _Try:
    """Fit a polynomial of so many terms in ``s``, which runs from −½ to ½."""
    x = np.stack([s**power for power in range(terms)], axis=1)
    found = least_squares(x, y)
    left = y - x @ found
    return _Try(found=found, spread=unscaled(x), rss=float(left @ left))


def _decay(s: FloatArray, y: FloatArray, *, position: bool, toward: bool) -> _Try:
    """Fit ``B·exp(−k·s)`` with a constant for positions, and a speed that it goes toward.

    The rate is looked for on a grid, then by Gauss and Newton with the linear parameters.
    """
    columns = []
    if position or toward:
        columns.append(np.ones(len(s)))
    if position and toward:
        columns.append(s)
    best_k, best = 0.0, np.inf
    for k in _GRID:
        x = np.stack([*columns, np.exp(-k * (s + 0.5))], axis=1)
        found = least_squares(x, y)
        rss = float(np.sum((y - x @ found) ** 2))
        if rss < best:
            best_k, best = float(k), rss
    k = best_k
    x = np.stack([*columns, np.exp(-k * (s + 0.5))], axis=1)
    found = least_squares(x, y)
    jacobian = x
    for _ in range(_ROUNDS):
        e = np.exp(-k * (s + 0.5))
        x = np.stack([*columns, e], axis=1)
        jacobian = np.concatenate((x, (-found[-1] * (s + 0.5) * e)[:, None]), axis=1)
        change = least_squares(jacobian, y - x @ found)
        found, step = found + change[:-1], float(change[-1])
        k = min(max(k + step, k / 3), 3 * k, _STEEPEST)
        if abs(step) <= 1e-13 * k or k < _FLATTEST:
            break
    e = np.exp(-k * (s + 0.5))
    x = np.stack([*columns, e], axis=1)
    found = least_squares(x, y)
    left = y - x @ found
    jacobian = np.concatenate((x, (-found[-1] * (s + 0.5) * e)[:, None]), axis=1)
    spread = unscaled(jacobian)
    return _Try(found=found, spread=spread, rss=float(left @ left), k=k)


_GRID = np.geomspace(0.05, 60, 24)
