"""One verdict on a build: findings, baseline, budgets, targets and frame rates together."""

from collections.abc import Sequence

from kickback.causes.cause import Cause
from kickback.findings.finding import Finding
from kickback.framerate.record import FrameRates, OverRate
from kickback.framerate.single import Suspicion
from kickback.judging.chain import Chain
from kickback.judging.compare import RECORD_FIELDS, Comparison, MetricChange
from kickback.takes.plain import PlainDict
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
    record: PlainDict


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
        found += [
            _of_cause(group, cause)
            for group, cause in self.rates.causes
            if cause.verdict == "breaks"
        ]
        found += [row for one in self.rates.suspicions for row in _of_suspicion(one)]
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

    def to_records(self) -> list[PlainDict]:
        """Return the flat records that other tools read."""
        return [row.record for row in self.rows]


def _record(**values: object) -> PlainDict:
    """Return a record of what is no metric's change: the fields of one, empty where unknown."""
    return {**dict.fromkeys(RECORD_FIELDS), **values}


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


def _over_rates(row: OverRate) -> GateRow | None:
    """Return what a metric's frame rates come to, None where it does not depend on them."""
    known = [item for item in row.values if item.value is not None]
    open_ = row.verdict == "cannot-tell" and bool(known)
    if not row.beyond and not open_:
        return None
    said = f"at {', '.join(f'{item.rate:.4g}' for item in known)} frames/s"
    why = ", ".join(row.causes) or (row.reason if open_ else "")
    said += f": {why}" if why else ""
    record = _record(
        metric=row.name,
        unit=str(row.unit),
        base=known[0].value,
        candidate=known[-1].value,
        change=row.spread,
        budget=row.budget,
        verdict=row.verdict,
        reason=said,
        parameters=row.group,
    )
    where = f"{row.group} over the frame rate"
    return GateRow(
        name=row.name, where=where, verdict=row.verdict, said=said, fails=row.beyond, record=record
    )


def _plain(name: str, where: str, verdict: str, said: str, *, fails: bool) -> GateRow:
    """Return a row of what is no metric."""
    record = _record(metric=name, verdict=verdict, reason=f"{where}: {said}")
    return GateRow(name=name, where=where, verdict=verdict, said=said, fails=fails, record=record)


def _of_cause(group: str, cause: Cause) -> GateRow:
    said = f"{cause.evidence}; instead: {cause.fix}" if cause.fix else cause.evidence
    return _plain(cause.name, f"{group} over the frame rate", cause.verdict, said, fails=True)


def _of_suspicion(one: Suspicion) -> list[GateRow]:
    """Return what a take at a single rate lets suspect, and what it left unread."""
    told = [(cause.name, cause.text) for cause in one.causes]
    told += [(item.phase, item.reason) for item in one.unread]
    return [_plain(name, one.take, "cannot-tell", said, fails=False) for name, said in told]


def _of_finding(one: Finding) -> GateRow:
    return _plain(one.code, one.take, one.severity, one.message, fails=one.severity == "error")


def _unplayed(text: str) -> GateRow:
    return _plain(EXERCISE, text, "lost", "the baseline has it, the takes have not", fails=True)
