"""Measurements as tables."""

from collections.abc import Collection, Sequence
from functools import partial
from typing import TYPE_CHECKING

from kickback.metrics.by_speed import SpeedBin, by_speed
from kickback.metrics.record import Measurement, Measurements, Occurrences
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import absent_groups, empty_table, notes
from kickback.takes.numerals import plain
from kickback.takes.quantities import SPEED, Unit

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["show_each", "show_measurements"]


def show_measurements(
    printer: Printer,
    measured: Sequence[Measurements],
    units: Units,
    windows: Sequence[Measurement] = (),
    *,
    chosen: bool = False,
    left_out: Sequence[str] = (),
) -> None:
    """Print metrics, a column a take, group by group; what no take shows is left to the notes.

    ``windows`` are those that the takes narrow together. Where metrics were not ``chosen``,
    details are left out, and groups of which nothing was played are named in a closing line;
    so are those that were ``left_out``.
    """
    columns = [item.by_metric() for item in measured]
    rows = [[column[name] for column in columns] for name in columns[0]]
    shown = rows if chosen else [cells for cells in rows if not _is_detail(cells)]
    known = list(filter(_is_known, shown))
    printer.table(lambda narrow: _table(known or shown[:1], units, narrow=narrow))
    printer.line(units.note(_all_units(measured)), style="dim")
    _say_clock(printer, measured)
    for text in _doubts(measured):
        printer.line(text, style="dim")
    _say_together(printer, windows)
    played = {cells[0].group for cells in filter(_is_known, rows)}
    notes(printer, _reasons_of_groups(shown, None if chosen else played))
    if not chosen:
        _say_rest(printer, rows, played, left_out)


def _say_together(printer: Printer, windows: Sequence[Measurement]) -> None:
    """Say what several takes narrow together."""
    for row in windows:
        printer.line(f"{row.metric}, {row.take} together: {row.reason}")


def _reasons_of_groups(
    rows: Sequence[Sequence[Measurement]], groups: Collection[str] | None
) -> list[tuple[str, str | None]]:
    """Return names and reasons of the metrics of some groups, or of all."""
    chosen = [cells for cells in rows if groups is None or cells[0].group in groups]
    return [reason for cells in chosen for reason in _reasons(cells)]


def _say_rest(
    printer: Printer,
    rows: Sequence[Sequence[Measurement]],
    played: Collection[str],
    left_out: Sequence[str],
) -> None:
    """Say that there are details, and of which groups nothing was played."""
    printer.line(f"{', '.join(['details', *left_out])} with --all", style="dim")
    firsts = [cells[0] for cells in rows if cells[0].group not in played]
    absent = absent_groups([(one.group, one.reason) for one in firsts])
    if absent:
        where = "the take" if len(rows[0]) == 1 else "these takes"
        names = ", ".join(absent)
        printer.paragraph(f"not in {where}: {names} (--only GROUP says why)", style="dim")


def _say_clock(printer: Printer, measured: Sequence[Measurements]) -> None:
    """Say whose time durations are in, where it is not the wall clock's."""
    own = dict.fromkeys(row.take for item in measured for row in item if row.clock == "game")
    if own:
        text = f"durations of {', '.join(own)} are in the game's own time, the sum of dt"
        printer.line(text, style="dim")


def _is_detail(cells: Sequence[Measurement]) -> bool:
    return all(cell.detail for cell in cells)


def _is_known(cells: Sequence[Measurement]) -> bool:
    return any(cell.value is not None for cell in cells)


def _all_units(measured: Sequence[Measurements]) -> set[Unit]:
    return {row.unit for item in measured for row in item}


def _table(rows: Sequence[Sequence[Measurement]], units: Units, *, narrow: bool) -> "Table":
    """Return the table of measurements; a narrow one has no frames and tiles."""
    takes = [cell.take for cell in rows[0]]
    headings = takes if narrow else [name for take in takes for name in (take, " ")]
    alone = len(takes) == 1
    doubted = alone and any(cells[0].ideal_resolution is not None for cells in rows)
    located = _LOCATED[doubted] if alone else ()
    table = empty_table("metric", *headings, *located)
    for number, cells in enumerate(rows):
        if number and cells[0].group != rows[number - 1][0].group:
            table.add_row()
        table.add_row(cells[0].metric, *_cells(cells, units, narrow=narrow, doubted=doubted))
    return table


def _cells(cells: Sequence[Measurement], units: Units, *, narrow: bool, doubted: bool) -> list[str]:
    """Return a metric's row: its value in each take and, of one take alone, how surely."""
    shown = [text for cell in cells for text in _shown(cell, units, narrow=narrow)]
    return shown + (_how_surely(cells[0], units, doubted=doubted) if len(cells) == 1 else [])


