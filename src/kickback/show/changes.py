"""What other values change in the metrics of played takes."""

from collections.abc import Sequence
from itertools import groupby
from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.tables import empty_table
from kickback.workflows.simulating import ChangedMetric

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["show_changes"]


def show_changes(printer: Printer, rows: Sequence[ChangedMetric]) -> None:
    """Print the metrics that changed, take by take, with how much; a line where none did."""
    if not rows:
        printer.line("no metric changes")
    for take, many in groupby(rows, key=lambda row: row.take):
        found = list(many)
        printer.line(f"what that changes at {found[0].rate:g} frames/s ({take})", style="bold")
        printer.table(lambda _, found=found: _table(found))  # type: ignore[misc]


def _table(rows: Sequence[ChangedMetric]) -> "Table":
    table = empty_table("metric", "before", "after", " ", "change")
    for row in rows:
        share = ""
        if row.before and row.after is not None:
            share = f"{row.after / row.before - 1:+.1%}"
        table.add_row(row.metric, _number(row.before), _number(row.after), str(row.unit), share)
    return table


def _number(value: float | None) -> str:
    return "—" if value is None else f"{value:.4g}"
