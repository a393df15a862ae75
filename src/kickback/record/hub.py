"""The recorder's loop: waits for sources, gives each stream its turn, and keeps the time.

One thread serves all. Each ready stream is read a bounded amount at a time, so that no
sender holds others up, and after a round that brought little the loop rests for a few
milliseconds: waking up costs far more than decoding what has come in meanwhile.
"""

import contextlib
import selectors
import time
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Protocol

from kickback.record.ledger import Ledger
from kickback.record.seats import Seats
from kickback.record.session import Session
from kickback.record.stream import Stream

if TYPE_CHECKING:
    from _typeshed import FileDescriptorLike

__all__ = ["LITTLE", "Hub", "Source", "Stream"]

_TICK = 0.25
"""Seconds between looks at what is overdue, and between writes: lost at most by a kill."""

_REST = 0.015
"""Seconds to rest after a round that brought little: waking up costs more than decoding."""

LITTLE = 1 << 17
"""Bytes of a round that are little."""


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


class Hub:
    """All sources and streams of one recorder.

    ``report`` keeps the details of a fault of the program itself and says where.
    """

    def __init__(
        self,
        ledger: Ledger,
        *,
        token: str | None = None,
        report: Callable[[BaseException], str] = lambda _: "",
    ) -> None:
        self.ledger = ledger
        self.token = token
        self.sources: list[Source] = []
        self._report = report
        self._seats = Seats(ledger.limits.connections)
        self._selector = selectors.DefaultSelector()
        self._polled: list[Callable[[], int]] = []
        self._next_tick = 0.0

    @property
    def streams(self) -> list[Stream]:
        """Return the streams there are, those that wait for admission too."""
        return list(self._seats.taken)

    def add(self, source: Source) -> None:
        """Open a source and listen to it."""
        source.open(self)
        self.sources.append(source)

    def watch(self, channel: "FileDescriptorLike", ready: Callable[[], int]) -> None:
        """Call ``ready`` when a channel can be read; it returns the bytes that it took."""
        self._selector.register(channel, selectors.EVENT_READ, ready)

    def poll(self, ready: Callable[[], int]) -> None:
        """Call ``ready`` in every round: for what no selector can wait for."""
        self._polled.append(ready)

    def forget(
        self, channel: "FileDescriptorLike | None" = None, ready: Callable[[], int] | None = None
    ) -> None:
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
    ) -> Stream:
        """Return a new stream.

        ``guarded`` ones come over a network: they must give the token, where there is one,
        and have a seat only once they have sent something that makes sense; until then
        they wait in a room that the oldest of them leave when it is full.
        """
        stream = Stream(close)
        stream.session = Session(
            origin=origin,
            ledger=self.ledger,
            token=self.token if guarded else None,
            datagrams=datagrams,
            enter=(lambda: self._enter(stream)) if guarded else None,
        )
        if not guarded:  # the user's own pipes and files
            self._seats.seat(stream)
            return stream
        for former in self._seats.wait(stream):
            self.ledger.say(
                former.session.origin, "let go: it sent nothing, and others wait", kind="let go"
            )
            self.end(former, "others that wait")
        return stream

    def _enter(self, stream: Stream) -> str:
        """Give a stream a seat; why there is none, or nothing."""
        former = self._seats.enter(stream)
        if former is not None:
            self.ledger.say(former.session.origin, "let go: silent for long, and others wait")
            self.end(former, "its silence")
        if stream in self._seats.waiting:
            return f"the limit of {self.ledger.limits.connections} connections is met"
        return ""

    def end(self, stream: Stream, reason: str = "the sender left") -> None:
        """End a stream and its takes, and close what it came through."""
        if not self._seats.leave(stream):
            return
        session = stream.session
        try:
            session.end(reason)
        except Exception as error:
            self._fault(session.origin, error)
        if not session.seen_frames and not session.rejected:
            self.ledger.say(session.origin, "left without sending a frame", kind="left")
        stream.close()

    def dismiss(self, stream: Stream) -> None:
        """Take a refused sender's seat; it is remembered as long as there is room."""
        for former in self._seats.stand(stream):
            self.end(former, "its refusal")

    def turn(self, stream: Stream, take_in: Callable[[], None]) -> None:
        """Let a stream take in what has come; whatever goes wrong in it ends it alone."""
        try:
            take_in()
        except Exception as error:
            session = stream.session
            self._fault(session.origin, error)
            session.rejected = session.rejected or "a fault of the recorder"
            self.end(stream, "a fault of the recorder")

    def round(self, longest: float = _TICK) -> int:
        """Wait for something to read, give everyone a turn, and return the bytes read."""
        wait = min(longest, max(0.0, self._next_tick - time.monotonic()))
        if self._polled:
            wait = min(wait, _REST)
        total = 0
        if self._selector.get_map():
            for key, _ in self._selector.select(wait):
                total += self._served(key.data, key.fileobj)
        elif not self._polled:
            time.sleep(wait)
        for ready in list(self._polled):
            total += self._served(ready, None)
        now = time.monotonic()
        if now >= self._next_tick:
            self._next_tick = now + _TICK
            self._tick(now)
        if total < LITTLE:
            time.sleep(min(_REST, longest))
        return total

    def _served(self, ready: Callable[[], int], channel: "FileDescriptorLike | None") -> int:
        """Let a channel be read; one that goes wrong in itself is listened to no more."""
        try:
            return ready()
        except Exception as error:
            self._fault("the recorder", error)
            with contextlib.suppress(KeyError, ValueError):
                self.forget(channel, ready)
            return 0

    def _fault(self, origin: str, error: Exception) -> None:
        where = self._report(error)
        details = f"; details, for a report, are in {where}" if where else ""
        self.ledger.say(
            origin,
            f"ended by a fault of the recorder ({type(error).__name__}){details}",
            kind="fault",
        )

    def cut(self, reason: str) -> None:
        """End the takes that are open; the streams go on."""
        for stream in self.streams:
            stream.session.cut(reason)

    def close(self, reason: str) -> None:
        """End everything."""
        for source in self.sources:
            source.close()
        for stream in self.streams:
            self.end(stream, reason)
        self._selector.close()
        self.ledger.sum_up(ahead=_TICK * 8)

    def _tick(self, now: float) -> None:
        """Flush, and end takes that have been silent for longer than the gap."""
        for stream in self.streams:
            if now - stream.heard > self.ledger.gap and stream.session.open_takes:
                self.turn(stream, partial(stream.session.cut, "a pause"))
            self.turn(stream, stream.session.flush)
        self.ledger.sum_up()
