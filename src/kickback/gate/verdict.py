"""One verdict on a build: findings, baseline, budgets, targets and frame rates together."""

from collections.abc import Sequence
from typing import Any

from kickback.findings.finding import Finding
from kickback.framerate.record import FrameRates
from kickback.judging.chain import Chain
from kickback.judging.compare import Comparison, MetricChange
from kickback.takes.record import Record

__all__ = ["EXERCISE", "Gate", "GateRow"]

EXERCISE = "exercise"
"""What a row is called that stands for a whole exercise."""


class GateRow(Record, frozen=True, kw_only=True):
    """One thing that may end a build: a metric's change, its frame rates, or a finding."""

    name: str
    where: str
    verdict: str
    said: str
    fails: bool
    record: dict[str, Any]


class Gate(Record, frozen=True, kw_only=True):
    """The verdict on a build.

    ``against`` is the baseline's name, ``comparison`` None where there is none; ``rates`` are the
    takes over the frame rate, ``findings`` errors of takes, ``unplayed`` exercises of the baseline
    that the takes have not, ``chain`` why metrics moved in the first.
    """

    against: str
    takes: int
    comparison: Comparison | None
    rates: FrameRates
    findings: Sequence[Finding]
    unplayed: Sequence[str]
    chain: Chain | None
    warnings: Sequence[str]

    @property
    def rows(self) -> list[GateRow]:
        """Return all that was held against something, what fails first."""
        found = [_of_metric(row) for row in self.comparison.rows] if self.comparison else []
        found += [row for over in self.rates.rows if (row := _over_rates(over)) is not None]
        found += [_of_cause(group, cause) for group, cause in self.rates.causes
                  if cause.verdict == "breaks"]  # fmt: skip
        found += [_of_finding(one) for one in self.findings]
        found += [_unplayed(text) for text in self.unplayed]
        return sorted(found, key=lambda row: not row.fails)

    @property
    def failed(self) -> bool:
        """Whether the build may not pass."""
        return any(row.fails for row in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether something could not be judged."""
        return any(row.verdict == "cannot-tell" for row in self.rows)

    def to_records(self) -> list[dict[str, Any]]:
        """Return the flat records that other tools read."""
        return [row.record for row in self.rows]


_EMPTY = dict.fromkeys(
    ("metric", "unit", "base", "candidate", "change", "change_relative", "budget", "low", "high",
     "verdict", "reason", "subject", "drill", "parameters", "frame_rate", "takes"),
)  # fmt: skip


def _of_metric(row: MetricChange) -> GateRow:
    where = " ".join(p for p in (row.parameters, row.drill, f"{row.frame_rate:.4g}/s") if p)
    return GateRow(
        name=row.metric,
        where=where,
        verdict=row.verdict,
        said=row.reason or "",
        fails=row.fails,
        record=row.to_record(),
    )


def _over_rates(row: Any) -> GateRow | None:
    """Return what a metric's frame rates come to, None where nothing depends on them."""
    if row.verdict not in {"breaks", "drifts"} or not row.beyond:
        return None
    known = [item for item in row.values if item.value is not None]
    rates = ", ".join(f"{item.rate:.4g}" for item in known)
    said = f"at {rates} frames/s"
    if row.causes:
        said += f": {', '.join(row.causes)}"
    record = {
        **_EMPTY,
        "metric": row.name,
        "unit": str(row.unit),
        "base": known[0].value,
        "candidate": known[-1].value,
        "change": row.spread,
        "budget": row.budget,
        "verdict": row.verdict,
        "reason": said,
        "parameters": row.group,
    }
    return GateRow(name=row.name, where=f"{row.group} over the frame rate", verdict=row.verdict,
                   said=said, fails=True, record=record)  # fmt: skip


def _of_cause(group: str, cause: Any) -> GateRow:
    said = f"{cause.evidence}; instead: {cause.fix}" if cause.fix else cause.evidence
    record = {**_EMPTY, "metric": cause.name, "verdict": cause.verdict, "reason": said,
              "parameters": group}  # fmt: skip
    return GateRow(name=cause.name, where=f"{group} over the frame rate", verdict=cause.verdict,
                   said=said, fails=True, record=record)  # fmt: skip


def _of_finding(one: Finding) -> GateRow:
    record = {**_EMPTY, "metric": one.code, "verdict": one.severity, "reason": one.message}
    return GateRow(name=one.code, where=one.take, verdict=one.severity, said=one.message,
                   fails=one.severity == "error", record=record)  # fmt: skip


def _unplayed(text: str) -> GateRow:
    said = "the baseline has it, the takes have not"
    record = {**_EMPTY, "metric": "exercise", "verdict": "lost", "reason": f"{text}: {said}"}
    return GateRow(name=EXERCISE, where=text, verdict="lost", said=said, fails=True, record=record)
