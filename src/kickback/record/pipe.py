"""The pipe source: lines from a file descriptor, read in gulps and not one by one."""

import os
import selectors
import time
from collections.abc import Callable

from kickback.record.session import Session

__all__ = ["read_pipe"]

_GULP = 1 << 18
_TICK = 0.25


def read_pipe(descriptor: int, session: Session, *, gap: float) -> None:
    """Feed a session from a pipe until it ends; a silence of ``gap`` seconds ends a take.

    Regular files, which are always ready, are read the same way.
    """
    wait = _waiter(descriptor)
    rest = b""
    heard = flushed = time.monotonic()
    while True:
        ready, now = wait(), time.monotonic()
        if now - flushed >= _TICK:
            session.flush()
            flushed = now
        if not ready:
            if session.recording and now - heard > gap:
                session.pause()
            continue
        gulp = os.read(descriptor, _GULP)
        if not gulp:
            break
        heard = now
        *lines, rest = (rest + gulp).split(b"\n")
        for line in lines:
            session.feed(line)
    if rest.strip():
        session.feed_last(rest)
    session.close()


def _waiter(descriptor: int) -> Callable[[], bool]:
    """Return a function that waits a moment and says whether there is something to read."""
    selector = selectors.DefaultSelector()
    try:
        selector.register(descriptor, selectors.EVENT_READ)
    except (PermissionError, ValueError, OSError):  # a regular file needs no waiting
        return lambda: True
    return lambda: bool(selector.select(_TICK))
