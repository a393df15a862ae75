"""Two sides of takes: what changed in the parameters, what changed in the metrics."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from kickback.errors import InputError
from kickback.judging.budgets import DEFAULT_SHARE, Budget, budget_for
from kickback.kinds.measuring import measure
from kickback.kinds.table import analyse
from kickback.metrics.record import Measurement
from kickback.motion.analysis import Analysis
from kickback.motion.options import Options
from kickback.takes.header import Value
from kickback.takes.quantities import Unit
from kickback.takes.rates import same_rate
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = ["ChangedParameter", "Comparison", "MetricChange", "compare"]

_EXACT = 1e-9
"""Share of a value below which a change is that of the arithmetic."""


class ChangedParameter(Record, frozen=True, kw_only=True):
    """A parameter with different values; None where a side lacks it."""

    name: str
    base: Value | None
    candidate: Value | None


class MetricChange(Record, frozen=True, kw_only=True):
    """One metric on both sides.

    ``low`` and ``high`` bound the change. ``verdict`` is same, moved, regressed, closer,
    lost, new or cannot-tell.
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

    def to_record(self) -> dict[str, Any]:
        """Return the flat record that other tools read."""
        record = {key: getattr(self, key) for key in self.__struct_fields__}
        return {**record, "unit": str(self.unit)}


