"""Sends a game's frames to a running ``kickback record``, or writes a take file by itself.

This one file needs nothing but Python: copy it into a game as ``kickback_sender.py``, or
use it as ``kickback.Recorder``. A call to ``frame`` only puts the values into a queue;
a thread of its own encodes and sends them. When the queue is full, frames are dropped
and counted, and the count is sent: the game's own frame never waits. It runs on Python 3.8
and newer.
"""

from __future__ import annotations

import atexit
import contextlib
import json
import os
import queue
import socket
import sys
import threading
import time
from collections import deque
from pathlib import Path
from typing import Any, BinaryIO, Protocol
from urllib.parse import urlsplit

__all__ = ["Recorder", "Transport"]

_NAP = 0.008
"""Seconds between looks at the queue: half a frame at 60 frames/s."""

_AGAIN = 1.0
"""Seconds until the next try to connect."""

_FAREWELL = 10.0
"""Seconds that a recorder may take to read what was sent last."""

_DATAGRAM = 1200
"""Bytes of a datagram: what every network takes whole."""

_AT_ONCE = 2000
"""Frames encoded at once."""

_encode = json.JSONEncoder(separators=(",", ":"), allow_nan=False, default=float).encode


class Transport(Protocol):
    """A way for lines to go; all of it is called from the sending thread."""

    def connect(self) -> None:
        """Be ready to send; raises OSError where that cannot be yet."""
        ...

    def send(self, lines: list[bytes], *, take: str, sent: int) -> None:
        """Send whole lines, ``sent`` frames of the take before them; raises OSError."""
        ...

    def receive(self) -> bytes:
        """Return what has come back, without waiting."""
        ...

    def close(self) -> None:
        """Let go."""
        ...


