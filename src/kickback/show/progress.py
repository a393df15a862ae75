"""How far a long list is, on standard error and only on a terminal."""

import sys
from collections.abc import Iterable, Sequence
from typing import TypeVar

__all__ = ["tracked"]

_LONG = 8
"""Files from which a bar is worth showing."""

T = TypeVar("T")


def tracked(items: Sequence[T], what: str = "reading takes") -> Iterable[T]:
    """Go through items, with a bar that vanishes at the end where there are many of them."""
    if len(items) < _LONG or not sys.stderr.isatty():
        yield from items
        return
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

    from kickback.show.terminal import SafeConsole

    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn())
    console = SafeConsole(stderr=True)
    with Progress(*columns, console=console, transient=True) as progress:
        yield from progress.track(items, description=what)
