"""Constants at another frame rate as a table."""

from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.tables import empty_table
from kickback.takes.numerals import plain
from kickback.takes.plain import PlainDict
from kickback.workflows.retiming import Retiming

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["retimed_records", "show_retimed"]


def show_retimed(printer: Printer, result: Retiming) -> None:
    """Print each constant before and after, and how to write it."""

    def build(narrow: bool) -> "Table":
        columns = _columns(result, narrow=narrow)
        table = empty_table(*columns)
        for column in table.columns:
            if str(column.header) in {"in your code", "in code"}:
                column.justify = "left"
        for cells in zip(*columns.values(), strict=True):
            table.add_row(*cells)
        return table

    if result.rows:
        printer.table(build)
    else:
        printer.line("No constant here goes with the frame rate.")
    for why in dict.fromkeys(result.left.values()):
        names = ", ".join(name for name, reason in result.left.items() if reason == why)
        printer.line(f"left as they are: {names}: {why}")


def _columns(result: Retiming, *, narrow: bool) -> dict[str, list[str]]:
    """Return the table's columns by heading; where there is little room the game's own say it."""
    rows = result.rows
    out = {
        "name": [row.name for row in rows],
        "kind": [row.kind for row in rows],
        "before": [plain(row.value) for row in rows],
        "after": [f"{plain(row.result)} {row.unit}".strip() for row in rows],
    }
    if result.own:
        own = {name: one.text for name, one in result.own.items()}
        out["in your code"] = [own.get(row.name, "") for row in rows]
        if narrow:
            del out["kind"]
            return out
    return {**out, "in code": [row.how for row in rows]}


def retimed_records(result: Retiming) -> list[PlainDict]:
    """Return a flat record for each constant."""
    return [
        {
            "name": row.name,
            "kind": row.kind,
            "value": row.value,
            "result": row.result,
            "unit": row.unit,
            "how": row.how,
        }
        for row in result.rows
    ]