class Recorder:
    """Records one subject's frames.

    ``to``: ``tcp://HOST:PORT`` or ``udp://HOST:PORT`` of a recorder, the path of a file
    to create, ``-`` for standard output, or an open binary file. ``columns``: what the
    values of a frame are, such as ``["t", "x", "y", "in_jump"]``. Keywords are the take's
    header: ``subject``, ``length_unit``, ``frame_rate``, ``parameters``, …. ``room``: frames
    kept until they can be sent. With ``wait`` a full queue makes ``frame`` wait instead of
    dropping, for programs that are no game. Raises FileExistsError for a file that exists,
    ValueError for an address or columns that are none.
    """

    def __init__(
        self,
        to: str | os.PathLike[str] | BinaryIO | Transport,
        columns: list[str],
        *,
        token: str = "",
        room: int = 20_000,
        wait: bool = False,
        accepts_drill: bool = False,
        **header: object,
    ) -> None:
        if not columns or len(set(columns)) != len(columns):
            raise ValueError("columns must be a list of different names")
        self.dropped = 0
        self.problem = ""
        self.connected = False
        self._columns = list(columns)
        self._token = token
        self._room, self._wait = room, wait
        self._accepts = accepts_drill
        self._transport = _transport_to(to)
        self._items: deque[Any] = deque()
        self._drills: queue.Queue[dict[str, Any] | None] = queue.Queue()
        self._stopping = threading.Event()
        self._header: dict[str, object] = {}
        self._sent = self._dropped_before = 0
        self._heard = b""
        self._takes = 0
        self._mark = f"{os.getpid():x}-{time.time_ns():x}"
        self._open = False
        self.begin(**header)
        self._thread = threading.Thread(target=self._work, daemon=True, name="kickback")
        self._thread.start()
        atexit.register(self.close, 1.0)

    def frame(self, *values: object) -> bool:
        """Record one frame, its values in the order of the columns.

        Returns whether it was taken: False where the queue is full and it was dropped.
        """
        while len(self._items) >= self._room:
            if not self._wait or not self._thread.is_alive():
                self.dropped += 1
                return False
            time.sleep(_NAP / 4)
        self._items.append(values)
        return True

    def begin(self, **header: object) -> None:
        """Begin the next take; keywords change its header."""
        self._header = {**self._header, **header}
        self._items.append({"kickback": 1, **self._header, "columns": self._columns})

    def end(self) -> None:
        """End the take; the next frame, or ``begin``, begins another."""
        self._items.append({"end": True})

    def drill(self, timeout: float = 1.0) -> dict[str, Any] | None:
        """Return the drill that the recorder wants played, or None.

        Only for ``accepts_drill``, over TCP, UDP or WebSocket.
        """
        try:
            return self._drills.get(timeout=timeout)
        except queue.Empty:
            return None

    def close(self, timeout: float = 3.0) -> None:
        """End the take, send what is waiting for at most ``timeout`` s, and stop."""
        if self._stopping.is_set():
            return
        self.end()
        self._stopping.set()
        self._thread.join(timeout)
        atexit.unregister(self.close)

    def __enter__(self) -> Recorder:
        """Return the recorder."""
        return self

    def __exit__(self, *_: object) -> None:
        """Close it."""
        self.close()

    def _work(self) -> None:
        """Send what is in the queue until all is sent after ``close``."""
        connected, again = False, 0.0
        while True:
            stopping = self._stopping.is_set()
            if not connected and time.monotonic() >= again:
                connected, again = self._connected(), time.monotonic() + _AGAIN
            if connected and self._items and not self._send():
                connected = False
                self._sent, self._open = 0, False
                self._takes += 1
            self.connected = connected
            if connected:
                self._listen()
            if stopping and (not self._items or not connected):
                break
            if len(self._items) < _AT_ONCE:
                time.sleep(_NAP)
        self._transport.close()

    def _connected(self) -> bool:
        try:
            self._transport.connect()
        except OSError as error:
            self.problem = error.strerror or str(error)
            return False
        return True

    def _send(self) -> bool:
        """Send a part of the queue; False where the other side is gone."""
        items = [self._items.popleft() for _ in range(min(_AT_ONCE, len(self._items)))]
        lines: list[bytes] = []
        before, take = self._sent, self._mark_of_take()
        try:
            if not self._open and not isinstance(items[0], dict):
                lines.append(self._opening({**self._header, "columns": self._columns}))
            for item in items:
                if isinstance(item, tuple):
                    self._add(lines, item)
                    continue
                if lines:
                    self._transport.send(lines, take=take, sent=before)
                lines = []
                if "end" in item:
                    self._finish(take)
                else:
                    take = self._next_take()
                    lines.append(self._opening(item))
                before, take = self._sent, self._mark_of_take()
            if lines:
                self._transport.send(lines, take=take, sent=before)
        except OSError as error:
            self.problem = str(error)
            self.dropped += sum(isinstance(item, tuple) for item in items)
            return False
        return True

    def _add(self, lines: list[bytes], values: tuple[object, ...]) -> None:
        try:
            lines.append(_encode(values).encode() + b"\n")
        except (ValueError, TypeError, OverflowError) as error:
            self.problem = f"a frame that is not plain numbers: {error}"
            self.dropped += 1
        else:
            self._sent += 1

    def _opening(self, header: dict[str, object]) -> bytes:
        """Return the header's line."""
        self._open = True
        full = {"kickback": 1, **header, "take": self._mark_of_take()}
        if self._token:
            full["token"] = self._token
        if self._accepts:
            full["accepts"] = ["drill"]
        return _encode(full).encode() + b"\n"

    def _finish(self, take: str) -> None:
        """Send the end of a take, with what was sent and dropped."""
        if self._open:
            dropped = self.dropped - self._dropped_before
            end = {"end": True, "take": take, "sent": self._sent, "dropped": dropped}
            self._transport.send([_encode(end).encode() + b"\n"], take="", sent=0)
        self._next_take()

    def _next_take(self) -> str:
        self._takes += 1
        self._sent, self._dropped_before, self._open = 0, self.dropped, False
        return self._mark_of_take()

    def _mark_of_take(self) -> str:
        return f"{self._mark}-{self._takes}"

    def _listen(self) -> None:
        """Take in the recorder's answers."""
        *lines, self._heard = (self._heard + self._transport.receive()).split(b"\n")
        for line in lines:
            try:
                answer = json.loads(line)
            except ValueError:
                continue
            if "error" in answer:
                self.problem = str(answer["error"])
            if "drill" in answer:
                self._drills.put(answer["drill"])


