"""What the analysis over frame rates gives: metrics, constants and causes, and flat records."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.causes.cause import Cause
from kickback.framerate.groups import Group
from kickback.framerate.single import Suspicion
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import Unit
from kickback.takes.record import Record

if TYPE_CHECKING:
    from pandas import DataFrame

__all__ = ["FrameRates", "OverRate", "RateValue"]


class RateValue(Record, frozen=True, kw_only=True):
    """A number at one frame rate; ``value`` is None with a reason where it is missing."""

    rate: float
    value: float | None
    resolution: float | None
    frame_shift: float = 0.0
    reason: str | None = None


class OverRate(Record, frozen=True, kw_only=True):
    """A metric or a law's constant of one group over the rates.

    ``kind`` is metric or constant; ``verdict`` steady, drifts, breaks or cannot-tell.
    ``beyond`` says that it fails by itself: it breaks, or drifts beyond its budget.
    ``budgeted`` says that the budget is the user's own; ``causes`` are those that move it.
    ``metric_group`` is the group of a metric.
    """

    group: str
    kind: str
    name: str
    unit: Unit
    values: Sequence[RateValue]
    spread: float | None = None
    limit: float | None = None
    exponent: float | None = None
    exponent_low: float | None = None
    exponent_high: float | None = None
    budget: float | None = None
    budgeted: bool = False
    verdict: str = "cannot-tell"
    beyond: bool = False
    reason: str | None = None
    causes: tuple[str, ...] = ()
    metric_group: str = ""

    def to_records(self) -> list[PlainDict]:
        """Return one flat record a rate."""
        return [
            _record(
                group=self.group,
                kind=self.kind,
                name=self.name,
                unit=str(self.unit),
                rate=item.rate,
                value=item.value,
                resolution=item.resolution,
                spread=self.spread,
                limit=self.limit,
                exponent=self.exponent,
                exponent_low=self.exponent_low,
                exponent_high=self.exponent_high,
                budget=self.budget,
                verdict=self.verdict,
                cause=", ".join(self.causes) or None,
                reason=item.reason if item.value is None else self.reason,
            )
            for item in self.values
        ]


class FrameRates(Record, frozen=True, kw_only=True):
    """Metrics, constants and causes of all groups, and sentences about the takes.

    ``causes`` holds pairs of a group's name and a cause; ``suspicions`` what single takes
    let suspect.
    """

    groups: Sequence[Group]
    rows: Sequence[OverRate]
    constants: Sequence[OverRate]
    causes: Sequence[tuple[str, Cause]]
    suspicions: Sequence[Suspicion]
    warnings: Sequence[str]

    @property
    def failed(self) -> bool:
        """Whether a cause breaks something, or a metric breaks or drifts beyond its budget."""
        broken = any(cause.verdict == "breaks" for _, cause in self.causes)
        return broken or any(row.beyond for row in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether a metric was found at some rates only, or a single take lets suspect a cause.

        Also where phases of a single take could not be read.
        """
        partly = any(
            row.verdict == "cannot-tell" and any(item.value is not None for item in row.values)
            for row in self.rows
        )
        return partly or any(item.causes or item.unread for item in self.suspicions)

    def to_records(self) -> list[PlainDict]:
        """Return the flat records that other tools read."""
        found = [record for row in self.rows for record in row.to_records()]
        found += [record for row in self.constants for record in row.to_records()]
        found += [
            _record(
                group=group,
                kind="cause",
                name=cause.name,
                verdict=cause.verdict,
                cause=cause.name,
                fix=cause.fix or None,
                reason="; ".join(filter(None, (cause.evidence, cause.other))) or None,
            )
            for group, cause in self.causes
        ]
        return found + _of_single_takes(self.suspicions)

    def to_frame(self) -> "DataFrame":
        """Return the records as a pandas table."""
        from kickback.takes.frames import data_frame

        return data_frame(self.to_records())


def _of_single_takes(suspicions: Sequence[Suspicion]) -> list[PlainDict]:
    """Return the flat records of what takes tell one by one."""
    found = [
        _record(
            group=item.take,
            kind="cause",
            name=cause.name,
            verdict="cannot-tell",
            cause=cause.name,
            exponent=cause.exponent,
            exponent_low=cause.low,
            exponent_high=cause.high,
            reason=cause.text,
        )
        for item in suspicions
        for cause in item.causes
    ]
    found += [
        _record(
            group=item.take,
            kind="constant",
            name=one.phase,
            verdict="cannot-tell",
            reason=one.reason,
        )
        for item in suspicions
        for one in item.unread
    ]
    return found + [
        _record(
            group=item.take,
            kind="cause",
            name="fixed-step",
            verdict="note",
            cause="fixed-step",
            reason=f"{1 / item.step:.4g} steps/s of its own",
        )
        for item in suspicions
        if item.step is not None
    ]


_FIELDS = (
    "group", "kind", "name", "unit", "rate", "value", "resolution", "spread", "limit",
    "exponent", "exponent_low", "exponent_high", "budget", "verdict", "cause", "fix", "reason",
)  # fmt: skip


def _record(**values: object) -> PlainDict:
    return {name: values.get(name) for name in _FIELDS}
