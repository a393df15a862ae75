"""Fitting a rule to speeds, or times, that were printed to a few digits.

A rule is a recurrence ``v1 = f·v0 + c·g``. Along a stretch of steps it makes a path: the
speed at its start times ``A``, the product of the shares kept, plus ``c·G``, what was added
and kept since. So for a rate ``k`` the path is linear in each stretch's first speed and in
``c``, which the stretches share. Each printed speed has an error of its own, that of its
rounding and what the rounding of its time makes of it: weighted least squares, with the first
speeds eliminated and ``k`` looked for by Gauss and Newton.
"""

from collections.abc import Sequence

import numpy as np

from kickback.laws.recurrence import Recurrence, steps_as
from kickback.laws.steps import Steps
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["PrintedFit", "PrintedPaths"]

_STARTS = np.geomspace(0.05, 60, 20)
"""Rates, over the longest stretch, that a search begins from."""

_ROUNDS = 25
"""Steps after which a search for a rate that has not settled is given up."""

_SETTLED = 1e-4
"""Chi squared that another step would gain, below which a rate is found."""

_STUCK = 1e-9
"""Share of a rate by which a step in the right direction must move it."""

_NUDGE = 1e-5
"""Share by which a parameter is moved to see what it does."""

_LEAST = 1e-10
"""Share of the highest speed that is an error at least: what arithmetic leaves."""

_SMALLEST = 1e-200
"""A share kept below which nothing of the first speed is left."""

_LONGEST = 2_000
"""Steps of a stretch that are fitted: they tell all of it."""


class PrintedFit(Record, frozen=True, kw_only=True):
    """A recurrence's fit to printed speeds.

    ``c`` and ``rate`` with the covariance of the two, ``spread``, shape (2, 2) (zeros where it
    has none). ``chi2``: the weighted sum of squares left of ``free`` degrees of freedom;
    ``score``: minus twice the logarithm of the likelihood, but for a constant. ``misfit``:
    root mean square of what is left, length/s; ``frames``: steps used. ``first``: the largest
    first speed, and ``span`` the longest stretch, s.
    """

    rule: Recurrence
    c: float
    rate: float
    spread: FloatArray
    chi2: float
    free: int
    score: float
    misfit: float
    frames: int
    first: float
    span: float

    @property
    def fine(self) -> bool:
        """Whether what is left is no more than the printing explains: within three sigmas."""
        return self.chi2 <= self.free + 3 * float(np.sqrt(2 * self.free))

    @property
    def errors(self) -> tuple[float, float]:
        """Return the standard errors of ``c`` and the rate, no less than the misfit says."""
        size = max(1.0, self.chi2 / self.free) ** 0.5
        c, rate = np.sqrt(np.maximum(np.diag(self.spread), 0.0)) * size
        return float(c), float(rate)


class _Path(Record, frozen=True, kw_only=True):
    """A model at one rate, arrays of shape (stretches, rows)."""

    kept: FloatArray
    added: FloatArray | None
    start: FloatArray
    c: float
    left: FloatArray
    weight: FloatArray

    @property
    def chi2(self) -> float:
        return float(np.sum(self.weight * self.left**2))


