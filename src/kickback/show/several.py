"""Several sides beside each other in text, and repeats of one."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from kickback.judging.compare import MetricChange
from kickback.judging.repeating import Repeats
from kickback.show.chain import parting
from kickback.show.comparison import QUIET, count_of
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, Cell, empty_table, few, styled
from kickback.takes.quantities import Unit
from kickback.workflows.comparing import Several

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["show_repeats", "show_several"]


def show_several(printer: Printer, several: Several, units: Units) -> None:
    """Print three or more sides: the first is the base, one column each, and what is nearest."""
    results = [one.result for one in several.found]
    names = [results[0].base, *(result.candidate for result in results)]
    printer.line(f"{names[0]} against {', '.join(names[1:])}", style="bold")
    for one in several.found:
        printer.paragraph(f"{one.result.candidate}: {one.words}")
    _table(printer, names, [{row.metric: row for row in result.worst} for result in results], units)
    for result in results:
        text = f"{result.candidate}: {count_of(result)}"
        printer.line(text, "bold red" if result.failed else "")
    for near in several.nearest:
        target, value = (units.show(one, near.unit) for one in (near.target, near.value))
        printer.line(f"nearest to {near.metric} of {target}: {near.side} with {value}", "cyan")


def _table(
    printer: Printer,
    names: Sequence[str],
    sides: Sequence[Mapping[str, MetricChange]],
    units: Units,
) -> None:
    """Print the metrics that moved on any side, and name the others."""
    first = {name: row for side in reversed(sides) for name, row in side.items()}
    told = _moved_metrics(sides)
    moved = [name for name in first if name in told]
    if moved:
        printer.table(lambda narrow: _built(names, sides, moved, units))  # noqa: ARG005
    quiet = [name for name in first if name not in told]
    if quiet:
        printer.paragraph(f"as before in all: {few(quiet)}", "green")


def _moved_metrics(sides: Sequence[Mapping[str, MetricChange]]) -> set[str]:
    return {row.metric for side in sides for row in side.values() if row.verdict not in QUIET}


def _built(
    names: Sequence[str],
    sides: Sequence[Mapping[str, MetricChange]],
    moved: Sequence[str],
    units: Units,
) -> "Table":
    """Return the table of metrics, a column and its change for each side after the base."""
    table = empty_table("metric", names[0], *(part for name in names[1:] for part in (name, " ")))
    for metric in moved:
        rows = [side.get(metric) for side in sides]
        unit = next(row.unit for row in rows if row is not None)
        table.add_row(metric, *_cells(unit, rows, units))
    return table


def _cells(unit: Unit, rows: Sequence[MetricChange | None], units: Units) -> list[Cell]:
    base = next((row.base for row in rows if row is not None), None)
    cells: list[Cell] = [units.show(base, unit)]
    for row in rows:
        cells += [units.show(row.candidate if row else None, unit), _share(row)]
    return cells


def _share(row: MetricChange | None) -> Cell:
    if row is None or row.change_relative is None:
        return ""
    style = "bold red" if row.fails else VERDICT_STYLES[row.verdict]
    return styled(f"{row.change_relative + 0.0:+.1%}", style)


def show_repeats(printer: Printer, found: Sequence[Repeats], units: Units) -> None:
    """Print whether the game is deterministic, and how wide each metric's noise is."""
    for one in found:
        printer.line(f"{one.exercise}: {one.takes} takes", style="bold")
        if one.deterministic is None:
            text = "No two were fed the same inputs and frame times, so the noise is that of hands."
        elif one.deterministic:
            text = f"Deterministic: {one.alike} of {one.alike} pairs fed the same are equal."
        else:
            unequal = one.alike - one.equal
            text = f"Not deterministic: {unequal} of {one.alike} pairs fed the same differ."
        printer.paragraph(text, "green" if one.deterministic else "yellow")
        if one.first is not None:
            printer.paragraph(parting(one.first))

        def build(narrow: bool, own: Repeats = one) -> "Table":
            del narrow
            table = empty_table("metric", "value", "noise ±", "%", "takes")
            for row in sorted(own.noise, key=lambda row: -(row.share or 0.0)):
                share = "" if row.share is None else f"{row.share:.2%}"
                table.add_row(
                    row.metric,
                    units.show(row.value, row.unit),
                    units.show(row.width, row.unit),
                    share,
                    str(row.takes),
                )
            return table

        printer.table(build)
    printer.line("noise: within this one more take lies in 95 % of cases", style="dim")
