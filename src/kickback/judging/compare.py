"""Two sides of takes: what changed in the parameters, what changed in the metrics."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from kickback.errors import InputError
from kickback.judging.budgets import Budget, Target
from kickback.judging.distance import Distance, Held, distance_of, located_of
from kickback.judging.noise import corrected, more_takes
from kickback.judging.pairing import label, paired
from kickback.judging.samples import Cell, Sample, cells_of
from kickback.judging.verdicts import (
    FAILING,
    VERDICTS,
    Change,
    Judged,
    Rules,
    judged,
    of_bounds,
)
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.table import all_metrics, analyse
from kickback.metrics.metric import Metric, select_metrics
from kickback.motion.options import Options
from kickback.takes.header import Value
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import Unit
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

if TYPE_CHECKING:
    from pandas import DataFrame

__all__ = [
    "RECORD_FIELDS",
    "ChangedParameter",
    "Comparison",
    "MetricChange",
    "check_units",
    "compare",
    "compare_cells",
    "rules_of",
]

_OF_THE_MACHINE = (
    "frame times and what they do to the picture are the machine's: a header key 'machine' that is"
    " the same on both sides, or a budget, has them compared"
)

_SURE = 0.05
"""What a corrected p is below where a metric is called moved."""

ORDER = {verdict.name: place for place, verdict in enumerate(VERDICTS)}
"""Verdicts' places, what needs attention most first."""

RECORD_FIELDS = (
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

    def to_record(self) -> PlainDict:
        """Return the flat record that other tools read."""
        record = {key: getattr(self, key) for key in RECORD_FIELDS}
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

    def to_records(self) -> list[PlainDict]:
        """Return the flat records that other tools read."""
        return [row.to_record() for row in self.rows]

    def to_frame(self) -> "DataFrame":
        """Return the records as a pandas table."""
        from kickback.takes.frames import data_frame

        return data_frame(self.to_records())


def _rank(row: MetricChange) -> tuple[bool, int, float]:
    return (not row.fails, ORDER[row.verdict], -row.over)


def compare(
    base: Sequence[Take | AnyAnalysis],
    candidate: Sequence[Take | AnyAnalysis],
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
        if (item := Held(metric, one, other)).shown and _asked(item, rules)
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


def _asked(item: Held, rules: Rules) -> bool:
    """Whether a metric is to be judged: a gate asks for none of the machine's that nobody named."""
    if not rules.gate or not item.metric.display or item.exact:
        return True
    name, unit = item.metric.name, item.samples[0].unit
    return name in rules.targets or rules.written(name, unit) is not None


def _rows(both: "Sequence[Held]", rules: Rules) -> dict[int, MetricChange]:
    """Return the rows of metrics that both sides show, by identity.

    Tests are corrected for their number, over all of them.
    """
    apart = [distance_of(item, len(both)) for item in both]
    fair = iter(corrected([one.found.p for one in apart if one.found is not None]))
    rows = {}
    for item, one in zip(both, apart, strict=True):
        p = next(fair) if one.found is not None else 0.0
        rows[id(item)] = _row(item, one, rules, clear=p < _SURE)
    return rows


def _described(item: Held, **values: Any) -> MetricChange:
    own = item.candidate.exercise
    before, after = item.samples
    return MetricChange(
        metric=item.metric.name,
        unit=before.unit,
        **{"base": before.value, "candidate": after.value, **values},
        subject=own.subject,
        drill=own.drill,
        parameters=own.parameters,
        frame_rate=own.rate,
        takes=len(after.readings),
    )


def _row(item: Held, apart: Distance, rules: Rules, *, clear: bool) -> MetricChange:
    before, after = item.samples
    held = Change(
        apart.base,
        apart.candidate,
        apart.low,
        apart.high,
        max(abs(apart.base), before.frame_shift),
        after.value or 0.0,
        after.resolution,
        clear,
        _hidden(item, rules),
    )
    result = judged(held, item.metric.name, before.unit, rules)
    if result.verdict == "changed" and item.metric.display and not _comparable(item):
        result = result._replace(verdict="cannot-tell", reason=_OF_THE_MACHINE)
    reason = _why(item, apart, result)
    side = result.allowance.up if held.change > 0 else result.allowance.down
    told = np.isfinite(side) and result.verdict != "changed"
    bounded = bool(np.isfinite(apart.low))
    return _described(
        item,
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


def _hidden(item: Held, rules: Rules) -> float:
    """Return what hides a change; in a gate what frames and hands do is in its bounds alone."""
    if item.exact or rules.gate:
        return max(one.resolution for one in item.samples)
    return located_of(item)


def _comparable(item: Held) -> bool:
    """Whether what a display shows may be compared: both sides ran alike, or on one machine."""
    return item.exact or item.one_machine


def _why(item: Held, apart: Distance, result: Judged) -> str:
    """Return the reason of a verdict, and of one that is open also what would settle it."""
    if result.verdict != "cannot-tell" or result.reason == _OF_THE_MACHINE:
        return result.reason
    settles = _settles(item, apart, result.allowance.least)
    return apart.unknown or "; ".join(part for part in (result.reason, settles) if part)


def _settles(item: Held, apart: Distance, allowed: float) -> str:
    """Say what would settle what is open."""
    if apart.found is not None:
        more = more_takes(apart.takes, apart.found, allowed)
        return f"{more} more takes a side would tell" if more else "no number of takes would tell"
    if not item.exact:
        return "equal inputs, several takes a side, or a higher rate would tell"
    return ""


def _missing(item: Held, rules: Rules) -> MetricChange:
    """Return the row of a metric that only one side has."""
    before, after = item.samples
    if after.readings:
        own = rules.written(item.metric.name, after.unit)
        verdict, why = of_bounds(after.value or 0.0, after.resolution, own, after.unit)
        fresh = _unplayed(item, before, "base") or ("new", before.reason)
        return _described(
            item,
            verdict=verdict or fresh[0],
            reason=_joined(why, fresh[1]),
            fails=verdict in FAILING,
        )
    unplayed = _unplayed(item, after, "candidate")
    return _described(
        item,
        verdict=unplayed[0] if unplayed else "lost",
        reason=unplayed[1] if unplayed else after.reason,
        fails=unplayed is None and rules.asks(item.metric.name, before.unit),
    )


def _unplayed(item: Held, lacking: Sample, side: str) -> tuple[str, str] | None:
    """Return the verdict and the reason where a side may just not have been played so.

    None where both were played alike, or where the side's log has no such column.
    """
    no_column = {role.missing for role in item.metric.needs}
    if item.promised or lacking.reason in no_column:
        return None
    some = "not every take of the drill shows it, and " if item.one_drill else ""
    return "cannot-tell", f"{some}the {side} may not have been played so: {lacking.reason}"


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
