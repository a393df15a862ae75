"""A take on disk while it is being received, and takes that an ended recorder left behind.

While frames come in, the file is called ``NAME.open.jsonl``; it is a readable take at any
moment. Whoever writes it holds a lock on it, so that the next start can tell a take that
was left behind from one that another recorder is still writing.
"""

import contextlib
import os
import shutil
import stat
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO

import msgspec

from kickback.files.atomic import remove_left_behind, take_name
from kickback.files.encodings import SUFFIXES
from kickback.files.json_lines import is_end, is_header
from kickback.files.locks import lock
from kickback.takes.plain import PlainMap
from kickback.takes.record import Record

__all__ = ["LeftBehind", "TakeFile", "reason_of", "recover"]

_OPEN = ".open.jsonl"
_BUFFER = 1 << 18
"""Bytes that wait before they are written, at most."""

_CLOSED = getattr(os, "O_CLOEXEC", 0)
"""Games that the recorder starts do not get its files."""

_STEMS = 10_000
"""Names of which the next number is kept in mind."""

_TAIL = 1 << 20
"""Bytes of a first line that are looked at."""


class LeftBehind(Record, frozen=True, kw_only=True):
    """A take that a recorder left open when it was ended: its file, made whole, and frames.

    ``damaged`` lines in it are no JSON, which is not the recorder's doing.
    """

    path: Path
    frames: int
    damaged: int = 0


def reason_of(error: OSError) -> str:
    """Return what the operating system said, as the end of a sentence."""
    return (error.strerror or str(error)).lower()


class TakeFile:
    """One take, written as it comes; raises OSError where the disk says no."""

    def __init__(self, folder: Path, stem: str, head: bytes) -> None:
        self._folder = folder
        try:
            self.path, self._file = _create(folder, stem)
        except FileNotFoundError:
            folder.mkdir(parents=True, exist_ok=True)
            self.path, self._file = _create(folder, stem)
        self._pending = [head]
        self._waiting = len(head)
        self.frames = 0
        self.problem = ""
        self.size = self._waiting
        self._saved = 0

    @property
    def final(self) -> Path:
        """Return the name that the take has once it is finished."""
        return self.path.with_name(self.path.name.removesuffix(_OPEN) + ".jsonl")

    def write(self, lines: bytes, frames: int) -> None:
        """Add whole lines that hold so many frames."""
        self._pending.append(lines)
        self._waiting += len(lines)
        self.size += len(lines)
        self.frames += frames
        if self._waiting > _BUFFER:
            self.flush()

    def flush(self) -> None:
        """Hand what was written to the operating system, and see that it is still there."""
        if self._pending:
            data = b"".join(self._pending)
            self._pending, self._waiting = [], 0
            self._write(data)
        if os.fstat(self._file.fileno()).st_nlink == 0 or not os.path.lexists(self.path):
            self._rescue()

    def finish(self, end: PlainMap) -> Path:
        """Write the end object, give the file its final name, and return that.

        The name is never one that exists: another is chosen then. ``problem`` says what
        could not be written.
        """
        self._pending.append(msgspec.json.encode({"end": True, **end}) + b"\n")
        try:
            self.flush()
        except OSError as error:
            # a take that the disk has no more room for is kept as far as it came
            self.problem = self.problem or reason_of(error)
        path = _final_name(self.path)
        self._file.close()
        return path

    def _write(self, data: bytes) -> None:
        rest = memoryview(data)
        try:
            while rest:
                written = self._file.write(rest)
                rest = rest[written:]
        except OSError as error:
            self.problem = reason_of(error)
            with contextlib.suppress(OSError):
                # no half line at the end: cut back to the last whole one
                self._saved += data[: len(data) - len(rest)].rfind(b"\n") + 1
                self._file.truncate(self._saved)
                self._file.seek(self._saved)
            raise
        self._saved += len(data)

    def _rescue(self) -> None:
        """Write the take anew: its folder or file has vanished, but its content is open here."""
        old = self._file
        self._folder.mkdir(parents=True, exist_ok=True)
        self.path, self._file = _create(self._folder, self.path.name.removesuffix(_OPEN))
        old.seek(0)
        shutil.copyfileobj(old, self._file)
        old.close()


