"""The terminal: colour only there, plain lines elsewhere."""

import os
import sys
import textwrap
from collections.abc import Callable
from typing import TYPE_CHECKING

from kickback.show.visible import as_line

if TYPE_CHECKING:
    from rich.live import Live
    from rich.table import Table

__all__ = ["Printer"]


class Printer:
    """Prints lines and tables to standard output through Rich."""

    def __init__(self) -> None:
        """Take the terminal's width; elsewhere there is room for any table."""
        from kickback.show.terminal import SafeConsole

        self._bounded = sys.stdout.isatty() or "COLUMNS" in os.environ
        width = None if self._bounded else 1000
        self._console = SafeConsole(file=sys.stdout, width=width)

    @property
    def width(self) -> int:
        """Return how many characters fit a line."""
        return self._console.width

    def line(self, text: str = "", style: str | None = None) -> None:
        """Print one line, as it is."""
        self._console.print(as_line(text), style=style, soft_wrap=True)

    def paragraph(self, text: str, style: str | None = None, indent: int = 0) -> None:
        """Print a text in as many lines as it takes, broken between words."""
        width = max(40, min(118, self.width - indent - 1))
        for line in textwrap.wrap(as_line(text), width, break_long_words=False):
            self.line(" " * indent + line, style)

    def live(self) -> "Live":
        """Return a view that stays below what is printed, redrawn by its ``update``."""
        from rich.live import Live

        return Live(console=self._console, auto_refresh=False, transient=True)

    def table(self, build: Callable[[bool], "Table"]) -> None:
        """Print the Rich table that ``build`` returns.

        Where it is wider than the terminal, that of ``build(True)``, which leaves out what
        a reader can do without.
        """
        table = build(False)
        if self._bounded:
            wide = self._console.options.update(width=10_000)
            if self._console.measure(table, options=wide).maximum > self._console.width:
                table = build(True)
        self._console.print(table)
