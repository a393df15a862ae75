"""Fitter a model of a step to observations.

Starts (and the place that a path begins at) enter linearly, each into its own stretch, and are
eliminated; so are the constants that a step goes with linearly. The others are looked for by Gauss
and Newton's method. A model that makes of a speed a share of it and something more has its paths in
closed form, by sums and products; any other is followed step by step.
"""

import numpy as np

from kickback.laws.least_squares import linear
from kickback.laws.observations import Observations, flat
from kickback.laws.projection import Path, normal, off, orthogonal
from kickback.laws.step_model import Speeds, StepModel
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Fitter", "ModelFit"]

_STARTS = np.geomspace(0.1, 60, 9)
"""Rates, over the longest stretch, that a search begins from."""

_FLAT = 1e-3
"""A rate, over the longest stretch, below which a decay is a line and is not looked for."""

_ROUNDS = 30
"""Steps after which a search for constants that have not settled is given up."""

_SETTLED, _SETTLED_EXACT = 1e-4, 1e-14
"""Chi squared that another step would gain, below which constants are found; and the same where
what is left tells how exact steps are."""

_SHARE = 1e-7
"""Share of chi squared that another step would gain, below which a poor fit gets no better."""

_STUCK = 1e-9
"""Share of a constant by which a step in the right direction must move it."""

_NUDGE = 1e-6
"""Share by which a constant is moved to see what it does."""

_NOTHING = 1e-200
"""A share kept below which nothing of the first speed is left."""

_AWAY = 1e3
"""Times the largest value beyond which a path runs away."""


class ModelFit(Record, frozen=True, kw_only=True):
    """A model's fit: constants ``c``, shape (p,), and their covariance ``spread``, shape (p, p).

    ``chi2``: the weighted sum of squares left of ``free`` degrees of freedom; ``score``: minus
    twice the logarithm of the likelihood, but for a constant; ``echo``: how alike neighbouring
    residuals are, their autocorrelation at one frame. ``misfit``: root mean square of what is left,
    in the unit of the data; ``frames``: values used; ``first``: the largest first speed.
    ``least``: the share of the noise that errors stand for at least.
    """

    model: StepModel
    c: FloatArray
    spread: FloatArray
    chi2: float
    free: int
    score: float
    echo: float
    misfit: float
    frames: int
    first: float
    least: float

    @property
    def size(self) -> float:
        """Return by how much errors are larger than the noise alone makes them."""
        return max(self.least, float(np.sqrt(self.chi2 / self.free)))

    @property
    def stderr(self) -> FloatArray:
        """Return the standard errors of the constants, shape (p,)."""
        return np.asarray(np.sqrt(np.maximum(np.diag(self.spread), 0.0)) * self.size)

    def value(self, name: str) -> float:
        """Return a constant; 0 where the model has none of that name."""
        known = dict(zip(self.model.constants, self.c.tolist(), strict=True))
        return float(known.get(name, 0.0))


