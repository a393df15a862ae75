"""Comparisons as tables."""

from typing import Any

from kickback.judging.compare import Comparison, MetricChange
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, empty_table, notes, styled

__all__ = ["show_comparison"]


ORDER = ("lost", "regressed", "closer", "cannot-tell", "new", "moved", "same")
"""Verdicts, worst first."""


def show_comparison(printer: Printer, result: Comparison, units: Units) -> None:
    """Print changed parameters, then changed metrics, worst first."""
    printer.line(f"{result.base} → {result.candidate}", style="bold")
    if result.parameters:
        printer.table(lambda narrow: _parameters(result))  # noqa: ARG005 - one width only
    bad = [row for row in result.rows if row.verdict in {"regressed", "lost"}]
    count = len(result.rows)
    if bad:
        printer.line(f"{len(bad)} of {count} metrics moved beyond their budget.", "bold red")
    else:
        printer.line(f"All {count} metrics are within their budgets.", "green")
    rows = sorted(result.rows, key=lambda row: ORDER.index(row.verdict))

    def build(narrow: bool) -> Any:
        sides = (result.base, result.candidate)
        headings = sides if narrow else (sides[0], " ", sides[1], " ", "change")
        more = () if narrow else ("budget",)
        table = empty_table("metric", *headings, "" if not narrow else "change", *more, "verdict")
        for row in rows:
            table.add_row(*_cells(row, units, narrow=narrow))
        return table

    printer.table(build)
    printer.line(units.note(row.unit for row in rows), style="dim")
    notes(printer, [(row.metric, row.reason) for row in result.rows if row.reason])


def _parameters(result: Comparison) -> Any:
    table = empty_table("changed parameter", result.base, result.candidate)
    for item in result.parameters:
        table.add_row(item.name, _value(item.base), _value(item.candidate))
    return table


def _cells(row: MetricChange, units: Units, *, narrow: bool) -> list[Any]:
    moved = row.change is not None and row.verdict != "same"
    relative = row.change_relative if moved else None
    share = "" if relative is None else f"{relative:+.1%}"
    verdict = styled(row.verdict, VERDICT_STYLES[row.verdict])
    sides = [units.show(value, row.unit) for value in (row.base, row.candidate)]
    if narrow:
        return [row.metric, *sides, share, verdict]
    also = [units.also(value, row.unit) for value in (row.base, row.candidate)]
    sign = "+" if (row.change or 0.0) > 0 else ""
    change = sign + units.show(row.change, row.unit) if moved else ""
    budget = "" if row.budget is None else units.show(row.budget, row.unit)
    return [row.metric, sides[0], also[0], sides[1], also[1], change, share, budget, verdict]


def _value(value: object) -> str:
    if value is None:
        return "—"
    return f"{value:g}" if isinstance(value, float) else str(value)
