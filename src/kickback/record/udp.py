"""UDP: a stream for each address that datagrams come from; what is lost is counted."""

import socket
import time
from typing import Any

from kickback.record.hub import Hub, Stream
from kickback.record.tcp import listening_socket

__all__ = ["UdpSource"]

_LARGEST = 65_535
_AT_ONCE = 512
_BUFFER = 1 << 22
_FORGET = 30.0


class UdpSource:
    """Lines in datagrams."""

    def __init__(self, host: str, port: int) -> None:
        self._host, self._port = host, port
        self._socket: socket.socket | None = None
        self._hub: Hub | None = None
        self._streams: dict[Any, Stream] = {}

    @property
    def address(self) -> str:
        """Return the address that a sender sends to."""
        host = f"[{self._host}]" if ":" in self._host else self._host
        return f"udp://{host}:{self._port}"

    def open(self, hub: Hub) -> None:
        """Begin to listen."""
        self._hub = hub
        self._socket = listening_socket(socket.SOCK_DGRAM, self._host, self._port, self.address)
        self._socket.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, _BUFFER)
        self._port = self._socket.getsockname()[1]
        hub.watch(self._socket, self._ready)

    def close(self) -> None:
        """Listen no more."""
        if self._socket is not None and self._hub is not None:
            self._hub.forget(self._socket)
            self._socket.close()
            self._socket = None

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
