"""Wishes and what becomes of them, as a table; wishes that exclude each other, in words."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.numbers import Units, as_written
from kickback.show.tables import Cell, empty_table, styled
from kickback.takes.numerals import plain
from kickback.takes.plain import PlainDict
from kickback.tuning.solve.record import Conflict, Got, Solution
from kickback.workflows.own_names import InCode

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["show_solution", "solution_records"]

_OFF = 0.01
"""Share by which a wish may be missed at another rate and not be marked."""


def show_solution(
    printer: Printer, result: Solution, units: Units, own: Mapping[str, InCode]
) -> None:
    """Print the parameters that were set, and what becomes of each wish at each rate.

    ``own`` are those that the game has names of its own for.
    """
    if result.conflict is not None:
        _conflict(printer, result.conflict)
        return
    if result.changed:
        printer.table(lambda _: _parameters(result, own))
    if result.free:
        text = ", ".join(f"{name} {as_written(result.values[name])}" for name in result.free)
        printer.paragraph(f"left as they are, though the wishes could be had by them too: {text}")
    printer.table(lambda _: _wishes(result, units))
    for one in result.got:
        if one.residual > 1e-9:
            printer.paragraph(_missed(one, result.rate), style="bold red")
    if not result.nearest:
        printer.line(f"All wishes are fulfilled at {result.rate:g} frames/s.", style="green")


def _parameters(result: Solution, own: Mapping[str, InCode]) -> "Table":
    table = empty_table("parameter", "before", "now", *(["in the code"] if own else []))
    for name, before in result.changed.items():
        cells = [name, as_written(before), plain(float(result.values[name]))]
        cells += [own[name].text if name in own else ""] if own else []
        table.add_row(*cells)
    return table


def _wishes(result: Solution, units: Units) -> "Table":
    rates = list(result.got[0].by_rate)
    table = empty_table(
        "wish",
        "wanted",
        " ",
        "before",
        f"{result.rate:g} exactly",
        *(f"at {rate:g}" for rate in rates),
    )
    for one in result.got:
        also = units.also(one.wanted, one.unit)
        table.add_row(
            one.metric,
            f"{plain(one.wanted)} {one.unit}".strip(),
            also,
            _number(one.before),
            _number(one.solved),
            *(_marked(value, one.wanted) for value in one.by_rate.values()),
        )
    return table


def _number(value: float | None) -> str:
    return "—" if value is None else plain(value)


def _marked(value: float | None, wanted: float) -> Cell:
    """Return a value, marked where it is off by more than a little."""
    if value is None:
        return styled("—", "yellow")
    off = value / wanted - 1
    return plain(value) if abs(off) <= _OFF else styled(f"{plain(value)} ({off:+.0%})", "yellow")


def _missed(one: Got, rate: float) -> str:
    if one.solved is None:
        return f"{one.metric} cannot be had: a take of it does not show it"
    return (
        f"{one.metric} = {plain(one.wanted)} {one.unit} cannot be had at {rate:g} frames/s; nearest"
        f" is {plain(one.solved)}: nothing leads on from there, or a frame more or less leaps over"
    )


def _conflict(printer: Printer, conflict: Conflict) -> None:
    """Say which wishes exclude each other, and what each way out gives."""
    wishes = _listed(conflict.wishes)
    many = len(conflict.wishes) > 1
    text = f"{wishes} exclude each other: they are" if many else f"{wishes} cannot be had: it is"
    by = f"{_listed(conflict.knobs)} alone" if conflict.knobs else "nothing that this model has"
    text += f" had by {by}"
    if conflict.kept:
        text += f", and you keep {_listed(conflict.kept)}"
    printer.paragraph(f"{text}. Give up one:", style="bold red")
    for one in conflict.choices:
        wanted = f"{plain(one.wanted)} {one.unit}".strip()
        if one.kept:
            ends = "it would not be enough to free it"
            if one.becomes is not None:
                ends = f"at {plain(one.becomes)} all wishes are fulfilled"
            printer.paragraph(f"{one.name}, kept at {wanted}: {ends}", indent=2)
            continue
        ends = "the others cannot be had without it either"
        if one.becomes is not None:
            ends = f"it becomes {plain(one.becomes)} {one.unit}".strip()
        printer.paragraph(f"{one.name} = {wanted}: {ends}", indent=2)


def _listed(names: Sequence[str]) -> str:
    *some, last = names
    return f"{', '.join(some)} and {last}" if some else last


def solution_records(result: Solution) -> list[PlainDict]:
    """Return a flat record for each parameter, each wish at each rate, and each way out."""
    empty: PlainDict = dict.fromkeys(
        ("kind", "name", "unit", "rate", "wanted", "before", "value", "residual")
    )
    rows: list[PlainDict] = [
        {"kind": "parameter", "name": name, "before": before, "value": result.values[name]}
        for name, before in result.changed.items()
    ]
    for one in result.got:
        base = {"kind": "wish", "name": one.metric, "unit": str(one.unit), "wanted": one.wanted}
        if result.conflict is None:
            rows.append(
                base
                | {
                    "rate": result.rate,
                    "before": one.before,
                    "value": one.solved,
                    "residual": one.residual,
                }
            )
            rows += [
                base | {"kind": "at rate", "rate": rate, "value": value}
                for rate, value in one.by_rate.items()
            ]
    for way in result.conflict.choices if result.conflict is not None else ():
        rows.append(
            {
                "kind": "kept" if way.kept else "given up",
                "name": way.name,
                "unit": way.unit,
                "wanted": way.wanted,
                "value": way.becomes,
            }
        )
    return [empty | row for row in rows]
