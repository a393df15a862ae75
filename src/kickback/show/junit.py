"""Verdicts as the cases of a JUnit report."""

from collections.abc import Sequence

from kickback.findings.finding import Finding
from kickback.framerate.record import FrameRates
from kickback.judging.compare import Comparison
from kickback.takes.numerals import plain

__all__ = ["comparison_cases", "finding_cases", "frame_rate_cases"]

Case = tuple[str, str, str | None]
"""A name, what it says, and the failure or None."""


def frame_rate_cases(result: FrameRates) -> list[Case]:
    """Return a case for each metric of each group, and for each cause that was found."""
    cases: list[Case] = []
    for row in result.rows:
        values = ", ".join(
            f"{item.rate:.4g}/s {'none' if item.value is None else plain(item.value)}"
            for item in row.values
        )
        text = f"{row.verdict}: {values} {row.unit}"
        cases.append((f"{row.group} {row.name}", text, text if row.beyond else None))
    for group, cause in result.causes:
        text = f"{cause.verdict}: {cause.evidence}; instead: {cause.fix}"
        failure = text if cause.verdict == "breaks" else None
        cases.append((f"{group} {cause.name}", text, failure))
    return cases


def comparison_cases(result: Comparison) -> list[Case]:
    """Return a case for each metric and exercise, named by both."""
    cases: list[Case] = []
    for row in result.rows:
        sides = " → ".join(
            "none" if value is None else f"{plain(value)} {row.unit}"
            for value in (row.base, row.candidate)
        )
        text = f"{row.verdict}: {sides}"
        text += f"; {row.reason}" if row.reason and row.fails else ""
        parts = (row.metric, row.parameters, row.drill, f"{row.frame_rate:.4g}/s")
        name = " ".join(part for part in parts if part)
        cases.append((name, text, text if row.fails else None))
    return cases


def finding_cases(take: str, findings: Sequence[Finding]) -> list[Case]:
    """Return a case a finding, failed where it is an error; one for a take without any."""
    if not findings:
        return [(take, "no findings", None)]
    return [
        (
            f"{take} {item.code} {item.start}",
            item.message,
            item.message if item.severity == "error" else None,
        )
        for item in findings
    ]
