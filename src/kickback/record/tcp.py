"""TCP: a listening socket, and a stream for each sender that connects."""

import socket
import time
from functools import partial

from kickback.errors import InputError
from kickback.record.hub import Hub, Stream

__all__ = ["Connection", "NetworkSource", "TcpSource", "listening_socket"]

_GULP = 1 << 18
"""Bytes read at once, so that no sender holds others up."""

_ACCEPTS = 16
"""Connections taken in one round."""

_BUFFER = 1 << 22
"""Bytes that the system may keep of what comes, for bursts."""


def listening_socket(kind: socket.SocketKind, host: str, port: int, address: str) -> socket.socket:
    """Return a bound, non-blocking socket; raises InputError where the address is no use."""
    try:
        family, _, _, _, place = socket.getaddrinfo(host, port, type=kind)[0]
        sock = socket.socket(family, kind)
    except OSError as error:
        raise InputError(f"is no address to listen on ({error.strerror})", address) from error
    try:
        if kind is socket.SOCK_STREAM:
            sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        else:
            sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, _BUFFER)
        sock.bind(place)
        if kind is socket.SOCK_STREAM:
            sock.listen(64)
    except OSError as error:
        sock.close()
        raise InputError(
            f"cannot be listened on ({error.strerror}); another port, or 0 for any, may do",
            address,
        ) from error
    sock.setblocking(False)
    return sock


class NetworkSource:
    """What sources on a network share: an address, a socket, and when it can be read."""

    scheme = ""
    kind = socket.SOCK_STREAM

    def __init__(self, host: str, port: int) -> None:
        self._host, self._port = host, port
        self._socket: socket.socket | None = None
        self._hub: Hub | None = None

    @property
    def address(self) -> str:
        """Return the address that a sender sends to."""
        host = f"[{self._host}]" if ":" in self._host else self._host
        return f"{self.scheme}://{host}:{self._port}"

    def open(self, hub: Hub) -> None:
        """Begin to listen; raises InputError where the address is no use."""
        self._hub = hub
        self._socket = listening_socket(self.kind, self._host, self._port, self.address)
        self._port = self._socket.getsockname()[1]
        hub.watch(self._socket, self._ready)

    def close(self) -> None:
        """Listen no more; connections stay until the hub ends them."""
        if self._socket is not None and self._hub is not None:
            self._hub.forget(self._socket)
            self._socket.close()
            self._socket = None

    def _ready(self) -> int:
        raise NotImplementedError


class TcpSource(NetworkSource):
    """Lines over TCP connections."""

    scheme = "tcp"

    def _ready(self) -> int:
        for _ in range(_ACCEPTS):
            if self._socket is None or self._hub is None:
                break
            try:
                sock, peer = self._socket.accept()
            except OSError:  # none left, or gone again
                break
            sock.setblocking(False)
            self._connect(self._hub, sock, f"{self.scheme} {peer[0]}:{peer[1]}")
        return 0

    def _connect(self, hub: Hub, sock: socket.socket, origin: str) -> None:
        Connection(hub, sock, origin)


class Connection:
    """One sender's socket. Never waits: what a sender does not take at once it does not get."""

    def __init__(self, hub: Hub, sock: socket.socket, origin: str) -> None:
        self._hub, self._socket = hub, sock
        self._left = False
        hub.watch(sock, self._ready)
        self._stream: Stream = hub.stream(origin, self._close, guarded=True)

    def _close(self) -> None:
        self._hub.forget(self._socket)
        self._socket.close()

    def _ready(self) -> int:
        try:
            data = self._socket.recv(_GULP)
        except BlockingIOError:
            return 0
        except OSError:  # the sender died
            data = b""
        if not data:
            self._hub.end(self._stream)
            return 0
        self._stream.heard = time.monotonic()
        self._hub.turn(self._stream, partial(self._turn, data))
        return len(data)

    def _turn(self, data: bytes) -> None:
        self._take_in(data)
        session = self._stream.session
        for line in session.replies:
            self._answer(line)
        session.replies.clear()
        if session.rejected:
            self._hub.end(self._stream, "its refusal")
        elif self._left:
            self._hub.end(self._stream)

    def _take_in(self, data: bytes) -> None:
        self._stream.session.feed(data)

    def _answer(self, line: bytes) -> None:
        self._send(line)

    def _send(self, data: bytes) -> None:
        try:
            self._socket.send(data)
        except OSError:
            return
