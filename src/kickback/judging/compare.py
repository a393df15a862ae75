"""Two sides of takes: what changed in the parameters, what changed in the metrics."""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np

from kickback.errors import InputError
from kickback.judging.budgets import Budget, Target
from kickback.judging.matching import adjusted, matched
from kickback.judging.noise import Interval, corrected, interval, more_takes, prediction
from kickback.judging.pairing import label, paired
from kickback.judging.samples import Cell, Sample, cells_of, grid
from kickback.judging.verdicts import FAILING, VERDICTS, Change, Rules, judged, of_bounds
from kickback.kinds.table import all_metrics, analyse
from kickback.metrics.metric import Metric, select_metrics
from kickback.motion.analysis import Analysis
from kickback.motion.options import Options
from kickback.takes.header import Value
from kickback.takes.quantities import Unit
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = [
    "ChangedParameter",
    "Comparison",
    "MetricChange",
    "check_units",
    "compare",
    "compare_cells",
    "rules_of",
]

_SURE = 0.05
"""What a corrected p is below where a metric is called moved."""

_MANY = 3
"""Takes a side from which a regression brings plays to one."""

ORDER = {verdict.name: place for place, verdict in enumerate(VERDICTS)}
"""Verdicts' places, what needs attention most first."""

_RECORD = (
    "metric", "unit", "base", "candidate", "change", "change_relative", "budget", "low", "high",
    "verdict", "reason", "subject", "drill", "parameters", "frame_rate", "takes",
)  # fmt: skip


class ChangedParameter(Record, frozen=True, kw_only=True):
    """A parameter with different values; None where a side lacks it."""

    name: str
    base: Value | None
    candidate: Value | None


class MetricChange(Record, frozen=True, kw_only=True):
    """One metric of one exercise on both sides.

    ``low`` and ``high`` bound the change, in the metric's unit as all numbers are; ``budget`` is
    what it may move that way, ``over`` the change in budgets, ``allowed`` the budget as it was
    written, ``allowed_up`` and ``allowed_down`` what that comes to. ``fails`` says that it ends a
    build. ``takes`` are the candidate's.
    """

    metric: str
    unit: Unit
    base: float | None
    candidate: float | None
    change: float | None = None
    change_relative: float | None = None
    budget: float | None = None
    low: float | None = None
    high: float | None = None
    verdict: str
    reason: str | None
    subject: str = ""
    drill: str = ""
    parameters: str = ""
    frame_rate: float = 0.0
    takes: int = 1
    over: float = 0.0
    allowed_up: float = float("inf")
    allowed_down: float = float("inf")
    allowed: str = ""
    fails: bool = False

    @property
    def group(self) -> str:
        """Return the metric's group."""
        return self.metric.partition(".")[0]

    def to_record(self) -> dict[str, Any]:
        """Return the flat record that other tools read."""
        record = {key: getattr(self, key) for key in _RECORD}
        return {**record, "unit": str(self.unit)}


