"""How far a long list is, on standard error and only on a terminal."""

import sys
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from rich.progress import Progress, TaskID

__all__ = ["Counting", "tracked"]

_LONG = 8
"""Things from which a bar is worth showing."""

T = TypeVar("T")


def _bar() -> "Progress":
    """Return a bar with a count, on standard error, that vanishes at its end."""
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

    from kickback.show.terminal import SafeConsole

    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn())
    return Progress(*columns, console=SafeConsole(stderr=True), transient=True)


def tracked(items: Sequence[T], what: str = "reading takes") -> Iterable[T]:
    """Go through items, with a bar that vanishes at the end where there are many of them."""
    if len(items) < _LONG or not sys.stderr.isatty():
        yield from items
        return
    with _bar() as progress:
        yield from progress.track(items, description=what)


class Counting:
    """A bar that counts what is done, on a terminal alone; it vanishes when it is closed."""

    def __init__(self, what: str) -> None:
        self._what = what
        self._progress: Progress | None = None
        self._task: TaskID | None = None

    def told(self, done: int, total: int) -> None:
        """Show how much of how much is done."""
        if self._progress is None or self._task is None:
            if total < _LONG or not sys.stderr.isatty():
                return
            self._progress = _bar()
            self._progress.start()
            self._task = self._progress.add_task(self._what, total=total)
        self._progress.update(self._task, completed=done)

    def close(self) -> None:
        """Take the bar away."""
        if self._progress is not None:
            self._progress.stop()