class Comparison(Record, frozen=True, kw_only=True):
    """The comparison of a base and a candidate side."""

    base: str
    candidate: str
    parameters: Sequence[ChangedParameter]
    rows: Sequence[MetricChange]
    warnings: Sequence[str]

    @property
    def failed(self) -> bool:
        """Whether a metric regressed or was lost."""
        return any(row.verdict in {"regressed", "lost"} for row in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether a metric could not be judged."""
        return any(row.verdict == "cannot-tell" for row in self.rows)

    def to_records(self) -> list[dict[str, Any]]:
        """Return the flat records that other tools read."""
        return [row.to_record() for row in self.rows]

    def to_frame(self) -> Any:
        """Return the records as a pandas table."""
        from kickback.takes.frames import data_frame

        return data_frame(self.to_records())


def compare(
    base: Sequence[Take | Analysis[Any]],
    candidate: Sequence[Take | Analysis[Any]],
    *,
    only: Sequence[str] = (),
    budgets: Mapping[str, Budget] | None = None,
    targets: Mapping[str, float] | None = None,
    options: Options | None = None,
) -> Comparison:
    """Hold the candidate's metrics against the base's.

    Takes of a game that plays the same drill at the same rate are compared exactly, one
    take a side; otherwise a change within the resolution is none. Raises InputError
    where the sides' length units differ.
    """
    sides = [[analyse(one, options) for one in side] for side in (base, candidate)]
    ours, theirs = ([one.take for one in side] for side in sides)
    warnings = _check_sides(ours, theirs)
    exact = _exactly(ours, theirs)
    before, after = (_medians(side, only) for side in sides)
    rows = [
        _judge(
            before[name],
            after[name],
            budget_for(budgets or {}, before[name].group, name),
            (targets or {}).get(name),
            exact=exact,
        )
        for name in before
        if before[name].value is not None or after[name].value is not None
    ]
    return Comparison(
        base=_side_name(ours),
        candidate=_side_name(theirs),
        parameters=_changed_parameters(ours[0], theirs[0]),
        rows=rows,
        warnings=warnings,
    )


def _side_name(takes: Sequence[Take]) -> str:
    names = dict.fromkeys(take.header.parameters_name or take.name for take in takes)
    return ", ".join(names)


def _check_sides(base: Sequence[Take], candidate: Sequence[Take]) -> list[str]:
    """Return what is odd about two sides; raises InputError where their units differ."""
    sides = (base, candidate)
    _check_units([*base, *candidate])
    said = [
        *_differing("subjects", *({take.header.subject for take in side} for side in sides)),
        *_differing("drills", *({take.header.drill for take in side} for side in sides)),
    ]
    for side in sides:
        many = len({repr(take.header.parameters) for take in side})
        if many > 1:
            said.append(f"takes of {many} parameter sets on one side are taken together")
    rates = [float(np.median([take.frame_rate for take in side])) for side in sides]
    if not same_rate(*rates):
        said.append(
            f"the sides' frame rates differ: {rates[0]:.4g} against {rates[1]:.4g} frames/s"
        )
    return said


def _check_units(takes: Sequence[Take]) -> None:
    units = {take.header.length_unit: take.name for take in takes}
    if len(units) > 1:
        (a, first), (b, second) = list(units.items())[:2]
        raise InputError(
            f"length units differ, {a} in {first} and {b} in {second}; both sides must be in"
            " one unit (a mapping's scale converts)"
        )


def _differing(what: str, ours: set[Any], theirs: set[Any]) -> list[str]:
    """Say how the sides differ in something, where they do."""
    if ours == theirs:
        return []
    shown = [", ".join(sorted(map(str, side))) for side in (ours, theirs)]
    return [f"the sides' {what} differ: {shown[0]} against {shown[1]}"]


def _exactly(base: Sequence[Take], candidate: Sequence[Take]) -> bool:
    """Whether both sides are one take of the same drill at the same rate."""
    if len(base) != 1 or len(candidate) != 1:
        return False
    one, other = base[0], candidate[0]
    return (
        one.header.drill is not None
        and one.header.drill == other.header.drill
        and one.frame_rate == other.frame_rate
    )


def _medians(takes: Sequence[Analysis[Any]], only: Sequence[str]) -> dict[str, Measurement]:
    """Return one measurement a metric for a side: that of its middle take."""
    measured = [measure(take, only).by_metric() for take in takes]
    found: dict[str, Measurement] = {}
    for name in measured[0]:
        items = [item[name] for item in measured]
        known = sorted(
            (item for item in items if item.value is not None), key=lambda item: item.value or 0.0
        )
        found[name] = known[(len(known) - 1) // 2] if known else items[0]
    return found


def _changed_parameters(base: Take, candidate: Take) -> list[ChangedParameter]:
    sides = [
        dict(take.header.parameters.values) if take.header.parameters else {}
        for take in (base, candidate)
    ]
    names = [*sides[0], *(name for name in sides[1] if name not in sides[0])]
    return [
        ChangedParameter(name=name, base=sides[0].get(name), candidate=sides[1].get(name))
        for name in names
        if sides[0].get(name) != sides[1].get(name)
    ]


def _judge(
    before: Measurement,
    after: Measurement,
    own: Budget | None,
    target: float | None,
    *,
    exact: bool,
) -> MetricChange:
    """Return what became of one metric."""
    a, b = before.value, after.value
    base = MetricChange(
        metric=before.metric, unit=before.unit, base=a, candidate=b, verdict="new", reason=None
    )
    if a is None:
        return replace(base, reason=before.reason)
    if b is None:
        return replace(base, verdict="lost", reason=after.reason)
    change = b - a
    resolution = before.resolution or 0.0
    located = 0.0 if exact else resolution + (after.resolution or 0.0)
    allowed = own.allowance(abs(a)) if own else max(DEFAULT_SHARE * abs(a), resolution)
    size = max(abs(a), before.slack)
    verdict, reason = _verdict(change, located, allowed, own is not None, size)
    if verdict == "regressed" and target is not None and abs(b - target) < abs(a - target):
        verdict, reason = "closer", f"target {target:g} {before.unit}"
    return replace(
        base,
        change=change,
        change_relative=change / abs(a) if a else None,
        budget=allowed,
        low=change - located,
        high=change + located,
        verdict=verdict,
        reason=reason or _joined(before.reason, after.reason),
    )


def _verdict(
    change: float, located: float, allowed: float, written: bool, size: float
) -> tuple[str, str | None]:
    if abs(change) <= max(located, _EXACT * size):
        if written and located > allowed:
            return "cannot-tell", (
                f"the resolution, {located:.3g}, is wider than the budget, {allowed:.3g}: the"
                " same drill at one rate, or a higher rate, would tell"
            )
        return "same", None
    return ("moved" if abs(change) <= allowed else "regressed"), None


def _joined(*reasons: str | None) -> str | None:
    known = list(dict.fromkeys(reason for reason in reasons if reason))
    return "; ".join(known) or None
