"""What a recorder says: each sentence at once, and a flood of the same as sums."""

from kickback.takes.record import Record

__all__ = ["Notice", "Notices"]

_PAUSE = 1.0
"""Seconds between two sentences of one kind."""

_KINDS = 50
"""Kinds of sentences that are told apart at a time: strangers choose their words."""


class Notice(Record, frozen=True, kw_only=True):
    """A sentence on what happened; ``origin`` is the stream it is about."""

    origin: str
    text: str


class Notices:
    """Lets the first sentence of a kind through, and sums up those of the next second."""

    def __init__(self) -> None:
        self._last: dict[str, float] = {}
        self._held: dict[str, tuple[int, Notice]] = {}

    def fresh(self, notice: Notice, kind: str, now: float) -> list[Notice]:
        """Return what is to be said at once of a sentence; the rest waits for ``overdue``."""
        if kind not in self._last and len(self._last) >= _KINDS:
            kind = ""
        if now - self._last.get(kind, now - _PAUSE) >= _PAUSE:
            self._last[kind] = now
            return [notice]
        count, _ = self._held.get(kind, (0, notice))
        self._held[kind] = (count + 1, notice)
        return []

    def overdue(self, now: float) -> list[Notice]:
        """Return a sentence for each kind of which some were held back for a second."""
        ready = [kind for kind, last in self._last.items() if now - last >= _PAUSE]
        found = []
        for kind in ready:
            held = self._held.pop(kind, None)
            if held is None:
                del self._last[kind]
                continue
            self._last[kind] = now
            count, notice = held
            more = f" (and {count - 1:,} more like this)" if count > 1 else ""
            found.append(Notice(origin=notice.origin, text=notice.text + more))
        return found