class Fitter:
    """One model, held against observations."""

    def __init__(self, data: Observations, model: StepModel) -> None:
        self.data, self.model = data, model

    def fit(self, near: FloatArray | None = None, rounds: int = _ROUNDS) -> ModelFit | None:
        """Fit the model, its constants looked for from ``near`` on; None where it cannot be.

        After so many ``rounds`` of the search what is found is taken as it is.
        """
        settled = _SETTLED if self.data.begins else _SETTLED_EXACT
        start = near if near is not None else self.begin()
        at = None if start is None else self.at(start)
        for _ in range(rounds if not self.model.affine or self.model.rates else 0):
            if at is None:
                return None
            step, gain = self._step(at)
            enough = max(settled, _SHARE * at.chi2)
            after = self._better(at, step) if gain >= enough else None
            if after is None:
                break
            at = after
        return None if at is None else self._result(at)

    def at(self, c: FloatArray, starts: Speeds | None = None) -> Path | None:
        """Return the model at constants, what is linear in it fitted; None where it cannot be."""
        if starts is None:
            starts = self.data.v[:, 0]
        weight = self.data.weight(self.model, c)
        return (
            self._affine(c, starts, weight)
            if self.model.affine
            else self._curved(c, starts, weight)
        )

    def values(self, at: Path, c: FloatArray, bend: float = 0.0) -> FloatArray | None:
        """Return the values at constants and a bend of the power, the starts as they are."""
        if not self.model.affine:
            return np.asarray(self._run(c[None], np.asarray(at.starts)[None])[0])
        parts = self._parts(c, bend)
        if parts is None:
            return None
        kept, added, given = parts
        speeds = sum((c[k] * one for k, one in added.items()), start=np.zeros(1))
        if self.data.begins:
            speeds = speeds + at.starts[:, None] * kept
        values = self.data.seen_as(speeds)
        return values if given is None else values + given

    def share_kept(self, c: FloatArray) -> FloatArray | None:
        """Return the share of a first speed that is left in each row, shape (s, r)."""
        parts = self._parts(c)
        return None if parts is None else parts[0]

    def directions(self, at: Path) -> list[FloatArray]:
        """Return the columns of all constants in order, less what the starts explain."""
        if not self.model.affine:
            return [at.lines[k] for k in range(len(at.c))]
        columns = []
        for k, value in enumerate(at.c.tolist()):
            if k in at.lines:
                columns.append(at.lines[k])
                continue
            moved = at.c.copy()
            moved[k] += _NUDGE * value
            there = self.values(at, moved)
            if there is not None:  # what is seen is what is left, and what is explained
                columns.append(
                    at.off((there - self.data.y) / (_NUDGE * value)) + at.left / (_NUDGE * value)
                )
        return columns

    def begin(self, *rates: float) -> FloatArray | None:
        """Return constants to begin from, of some ``rates`` too; None where none are possible."""
        model, data = self.model, self.data
        if not model.affine:
            return self._begin_curved()
        c = np.zeros(len(model.constants))
        if not model.rates:
            return c
        best: Path | None = None
        scan = (_STARTS / data.span).tolist() if data.begins else self._rate_of_steps()
        for rate in (*rates, *scan):
            c = c.copy()
            c[list(model.rates)] = rate
            # weighted alike: high rates make times, and so values, seem vague
            at = self._affine(c, data.v[:, 0], data.even_weight)
            if at is not None and (best is None or at.chi2 < best.chi2):
                best = at
        return None if best is None else best.c

    def _rate_of_steps(self) -> list[float]:
        """Return the rate that a regression of speeds after steps on those before tells, if any."""
        v0, v1 = self.data.v[:, 0], self.data.v[:, 1]
        goals = [of for term in self.model.terms for of in term.inputs]
        others = [self.data.inputs[of][:, 1] if of else np.ones(len(v0)) for of in goals]
        turned = [(way * one).astype(v0.dtype) for one in others for way in self.data.ways]
        design = np.stack([flat(one) for one in (v0, *turned)], axis=-1)
        kept = float(linear(design, flat(v1))[0])
        return [-float(np.log(kept)) / self.data.usual] if 0 < kept < 1 else []

    def _begin_curved(self) -> FloatArray | None:
        if self.data.begins:
            found = Fitter(self.data.by_steps, self.model).fit()
            return None if found is None else found.c
        v0, v1, dt = self.data.v[:, 0], self.data.v[:, 1], self.data.dt[:, 1]
        slopes = self.model.slopes(v0, dt, self.data.usual)
        many = slopes.shape[-1]
        return linear(flat(slopes.T).T.reshape(-1, many), flat(v1 - v0))

    # affine models: paths in closed form

    def _parts(
        self, c: FloatArray, bend: float = 0.0
    ) -> tuple[FloatArray, dict[int, Speeds], FloatArray | None] | None:
        """Return what is kept of a first speed, what constants add, and what is given anyway.

        None where a step would keep nothing.
        """
        data = self.data
        step = self.model.as_affine(data.dt, data.usual, c, data.inputs, bend)
        share = np.where(data.on, step.kept, 1.0)
        share[:, 0] = 1.0
        if float(share.min()) <= 0:
            return None
        whole = share if data.turned is None else share * data.turned[0]
        kept = np.maximum(np.cumprod(whole, axis=1), _NOTHING)

        def accumulated(gain: Speeds) -> Speeds:
            gain = np.where(data.on, gain, 0.0)
            gain[:, 0] = 0.0
            return np.asarray(kept * np.cumsum(gain / kept, axis=1))

        given = None
        if data.turned is not None:
            given = data.seen_as(accumulated(data.turned[1] * share))
        if not data.begins:
            first = data.seen_as(kept * data.v[:, :1])
            given = first if given is None else given + first
        return kept, {k: accumulated(one) for k, one in step.added.items()}, given

    def _affine(self, c: FloatArray, starts: Speeds, weight: FloatArray) -> Path | None:
        parts, data = self._parts(c), self.data
        if parts is None:
            return None
        kept, added, given = parts
        raw = {k: data.seen_as(one) for k, one in added.items()}
        target = data.y if given is None else data.y - given
        own = [data.seen_as(way * kept) for way in data.ways] if data.begins else []
        own += self._places()
        basis = orthogonal(own, weight)
        left = off(target, basis, weight)
        lines = {k: off(one, basis, weight) for k, one in raw.items()}
        c = c.copy()
        if lines:
            solved = normal(list(lines.values()), left, weight)
            if solved is None:
                return None
            for k, value in zip(lines, (solved[0] @ solved[1]).tolist(), strict=True):
                c[k] = value
                left = left - value * lines[k]
                target = target - value * raw[k]
        if data.begins:
            starts = self._starts(own, target, weight)
        return Path(c, starts, left, own, basis, lines, raw, weight)

    def _places(self) -> list[FloatArray]:
        """Return a column for each way that the place a path begins at may lie in."""
        data = self.data
        if not data.placed or not data.begins:
            return []
        return [flat(way * data.on.astype(data.v.dtype)) for way in data.ways]

    def _starts(self, own: list[FloatArray], target: FloatArray, weight: FloatArray) -> Speeds:
        """Return the first speed of each stretch that explains a target best, shape (s,)."""
        if len(own) == 1:
            power = np.sum(weight * own[0] ** 2, axis=1)
            return np.asarray(np.sum(weight * own[0] * target, axis=1) / power)
        design = np.stack(own, axis=-1)
        matrix = np.einsum("sri,srj,sr->sij", design, design, weight)
        right = np.einsum("sri,sr,sr->si", design, target, weight)
        found = np.einsum("sij,sj->si", np.linalg.pinv(matrix, hermitian=True), right)
        return np.asarray(sum(way * found[:, k] for k, way in enumerate(self.data.ways)))

    # models that are followed step by step

    def _curved(self, c: FloatArray, starts: Speeds, weight: FloatArray) -> Path | None:
        """Return a model at constants and starts; None where it runs away.

        What constants and starts do to a stretch is seen by moving them, all in one pass.
        """
        data, many = self.data, len(c)
        ways = data.ways if data.begins else ()
        by = _NUDGE * (np.maximum(np.abs(c), 1e-3 * float(np.max(np.abs(c), initial=0.0))) + 1e-9)
        push = _NUDGE * max(data.size, _NOTHING)
        trials = np.concatenate((c[None], c[None] + np.diag(by), np.repeat(c[None], len(ways), 0)))
        first = np.repeat(np.asarray(starts)[None], len(trials), axis=0)
        for k, way in enumerate(ways, 1 + many):
            first[k] += push * way
        paths = self._run(trials, first)
        seen = paths[:, data.seen]
        if not np.all(np.isfinite(seen)) or np.max(np.abs(seen)) > _AWAY * data.reach:
            return None
        paths = np.where(data.seen, paths, 0.0)
        raw = {k: (paths[1 + k] - paths[0]) / by[k] for k in range(many)}
        own = [(paths[1 + many + k] - paths[0]) / push for k in range(len(ways))]
        places = self._places()
        left = off(data.y - paths[0], orthogonal(places, weight), weight)
        own += places
        basis = orthogonal(own, weight)
        lines = {k: off(one, basis, weight) for k, one in raw.items()}
        return Path(c, starts, left, own, basis, lines, raw, weight)

    def _run(self, trials: FloatArray, starts: Speeds) -> FloatArray:
        """Return the values, shape (trials, s, r), from constants (trials, p) and starts."""
        data, v, c = self.data, starts, trials[:, None, :]
        every = [v]
        with np.errstate(over="ignore", invalid="ignore"):
            for k in range(1, data.dt.shape[1]):
                if data.turned is not None:
                    v = v * data.turned[0][:, k] + data.turned[1][:, k]
                v = self.model.after(v, data.dt[None, :, k], data.usual, c)
                every.append(v)
            return data.seen_as(np.stack(every, axis=-1))

    # the search

    def _step(self, at: Path) -> tuple[FloatArray, float]:
        """Return the step of Gauss and Newton, and by how much chi squared falls."""
        columns = self.directions(at)
        solved = normal(columns, at.left, at.weight) if len(columns) == len(at.c) else None
        if solved is None:
            return np.zeros(len(at.c)), 0.0
        spread, right = solved
        step = spread @ right
        return step, float(step @ right)

    def _better(self, at: Path, step: FloatArray) -> Path | None:
        """Return the model after a step, or a part of one, that leaves less; None without one."""
        c, starts = at.c + step, at.starts
        if self.model.affine:
            rates = list(self.model.rates)
            least = np.minimum(at.c[rates], _FLAT / self.data.span)
            c[rates] = np.clip(c[rates], np.maximum(at.c[rates] / 3, least), at.c[rates] * 3)
        elif self.data.begins:
            left = at.left - sum(by * at.raw[k] for k, by in enumerate(step.tolist()))
            starts = at.starts + self._starts(at.own, left, at.weight)
        moved, share = c - at.c, 1.0
        while np.any(np.abs(share * moved) > _STUCK * np.abs(at.c)):
            after = self.at(at.c + share * moved, at.starts + share * (starts - at.starts))
            if after is not None and after.score < at.score:
                return after
            share /= 4
        return None

    def _result(self, at: Path) -> ModelFit | None:
        columns, data = self.directions(at), self.data
        spread = np.zeros((0, 0))
        if len(columns) != len(at.c):
            return None
        if columns:
            solved = normal(columns, at.left, at.weight)
            if solved is None:
                return None
            spread = solved[0]
        seen = int(data.seen.sum())
        free = seen - len(data.v) * len(at.own) - len(columns)
        if free < 1:
            return None
        left = at.left[data.seen]
        rss = float(left @ left)
        return ModelFit(
            model=self.model,
            c=at.c,
            spread=spread,
            chi2=at.chi2,
            free=free,
            score=at.score,
            echo=float(left[1:] @ left[:-1]) / rss if rss else 0.0,
            misfit=float(np.sqrt(rss / len(left))),
            frames=seen,
            first=float(np.max(np.abs(at.starts), initial=0.0)),
            least=data.least(free),
        )
