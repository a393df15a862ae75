"""Fitting a rule to poor data: to whole stretches of positions or speeds, with their noise.

At an even rate every rule leaves the same kind of path, whatever the order of integration:
a line, a parabola, or an exponential toward a speed. So the path is fitted, not the steps,
and what the rounding does to it is noise of known size. Families, for the speed (and,
integrated, for the position): ``v = c``, ``c + a·t``, ``B·exp(−k·t)``, ``g + B·exp(−k·t)``.
Several stretches of one rule are fitted together: each has its own start (the position, and
for a line its speed, for an exponential its ``B``), the constants are shared.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.laws.linear import least_squares, unscaled
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["LAWLESS", "PathFit", "fit_path", "fit_paths"]

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
_OWN = 2.0
"""How many times its rounding a noise is that is one of its own."""

_REPEATS = 3.0**0.5
"""``√12/√4``: rounding at a steady speed counts as four independent errors, not as n."""

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
    frames: int = 0
    reason: str = ""


class _Try(Record, frozen=True, kw_only=True):
    """One family's fit: parameters, their covariance without noise, and what it leaves."""

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


def fit_path(
    t: FloatArray, y: FloatArray, sigma: float, *, position: bool, rounding: float = 0.0
) -> PathFit:
    """Return the simplest family that explains one stretch; see ``fit_paths``."""
    return fit_paths([(t, y)], sigma, position=position, rounding=rounding)


def fit_paths(
    paths: Sequence[tuple[FloatArray, FloatArray]],
    sigma: float,
    *,
    position: bool,
    rounding: float = 0.0,
) -> PathFit:
    """Return the simplest family that explains stretches within their noise.

    ``paths``: times, s, and positions or speeds of each, shape (n,); ``sigma``: the standard
    deviation of their noise, 0 where it is not known: then it is told from third
    differences, ``σ² = mean(Δ³y²)/20``; ``rounding``: the part of it that is rounding, below
    which no error is believed. A family is no answer where another one of the
    same size explains as much, or where the noise hides a bend that would matter.
    """
    if sum(len(y) for _, y in paths) < FEWEST:
        return PathFit(law="none", reason=f"fewer than {FEWEST} frames, too few with such noise")
    third = np.concatenate([np.diff(y, 3) for _, y in paths])
    noise = sigma or float(np.sqrt(np.mean(third**2) / 20))
    noise = max(noise, 1e-12 * max(float(np.max(np.abs(y))) for _, y in paths))
    found = _Families(paths, noise, position=position, rounding=rounding)
    return found.level() or found.line_or_decay() or found.toward() or found.nothing()


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


