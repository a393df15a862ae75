"""A sender's way over WebSocket, for ``kickback.record.sender.Recorder``."""

from contextlib import ExitStack

from websockets.exceptions import WebSocketException
from websockets.sync.client import ClientConnection, connect

__all__ = ["WebSocketTransport"]


class WebSocketTransport:
    """Text messages of whole lines."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._socket: ClientConnection | None = None
        self._stack = ExitStack()

    def connect(self) -> None:
        """Connect; raises OSError where nobody listens."""
        self.close()
        try:
            self._socket = self._stack.enter_context(
                connect(self._address, compression=None, open_timeout=5.0)
            )
        except (WebSocketException, TimeoutError) as error:
            raise OSError(str(error)) from error

    def send(self, lines: list[bytes], *, take: str, sent: int) -> None:
        """Send lines as one message; raises OSError where the recorder is gone."""
        del take, sent
        if self._socket is None:
            raise OSError("not connected")
        try:
            self._socket.send(b"".join(lines), text=True)
        except WebSocketException as error:
            raise OSError(str(error)) from error

    def receive(self) -> bytes:
        """Return an answer that has come, without waiting."""
        if self._socket is None:
            return b""
        try:
            answer = self._socket.recv(timeout=0, decode=False)
        except (WebSocketException, TimeoutError):
            return b""
        return bytes(answer)

    def close(self) -> None:
        """Leave."""
        self._stack.close()
        self._socket = None
