"""What was lost on the way: the frames that came against those that a sender counted."""

from collections import deque
from collections.abc import Mapping
from typing import Any

__all__ = ["Losses"]

_SPENT = 64
"""Takes of a sender that are remembered, so that late datagrams of theirs are known."""


class Losses:
    """Where a stream is in its sender's own count, and which of its takes are over."""

    def __init__(self, *, datagrams: bool) -> None:
        self._datagrams = datagrams
        self._spent: deque[str] = deque(maxlen=_SPENT)
        self.take: str | None = None
        self.position = 0
        self.before = 0
        """Frames that were lost before the first of a take came."""

    def spend(self) -> None:
        """Forget the sender's take; what still comes of it is late."""
        if self.take is not None:
            self._spent.append(self.take)
        self.take, self.position, self.before = None, 0, 0

    def is_late(self, take: object) -> bool:
        """Whether a mark is of a take that is over."""
        return take is not None and str(take) != self.take and str(take) in self._spent

    def is_next(self, take: object) -> bool:
        """Whether a mark is of another take than the current one."""
        return take is not None and str(take) != self.take

    def missing(self, mark: Mapping[str, Any]) -> int:
        """Move on to a sender's count; the frames that did not come, below 0 for ones too many."""
        sent = mark.get("sent")
        if not isinstance(sent, int) or isinstance(sent, bool):
            return 0
        gone = sent - self.position
        if gone > 0:
            self.position = sent
        # overtaken or doubled datagrams were counted as lost when they were missing
        late = gone < 0 and self._datagrams and "end" not in mark
        return gone if gone > 0 or late else 0
