"""Measurements as tables."""

from collections.abc import Sequence

from kickback.metrics.record import Measurements
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import empty_table, notes

__all__ = ["show_each", "show_measurements"]


def show_measurements(printer: Printer, measured: Sequence[Measurements], units: Units) -> None:
    """Print metrics, a column a take; what no take shows is left to the notes."""
    columns = [item.by_metric() for item in measured]
    takes = [next(iter(item)) for item in measured]
    if len(measured) == 1:
        table = empty_table("metric", takes[0].take, "±", "n")
    else:
        table = empty_table("metric", *(item.take for item in takes))
    said: list[tuple[str, str | None]] = []
    for name in columns[0]:
        cells = [column[name] for column in columns]
        shared = len({cell.reason for cell in cells}) == 1
        for cell in cells[:1] if shared else cells:
            if cell.reason:
                where = "" if shared else f" ({cell.take})"
                said.append((name + where, cell.reason))
        if all(cell.value is None for cell in cells):
            continue
        shown = [units.show(cell.value, cell.unit) for cell in cells]
        if len(cells) == 1:
            own = cells[0].resolution
            located = "exact" if not own else units.show(own, cells[0].unit, extra=False)
            table.add_row(name, shown[0], located, str(cells[0].n))
        else:
            table.add_row(name, *shown)
    printer.table(table)
    printer.line(units.note, style="dim")
    notes(printer, said)


def show_each(printer: Printer, measured: Sequence[Measurements], units: Units) -> None:
    """Print every occurrence with its start and end."""
    table = empty_table("metric", "take", "start", "end", "value", "±")
    for item in measured:
        for record in item.to_records(each=True):
            if record["value"] is None:
                continue
            table.add_row(
                record["metric"],
                record["take"],
                f"{record['start']:.3f} s",
                f"{record['end']:.3f} s",
                units.show(record["value"], record["unit"]),
                units.show(record["resolution"], record["unit"], extra=False)
                if record["resolution"]
                else "exact",
            )
    printer.table(table)
    printer.line(units.note, style="dim")
