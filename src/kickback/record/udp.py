"""UDP: a stream for each address that datagrams come from; what is lost is counted."""

import socket
import time
from functools import partial

from kickback.record.hub import LITTLE, Hub, Stream
from kickback.record.tcp import NetworkSource

__all__ = ["UdpSource"]

_LARGEST = 65_535
"""Bytes of the largest datagram there is."""

_AT_ONCE = 512
"""Datagrams read in one round."""

_FORGET = 30.0
"""Seconds of silence after which a sender without a take is forgotten."""

_LOOK = 1.0
"""Seconds between looks at who may be forgotten."""


class UdpSource(NetworkSource):
    """Lines in datagrams."""

    scheme = "udp"
    kind = socket.SOCK_DGRAM

    def __init__(self, host: str, port: int) -> None:
        super().__init__(host, port)
        self._streams: dict[object, Stream] = {}
        self._next_look = 0.0

    def _ready(self) -> int:
        total = 0
        now = time.monotonic()
        for _ in range(_AT_ONCE):
            if self._socket is None:
                break
            try:
                data, sender = self._socket.recvfrom(_LARGEST)
            except BlockingIOError:
                break
            except OSError:  # an answer of ours found nobody
                continue
            if self._hub is None:
                break
            stream = self._streams.get(sender) or self._begin(self._hub, sender, now)
            total += len(data)
            if stream.session.rejected:
                continue
            stream.heard = now
            self._hub.turn(stream, partial(self._turn, self._hub, stream, data, sender))
        else:  # there may be more: no rest before that is read
            return max(total, LITTLE)
        return total

    def _turn(self, hub: Hub, stream: Stream, data: bytes, sender: tuple[str, int]) -> None:
        session = stream.session
        session.feed_datagram(data)
        for line in session.replies:
            self._answer(line, sender)
        session.replies.clear()
        if session.rejected:
            session.cut("its refusal")
            hub.dismiss(stream)

    def _begin(self, hub: Hub, sender: tuple[str, int], now: float) -> Stream:
        if now >= self._next_look:
            self._next_look = now + _LOOK
            for known in list(self._streams.values()):
                if now - known.heard > _FORGET and not known.session.open_takes:
                    hub.end(known)
        stream = hub.stream(
            f"udp {sender[0]}:{sender[1]}",
            partial(self._forget, sender),
            guarded=True,
            datagrams=True,
        )
        self._streams[sender] = stream
        return stream

    def _forget(self, sender: tuple[str, int]) -> None:
        self._streams.pop(sender, None)

    def _answer(self, line: bytes, sender: tuple[str, int]) -> None:
        try:
            if self._socket is not None:
                self._socket.sendto(line, sender)
        except OSError:
            return