class _Numbers:
    """The number that a name needs next: a full folder is not looked through for each take."""

    def __init__(self) -> None:
        self._next: dict[tuple[Path, str], int] = {}

    def names(self, folder: Path, stem: str) -> Iterator[str]:
        """Yield names to try, from the first that was not given away yet."""
        key = folder, stem
        while True:
            number = self._next.get(key, 1)
            if len(self._next) > _STEMS:  # stems carry the time: old ones do not come back
                self._next.clear()
            self._next[key] = number + 1
            yield stem if number == 1 else f"{stem}-{number}"


_NUMBERS = _Numbers()


def _create(folder: Path, stem: str) -> tuple[Path, IO[bytes]]:
    """Create a file for a take under a name that none has, locked against the next start."""
    names = _NUMBERS.names(folder, stem)
    while True:
        place = os.path.join(folder, next(names))  # noqa: PTH118 - 200 takes a second
        if any(os.path.lexists(place + suffix) for suffix in SUFFIXES):
            continue
        try:
            # follows no link, replaces nothing
            descriptor = os.open(place + _OPEN, os.O_RDWR | os.O_CREAT | os.O_EXCL | _CLOSED, 0o666)
        except FileExistsError:
            continue
        lock(descriptor)
        return Path(place + _OPEN), os.fdopen(descriptor, "r+b", buffering=0)


def _final_name(path: Path) -> Path:
    """Rename a finished take; replaces nothing."""
    stem = str(path).removesuffix(_OPEN)
    number = 1
    while True:
        target = Path(f"{stem}.jsonl" if number == 1 else f"{stem}-{number}.jsonl")
        number += 1
        with contextlib.suppress(FileExistsError):
            take_name(path, target)
            path.unlink(missing_ok=True)
            return target


def recover(folder: Path) -> list[LeftBehind]:
    """Make whole the takes that an ended recorder left open in a folder.

    A cut-off last line is left out, an end object says what happened, and the file gets
    its final name. Takes that another recorder is writing are left alone.
    """
    remove_left_behind(folder)
    found = []
    for path in sorted(folder.glob(f"*{_OPEN}")):
        try:
            left = _recovered(path)
        except OSError:  # locked: another recorder's; or a link, which is nobody's take
            continue
        if left is not None:
            found.append(left)
    return found


def _recovered(path: Path) -> LeftBehind | None:
    """Make one open take whole; None where there is none. Raises OSError where it is not ours."""
    # whoever can write to the folder must not lead us out of it, nor have us wait
    flags = os.O_RDWR | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0)
    with os.fdopen(os.open(path, flags), "r+b") as file:
        about = os.fstat(file.fileno())
        if not stat.S_ISREG(about.st_mode):
            return None
        lock(file.fileno())
        if about.st_nlink > 1:
            _drop_second_name(path)
            return None
        frames, damaged = _made_whole(file)
        if not frames:
            if not damaged:
                path.unlink()  # no frame had arrived: there is no take
            return None
        return LeftBehind(path=_final_name(path), frames=frames, damaged=damaged)


def _drop_second_name(path: Path) -> None:
    """Take the open name from a take that has its final one already.

    A recorder was ended between giving the one and taking the other. What has a second
    name elsewhere is somebody's copy: it is left as it is.
    """
    stem = path.name.removesuffix(_OPEN)
    for other in path.parent.iterdir():
        if other.name.startswith(stem) and other != path and other.samefile(path):
            path.unlink()
            return


def _made_whole(file: IO[bytes]) -> tuple[int, int]:
    """Cut a torn last line off and add an end object; the number of frames, and of bad lines."""
    file.seek(0)
    lines, bad, last = 0, 0, b""
    size = 0
    for line in file:
        sound = _is_json(line)
        if not line.endswith(b"\n") and not sound:
            break
        lines, bad = lines + sound, bad + (not sound)
        last, size = line, size + len(line)
    ended = _is(last, is_end)
    file.seek(0)
    headed = _is(file.readline(_TAIL), is_header)
    frames = lines - headed - ended
    if not frames:
        return 0, bad
    file.truncate(size)
    file.seek(size)
    if not last.endswith(b"\n"):
        file.write(b"\n")
    if not ended:
        end = {"end": True, "frames": frames, "ended_by": "the end of the recorder"}
        file.write(msgspec.json.encode(end) + b"\n")
    return frames, bad


def _is_json(line: bytes) -> bool:
    try:
        msgspec.json.decode(line)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return False
    return True


def _is(line: bytes, kind: Callable[[object], bool]) -> bool:
    return bool(_is_json(line) and kind(msgspec.json.decode(line)))
