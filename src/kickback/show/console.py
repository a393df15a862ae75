"""The terminal: colour only there, plain lines elsewhere."""

import os
import sys
from typing import Any

__all__ = ["Printer"]


class Printer:
    """Prints lines and tables to standard output through Rich."""

    def __init__(self) -> None:
        """Take the terminal's width; elsewhere wide enough for any table."""
        from rich.console import Console

        wide = None if sys.stdout.isatty() or "COLUMNS" in os.environ else 160
        self._console = Console(file=sys.stdout, width=wide, highlight=False, emoji=False)

    def line(self, text: str = "", style: str | None = None) -> None:
        """Print a line as it is; words in brackets are text, not markup."""
        self._console.print(text, style=style, markup=False, soft_wrap=True)

    def table(self, table: Any) -> None:
        """Print a Rich table."""
        self._console.print(table)
