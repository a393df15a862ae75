"""What was lost on the way: the frames that came against those that a sender counted."""

from collections import deque
from typing import TypeGuard

from kickback.takes.plain import PlainMap

__all__ = ["Losses", "is_count"]

_SPENT = 64
"""Takes of a sender that are remembered, so that late datagrams of theirs are known."""

_WORD = 200
"""Characters of a take's word that tell it from others."""

_MOST = 2**53
"""More frames than anyone sends: a larger number is no count."""


def is_count(value: object) -> TypeGuard[int]:
    """Whether what a sender counts can be a number of frames."""
    return isinstance(value, int) and not isinstance(value, bool) and 0 <= value <= _MOST


class Losses:
    """Where a stream is in its sender's own count, and which of its takes are over."""

    def __init__(self, *, datagrams: bool) -> None:
        self._datagrams = datagrams
        self._spent: deque[str] = deque(maxlen=_SPENT)
        self.take: str | None = None
        self.position = 0
        self.before = 0
        """Frames that were lost before the first of a take came."""

    def begin(self, take: object) -> None:
        """Take note of the sender's word for the take that begins; None where it has none."""
        self.take = None if take is None else _word(take)

    def spend(self) -> None:
        """Forget the sender's take; what still comes of it is late."""
        if self.take is not None:
            self._spent.append(self.take)
        self.take, self.position, self.before = None, 0, 0

    def is_late(self, take: object) -> bool:
        """Whether a mark is of a take that is over."""
        return take is not None and _word(take) != self.take and _word(take) in self._spent

    def is_next(self, take: object) -> bool:
        """Whether a mark is of another take than the current one."""
        return take is not None and _word(take) != self.take

    def missing(self, mark: PlainMap) -> int:
        """Move on to a sender's count; the frames that did not come, below 0 for ones too many."""
        sent = mark.get("sent")
        if not is_count(sent):
            return 0
        gone = sent - self.position
        if gone > 0:
            self.position = sent
        # overtaken or doubled datagrams were counted as lost when they were missing
        late = gone < 0 and self._datagrams and "end" not in mark
        return gone if gone > 0 or late else 0


def _word(take: object) -> str:
    return str(take)[:_WORD]