class Comparison(Record, frozen=True, kw_only=True):
    """The comparison of a base and a candidate side.

    ``exercises`` says how many pairs of exercises were held against each other, ``alone`` which
    have no partner.
    """

    base: str
    candidate: str
    parameters: Sequence[ChangedParameter]
    rows: Sequence[MetricChange]
    warnings: Sequence[str]
    exercises: int = 1
    alone: Sequence[str] = ()

    @property
    def failed(self) -> bool:
        """Whether a metric regressed, missed what it must be, or was lost where it is asked for."""
        return any(row.fails for row in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether a metric could not be judged."""
        return any(row.verdict == "cannot-tell" for row in self.rows)

    @property
    def worst(self) -> Sequence[MetricChange]:
        """Return one row a metric: that of the exercise where it did worst."""
        found: dict[str, MetricChange] = {}
        for row in self.rows:
            known = found.get(row.metric)
            if known is None or _rank(row) < _rank(known):
                found[row.metric] = row
        return list(found.values())

    def to_records(self) -> list[dict[str, Any]]:
        """Return the flat records that other tools read."""
        return [row.to_record() for row in self.rows]

    def to_frame(self) -> Any:
        """Return the records as a pandas table."""
        from kickback.takes.frames import data_frame

        return data_frame(self.to_records())


def _rank(row: MetricChange) -> tuple[bool, int, float]:
    return (not row.fails, ORDER[row.verdict], -row.over)


def compare(
    base: Sequence[Take | Analysis[Any]],
    candidate: Sequence[Take | Analysis[Any]],
    *,
    only: Sequence[str] = (),
    budgets: Mapping[str, Budget] | None = None,
    targets: Mapping[str, Target | float] | None = None,
    options: Options | None = None,
    noise: Mapping[str, float] | None = None,
) -> Comparison:
    """Hold the candidate's metrics against the base's, exercise by exercise.

    Takes are paired by subject, drill, parameter set and frame rate. Equal inputs are compared
    exactly; else occurrences that were played alike are, and what is left of noise bounds the
    change. ``targets`` may be numbers in the metric's own unit; ``noise`` is how far a single
    take of a metric may lie off, in its unit. Raises InputError where the sides' length units
    differ or nothing has a partner.
    """
    sides = [[analyse(one, options) for one in side] for side in (base, candidate)]
    check_units([one.take for side in sides for one in side])
    metrics = select_metrics(all_metrics(), only)
    cells = [cells_of(side, metrics) for side in sides]
    if noise:
        cells = [[replace(cell, noise=noise) for cell in side] for side in cells]
    return compare_cells(cells[0], cells[1], metrics, rules_of(budgets, targets))


def rules_of(
    budgets: Mapping[str, Budget] | None,
    targets: Mapping[str, Target | float] | None,
    *,
    gate: bool = False,
) -> Rules:
    """Return what metrics are held against; numbers are targets in the metric's own unit."""
    own = {
        name: one if isinstance(one, Target) else Target.of_number(one)
        for name, one in (targets or {}).items()
    }
    return Rules(budgets=budgets or {}, targets=own, gate=gate)


def compare_cells(
    base: Sequence[Cell], candidate: Sequence[Cell], metrics: Sequence[Metric], rules: Rules
) -> Comparison:
    """Hold measured sides against each other; see ``compare``."""
    pairs, alone, warnings = paired(base, candidate)
    held = [
        item
        for one, other in pairs
        for metric in metrics
        if (item := _Held(metric, one, other)).shown
    ]
    rows = _rows([item for item in held if item.both], rules)
    return Comparison(
        base=_side_name(base),
        candidate=_side_name(candidate),
        parameters=_changed_parameters(pairs),
        rows=[rows[id(item)] if item.both else _missing(item, rules) for item in held],
        warnings=warnings,
        exercises=len(pairs),
        alone=alone,
    )


def _rows(both: "Sequence[_Held]", rules: Rules) -> dict[int, MetricChange]:
    """Return the rows of metrics that both sides show, by identity.

    Tests are corrected for their number, over all of them.
    """
    apart = [_apart(item, len(both)) for item in both]
    fair = iter(corrected([one.found.p for one in apart if one.found is not None]))
    rows = {}
    for item, one in zip(both, apart, strict=True):
        p = next(fair) if one.found is not None else 0.0
        rows[id(item)] = _row(item, one, rules, clear=p < _SURE)
    return rows


class _Held(NamedTuple):
    """A metric in a pair of cells."""

    metric: Metric
    base: Cell
    candidate: Cell

    @property
    def shown(self) -> bool:
        """Whether either side shows the metric."""
        name = self.metric.name
        known = name in self.base.samples and name in self.candidate.samples
        return known and any(one.readings for one in self.samples)

    @property
    def both(self) -> bool:
        """Whether both sides show it."""
        return all(one.readings for one in self.samples)

    @property
    def samples(self) -> tuple[Sample, Sample]:
        """Return the metric's samples of both."""
        return self.base.samples[self.metric.name], self.candidate.samples[self.metric.name]

    @property
    def exact(self) -> bool:
        """Whether both were fed the same, so that the game alone differs.

        Each take something else, or all of them one thing of which the game made the same.
        """
        ours, theirs = (sorted(cell.inputs) for cell in (self.base, self.candidate))
        if not all(ours):
            return False
        if len(set(ours)) == 1 and set(ours) == set(theirs):
            return all(len({one.value for one in side.readings}) == 1 for side in self.samples)
        return ours == theirs and len(set(ours)) == len(ours)

    @property
    def one_drill(self) -> bool:
        """Whether both played one drill: then hands differ by no more than noise."""
        own = self.base.exercise.drill
        return bool(own) and own == self.candidate.exercise.drill

    def row(self, **values: Any) -> MetricChange:
        own = self.candidate.exercise
        before, after = self.samples
        return MetricChange(
            metric=self.metric.name,
            unit=before.unit,
            **{"base": before.value, "candidate": after.value, **values},
            subject=own.subject,
            drill=own.drill,
            parameters=own.parameters,
            frame_rate=own.rate,
            takes=len(after.readings),
        )


class _Apart(NamedTuple):
    """How far two samples lie apart; ``found`` where takes were tested."""

    base: float
    candidate: float
    low: float
    high: float
    how: str = ""
    unknown: str = ""
    found: Interval | None = None
    takes: int = 1


def _apart(item: _Held, metrics: int) -> _Apart:
    """Return how far a metric's samples lie apart, for one of so many metrics."""
    before, after = item.samples
    a, b = before.value or 0.0, after.value or 0.0
    if item.exact:
        half = grid(a, before.resolution) if item.base.kept else 0.0
        return _Apart(a, b, b - a - half, b - a + half)
    fewest = min(len(one.readings) for one in (before, after))
    if item.metric.depends:
        return _likewise(item, metrics, many=fewest >= _MANY)
    if fewest > 1:
        values = [np.array([r.value for r in one.readings]) for one in (before, after)]
        return _tested(item, values[0], values[1], metrics, "")
    half = _located(item)
    return _Apart(a, b, b - a - half, b - a + half)


def _likewise(item: _Held, metrics: int, *, many: bool) -> _Apart:
    """Return how far they lie apart once they are played alike; ``many`` takes a side or one."""
    before, after = item.samples
    depends = item.metric.depends
    if many:
        brought, why = adjusted(depends, before, after)
        if brought is not None:
            return _tested(item, brought.base, brought.candidate, metrics, brought.how)
        if item.one_drill:
            values = [np.array([r.value for r in one.readings]) for one in (before, after)]
            return _tested(item, values[0], values[1], metrics, "takes of one drill, as played")
        return _guess(item, why)
    alike, why = matched(depends, before, after)
    if alike is None:
        return _guess(item, why)
    half = alike.half + _located(item)
    change = alike.candidate - alike.base
    return _Apart(alike.base, alike.candidate, change - half, change + half, alike.how)


def _tested(item: _Held, base: Any, candidate: Any, metrics: int, how: str) -> _Apart:
    before, after = item.samples
    located = float(
        np.hypot(before.resolution / len(base) ** 0.5, after.resolution / len(candidate) ** 0.5)
    )
    found = interval(base, candidate, metrics, located)
    middle = float(np.median(base))
    return _Apart(
        middle, middle + found.change, found.low, found.high, how, "", found,
        min(len(base), len(candidate)),
    )  # fmt: skip


def _guess(item: _Held, why: str) -> _Apart:
    """Return two samples that were played in no like way: alike where they hardly differ."""
    before, after = item.samples
    a, b = before.value or 0.0, after.value or 0.0
    half = _located(item)
    if abs(b - a) <= half:
        return _Apart(a, b, b - a - half, b - a + half)
    return _Apart(a, b, -np.inf, np.inf, "", why)


def _located(item: _Held) -> float:
    """Return what a change of a single take is known within.

    The resolutions, what uneven frames make of one frame more or less, and the noise of the
    metric where it is known: from the project, or from the side that has several takes.
    """
    before, after = item.samples
    sides = ((item.base, before), (item.candidate, after))
    half = sum(one.resolution + cell.uneven * one.slack for cell, one in sides)
    known = [cell.noise[item.metric.name] for cell, _ in sides if item.metric.name in cell.noise]
    known += [
        prediction(np.array([r.value for r in one.readings]))
        for one in (before, after)
        if len(one.readings) >= _MANY
    ]
    rounded = grid(before.value or 0.0, before.resolution) if item.base.kept else 0.0
    return max([half, *known]) + rounded


def _row(item: _Held, apart: _Apart, rules: Rules, *, clear: bool) -> MetricChange:
    before, after = item.samples
    located = max(before.resolution, after.resolution) if item.exact else _located(item)
    held = Change(
        apart.base, apart.candidate, apart.low, apart.high,
        max(abs(apart.base), before.slack), after.value or 0.0, after.resolution, clear, located,
    )  # fmt: skip
    result = judged(held, item.metric.name, before.unit, rules)
    reason = result.reason
    if result.verdict == "cannot-tell":
        open_ = _settles(item, apart, result.allowance.least)
        reason = apart.unknown or "; ".join(part for part in (reason, open_) if part)
    side = result.allowance.up if held.change > 0 else result.allowance.down
    told = np.isfinite(side) and result.verdict != "changed"
    bounded = bool(np.isfinite(apart.low))
    return item.row(
        base=apart.base,
        candidate=apart.candidate,
        change=held.change,
        change_relative=held.change / abs(apart.base) if apart.base else None,
        budget=side if told else None,
        low=apart.low if bounded else None,
        high=apart.high if bounded else None,
        verdict=result.verdict,
        reason=_joined(reason, apart.how, before.reason, after.reason),
        over=result.allowance.over(held.change),
        allowed_up=result.allowance.up,
        allowed_down=result.allowance.down,
        allowed=result.budget,
        fails=result.fails,
    )


def _settles(item: _Held, apart: _Apart, allowed: float) -> str:
    """Say what would settle what is open."""
    if apart.found is not None:
        more = more_takes(apart.takes, apart.found, allowed)
        return f"{more} more takes a side would tell" if more else "no number of takes would tell"
    if not item.exact:
        return "equal inputs, several takes a side, or a higher rate would tell"
    return ""


def _missing(item: _Held, rules: Rules) -> MetricChange:
    """Return the row of a metric that only one side has."""
    before, after = item.samples
    if after.readings:
        own = rules.written(item.metric.name, after.unit)
        verdict, why = of_bounds(after.value or 0.0, after.resolution, own, after.unit)
        return item.row(
            verdict=verdict or "new",
            reason=_joined(why, before.reason),
            fails=verdict in FAILING,
        )
    return item.row(
        verdict="lost",
        reason=after.reason,
        fails=rules.asks(item.metric.name, before.unit),
    )


def _joined(*reasons: str | None) -> str | None:
    known = list(dict.fromkeys(reason for reason in reasons if reason))
    return "; ".join(known) or None


def _side_name(cells: Sequence[Cell]) -> str:
    names = dict.fromkeys(
        cell.exercise.parameters or (cell.names[0] if cell.names else label(cell)) for cell in cells
    )
    return ", ".join(names)


def check_units(takes: Sequence[Take]) -> None:
    """Raise InputError where takes have different length units."""
    units = {take.header.length_unit: take.name for take in takes}
    if len(units) > 1:
        (a, first), (b, second) = list(units.items())[:2]
        raise InputError(
            f"length units differ, {a} in {first} and {b} in {second}; both sides must be in"
            " one unit (a mapping's scale converts)"
        )


def _changed_parameters(pairs: Sequence[tuple[Cell, Cell]]) -> list[ChangedParameter]:
    """Return what differs between the parameters of a pair, each once."""
    found: dict[str, ChangedParameter] = {}
    for one, other in pairs:
        names = [*one.values, *(name for name in other.values if name not in one.values)]
        for name in names:
            if one.values.get(name) != other.values.get(name) and name not in found:
                found[name] = ChangedParameter(
                    name=name, base=one.values.get(name), candidate=other.values.get(name)
                )
    return list(found.values())
