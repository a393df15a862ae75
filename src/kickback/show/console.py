"""The terminal: colour only there, plain lines elsewhere."""

import os
import sys
from collections.abc import Callable
from typing import Any

__all__ = ["Printer"]


class Printer:
    """Prints lines and tables to standard output through Rich."""

    def __init__(self) -> None:
        """Take the terminal's width; elsewhere there is room for any table."""
        from rich.console import Console

        self._bounded = sys.stdout.isatty() or "COLUMNS" in os.environ
        width = None if self._bounded else 1000
        self._console = Console(file=sys.stdout, width=width, highlight=False, emoji=False)

    @property
    def width(self) -> int:
        """Return how many characters fit a line."""
        return self._console.width

    def line(self, text: str = "", style: str | None = None) -> None:
        """Print a line as it is; words in brackets are text, not markup."""
        self._console.print(text, style=style, markup=False, soft_wrap=True)

    def live(self) -> Any:
        """Return a view that stays below what is printed, redrawn by its ``update``."""
        from rich.live import Live

        return Live(console=self._console, auto_refresh=False, transient=True)

    def table(self, build: Callable[[bool], Any]) -> None:
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