class PrintedPaths:
    """Stretches of steps that one rule should explain, laid side by side.

    ``grid``: what speeds were rounded to, or 0; ``time_error``: the standard error of a
    frame's time, s. Every array has a row a stretch, padded with steps that take no time.
    """

    def __init__(self, parts: Sequence[Steps], grid: float, time_error: float) -> None:
        parts = [part.between(0, _LONGEST) for part in parts]
        rows = max(len(part) for part in parts) + 1
        self._v, self._dt, slope = (np.zeros((len(parts), rows)) for _ in range(3))
        self._on = np.zeros((len(parts), rows), dtype=bool)
        for k, part in enumerate(parts):
            many = len(part)
            self._v[k, : many + 1] = np.append(part.v0[:1], part.v1)
            self._dt[k, 1 : many + 1] = part.dt
            self._on[k, : many + 1] = True
            time = np.append(0.0, np.cumsum(part.dt))
            slope[k, : many + 1] = np.gradient(self._v[k, : many + 1], time)
        self.usual = parts[0].usual
        self.span = float(np.max(self._dt.sum(axis=1)))
        self.even = bool(np.ptp(np.concatenate([part.dt for part in parts])) <= 1e-6 * self.usual)
        self.frames = sum(len(part) for part in parts)
        floor = _LEAST * float(np.max(np.abs(self._v)))
        self._top, self._time_error = float(np.max(np.abs(self._v))), time_error
        own = grid**2 / 12 + floor**2
        self._own = np.full_like(slope, own)
        self._timed = own + (slope * time_error) ** 2
        turns = np.concatenate([np.diff(part.dt) for part in parts]) / self.usual
        uneven = float(np.mean(turns * turns)) if turns.size else 0.0
        self._wander = 4 * (slope * time_error) ** 2 * (1 + np.arange(rows) * uneven)

    def fit(
        self, rule: Recurrence, near: float | None = None, rounds: int = _ROUNDS
    ) -> PrintedFit | None:
        """Fit a recurrence, its rate looked for from ``near`` on; None where it cannot be.

        After so many ``rounds`` of the search what is found is taken as it is.
        """
        if rule.kept is None:
            done = self._told(rule, 0.0)
            return None if done is None else self._fit(rule, 0.0, done)
        rate = near if near is not None else self._start(rule)
        if rate is None:
            return None
        at = self._told(rule, rate)
        for _ in range(rounds):
            if at is None:
                return None
            step, gain = self._step(rule, rate, at)
            if gain < _SETTLED:
                return self._fit(rule, rate, at)
            wanted = float(np.clip(rate + step, rate / 3, rate * 3))
            after = self._told(rule, wanted)
            while after is None or after.chi2 > at.chi2:
                wanted = rate + (wanted - rate) / 4
                if abs(wanted - rate) <= _STUCK * rate:
                    return self._fit(rule, rate, at)
                after = self._told(rule, wanted)
            rate, at = wanted, after
        return None if at is None else self._fit(rule, rate, at)

    def bends(self, one: PrintedFit) -> float:
        """Return by how much chi squared would fall were the path to bend further.

        Of a constant push, by a change of it; of a decay toward rest, by another goal.
        """
        at = self._told(one.rule, one.rate)
        if at is None:
            return 0.0
        column = self._bend(at, one)
        power = float(np.sum(at.weight * column**2))
        return float(np.sum(at.weight * column * at.left)) ** 2 / power if power else 0.0

    def hidden_bend(self, one: PrintedFit) -> float:
        """Return the share of the push, or of the first speed, by which noise hides a bend."""
        at = self._told(one.rule, one.rate)
        if at is None:
            return np.inf
        power = float(np.sum(at.weight * self._bend(at, one) ** 2))
        size = abs(one.c) / (2 * self.span) if one.rule.kept is None else one.first
        return 1 / (size * power**0.5) if size and power else np.inf

    def exponent(self, one: PrintedFit) -> tuple[float, float] | None:
        """Return the power of the step that a constant goes with, and its standard error."""
        if self.even or one.rule.push_power is not None:
            return None
        at = self._told(one.rule, one.rate)
        plus, minus = (
            self._model(one.rule, one.rate, at, one.rule.power + way * _NUDGE)
            for way in (1, -1)
        )  # fmt: skip
        if at is None or plus is None or minus is None:
            return None
        power = self._off((plus - minus) / (2 * _NUDGE), at)
        others = self._directions(one.rule, one.rate, at)
        matrix = np.stack([power, *others])
        normal = np.einsum("irc,jrc,rc->ij", matrix, matrix, at.weight)
        right = np.einsum("irc,rc,rc->i", matrix, at.left, at.weight)
        try:
            spread = np.linalg.inv(normal)
        except np.linalg.LinAlgError:
            return None
        size = max(1.0, one.chi2 / one.free) ** 0.5
        found = one.rule.power + float(spread[0] @ right)
        return found, float(np.sqrt(max(spread[0, 0], 0.0))) * size

    def _bend(self, at: _Path, one: PrintedFit) -> FloatArray:
        """Return the column, less what the model has, by which a path would bend further."""
        if one.rule.kept is not None:
            return self._off(1 - at.kept, at)
        time = np.cumsum(steps_as(one.rule.power, self._dt, self.usual), axis=1)
        return self._off(time**2, at)

    def _start(self, rule: Recurrence) -> float | None:
        """Return the best of a grid of rates; None where none is possible."""
        tried = [(at.chi2, rate) for rate in _STARTS / self.span
                 if (at := self._told(rule, float(rate))) is not None]  # fmt: skip
        return min(tried)[1] if tried else None

    def _parts(
        self, rule: Recurrence, rate: float, power: float
    ) -> tuple[FloatArray, FloatArray | None] | None:
        """Return ``A`` and ``G``; None where a step would keep nothing."""
        step = steps_as(power, self._dt, self.usual)
        f = np.ones_like(step) if rule.kept is None else rule.kept(rate, step)
        f[:, 0] = 1.0
        f[~self._on] = 1.0
        if float(f.min()) <= 0:
            return None
        kept = np.asarray(np.cumprod(f, axis=1), dtype=np.float64)
        if rule.push is None:
            return kept, None
        pushed = (
            step if rule.push_power is None else steps_as(rule.push_power, self._dt, self.usual)
        )
        g = rule.push(f, pushed)
        g[:, 0] = 0.0
        g[~self._on] = 0.0
        kept = np.maximum(kept, _SMALLEST)
        return kept, kept * np.cumsum(g / kept, axis=1)

    def _told(self, rule: Recurrence, rate: float) -> _Path | None:
        """Return the model at a rate, its linear parameters fitted."""
        parts = self._parts(rule, rate, rule.power)
        if parts is None:
            return None
        kept, added = parts
        variance = self._timed if rule.timed else self._own
        if 2 in {rule.power, rule.push_power}:  # the rounding of uneven squares adds up
            variance = variance + self._wander
        if rule.coarse:  # a step that is rounded goes another way: by k·dt of what it changes
            variance = variance + (rate**2 * self._top * self.usual * self._time_error) ** 2
        weight = np.where(self._on, 1 / variance, 0.0)
        norm = np.sum(weight * kept * kept, axis=1)

        def share(column: FloatArray) -> FloatArray:
            return np.asarray(np.sum(weight * kept * column, axis=1) / norm)

        start, c = share(self._v), 0.0
        left = self._v - start[:, None] * kept
        if added is not None:
            first = share(added)
            off = added - first[:, None] * kept
            power = float(np.sum(weight * off * off))
            if not power:
                return None
            c = float(np.sum(weight * off * left)) / power
            start = start - c * first
            left = left - c * off
        return _Path(kept=kept, added=added, start=start, c=c, left=left, weight=weight)

    def _model(
        self, rule: Recurrence, rate: float, at: _Path | None, power: float
    ) -> FloatArray | None:
        """Return the speeds at a rate and power, the linear parameters as they are."""
        parts = self._parts(rule, rate, power)
        if at is None or parts is None:
            return None
        kept, added = parts
        speeds: FloatArray = at.start[:, None] * kept
        return speeds if added is None else speeds + at.c * added

    def _off(self, column: FloatArray, at: _Path) -> FloatArray:
        """Return a column less what each stretch's first speed explains of it."""
        norm = np.sum(at.weight * at.kept**2, axis=1)
        share = np.sum(at.weight * at.kept * column, axis=1) / norm
        off: FloatArray = column - share[:, None] * at.kept
        return off

    def _directions(self, rule: Recurrence, rate: float, at: _Path) -> list[FloatArray]:
        """Return the columns of ``c`` and the rate, less what the first speeds explain."""
        columns = [] if at.added is None else [self._off(at.added, at)]
        if rule.kept is not None:
            nudge = _NUDGE * rate
            plus, minus = (self._model(rule, rate + way * nudge, at, rule.power) for way in (1, -1))
            if plus is not None and minus is not None:
                columns.append(self._off((plus - minus) / (2 * nudge), at))
        return columns

    def _step(self, rule: Recurrence, rate: float, at: _Path) -> tuple[float, float]:
        """Return the step of Gauss and Newton for the rate, and by how much chi squared falls."""
        columns = np.stack(self._directions(rule, rate, at))
        normal = np.einsum("irc,jrc,rc->ij", columns, columns, at.weight)
        right = np.einsum("irc,rc,rc->i", columns, at.left, at.weight)
        try:
            steps = np.linalg.solve(normal, right)
        except np.linalg.LinAlgError:
            return 0.0, 0.0
        return float(steps[-1]), float(steps @ right)

    def _fit(self, rule: Recurrence, rate: float, at: _Path) -> PrintedFit | None:
        columns = self._directions(rule, rate, at)
        matrix = np.stack(columns)
        normal = np.einsum("irc,jrc,rc->ij", matrix, matrix, at.weight)
        try:
            inverse = np.linalg.inv(normal)
        except np.linalg.LinAlgError:
            return None
        spread = np.zeros((2, 2))
        where = [
            i for i, there in enumerate((at.added is not None, rule.kept is not None)) if there
        ]
        spread[np.ix_(where, where)] = inverse
        values = int(self._on.sum())
        free = values - len(self._on) - len(columns)
        if free < 1:
            return None
        return PrintedFit(
            rule=rule,
            c=at.c,
            rate=rate,
            spread=spread,
            chi2=at.chi2,
            free=free,
            score=at.chi2 - float(np.sum(np.log(at.weight[self._on]))),
            misfit=float(np.sqrt(np.mean(at.left[self._on] ** 2))),
            frames=self.frames,
            first=float(np.max(np.abs(self._v[:, 0]))),
            span=self.span,
        )
