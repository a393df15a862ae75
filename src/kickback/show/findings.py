"""Integrity findings as lines, and as a word on the side."""

import textwrap
from collections.abc import Sequence

from kickback.findings.finding import Finding
from kickback.show.console import Printer

__all__ = ["findings_word", "show_findings"]

_STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}


def show_findings(printer: Printer, findings: Sequence[Finding]) -> None:
    """Print findings, one paragraph a code, worst first."""
    if not findings:
        printer.line("  nothing was found that a conclusion could trip over", style="green")
        return
    for code, items in _by_code(findings).items():
        first = items[0]
        where = f"frames {first.start} to {first.stop - 1}"
        if first.stop - first.start == 1:
            where = f"frame {first.start}"
        more = f", and {len(items) - 1} more up to frame {items[-1].stop - 1}"
        printer.line(
            f"  {first.severity:<8} {code}, {where}{more if len(items) > 1 else ''}",
            style=_STYLES[first.severity],
        )
        width = max(40, min(110, printer.width - 12))
        for line in textwrap.wrap(first.message, width, break_long_words=False):
            printer.line(f"           {line}")


def findings_word(findings: Sequence[Finding]) -> str:
    """Return the codes of the errors and warnings, or nothing where there are none."""
    codes = dict.fromkeys(item.code for item in findings if item.severity != "note")
    return ", ".join(codes)


def _by_code(findings: Sequence[Finding]) -> dict[str, list[Finding]]:
    grouped: dict[str, list[Finding]] = {}
    for item in findings:
        grouped.setdefault(item.code, []).append(item)
    return grouped
