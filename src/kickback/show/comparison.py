"""Comparisons in text: what happened in words, the metrics that moved, why, and the rest."""

from collections.abc import Collection, Mapping, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from kickback.judging.compare import ORDER, Comparison, MetricChange
from kickback.show.chain import parting, show_chain
from kickback.show.console import Printer
from kickback.show.numbers import Units, as_written
from kickback.show.tables import VERDICT_STYLES, Cell, empty_table, few, notes, styled
from kickback.workflows.comparing import Compared

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["QUIET", "count_of", "show_comparison", "show_rows"]

QUIET = ("same", "met")
"""Verdicts of metrics that are told in one line."""

_BAR = 10
"""Cells of the longest bar."""

_EIGHTHS = " ▏▎▍▌▋▊▉"


def show_comparison(printer: Printer, compared: Compared, units: Units, *, every: bool) -> None:
    """Print what happened in words, changed parameters and metrics, and why they moved."""
    result = compared.result
    printer.line(f"{result.base} → {result.candidate}", style="bold")
    if compared.words:
        printer.paragraph(compared.words)
    printer.line(count_of(result), "bold red" if result.failed else "")
    if result.parameters:
        printer.table(lambda narrow: _parameters(result, compared.own))  # noqa: ARG005
    show_rows(printer, result, units, every=every)
    if compared.chain is not None:
        show_chain(printer, compared.chain)
    if compared.equal:
        printer.line("Fed the same, the takes are equal in every column and frame.", "green")
    if compared.first is not None:
        printer.paragraph(parting(compared.first))
    for text in result.alone:
        printer.line(text, "yellow")


def count_of(result: Comparison) -> str:
    """Say how many metrics came to what."""
    rows = result.worst
    counts = {name: sum(row.verdict == name for row in rows) for name in ORDER}
    parts = [f"{count} {name}" for name, count in counts.items() if count]
    text = f"{len(rows)} metrics: {', '.join(parts)}"
    return text + (f"; the worst of {result.exercises} exercises" if result.exercises > 1 else "")


def show_rows(printer: Printer, result: Comparison, units: Units, *, every: bool) -> None:
    """Print the metrics that moved, grouped, the largest change first, and name the others."""
    rows = list(result.worst)
    told = [row for row in rows if every or row.verdict not in QUIET]
    quiet = [row.metric for row in rows if row not in told]
    if told:
        _table(printer, result, _ordered(told), units)
    if quiet:
        printer.paragraph(f"as before: {few(quiet)}", style="green")
    if told:
        printer.line(units.note(row.unit for row in told), style="dim")
    notes(printer, [(row.metric, row.reason) for row in told if row.reason])


def _ordered(rows: Sequence[MetricChange]) -> list[MetricChange]:
    """Return rows by group, each with what needs most attention first."""

    def rank(row: MetricChange) -> tuple[bool, int, float]:
        return (not row.fails, ORDER[row.verdict], -abs(row.change_relative or 0.0))

    first = {
        group: min(rank(r) for r in rows if r.group == group)
        for group in dict.fromkeys(row.group for row in rows)
    }
    return sorted(rows, key=lambda row: (first[row.group], row.group, rank(row)))


def _table(
    printer: Printer, result: Comparison, rows: Sequence[MetricChange], units: Units
) -> None:
    largest = max((abs(row.change_relative or 0.0) for row in rows), default=0.0)
    varying = _varying(result.rows)

    def build(narrow: bool) -> "Table":
        sides = (result.base, result.candidate)
        headings = sides if narrow else (sides[0], " ", sides[1], " ", "change", "%", "")
        more = ("worst at",) if varying else ()
        last = ("change", "verdict") if narrow else ("budget", "verdict")
        table = empty_table("metric", *headings, *more, *last)
        for column in table.columns:
            if column.header in {"", "worst at", "verdict"}:
                column.justify = "left"
        for row, after in pairwise([*rows, None]):
            if row is not None:
                cells = _cells(row, units, largest, narrow=narrow, varying=varying)
                table.add_row(*cells, end_section=after is not None and after.group != row.group)
        return table

    printer.table(build)


def _cells(
    row: MetricChange, units: Units, largest: float, *, narrow: bool, varying: Collection[str]
) -> list[Cell]:
    share = "" if row.change_relative is None else f"{row.change_relative + 0.0:+.1%}"
    style = "bold red" if row.fails else VERDICT_STYLES[row.verdict]
    verdict = styled(row.verdict, style)
    sides = [
        (units.show(value, row.unit), units.also(value, row.unit))
        for value in (row.base, row.candidate)
    ]
    where = [_where(row, varying)] if varying else []
    if narrow:
        return [row.metric, *(shown for shown, _ in sides), *where, share, verdict]
    bar = styled(_bar(abs(row.change_relative or 0.0), largest), style)
    return [
        row.metric,
        *sides[0],
        *sides[1],
        _change(row, units),
        share,
        bar,
        *where,
        "" if row.budget is None else units.show(row.budget, row.unit),
        verdict,
    ]


def _change(row: MetricChange, units: Units) -> str:
    if row.change is None:
        return ""
    return ("+" if row.change > 0 else "") + units.show(row.change, row.unit)


def _where(row: MetricChange, varying: Collection[str]) -> str:
    """Return in which exercise a row is, by what tells the exercises apart."""
    parts = {
        "subject": row.subject,
        "parameters": row.parameters,
        "drill": row.drill,
        "frame_rate": f"{row.frame_rate:.4g}/s",
    }
    return " ".join(part for name, part in parts.items() if name in varying and part)


def _varying(rows: Sequence[MetricChange]) -> list[str]:
    names = ("subject", "parameters", "drill", "frame_rate")
    return [name for name in names if len({getattr(row, name) for row in rows}) > 1]


def _bar(size: float, largest: float) -> str:
    """Return a bar of blocks, as long as a change is large beside the largest."""
    if not largest:
        return ""
    eighths = round(8 * _BAR * size / largest)
    full, part = divmod(eighths, 8)
    return "█" * full + (_EIGHTHS[part] if part else "")


def _parameters(result: Comparison, own: Mapping[str, str]) -> "Table":
    more = ["in the code"] if own else []
    table = empty_table("changed parameter", result.base, result.candidate, *more)
    for item in result.parameters:
        cells = [item.name, as_written(item.base), as_written(item.candidate)]
        table.add_row(*cells, *([own.get(item.name, "")] if own else []))
    return table
