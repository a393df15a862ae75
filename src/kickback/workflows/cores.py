"""Work on many takes, spread over the cores where that pays."""

import os
import signal
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from types import TracebackType
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from concurrent.futures import ProcessPoolExecutor

__all__ = ["MANY", "Cores", "usable"]

T = TypeVar("T")
R = TypeVar("R")

_PART = 8
"""Parts that each process gets, so that none waits long for the last."""

_TOGETHER = 25
"""Things that a process gets at a time, at most."""


_LONG = 400_000
"""Frames from which fewer takes are worth several processes."""

MANY = 40
"""Takes that are: as many as are read and measured while the processes begin."""


def usable() -> int:
    """Return how many cores this process may use."""
    if hasattr(os, "sched_getaffinity"):
        return len(os.sched_getaffinity(0))
    return os.cpu_count() or 1


class Cores:
    """As many processes as there is work for, begun when the first work pays, ended at the end."""

    def __init__(self, many: int) -> None:
        self._many, self._begun = many, False

    def __enter__(self) -> "Cores":
        """Begin nothing yet."""
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        """End the processes; work that nobody waits for any more is dropped."""
        if self._begun:
            self._pool.shutdown(wait=kind is None, cancel_futures=True)

    @cached_property
    def _pool(self) -> "ProcessPoolExecutor":
        # loaded where it is needed: most calls read one take
        from concurrent.futures import ProcessPoolExecutor
        from multiprocessing import get_context

        self._begun = True
        # begun anew, not forked: a bar's thread may hold a lock
        return ProcessPoolExecutor(self._many, mp_context=get_context("spawn"), initializer=_deaf)

    def pay(self, frames: Sequence[int]) -> bool:
        """Whether takes of so many frames are worth the processes."""
        return self._many > 1 and (len(frames) >= MANY or sum(frames) >= _LONG)

    def each(
        self,
        function: Callable[[T], R],
        items: Sequence[T],
        *,
        pays: bool,
        together: int = _TOGETHER,
    ) -> Iterator[R]:
        """Apply a function to each of some things, in their order; here where it does not pay.

        A process gets so many of them ``together``, at most.
        """
        if self._many < 2 or len(items) < 2 or not pays:
            return map(function, items)
        part = max(1, min(together, len(items) // (_PART * self._many)))
        return self._pool.map(function, items, chunksize=part)


def _deaf() -> None:
    """Leave Ctrl-C to the process that began this one."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