_LOCATED = {False: ("±", "n"), True: ("±", "could be", "n")}


def _shown(cell: Measurement, units: Units, *, narrow: bool) -> list[str]:
    """Return a value, and the same in frames or tiles."""
    value = units.show(cell.value, cell.unit)
    return [value] if narrow else [value, units.also(cell.value, cell.unit)]


def _how_surely(cell: Measurement, units: Units, *, doubted: bool) -> list[str]:
    """Return how well a value is located, what that could be, and over how many."""
    ideal = [_located(cell.ideal_resolution, cell.unit, units)] if doubted else []
    return [_located(cell.resolution, cell.unit, units), *ideal, str(cell.n)]


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
    """Print every occurrence with its start and end, and what goes with the speed over it."""
    every = [
        (row, shown, k)
        for item in measured
        for row in item
        for shown in (row.occurrences, row.left_out)
        for k in range(len(shown.value))
    ]
    printer.table(lambda narrow: _each_table(every, units, narrow=narrow))
    for item in measured:
        _show_by_speed(printer, item)
    printer.line(units.note(_all_units(measured)), style="dim")
    _say_clock(printer, measured)


_Occurrence = tuple[Measurement, Occurrences, int]


def _each_table(every: Sequence[_Occurrence], units: Units, *, narrow: bool) -> "Table":
    """Return a row for each occurrence, without what none has, or what is known."""
    rows = [_each_row(*one, units) for one in every]
    dropped = {name for name in ("at", "left out") if not any(row[name] for row in rows)}
    if narrow:
        one_take = len({row["take"] for row in rows}) == 1
        dropped |= {" ", "take"} if one_take else {" "}
    kept = [name for name in _EACH if name not in dropped]
    table = empty_table(*kept)
    for row in rows:
        table.add_row(*(row[name] for name in kept))
    return table


_EACH = ("metric", "take", "start", "end", "value", " ", "±", "at", "left out")
"""What is told of an occurrence."""


def _each_row(row: Measurement, shown: Occurrences, k: int, units: Units) -> dict[str, str]:
    """Return what is told of an occurrence, by its heading."""
    value = float(shown.value[k])
    cells = (
        row.metric,
        row.take,
        f"{shown.start[k]:.3f} s",
        f"{shown.end[k]:.3f} s",
        units.show(value, row.unit),
        units.also(value, row.unit),
        _located(float(shown.resolution[k]), row.unit, units),
        _at(row, shown, k, units),
        shown.why[k] if shown.why else "",
    )
    return dict(zip(_EACH, cells, strict=True))


def _at(row: Measurement, shown: Occurrences, k: int, units: Units) -> str:
    """Return the speed that an occurrence was played at, where it is known."""
    speeds = shown.given.get(row.by)
    return "" if speeds is None else units.show(float(speeds[k]), _speed_of(row))


def _speed_of(row: Measurement) -> Unit:
    return SPEED.within(row.unit.length)


def _show_by_speed(printer: Printer, item: Measurements) -> None:
    """Print the medians of a take's metrics over bins of the speed, in blocks that fit."""
    bins = by_speed(item.rows)
    if not bins:
        return
    names = max(len(row.metric) for row in item.rows)
    per = max((printer.width - names - _UNIT_WIDE) // _BIN_WIDE, 1)
    for first in range(0, len(bins), per):
        block = bins[first : first + per]
        printer.table(partial(_speed_table, item, block))


_BIN_WIDE, _UNIT_WIDE = 13, 12
"""Columns of the terminal that a bin of speeds takes, and a unit with what is around it."""


def _speed_table(item: Measurements, bins: Sequence[SpeedBin], _narrow: bool) -> "Table":
    """Return a row for each metric that some of the bins show, and how many are in each."""
    take, unit = item.rows[0].take, _speed_of(item.rows[0])
    heads = [f"{one.low:g} to {one.high:g}" for one in bins]
    table = empty_table(f"{take}, at", *heads, str(unit))
    for row in item.rows:
        if any(row.metric in one.values for one in bins):
            table.add_row(row.metric, *(_in_bin(row, one) for one in bins), str(row.unit))
    return table


def _in_bin(row: Measurement, one: SpeedBin) -> str:
    many, value = one.counts.get(row.metric, 0), one.values.get(row.metric)
    if value is None:
        return "—"
    return plain(value) + (f" ({many})" if many > 1 else "")