class _Families:
    """The families' fits to stretches, and the choice between them, the simplest first."""

    def __init__(
        self,
        paths: Sequence[tuple[FloatArray, FloatArray]],
        noise: float,
        *,
        position: bool,
        rounding: float,
    ) -> None:
        data = _Stretches(paths)
        self._rounding, self._span, self._stretches = rounding, data.span, len(paths)
        self._n, self._noise, self._position = len(data.y), noise, position
        self._steadiest = _REPEATS * rounding / (data.span if position else 1.0)
        self._grain = 1e-9 * float(np.max(np.abs(data.y)))
        own = int(position)
        self._line = _linear(data, own, own + 1)
        self._bent = _linear(data, own + 1, own + 2)
        self._curved = _linear(data, own + 1, own + 3)
        self._decays = _decay(data, position=position, toward=False)
        self._goes = _decay(data, position=position, toward=True)
        self._paths = paths

    def _fine(self, one: _Try) -> bool:
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
        # at a steady speed rounding repeats itself, and does not average out over the frames
        floor = {"g": self._steadiest, "c": self._steadiest}
        return PathFit(
            law=law,
            values={name: every[at] * scale for name, at, scale in constants},
            stderr={
                name: max(
                    float(np.sqrt(max(0.0, one.spread[at, at]))) * size * scale,
                    floor.get(name, 0.0),
                )
                for name, at, scale in constants
            },
            misfit=float(np.sqrt(one.rss / self._n)),
            frames=self._n,
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
        return self._decaying() if decays else None

    def _decaying(self) -> PathFit | None:
        """Return a friction, where the noise shows its rate and that it goes toward rest."""
        if self._rate_error(self._decays) > _VAGUE * self._decays.k:
            return PathFit(law="none", reason="the noise hides how quickly it decays")
        goal, error = self._goal()
        if error > _CURVES:
            return PathFit(law="none", reason="the noise hides toward which speed it goes")
        if abs(goal) > _SURE * error:
            return None
        return self._told("friction", self._decays, ("k", len(self._decays.found), 1 / self._span))

    def toward(self) -> PathFit | None:
        """Return a smoothing toward a speed, where one explains the stretch."""
        if not self._fine(self._goes):
            return None
        if self._rate_error(self._goes) > _VAGUE * self._goes.k:
            return PathFit(law="none", reason="the noise hides how quickly it goes there")
        ramps = [_ramp_rss(_Stretches([one]), position=self._position) for one in self._paths]
        if sum(ramps) - self._goes.rss <= (_SURE * self._noise) ** 2:
            reason = "a smoothing and a push up to a limit explain it equally well"
            return PathFit(law="none", reason=reason)
        at, scale = len(self._goes.found) - 1, 1 / self._span
        goal = ("g", at, scale if self._position else 1.0)
        return self._told("smoothing", self._goes, ("k", len(self._goes.found), scale), goal)

    def _goal(self) -> tuple[float, float]:
        """Return the speed that a decay goes toward and its error, as shares of its first speed."""
        goes, n = self._goes, len(self._goes.found) - 1
        first = float(np.max(np.abs(goes.found[n - self._stretches : n])))
        first = first * goes.k if self._position else first + abs(float(goes.found[n]))
        error = float(np.sqrt(max(0.0, goes.spread[n, n]))) * self._noise
        return (float(goes.found[n]) / first, error / first) if first else (0.0, np.inf)

    def _rate_error(self, one: _Try) -> float:
        """Return the error of the rate times the stretch's length."""
        return float(np.sqrt(max(0.0, one.spread[-1, -1]))) * self._noise

    def _curve(self) -> tuple[float, float]:
        """Return the acceleration's own change over the stretch and its error, as shares."""
        steep, n = abs(float(self._bent.found[-1])), 2 + self._position
        if not steep:
            return 0.0, float("inf")
        error = float(np.sqrt(self._curved.spread[-1, -1])) * self._noise
        return n * abs(float(self._curved.found[-1])) / steep, n * error / steep

    def nothing(self) -> PathFit:
        """Return that no family explains the stretch."""
        return PathFit(law="none", reason=LAWLESS)


def _linear(data: _Stretches, own: int, terms: int) -> _Try:
    """Fit a polynomial of so many terms in ``s``, of which each stretch has its ``own`` first."""
    powers = [data.s**power for power in range(terms)]
    x = data.design(powers[:own], powers[own:])
    found = least_squares(x, data.y)
    left = data.y - x @ found
    return _Try(found=found, spread=unscaled(x), left=left)


def _decay(data: _Stretches, *, position: bool, toward: bool) -> _Try:
    """Fit ``B·exp(−k·s)`` with a constant for positions, and a speed that it goes toward.

    The rate is looked for on a grid, then by Gauss and Newton with the linear parameters.
    Parameters: the constants, each stretch's ``B``, and last the speed.
    """
    one, s, y = np.ones(len(data.s)), data.s, data.y
    before = [one] if position else []
    goal = ([s] if position else [one]) if toward else []

    def design(k: float) -> FloatArray:
        return data.design([*before, np.exp(-k * (s + 0.5))], goal)

    def bent(k: float, found: FloatArray) -> FloatArray:
        first = (data.which.max() + 1) * len(before)
        size = found[first + data.which]
        slope = -size * (s + 0.5) * np.exp(-k * (s + 0.5))
        return np.concatenate((design(k), slope[:, None]), axis=1)

    best_k, best = 0.0, np.inf
    for trial in _GRID:
        x = design(float(trial))
        rss = float(np.sum((y - x @ least_squares(x, y)) ** 2))
        if rss < best:
            best_k, best = float(trial), rss
    k = best_k
    found = least_squares(design(k), y)
    for _ in range(_ROUNDS):
        change = least_squares(bent(k, found), y - design(k) @ found)
        found, step = found + change[:-1], float(change[-1])
        k = min(max(k + step, k / 3), 3 * k, _STEEPEST)
        if abs(step) <= 1e-13 * k or k < _FLATTEST:
            break
    x = design(k)
    found = least_squares(x, y)
    left = y - x @ found
    return _Try(found=found, spread=unscaled(bent(k, found)), left=left, k=k)


def _ramp_rss(data: _Stretches, *, position: bool) -> float:
    """Return what a constant acceleration up to a limit leaves of one stretch, at its best.

    The speed is ``v0 + a·min(s, τ)``; for each τ the rest is linear.
    """
    s, best = data.s + 0.5, np.inf
    for tau in np.unique(s)[2:]:
        speed = np.minimum(s, tau)
        path = np.where(s < tau, s * s / 2, tau * (s - tau / 2))
        x = np.stack([np.ones(len(s)), *((s, path) if position else (speed,))], axis=1)
        best = min(best, float(np.sum((data.y - x @ least_squares(x, data.y)) ** 2)))
    return best


_GRID = np.geomspace(0.05, 60, 24)
