"""A fitted game: its numbers, and how far the model runs apart from it."""

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.tables import empty_table, styled
from kickback.takes.numerals import plain
from kickback.takes.plain import PlainDict
from kickback.tuning.fit.record import Divergence, Fitted, MetricApart
from kickback.workflows.fitting import unit_of
from kickback.workflows.own_names import InCode

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["fitted_records", "show_fitted"]

_NOTED = 0.01
"""Share by which a metric may differ and not be named."""

_NAMED = 6
"""Metrics that are named, the farthest apart first."""


def show_fitted(printer: Printer, result: Fitted, own: Mapping[str, InCode]) -> None:
    """Print the parameters with their errors, what is left out, and how far the model differs.

    ``own`` are those that the game has names of its own for.
    """
    printer.table(lambda narrow: _numbers(result, own, narrow))
    for one in result.none:
        printer.paragraph(f"taken for none, {one.reason}: {', '.join(one.names)}")
    for one in result.unread:
        printer.paragraph(f"left out, {one.reason}: {', '.join(one.names)}")
    if result.mistakes:
        printer.paragraph(
            f"mistakes, as the frame rates show: {', '.join(result.mistakes)}"
            f" (its constants are those of {result.rate:.4g} frames/s)"
        )
    printer.line()
    printer.line("the same inputs through the model", style="bold")
    printer.table(lambda _: _apart(result.divergence))
    for text in dict.fromkeys(one.missing for one in result.divergence if one.missing):
        printer.paragraph(f"not played: {text}")
    _metrics(printer, result.metrics)
    fits = "The model plays these takes as the game does, within what their digits tell."
    printer.line(
        fits if result.fits else "The model does not play these takes as the game does.",
        style="green" if result.fits else "bold red",
    )


def _numbers(result: Fitted, own: Mapping[str, InCode], narrow: bool) -> "Table":
    more = ["in the code"] if own else []
    table = empty_table(
        "parameter", "value", "±", " ", *more, "from", *([] if narrow else ["note"])
    )
    for column in table.columns[4:]:
        column.justify = "left"
    for one in result.numbers:
        shown = one.value if isinstance(one.value, str) else plain(float(one.value))
        error = "" if one.stderr is None else f"{one.stderr:.1g}"
        cells = [one.name, str(shown), error, unit_of(result, one.name)]
        cells += [own[one.name].text if one.name in own else ""] if own else []
        cells.append(one.source)
        table.add_row(*cells, *([] if narrow else [styled(one.note, "dim")]))
    return table


def _apart(rows: Sequence[Divergence]) -> "Table":
    table = empty_table("take", "column", "usual", "largest", " ", "at", "while", "")
    for column in table.columns[6:]:
        column.justify = "left"
    for take, many in groupby(rows, key=lambda row: row.take):
        for number, row in enumerate(many):
            where = (f"{row.time:.2f} s", row.phase) if row.largest > 0 else ("", "")
            word = styled("alike", "green") if row.within else styled("apart", "bold red")
            table.add_row(
                take if number == 0 else "",
                row.column,
                f"{row.usual:.2g}",
                f"{row.largest:.2g}",
                str(row.unit),
                *where,
                word,
            )
    return table


def _metrics(printer: Printer, rows: Sequence[MetricApart]) -> None:
    """Say how many metrics agree, and name those that are farthest apart."""
    off = sorted((row for row in rows if _differs(row)), key=lambda row: -row.share)
    printer.line(f"{len(rows) - len(off)} of {len(rows)} metrics are within {_NOTED:.0%} or alike")
    for row in off[:_NAMED]:
        unit = f" {row.unit}" if str(row.unit) else ""
        other = "none" if row.model is None else f"{row.model:.4g}"
        printer.line(f"  {row.metric}: {row.own:.4g}{unit} in {row.take}, {other} in the model")
    if len(off) > _NAMED:
        printer.line(f"  and {len(off) - _NAMED} more")


def _differs(row: MetricApart) -> bool:
    if row.model is None:
        return True
    return row.share > _NOTED and abs(row.model - row.own) > row.resolution


def _numbers_told(result: Fitted) -> list[PlainDict]:
    return [
        {
            "kind": "parameter",
            "name": one.name,
            "value": one.value,
            "source": one.source,
            "unit": unit_of(result, one.name),
            "stderr": one.stderr,
            "reason": one.note or None,
            "low": one.between[0] if one.between else None,
            "high": one.between[1] if one.between else None,
        }
        for one in result.numbers
    ]


def _not_told(result: Fitted) -> list[PlainDict]:
    """Return records of what is unread, and of what of that is taken for none."""
    return [
        {"kind": kind, "name": name, "reason": one.reason}
        for kind, parts in (("unread", result.unread), ("taken for none", result.none))
        for one in parts
        for name in one.names
    ]


def fitted_records(result: Fitted) -> list[PlainDict]:
    """Return a flat record for each parameter, each unread one, each column and each metric."""
    empty: PlainDict = dict.fromkeys(
        (
            "kind",
            "name",
            "take",
            "value",
            "unit",
            "stderr",
            "low",
            "high",
            "usual",
            "largest",
            "time",
            "model",
            "within",
            "source",
            "reason",
        )
    )
    rows = [*_numbers_told(result), *_not_told(result)]
    rows += [{"kind": "mistake", "name": name} for name in result.mistakes]
    rows += [
        {
            "kind": "column",
            "name": one.column,
            "take": one.take,
            "unit": str(one.unit),
            "usual": one.usual,
            "largest": one.largest,
            "time": one.time,
            "within": one.within,
            "reason": one.missing or None,
        }
        for one in result.divergence
    ]
    rows += [
        {
            "kind": "metric",
            "name": one.metric,
            "take": one.take,
            "value": one.own,
            "unit": str(one.unit),
            "model": one.model,
            "within": not _differs(one),
        }
        for one in result.metrics
    ]
    return [empty | row for row in rows]
