"""Wishes and a parameter set to the parameters that fulfil them."""

from collections.abc import Collection, Mapping, Sequence
from itertools import combinations, product

import numpy as np

from kickback.errors import UsageError, nearest
from kickback.kinds.measuring import measure
from kickback.kinds.models import model_named
from kickback.kinds.table import all_metrics
from kickback.kinds.wishing import Wishable, Wishing
from kickback.takes.header import ParameterSet, Value
from kickback.takes.quantities import Unit
from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.tuning.solve.record import Choice, Conflict, Got, Solution
from kickback.tuning.solve.search import SOLVED, Found, newton

__all__ = ["RATES", "solve", "unit_of", "wishing_of"]

RATES = (30.0, 60.0, 144.0)
"""Frame rates at which a solution is looked at, frames/s."""

_TRIED = 4
"""Sets of parameters that are tried."""

_NEVER = 1e6
"""What it costs to have a wish by a parameter that does not move it."""

_BEGIN = 0.5
"""Where a parameter begins that is 0."""


def wishing_of(kind: str) -> Wishing:
    """Return what can be wished of a kind's model; UsageError where nothing can."""
    wishing = model_named(kind).wishing
    if wishing is None:
        raise UsageError(f"wishes are fulfilled for the kind 'foot', not '{kind}'")
    return wishing


def unit_of(metric: str, length: str) -> Unit:
    """Return a metric's unit."""
    known = {one.name: one for one in all_metrics()}
    return known[metric].dimension.within(length)


def solve(
    parameters: Mapping[str, Value],
    wishes: Mapping[str, float],
    *,
    kind: str = "foot",
    keep: Collection[str] = (),
    rate: float = 60.0,
    rates: Sequence[float] = RATES,
    digits: int | None = None,
    length_unit: str = "m",
) -> Solution:
    """Return the parameters with which a model's metrics are what is wished, at a frame rate.

    ``wishes`` are metrics' values, in the unit of each; ``keep`` are parameters that stay as they
    are. ``digits``: decimals to which new numbers are rounded, after which the metrics are told
    again. Wishes that exclude each other are a conflict, with what each way out gives. Raises
    UsageError for a metric that cannot be wished for, a wish that is none, or an unknown parameter.
    """
    problem = _problem(kind, parameters, wishes, keep, rate)
    unsettled = problem.of(problem.unsettled())
    conflict = _conflict(unsettled, length_unit)
    if conflict is not None:
        return _as_it_was(problem, rates, length_unit, conflict)
    found = _in_parts(problem, unsettled)
    exact = problem.full(found.values)
    written = {
        name: value if digits is None else round(value, digits)
        for name, value in found.values.items()
    }
    values = problem.full(written)
    names = [*found.values, *(one for one, by in problem.ties.items() if by in found.values)]
    free = dict.fromkeys(
        name for one in problem.wished for name in problem.able(one) if name not in names
    )
    return Solution(
        kind=kind,
        rate=rate,
        values=values,
        exact=exact,
        changed={name: problem.values[name] for name in names},
        free=list(free),
        nearest=not found.solved,
        got=_got(problem, exact, values, rates, length_unit),
    )


