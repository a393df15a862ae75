"""Comparisons as tables."""

from typing import Any

from kickback.comparison.compare import Comparison, MetricChange
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, empty_table, notes, styled

__all__ = ["show_comparison"]


def show_comparison(printer: Printer, result: Comparison, units: Units) -> None:
    """Print changed parameters, then changed metrics, worst first."""
    printer.line(f"{result.base} → {result.candidate}", style="bold")
    if result.parameters:
        table = empty_table("changed parameter", result.base, result.candidate)
        for item in result.parameters:
            table.add_row(item.name, _value(item.base), _value(item.candidate))
        printer.table(table)
    bad = [row for row in result.rows if row.verdict in {"regressed", "lost"}]
    count = len(result.rows)
    if bad:
        printer.line(f"{len(bad)} of {count} metrics moved beyond their budget.", "bold red")
    else:
        printer.line(f"All {count} metrics are within their budgets.", "green")
    order = ("lost", "regressed", "closer", "cannot-tell", "new", "moved", "same")
    table = empty_table("metric", result.base, result.candidate, "change", "", "budget", "verdict")
    for row in sorted(result.rows, key=lambda row: order.index(row.verdict)):
        table.add_row(*_change_cells(row, units))
    printer.table(table)
    notes(printer, [(row.metric, row.reason) for row in result.rows if row.reason])


def _change_cells(row: MetricChange, units: Units) -> list[Any]:
    change = ""
    if row.change is not None:
        sign = "+" if row.change > 0 else ""
        change = sign + units.show(row.change, row.unit, extra=False)
    relative = "" if row.change_relative is None else f"{row.change_relative:+.1%}"
    if row.verdict == "same":
        change = relative = ""
    return [
        row.metric,
        units.show(row.base, row.unit),
        units.show(row.candidate, row.unit),
        change,
        relative,
        "" if row.budget is None else units.show(row.budget, row.unit, extra=False),
        styled(row.verdict, VERDICT_STYLES[row.verdict]),
    ]


def _value(value: object) -> str:
    if value is None:
        return "—"
    return f"{value:g}" if isinstance(value, float) else str(value)
