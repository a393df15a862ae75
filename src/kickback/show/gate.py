"""The verdict on a build, as text, as a comment for a review, and as cases of a report."""

from collections.abc import Sequence
from pathlib import Path

from kickback.gate.verdict import EXERCISE, Gate, GateRow
from kickback.show.chain import show_chain
from kickback.show.comparison import QUIET, show_rows
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.records import as_markdown
from kickback.show.tables import few
from kickback.takes.numerals import plain
from kickback.takes.record import replace

__all__ = ["gate_cases", "gate_markdown", "show_gate"]


def show_gate(printer: Printer, gate: Gate, units: Units) -> None:
    """Print the verdict, what fails beside the metrics, and the metrics that moved."""
    printer.line(_headline(gate), "bold red" if gate.failed else "bold green")
    alike: dict[tuple[str, str, str], list[str]] = {}
    for row in gate.rows:
        if row.fails and (row.verdict in _TOLD or row.name == EXERCISE):
            alike.setdefault((row.where, row.verdict, row.said), []).append(row.name)
    for (where, verdict, said), names in alike.items():
        printer.paragraph(f"{few(names)} ({where}): {verdict}; {said}", "red", 1)
    if gate.comparison is not None:
        show_rows(printer, gate.comparison, units, every=False)
    if gate.chain is not None and gate.failed:
        show_chain(printer, gate.chain)


_TOLD = ("breaks", "drifts", "error")
"""Verdicts that the table of changes does not tell."""


def _headline(gate: Gate) -> str:
    rows = gate.rows
    bad = sum(row.fails for row in rows)
    against = f"against {Path(gate.against).name}" if gate.against else "without a baseline"
    rates = sorted({item.rate for row in gate.rates.rows for item in row.values})
    over = f" at {', '.join(f'{rate:.4g}' for rate in rates)} frames/s" if len(rates) > 1 else ""
    unsure = sum(row.verdict == "cannot-tell" for row in rows)
    open_ = f"; {unsure} cannot be told" if unsure else ""
    what = f"{len(rows)} checks of {gate.takes} takes{over} {against}"
    if bad:
        return f"May not pass: {bad} of {what} failed{open_}."
    return f"May pass: none of {what} failed{open_}."


def gate_markdown(gate: Gate, units: Units) -> str:
    """Return the verdict as a comment for a review: what fails, and the rest folded away."""
    del units
    bad = [row for row in gate.rows if row.fails]
    good = [row for row in gate.rows if not row.fails]
    rest = [row for row in good if row.verdict not in QUIET]
    still = [row for row in good if row.verdict in QUIET]
    parts = [f"**{_headline(gate)}**", _table_of(bad)]
    parts += _folded(f"{len(rest)} that do not fail", rest)
    parts += _folded(f"{len(still)} as before", still)
    return "\n\n".join(part for part in parts if part)


def _worst(rows: Sequence[GateRow]) -> list[GateRow]:
    """Return one row a metric and verdict: the largest change, with how many others there are."""
    groups: dict[tuple[str, str], list[GateRow]] = {}
    for row in rows:
        groups.setdefault((row.name, row.verdict), []).append(row)
    found = []
    for own in groups.values():
        first = max(own, key=lambda row: abs(row.record["change_relative"] or 0.0))
        more = f" and {len(own) - 1} more" if len(own) > 1 else ""
        found.append(replace(first, where=first.where + more))
    return found


def _table_of(rows: Sequence[GateRow]) -> str:
    return as_markdown([_short(row) for row in _worst(rows)]).rstrip() if rows else ""


def _folded(title: str, rows: Sequence[GateRow]) -> list[str]:
    if not rows:
        return []
    return [f"<details><summary>{title}</summary>", _table_of(rows), "</details>"]


def _short(row: GateRow) -> dict[str, str]:
    own = row.record
    unit = own["unit"] or ""
    sides = [
        "" if own[key] is None else f"{plain(own[key])} {unit}".strip()
        for key in ("base", "candidate", "budget")
    ]
    share = own["change_relative"]
    return {
        "what": row.name,
        "where": row.where,
        "before": sides[0],
        "now": sides[1],
        "change": "" if share is None else f"{share + 0.0:+.1%}",
        "allowed": sides[2],
        "verdict": row.verdict,
        "why": row.said,
    }


def gate_cases(gate: Gate) -> list[tuple[str, str, str | None]]:
    """Return a case a metric and rate, named the same from run to run."""
    cases = []
    for row in gate.rows:
        own = row.record
        unit = own["unit"] or ""
        sides = " → ".join(
            "none" if own[key] is None else f"{plain(own[key])} {unit}"
            for key in ("base", "candidate")
        )
        text = f"{row.verdict}: {sides}" if own["unit"] is not None else row.verdict
        text += f"; {row.said}" if row.said else ""
        cases.append((f"{row.name} {row.where}".strip(), text, text if row.fails else None))
    return sorted(cases)
