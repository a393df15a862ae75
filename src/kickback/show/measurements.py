"""Measurements as tables."""

from collections.abc import Sequence
from typing import Any

from kickback.metrics.record import Measurement, Measurements
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import empty_table, notes
from kickback.takes.quantities import Unit

__all__ = ["show_each", "show_measurements"]


def show_measurements(printer: Printer, measured: Sequence[Measurements], units: Units) -> None:
    """Print metrics, a column a take; what no take shows is left to the notes."""
    columns = [item.by_metric() for item in measured]
    rows = [[column[name] for column in columns] for name in columns[0]]
    known = [cells for cells in rows if any(cell.value is not None for cell in cells)]
    printer.table(lambda narrow: _table(known or rows[:1], units, narrow=narrow))
    printer.line(units.note(row.unit for item in measured for row in item), style="dim")
    for text in _doubts(measured):
        printer.line(text, style="dim")
    notes(printer, [reason for cells in rows for reason in _reasons(cells)])


def _table(rows: Sequence[Sequence[Measurement]], units: Units, *, narrow: bool) -> Any:
    """Return the table of measurements; a narrow one has no frames and tiles."""
    takes = [cell.take for cell in rows[0]]
    headings = [name for take in takes for name in ((take,) if narrow else (take, " "))]
    alone = len(takes) == 1
    doubted = alone and any(cells[0].ideal_resolution is not None for cells in rows)
    located = ("±", "could be", "n") if doubted else ("±", "n")
    table = empty_table("metric", *headings, *(located if alone else ()))
    for cells in rows:
        shown = []
        for cell in cells:
            shown.append(units.show(cell.value, cell.unit))
            if not narrow:
                shown.append(units.also(cell.value, cell.unit))
        if alone:
            ideal = cells[0].ideal_resolution
            shown.append(_located(cells[0].resolution, cells[0].unit, units))
            shown += [_located(ideal, cells[0].unit, units)] if doubted else []
            shown.append(str(cells[0].n))
        table.add_row(cells[0].metric, *shown)
    return table


def _doubts(measured: Sequence[Measurements]) -> list[str]:
    """Return, for each take, what makes its metrics less certain, and by how much at most."""
    found = []
    for item in measured:
        wide = [row for row in item if row.ideal_resolution is not None]
        if wide:
            why = ", ".join(dict.fromkeys(text for row in wide for text in row.doubts))
            found.append(
                f"± of {wide[0].take} is wider than it could be, in {len(wide)} metrics: {why}."
            )
    return found


def _located(resolution: float | None, unit: Unit, units: Units) -> str:
    if resolution is None:
        return ""
    return units.show(resolution, unit) if resolution else "exact"


def _reasons(cells: Sequence[Measurement]) -> list[tuple[str, str | None]]:
    """Return names and reasons; the take's name is added where takes differ."""
    if len({cell.reason for cell in cells}) == 1:
        return [(cells[0].metric, cells[0].reason)] if cells[0].reason else []
    return [(f"{cell.metric} ({cell.take})", cell.reason) for cell in cells if cell.reason]


def show_each(printer: Printer, measured: Sequence[Measurements], units: Units) -> None:
    """Print every occurrence with its start and end."""
    records = [record for item in measured for record in item.to_records(each=True)]

    def build(narrow: bool) -> Any:
        table = empty_table("metric", "take", "start", "end", "value", " ", "±")
        for record in records:
            value, unit = record["value"], record["unit"]
            if value is not None:
                table.add_row(
                    record["metric"],
                    record["take"],
                    f"{record['start']:.3f} s",
                    f"{record['end']:.3f} s",
                    units.show(value, unit),
                    "" if narrow else units.also(value, unit),
                    _located(record["resolution"], unit, units),
                )
        return table

    printer.table(build)
    printer.line(units.note(record["unit"] for record in records), style="dim")