class _File:
    """A file, a pipe or standard output."""

    def __init__(self, file: BinaryIO, *, own: bool) -> None:
        self._file, self._own = file, own

    def connect(self) -> None:
        return

    def send(self, lines: list[bytes], *, take: str, sent: int) -> None:
        del take, sent
        self._file.write(b"".join(lines))
        self._file.flush()

    def receive(self) -> bytes:
        return b""

    def close(self) -> None:
        if self._own:
            self._file.close()


class _Network:
    """What ways over a network share: a place, a socket, answers, an end."""

    def __init__(self, host: str, port: int) -> None:
        self._place = (host, port)
        self._socket: socket.socket | None = None

    def receive(self) -> bytes:
        if self._socket is None:
            return b""
        self._socket.settimeout(0.0)
        try:
            return self._socket.recv(65_535)
        except OSError:
            return b""

    def close(self) -> None:
        if self._socket is not None:
            self._socket.close()
            self._socket = None


class _Tcp(_Network):
    """A connection that is made again when it was lost."""

    def connect(self) -> None:
        super().close()
        self._socket = socket.create_connection(self._place, timeout=2.0)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

    def close(self) -> None:
        """Say that no more comes, and leave once the recorder has read it all.

        A socket that is closed over an answer that nobody read resets the connection, and
        takes from the recorder what it has not read yet.
        """
        if self._socket is not None:
            with contextlib.suppress(OSError):
                self._socket.shutdown(socket.SHUT_WR)
                self._socket.settimeout(_FAREWELL)
                while self._socket.recv(65_535):
                    pass
        super().close()

    def send(self, lines: list[bytes], *, take: str, sent: int) -> None:
        del take, sent
        if self._socket is None:
            raise OSError("not connected")
        self._socket.settimeout(5.0)
        self._socket.sendall(b"".join(lines))


class _Udp(_Network):
    """Datagrams: each begins with a mark, so that the recorder can count what is lost."""

    _header, _repeat = b"", 0.0

    def connect(self) -> None:
        self.close()
        family, kind, _, _, place = socket.getaddrinfo(*self._place, type=socket.SOCK_DGRAM)[0]
        self._socket = socket.socket(family, kind)
        self._socket.connect(place)

    def send(self, lines: list[bytes], *, take: str, sent: int) -> None:
        if not take:  # the end of a take: said three times, since one may be lost
            for _ in range(3):
                self._one(lines[0])
            return
        if lines[0].startswith(b'{"kickback"'):
            self._header, self._repeat = lines[0], 0.0
            lines = lines[1:]
            self._repeat_header()
        part: list[bytes] = []
        size = 0
        for line in lines:
            if size + len(line) > _DATAGRAM and part:
                self._frames(part, take, sent)
                sent += len(part)
                part, size = [], 0
            part.append(line)
            size += len(line)
        if part:
            self._frames(part, take, sent)

    def _frames(self, lines: list[bytes], take: str, sent: int) -> None:
        self._repeat_header()
        mark = _encode({"take": take, "sent": sent}).encode() + b"\n"
        self._one(mark + b"".join(lines))

    def _repeat_header(self) -> None:
        if time.monotonic() >= self._repeat:
            self._one(self._header)
            self._repeat = time.monotonic() + 1.0

    def _one(self, data: bytes) -> None:
        if self._socket is None:
            raise OSError("not connected")
        self._socket.settimeout(1.0)
        try:
            self._socket.send(data)
        except ConnectionRefusedError:  # nobody listens (yet): datagrams are lost, and counted
            return


def _transport_to(to: Any) -> Transport:
    """Return the transport to an address, a file or a transport."""
    if hasattr(to, "connect") and hasattr(to, "send"):
        found: Transport = to
        return found
    if hasattr(to, "write"):
        return _File(to, own=False)
    text = os.fspath(to)
    if text == "-":
        return _File(sys.stdout.buffer, own=False)
    if "://" not in text:
        Path(text).parent.mkdir(parents=True, exist_ok=True)
        return _File(Path(text).open("xb"), own=True)
    parts = urlsplit(text)
    kinds: dict[str, type[_Tcp] | type[_Udp]] = {"tcp": _Tcp, "udp": _Udp}
    if parts.scheme not in kinds or not parts.hostname or not parts.port:
        raise ValueError(f"'{text}' is no address such as tcp://127.0.0.1:7425 or udp://…")
    return kinds[parts.scheme](parts.hostname, parts.port)
