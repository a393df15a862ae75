"""Files that are there whole or not at all, and are nobody else's."""

import contextlib
import os
import re
import secrets
from collections.abc import Iterator
from pathlib import Path

from kickback.errors import InputError
from kickback.files.locks import lock
from kickback.files.names import file_stem

__all__ = ["remove_left_behind", "take_name", "write_new"]

_PART = re.compile(r"\..*\.[0-9a-f]{16}\.part", re.DOTALL)
"""What a file is called that is being written."""

_NOT_WAITING = getattr(os, "O_NONBLOCK", 0)


def write_new(path: Path, data: bytes, *, replace: bool = False) -> None:
    """Write bytes to a file, whole or not at all; refuses to replace unless told to.

    They are written beside it first, under a name that nobody else uses, and the name that
    is wanted is then taken in one step: of two writers one wins, and the other is told.
    """
    if not replace and os.path.lexists(path):
        raise InputError("the file exists already", str(path))
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with _written_beside(path, data) as beside:
            if replace:
                beside.replace(path)
            else:
                take_name(beside, path)
    except OSError as error:
        if isinstance(error, FileExistsError) and os.path.lexists(path):
            raise InputError("the file exists already", str(path)) from error
        raise InputError(f"cannot be written ({error.strerror})", str(path)) from error
    except ValueError as error:  # a NUL in a name
        raise InputError(f"is no name of a file ({error})", str(path)) from error


@contextlib.contextmanager
def _written_beside(path: Path, data: bytes) -> Iterator[Path]:
    """Write bytes to a new file in a file's folder, which is gone afterwards however that ends.

    It is locked meanwhile, so that one that was left behind can be told.
    """
    beside = path.with_name(f".{file_stem(path.name)[:60]}.{secrets.token_hex(8)}.part")
    # created anew, so that no link that lies in wait under the name is followed
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_BINARY", 0)
    with os.fdopen(os.open(beside, flags, 0o666), "wb") as file:
        try:
            lock(file.fileno())
            file.write(data)
            file.flush()
            yield beside
        finally:
            beside.unlink(missing_ok=True)


def remove_left_behind(folder: Path) -> None:
    """Remove what writers that were ended in the middle left in a folder."""
    for path in folder.glob(".*.part"):
        if _PART.fullmatch(path.name) is None:
            continue
        with contextlib.suppress(OSError):  # still being written; or a link
            descriptor = os.open(path, os.O_WRONLY | getattr(os, "O_NOFOLLOW", 0) | _NOT_WAITING)
            try:
                lock(descriptor)
                path.unlink()
            finally:
                os.close(descriptor)


def take_name(beside: Path, path: Path) -> None:
    """Give a file another name, beside its own or instead; FileExistsError where that is taken."""
    try:
        os.link(beside, path)
    except FileExistsError:
        raise
    except OSError:  # a file system without links
        if os.path.lexists(path):
            raise FileExistsError from None
        beside.rename(path)
