"""The recorder's loop: waits for sources, gives each stream its turn, and keeps the time.

One thread serves all. Each ready stream is read a bounded amount at a time, so that no
sender holds others up, and after a round that brought little the loop rests for a few
milliseconds: waking up costs far more than decoding what has come in meanwhile.
"""

import selectors
import time
from collections.abc import Callable
from typing import Any, Protocol

from kickback.record.ledger import Ledger
from kickback.record.session import Session

__all__ = ["Hub", "Source", "Stream"]

_TICK = 0.25
"""Seconds between looks at what is overdue, and between writes: lost at most by a kill."""

_REST = 0.005
"""Seconds to rest after a round that brought little: waking up costs more than decoding."""

_LITTLE = 1 << 17
"""Bytes of a round that are little."""

_SILENT = 10.0
"""Seconds of silence after which a sender may have to make room."""


class Source(Protocol):
    """Something that frames come from."""

    @property
    def address(self) -> str:
        """Return what a sender, or a person, calls it."""
        ...

    def open(self, hub: "Hub") -> None:
        """Begin to listen; raises InputError where that cannot be."""
        ...

    def close(self) -> None:
        """Listen no more."""
        ...


class Stream:
    """One sender: its session, when it was heard last, and how to be rid of it."""

    def __init__(self, session: Session, close: Callable[[], None]) -> None:
        self.session = session
        self.heard = time.monotonic()
        self.close = close


class Hub:
    """All sources and streams of one recorder."""

    def __init__(self, ledger: Ledger, *, token: str | None = None) -> None:
        self.ledger = ledger
        self.token = token
        self.sources: list[Source] = []
        self.streams: list[Stream] = []
        self._selector = selectors.DefaultSelector()
        self._polled: list[Callable[[], int]] = []
        self._next_tick = 0.0

    def add(self, source: Source) -> None:
        """Open a source and listen to it."""
        source.open(self)
        self.sources.append(source)

    def watch(self, channel: Any, ready: Callable[[], int]) -> None:
        """Call ``ready`` when a channel can be read; it returns the bytes that it took."""
        self._selector.register(channel, selectors.EVENT_READ, ready)

    def poll(self, ready: Callable[[], int]) -> None:
        """Call ``ready`` in every round: for what no selector can wait for."""
        self._polled.append(ready)

    def forget(self, channel: Any = None, ready: Callable[[], int] | None = None) -> None:
        """Watch or poll something no more."""
        if channel is not None:
            self._selector.unregister(channel)
        if ready is not None and ready in self._polled:
            self._polled.remove(ready)

    def stream(
        self,
        origin: str,
        close: Callable[[], None],
        *,
        guarded: bool = False,
        datagrams: bool = False,
    ) -> Stream | None:
        """Return a new stream, or None where there are too many.

        A sender that has been silent for long and has no take open makes room. ``guarded``
        streams must give the token, where there is one.
        """
        limit = self.ledger.limits.connections
        if len(self.streams) >= limit:
            now = time.monotonic()
            idle = [s for s in self.streams if not s.session.open_takes and now - s.heard > _SILENT]
            if not idle:
                self.ledger.say(origin, f"refused: the limit of {limit} connections is met")
                return None
            oldest = min(idle, key=lambda item: item.heard)
            self.ledger.say(oldest.session.origin, "let go: silent for long, and others wait")
            self.end(oldest, "its silence")
        session = Session(
            origin=origin,
            ledger=self.ledger,
            token=self.token if guarded else None,
            datagrams=datagrams,
        )
        self.streams.append(Stream(session, close))
        return self.streams[-1]

    def end(self, stream: Stream, reason: str = "the sender left") -> None:
        """End a stream and its takes, and close what it came through."""
        if stream not in self.streams:
            return
        self.streams.remove(stream)
        session = stream.session
        session.end(reason)
        if not session.seen_frames and not session.rejected:
            self.ledger.say(session.origin, "left without sending a frame")
        stream.close()

    def round(self, longest: float = _TICK) -> int:
        """Wait for something to read, give everyone a turn, and return the bytes read."""
        wait = min(longest, max(0.0, self._next_tick - time.monotonic()))
        if self._polled:
            wait = min(wait, _REST)
        total = 0
        if self._selector.get_map():
            for key, _ in self._selector.select(wait):
                total += key.data()
        elif not self._polled:
            time.sleep(wait)
        for ready in list(self._polled):
            total += ready()
        now = time.monotonic()
        if now >= self._next_tick:
            self._next_tick = now + _TICK
            self._tick(now)
        if total < _LITTLE:
            time.sleep(min(_REST, longest))
        return total

    def cut(self, reason: str) -> None:
        """End the takes that are open; the streams go on."""
        for stream in self.streams:
            stream.session.cut(reason)

    def close(self, reason: str) -> None:
        """End everything."""
        for source in self.sources:
            source.close()
        for stream in list(self.streams):
            self.end(stream, reason)
        self._selector.close()

    def _tick(self, now: float) -> None:
        """Flush, and end takes that have been silent for longer than the gap."""
        for stream in list(self.streams):
            if now - stream.heard > self.ledger.gap and stream.session.open_takes:
                stream.session.cut("a pause")
            stream.session.flush()
