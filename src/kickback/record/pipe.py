"""Pipes and files: a stream from a descriptor, and a file that grows."""

import os
import selectors
import time
from functools import partial
from pathlib import Path

from kickback.errors import InputError
from kickback.record.hub import Hub, Stream

__all__ = ["FileSource", "PipeSource"]

_GULP = 1 << 18
"""Bytes read at once, so that no pipe holds others up."""

_LOOK = 0.05
"""Seconds between looks at a file that grows."""

_PATIENCE = 1.0
"""Seconds that the end of a recorder waits for what such a file still holds."""


class PipeSource:
    """Lines from a descriptor until it ends; regular files, always ready, too."""

    def __init__(self, descriptor: int, address: str = "standard input") -> None:
        self.address = address
        self.ended = False
        self._descriptor = descriptor
        self._hub: Hub | None = None
        self._stream: Stream | None = None
        self._waits = True

    def open(self, hub: Hub) -> None:
        """Begin to read."""
        self._hub = hub
        self._stream = hub.stream(self.address, self.close)
        try:
            with selectors.DefaultSelector() as probe:
                probe.register(self._descriptor, selectors.EVENT_READ)
            hub.watch(self._descriptor, self._ready)
        except (PermissionError, ValueError, OSError):  # a regular file needs no waiting
            self._waits = False
            hub.poll(self._ready)

    def close(self) -> None:
        """Read no more; the descriptor stays its owner's."""
        if self.ended or self._hub is None:
            return
        self.ended = True
        self._hub.forget(self._descriptor if self._waits else None, self._ready)

    def _ready(self) -> int:
        if self._hub is None or self._stream is None:
            return 0
        data = os.read(self._descriptor, _GULP)
        if not data:
            self._hub.end(self._stream)
            return 0
        self._stream.heard = time.monotonic()
        self._hub.turn(self._stream, partial(self._stream.session.feed, data))
        return len(data)


class FileSource:
    """A file's lines; one that is followed is read on as it grows, or begins again."""

    def __init__(self, path: Path, *, follow: bool) -> None:
        self.address = str(path)
        self.ended = False
        self._path = path
        self._follow = follow
        self._file: int | None = None
        self._hub: Hub | None = None
        self._stream: Stream | None = None
        self._next_look = 0.0

    def open(self, hub: Hub) -> None:
        """Begin to read; a followed file need not exist yet."""
        self._hub = hub
        self._reopen()
        if self._file is None:
            if not self._follow:
                raise InputError(
                    "no such file; a source is - (a pipe), a file, tcp, udp or ws", self.address
                )
            hub.ledger.say(self.address, "does not exist yet: waiting for it")
        self._stream = hub.stream(self.address, self.close)
        hub.poll(self._ready)

    def close(self) -> None:
        """Read no more than what a followed file holds by now."""
        if not self.ended:
            self.ended = True
            self._catch_up()
        if self._hub is not None:
            self._hub.forget(None, self._ready)
        self._shut()

    def _catch_up(self) -> None:
        """Read what was written since the last look, for as long as nobody minds waiting."""
        until = time.monotonic() + _PATIENCE
        self._next_look = 0.0
        while self._follow and time.monotonic() < until:
            if not self._ready() and self._next_look:  # else it began again
                break

    def _shut(self) -> None:
        if self._file is not None:
            os.close(self._file)
            self._file = None

    def _reopen(self) -> None:
        try:
            self._file = os.open(self._path, os.O_RDONLY)
        except FileNotFoundError:
            return
        except OSError as error:
            raise InputError(f"cannot be read ({error.strerror})", self.address) from error

    def _ready(self) -> int:
        now = time.monotonic()
        if self._hub is None or self._stream is None or now < self._next_look:
            return 0
        if self._file is None:
            self._reopen()
        try:
            data = b"" if self._file is None else os.read(self._file, _GULP)
        except OSError as error:
            self._hub.ledger.say(self.address, f"cannot be read ({error.strerror})")
            self._hub.end(self._stream)
            return 0
        if data:
            self._stream.heard = now
            self._hub.turn(self._stream, partial(self._stream.session.feed, data))
            return len(data)
        if not self._follow:
            self._hub.end(self._stream)
            return 0
        self._next_look = now + _LOOK
        if self._file is not None and self._began_again():
            self._stream.session.end("a file that began again")
            self._shut()
            self._next_look = 0.0
        return 0

    def _began_again(self) -> bool:
        """Whether the file was cut to a shorter one, or another has taken its name."""
        if self._file is None:
            return False
        here = os.fstat(self._file)
        if os.lseek(self._file, 0, os.SEEK_CUR) > here.st_size:
            return True
        try:
            there = self._path.stat()
        except OSError:
            return False  # gone for now: what it held is read
        return (there.st_dev, there.st_ino) != (here.st_dev, here.st_ino)
