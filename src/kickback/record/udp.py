"""UDP: a stream for each address that datagrams come from; what is lost is counted."""

import socket
import time
from typing import Any

from kickback.record.hub import Stream
from kickback.record.tcp import NetworkSource

__all__ = ["UdpSource"]

_LARGEST = 65_535
"""Bytes of the largest datagram there is."""

_AT_ONCE = 512
"""Datagrams read in one round."""

_FORGET = 30.0
"""Seconds of silence after which a sender without a take is forgotten."""


class UdpSource(NetworkSource):
    """Lines in datagrams."""

    scheme = "udp"
    kind = socket.SOCK_DGRAM

    def __init__(self, host: str, port: int) -> None:
        super().__init__(host, port)
        self._streams: dict[Any, Stream] = {}

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
            stream: Stream | None = self._streams.get(sender) or self._begin(sender, now)
            total += len(data)
            if stream is None or stream.session.rejected:
                continue
            stream.heard = now
            stream.session.feed_datagram(data)
            for line in stream.session.replies:
                self._answer(line, sender)
            stream.session.replies.clear()
        return total

    def _begin(self, sender: Any, now: float) -> Stream | None:
        if self._hub is None:
            return None
        for known in list(self._streams.values()):
            if now - known.heard > _FORGET and not known.session.open_takes:
                self._hub.end(known)
        stream = self._hub.stream(
            f"udp {sender[0]}:{sender[1]}",
            lambda: self._forget(sender),
            guarded=True,
            datagrams=True,
        )
        if stream is not None:
            self._streams[sender] = stream
        return stream

    def _forget(self, sender: Any) -> None:
        self._streams.pop(sender, None)

    def _answer(self, line: bytes, sender: Any) -> None:
        try:
            if self._socket is not None:
                self._socket.sendto(line, sender)
        except OSError:
            return