class _Problem(Record, frozen=True, kw_only=True):
    """Wishes of a model: metrics ``wished`` with their values, over full parameter ``values``."""

    kind: str
    wishing: Wishing
    values: Mapping[str, Value]
    wished: Sequence[Wishable]
    wanted: FloatArray
    keep: frozenset[str]
    ties: Mapping[str, str]
    rate: float

    def able(self, wish: Wishable, keep: Collection[str] | None = None) -> list[str]:
        """Return the parameters that a wish can be had by, but for those that are kept."""
        kept = self.keep if keep is None else keep
        return [
            one
            for one in wish.knobs
            if one not in kept
            and one not in self.ties
            and self.wishing.works(wish.metric, one, self.values)
        ]

    @property
    def enough(self) -> bool:
        """Whether each wish can have a parameter of its own."""
        return len(self.assigned()) == len(self.wished)

    def assigned(self) -> list[str]:
        """Return a parameter for each wish, with the least of what is not the first choice.

        Of wishes that have too few between them some are left out.
        """
        from scipy.optimize import linear_sum_assignment

        names = list(dict.fromkeys(name for one in self.wished for name in self.able(one)))
        cost = np.full((len(self.wished), len(names)), _NEVER)
        for row, one in enumerate(self.wished):
            for place, name in enumerate(self.able(one)):
                cost[row, names.index(name)] = place
        rows, columns = linear_sum_assignment(cost)
        return [names[k] for row, k in zip(rows, columns, strict=True) if cost[row, k] < _NEVER]

    def full(self, values: Mapping[str, float]) -> dict[str, Value]:
        """Return all parameters with new values, and those that go with them."""
        tied = {name: values[by] for name, by in self.ties.items() if by in values}
        return {**self.values, **values, **tied}

    def metrics(self, sets: Sequence[Mapping[str, Value]], rate: float) -> FloatArray:
        """Return the wished metrics of full sets at a frame rate, shape (sets, wishes)."""
        out = np.full((len(sets), len(self.wished)), np.nan)
        named = [ParameterSet(name=str(k), values=one) for k, one in enumerate(sets)]
        for drill in dict.fromkeys(one.drill for one in self.wished):
            columns = [k for k, one in enumerate(self.wished) if one.drill is drill]
            names = [self.wished[k].metric for k in columns]
            for row, take in enumerate(self.wishing.play(named, drill(), rate)):
                found = measure(take, names).by_metric()
                for k, name in zip(columns, names, strict=True):
                    value = found[name].value
                    out[row, k] = np.nan if value is None else value
        return out

    def found(self, knobs: Sequence[str]) -> Found:
        """Return the values of some parameters that come nearest to the wishes."""
        start = {name: float(self.values[name]) or _BEGIN for name in knobs}
        return newton(
            lambda sets: self.metrics([self.full(one) for one in sets], self.rate),
            start,
            self.wanted,
            self.wishing.limits,
        )

    def best(self) -> Found:
        """Return the first parameters that fulfil the wishes; the nearest where none do."""
        found: list[Found] = []
        for knobs in self.assignments():
            found.append(self.found(knobs))
            if found[-1].solved:
                return found[-1]
        return min(found, key=lambda one: float(np.max(np.abs(one.off))))

    def assignments(self) -> list[tuple[str, ...]]:
        """Return sets of parameters that the wishes can be had by, the first choice first."""
        first = tuple(self.assigned())
        every = product(*(self.able(one) for one in self.wished))
        others = {frozenset(one): one for one in every if len(set(one)) == len(one)}
        others.pop(frozenset(first), None)
        return [first, *others.values()][:_TRIED]

    def unsettled(self) -> list[int]:
        """Return the wishes to be fulfilled: those that can be moved, or that are not as wished."""
        stuck = [not self.able(one) for one in self.wished]
        if not any(stuck):
            return list(range(len(self.wished)))
        off = np.abs(self.metrics([self.values], self.rate)[0] / self.wanted - 1)
        return [k for k, held in enumerate(stuck) if not (held and off[k] <= SOLVED)]

    def parts(self) -> list["_Problem"]:
        """Return the problems of wishes that share no parameter with others."""
        groups: list[tuple[set[str], list[int]]] = []
        for row, one in enumerate(self.wished):
            names, rows = set(self.able(one)), [row]
            for group in [group for group in groups if group[0] & names]:
                groups.remove(group)
                names, rows = names | group[0], [*group[1], *rows]
            groups.append((names, rows))
        return [self.of(rows) for _, rows in groups]

    def of(self, rows: Sequence[int], values: Mapping[str, Value] | None = None) -> "_Problem":
        """Return the problem of some wishes, from other values on where they are given."""
        return _Problem(
            kind=self.kind,
            wishing=self.wishing,
            values=self.values if values is None else values,
            wished=[self.wished[k] for k in rows],
            wanted=self.wanted[np.array(rows, dtype=np.int64)],
            keep=self.keep,
            ties=self.ties,
            rate=self.rate,
        )

    def without(self, metric: str) -> "_Problem":
        """Return the problem without a wish."""
        return self.of([k for k, one in enumerate(self.wished) if one.metric != metric])

    def freeing(self, name: str) -> "_Problem":
        """Return the problem with a parameter that is no longer kept."""
        return _Problem(
            kind=self.kind,
            wishing=self.wishing,
            values=self.values,
            wished=self.wished,
            wanted=self.wanted,
            keep=self.keep - {name},
            ties=self.ties,
            rate=self.rate,
        )


def _in_parts(problem: _Problem, unsettled: _Problem) -> Found:
    """Return the values that fulfil wishes: part by part, then all at once where parts disturb.

    Where a part cannot be fulfilled, the others are. Only what is ``unsettled`` is looked for.
    """
    values = problem.values
    set_to: dict[str, float] = {}
    for part in unsettled.parts():
        found = part.of(range(len(part.wished)), values).best()
        set_to |= found.values
        values = problem.full(set_to)
    off = problem.metrics([values], problem.rate)[0] / problem.wanted - 1
    if not np.all(np.abs(off) <= SOLVED) and set_to:
        again = unsettled.of(range(len(unsettled.wished)), values).found(list(set_to))
        if again.solved:
            set_to = dict(again.values)
            values = problem.full(set_to)
            off = problem.metrics([values], problem.rate)[0] / problem.wanted - 1
    return Found(values=set_to, off=off)


