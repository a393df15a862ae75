"""What tables share: an empty table, verdicts' colours, notes below."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, TypeAlias

from kickback.show.console import Printer
from kickback.show.visible import visible

if TYPE_CHECKING:
    from rich.table import Table
    from rich.text import Text

Cell: TypeAlias = "str | Text"
"""What stands in a cell of a table."""

__all__ = [
    "VERDICT_STYLES",
    "Cell",
    "absent_groups",
    "empty_table",
    "few",
    "notes",
    "styled",
]

VERDICT_STYLES = {
    "steady": "green",
    "same": "green",
    "met": "green",
    "changed": "cyan",
    "moved": "cyan",
    "closer": "cyan",
    "new": "cyan",
    "drifts": "yellow",
    "cannot-tell": "yellow",
    "breaks": "bold red",
    "regressed": "bold red",
    "missed": "bold red",
    "lost": "yellow",
}


def empty_table(*headings: str) -> "Table":
    """Return an empty table: the first column is text, the others are figures.

    A heading of one space is a column that belongs to the one before and is dimmed.
    """
    from rich import box
    from rich.table import Table

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    for number, heading in enumerate(headings):
        table.add_column(
            heading,
            justify="right" if number else "left",
            no_wrap=number == 0,
            style="dim" if heading == " " else None,
        )
    return table


def styled(text: str, style: str = "") -> "Text":
    """Return text in a style."""
    from rich.text import Text

    return Text(visible(text), style=style)


def few(names: Sequence[str]) -> str:
    """Return names joined; whole groups by ``group.*``."""
    groups: dict[str, list[str]] = {}
    for name in names:
        groups.setdefault(
            name.split(".")[0] + ("" if " (" not in name else name.partition(" ")[2]), []
        ).append(name)
    shown = []
    for members in groups.values():
        if len(members) > 3:
            take = members[0].partition(" ")[2]
            shown.append(f"{members[0].split('.')[0]}.*" + (f" {take}" if take else ""))
        else:
            shown += members
    return ", ".join(shown)


def absent_groups(reasons: Sequence[tuple[str, str | None]]) -> list[str]:
    """Return groups that were not played, of those of one name that lack the same thing one.

    ``reasons``: the group of each metric, with why it is not there: the first of a group counts.
    An air jump's metrics and an air hop's lack one jump.
    """
    first: dict[str, str | None] = {}
    for group, reason in reasons:
        first.setdefault(group, reason)
    found: dict[tuple[str, str | None], str] = {}
    for group, reason in first.items():
        found.setdefault((group.rpartition("_")[0] or group, reason), group)
    return list(found.values())


def notes(printer: Printer, reasons: Sequence[tuple[str, str | None]]) -> None:
    """Print reasons, each once, with the names that share it."""
    grouped: dict[str, list[str]] = {}
    for name, reason in reasons:
        for part in (reason or "").split("; "):
            grouped.setdefault(part, []).append(name)
    for reason, names in grouped.items():
        printer.line(f"{few(list(dict.fromkeys(names)))}: {reason}", style="dim")
