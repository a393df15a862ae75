"""Writing takes: JSON Lines and CSV, plain or gzip, and Parquet."""

import gzip
import os
import secrets
from pathlib import Path

import numpy as np

from kickback.errors import InputError, UsageError
from kickback.files.encodings import SUFFIXES, encoding_of_name
from kickback.files.names import file_stem
from kickback.takes.axes import flipped_columns
from kickback.takes.channels import channel_of
from kickback.takes.take import Column, Take

__all__ = ["encode_take", "write_new", "write_take"]


def write_take(take: Take, path: str | Path, *, replace: bool = True) -> None:
    """Write a take; the ending chooses the encoding. A file that exists is replaced, or kept.

    It is ``.jsonl`` or ``.csv``, also with ``.gz``, or ``.parquet``. Derived columns are left
    out: they are derived again on reading. Raises UsageError for another ending and
    InputError where the file cannot be written.
    """
    name = Path(path).name
    if not name.endswith(SUFFIXES):
        raise UsageError(f"{path}: the ending must be one of {', '.join(SUFFIXES)}")
    plain = name.removesuffix(".gz")
    data = encode_take(take, plain.rpartition(".")[2])
    if plain != name:
        data = gzip.compress(data, mtime=0)
    write_new(Path(path), data, replace=replace)


def encode_take(take: Take, encoding: str) -> bytes:
    """Return a take as the bytes of a file in an encoding, by its name."""
    names, columns = _plain_columns(take)
    return encoding_of_name(encoding).write(take.header.to_mapping(), names, columns)


def write_new(path: Path, data: bytes, *, replace: bool = False) -> None:
    """Write bytes to a file, whole or not at all; refuses to replace unless told to.

    They are written beside it first, under a name that nobody else uses, and the name that
    is wanted is then taken in one step: of two writers one wins, and the other is told.
    """
    if not replace and os.path.lexists(path):
        raise InputError("the file exists already", str(path))
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        beside = _written_beside(path, data)
        try:
            if replace:
                beside.replace(path)
            else:
                _take_name(beside, path)
        finally:
            beside.unlink(missing_ok=True)
    except OSError as error:
        if isinstance(error, FileExistsError) and os.path.lexists(path):
            raise InputError("the file exists already", str(path)) from error
        raise InputError(f"cannot be written ({error.strerror})", str(path)) from error
    except ValueError as error:  # a NUL in a name
        raise InputError(f"is no name of a file ({error})", str(path)) from error


def _written_beside(path: Path, data: bytes) -> Path:
    """Write bytes to a new file in a file's folder; none stays behind where that fails."""
    beside = path.with_name(f".{file_stem(path.name)[:60]}.{secrets.token_hex(8)}.part")
    # created anew, so that no link that lies in wait under the name is followed
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_BINARY", 0)
    with os.fdopen(os.open(beside, flags, 0o666), "wb") as file:
        try:
            file.write(data)
            file.flush()
        except BaseException:
            beside.unlink(missing_ok=True)
            raise
    return beside


def _take_name(beside: Path, path: Path) -> None:
    """Give a file its name; raises FileExistsError where that is taken."""
    try:
        os.link(beside, path)
    except FileExistsError:
        raise
    except OSError:  # a file system without links
        if os.path.lexists(path):
            raise FileExistsError from None
        beside.rename(path)


def _plain_columns(take: Take) -> tuple[list[str], list[Column]]:
    """Return names and columns as a file holds them: up as the header says, flags as 0/1."""
    flips = flipped_columns(take.header)
    names: list[str] = []
    columns: list[Column] = []
    for name, column in take.columns.items():
        if name in take.derived:
            continue
        names.append(name)
        if column.dtype.kind != "f":
            columns.append(column)
            continue
        values = take.numbers(name)
        if name in flips:
            values = -values + 0.0  # + 0.0: no file needs a negative zero
        whole = channel_of(name).kind in {"contact", "button", "count"}
        if whole and bool(np.all(values == np.round(values))):
            columns.append(values.astype(np.int64))
        else:
            columns.append(values)
    return names, columns
