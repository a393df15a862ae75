"""Constants at another frame rate as a table."""

from typing import Any

from kickback.show.console import Printer
from kickback.show.tables import empty_table
from kickback.takes.numerals import plain
from kickback.workflows.retiming import Retiming

__all__ = ["retimed_records", "show_retimed"]


def show_retimed(printer: Printer, result: Retiming) -> None:
    """Print each constant before and after, and how to write it."""

    def build(narrow: bool) -> Any:
        short = narrow and bool(result.own)  # the game's own names say it more shortly
        headings = ["name", "before", "after", "in your code"] if short else [
            "name", "kind", "before", "after", *(["in your code"] if result.own else []), "in code"
        ]  # fmt: skip
        table = empty_table(*headings)
        for column in table.columns[3 if short else 4 :]:
            column.justify = "left"
        for row in result.rows:
            after = f"{plain(row.result)} {row.unit}".strip()
            own = [result.own[row.name].text if row.name in result.own else ""]
            if short:
                table.add_row(row.name, plain(row.value), after, *own)
            else:
                cells = [row.name, row.kind, plain(row.value), after]
                table.add_row(*cells, *(own if result.own else []), row.how)
        return table

    if result.rows:
        printer.table(build)
    else:
        printer.line("No constant here goes with the frame rate.")
    for why in dict.fromkeys(result.left.values()):
        names = ", ".join(name for name, reason in result.left.items() if reason == why)
        printer.line(f"left as they are: {names}: {why}")


def retimed_records(result: Retiming) -> list[dict[str, Any]]:
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
