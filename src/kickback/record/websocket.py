"""WebSocket: games in a browser. Text messages hold the same lines as everywhere."""

import logging
import re
import socket

from websockets.exceptions import WebSocketException
from websockets.frames import Frame, Opcode
from websockets.http11 import Request
from websockets.server import ServerProtocol

from kickback.record.hub import Hub
from kickback.record.tcp import Connection, TcpSource

__all__ = ["WebSocketSource", "is_local_page"]

_LOCAL = re.compile(r"https?://(localhost|127(\.\d{1,3}){3}|\[::1\])(:\d{1,5})?|file://")
_LARGEST = 1 << 20
"""Bytes of a message: as long as the longest line."""


def is_local_page(origin: str | None) -> bool:
    """Whether a page comes from this machine; programs that are no browser name no origin.

    ``null`` is not local: any page can have it by way of a frame without rights.
    """
    return origin is None or _LOCAL.fullmatch(origin) is not None


def _silent() -> logging.Logger:
    """Return a logger that says nothing: what there is to say, the recorder says."""
    logger = logging.getLogger(__name__)
    logger.addHandler(logging.NullHandler())
    logger.propagate = False
    return logger


class WebSocketSource(TcpSource):
    """Lines over WebSocket connections; pages from elsewhere only where they are named."""

    scheme = "ws"

    def __init__(self, host: str, port: int, *, origins: tuple[str, ...] = ()) -> None:
        super().__init__(host, port)
        self._origins = origins

    def _connect(self, hub: Hub, sock: socket.socket, origin: str) -> None:
        _WebSocketConnection(hub, sock, origin, self._origins)


class _WebSocketConnection(Connection):
    """A sender's socket with the protocol on top; the protocol itself does no input or output."""

    def __init__(
        self, hub: Hub, sock: socket.socket, origin: str, origins: tuple[str, ...]
    ) -> None:
        self._protocol = ServerProtocol(max_size=_LARGEST, logger=_silent())
        self._origins = origins
        super().__init__(hub, sock, origin)

    def _take_in(self, data: bytes) -> None:
        protocol, session = self._protocol, self._stream.session
        try:
            protocol.receive_data(data)
            events = protocol.events_received()
        except WebSocketException as error:
            session.reject(f"is no WebSocket ({error})")
            events = []
        lines: list[bytes] = []
        for event in events:
            if isinstance(event, Request):
                self._open(event)
            elif isinstance(event, Frame) and event.opcode in {
                Opcode.TEXT,
                Opcode.BINARY,
                Opcode.CONT,
            }:
                lines.append(bytes(event.data))
                if event.fin and not lines[-1].endswith(b"\n"):
                    lines.append(b"\n")
        if lines and not session.rejected:
            session.feed(b"".join(lines))
        self._flush()
        if protocol.parser_exc is not None and not session.rejected:
            session.reject(f"is no WebSocket ({protocol.parser_exc})")

    def _open(self, request: Request) -> None:
        """Answer the handshake; pages from elsewhere are turned away."""
        origins = request.headers.get_all("Origin")
        origin = ", ".join(origins) if origins else None
        if is_local_page(origin) or origin in self._origins:
            self._protocol.send_response(self._protocol.accept(request))
            if self._protocol.handshake_exc is not None:
                self._stream.session.reject(f"is no WebSocket ({self._protocol.handshake_exc})")
            return
        shown = str(origin)[:100]
        self._protocol.send_response(
            self._protocol.reject(403, f"pages of {shown} may not send to this recorder\n")
        )
        # what a page from a file is called, any page can call itself
        what = f"a page of {shown}" if shown != "null" else "a page from a file"
        self._stream.session.reject(
            f"{what}; one served by this machine may send, and --origin {shown} lets this one in"
        )

    def _answer(self, line: bytes) -> None:
        if self._protocol.handshake_exc is None:
            try:
                self._protocol.send_text(line)
            except WebSocketException:
                return
            self._flush()

    def _flush(self) -> None:
        for data in self._protocol.data_to_send():
            if data:
                self._send(data)
            else:  # both sides have said goodbye: it is on this one to hang up
                self._left = True