def _problem(
    kind: str,
    parameters: Mapping[str, Value],
    wishes: Mapping[str, float],
    keep: Collection[str],
    rate: float,
) -> _Problem:
    wishing = wishing_of(kind)
    wished = _wished(wishing, wishes)
    values = wishing.checked(parameters, "parameters")
    for name in keep:
        if name not in values:
            raise UsageError(f"no parameter '{name}' to be kept{nearest(name, values)}")
    asked = {one.knobs[0] for one in wished} | set(keep)
    ties = {
        one: by
        for one, by in wishing.ties.items()
        if values[one] == values[by] and one not in asked
    }
    return _Problem(
        kind=kind,
        wishing=wishing,
        values=values,
        wished=wished,
        wanted=np.array([*wishes.values()]),
        keep=frozenset(keep),
        ties=ties,
        rate=rate,
    )


def _wished(wishing: Wishing, wishes: Mapping[str, float]) -> list[Wishable]:
    """Return the metrics that are wished for, checked."""
    known = {one.metric: one for one in wishing.wishes}
    if not wishes:
        raise UsageError("nothing is wished for: --wish 'jump.apex_height=4 tiles', say")
    for name, value in wishes.items():
        if name not in known:
            raise UsageError(
                f"'{name}' cannot be wished for{nearest(name, known)} (it can: {', '.join(known)})"
            )
        if not value > 0 or not np.isfinite(value):
            raise UsageError(f"a wish is above 0, not {name} = {value:g}")
    return [known[name] for name in wishes]


def _conflict(problem: _Problem, length: str) -> Conflict | None:
    """Return the fewest wishes that have fewer parameters than they are; None where none do."""
    if problem.enough:
        return None
    few = next(
        some
        for many in range(1, len(problem.wished) + 1)
        for some in combinations(problem.wished, many)
        if len({name for one in some for name in problem.able(one)}) < many
    )
    return _explained(problem, few, length)


def _explained(problem: _Problem, some: Sequence[Wishable], length: str) -> Conflict:
    """Return a conflict with what each way out of it gives."""
    knobs = dict.fromkeys(name for one in some for name in problem.able(one, keep=()))
    kept = tuple(name for name in knobs if name in problem.keep)
    wanted = {one.metric: float(v) for one, v in zip(problem.wished, problem.wanted, strict=True)}
    choices = []
    for one in some:
        rest = problem.without(one.metric)
        becomes = _given_up(problem, rest, one)
        choices.append(
            Choice(
                name=one.metric,
                unit=str(unit_of(one.metric, length)),
                kept=False,
                wanted=wanted[one.metric],
                becomes=becomes,
            )
        )
    for name in kept:
        freed = problem.freeing(name)
        found = freed.found(freed.assigned()) if freed.enough else None
        becomes = found.values.get(name) if found is not None and found.solved else None
        choices.append(
            Choice(
                name=name, unit="", kept=True, wanted=float(problem.values[name]), becomes=becomes
            )
        )
    return Conflict(
        wishes=tuple(one.metric for one in some), knobs=tuple(knobs), kept=kept, choices=choices
    )


def _given_up(problem: _Problem, rest: _Problem, wish: Wishable) -> float | None:
    """Return what a wish becomes where the others are fulfilled; None where they cannot be."""
    values: dict[str, Value] = dict(problem.values)
    if rest.wished:
        if not rest.enough:
            return None
        found = rest.found(rest.assigned())
        if not found.solved:
            return None
        values = rest.full(found.values)
    row = problem.metrics([values], problem.rate)[0]
    value = float(row[[one.metric for one in problem.wished].index(wish.metric)])
    return value if np.isfinite(value) else None


def _got(
    problem: _Problem,
    exact: Mapping[str, Value],
    values: Mapping[str, Value],
    rates: Sequence[float],
    length: str,
) -> list[Got]:
    """Return what becomes of each wish."""
    before, solved, rounded = problem.metrics([problem.values, exact, values], problem.rate)
    others = {rate: problem.metrics([values], rate)[0] for rate in rates}

    def shown(value: float) -> float | None:
        return float(value) if np.isfinite(value) else None

    return [
        Got(
            metric=one.metric,
            unit=unit_of(one.metric, length),
            wanted=float(problem.wanted[k]),
            before=shown(before[k]),
            solved=shown(solved[k]),
            rounded=shown(rounded[k]),
            by_rate={rate: shown(row[k]) for rate, row in others.items()},
        )
        for k, one in enumerate(problem.wished)
    ]


def _as_it_was(
    problem: _Problem, rates: Sequence[float], length: str, conflict: Conflict
) -> Solution:
    """Return a solution that changes nothing, with why."""
    values = dict(problem.values)
    return Solution(
        kind=problem.kind,
        rate=problem.rate,
        values=values,
        exact=values,
        changed={},
        free=[],
        got=_got(problem, values, values, rates, length),
        conflict=conflict,
    )
