"""Who has a seat at the recorder, and who waits: strangers never take a known sender's place."""

import time

from kickback.record.stream import Stream

__all__ = ["WAITING", "Seats"]

WAITING = 32
"""Senders that may wait at once to be let in; the oldest make room for newcomers."""

_SILENT = 10.0
"""Seconds of silence after which a sender may have to make room."""


class Seats:
    """The streams of a recorder: at most ``most`` with a seat, and a small room of strangers."""

    def __init__(self, most: int) -> None:
        self._most = most
        self.seated: dict[Stream, None] = {}
        self.waiting: dict[Stream, None] = {}

    @property
    def taken(self) -> list[Stream]:
        """Return all streams."""
        return [*self.seated, *self.waiting]

    def wait(self, stream: Stream) -> list[Stream]:
        """Let a stranger wait; returns those that have to leave the room for it."""
        self.waiting[stream] = None
        # in the order in which they came: the oldest have had the most time
        return list(self.waiting)[: max(0, len(self.waiting) - WAITING)]

    def stand(self, stream: Stream) -> list[Stream]:
        """Take a stream's seat: it is a stranger again; returns who has to leave for it."""
        return self.wait(stream) if self.seated.pop(stream, stream) is None else []

    def seat(self, stream: Stream) -> None:
        """Give a stream a seat, whoever else has one."""
        self.waiting.pop(stream, None)
        self.seated[stream] = None

    def enter(self, stream: Stream) -> Stream | None:
        """Give one that waits a seat where there is one; returns who has to leave it.

        That is whoever has been silent longest, for long, with no take open.
        """
        former = None
        if len(self.seated) >= self._most:
            now = time.monotonic()
            idle = [s for s in self.seated if not s.session.open_takes and now - s.heard > _SILENT]
            if not idle:
                return None
            former = min(idle, key=lambda one: one.heard)
        self.seat(stream)
        return former

    def leave(self, stream: Stream) -> bool:
        """Forget a stream; whether it was one of these."""
        here = stream in self.seated or stream in self.waiting
        self.seated.pop(stream, None)
        self.waiting.pop(stream, None)
        return here
