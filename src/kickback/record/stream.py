"""One sender as the recorder's loop sees it."""

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from kickback.record.session import Session

__all__ = ["Stream"]


class Stream:
    """One sender: its session, when it came and was heard last, and how to be rid of it."""

    session: "Session"

    def __init__(self, close: Callable[[], None]) -> None:
        self.begun = self.heard = time.monotonic()
        self.close = close
