"""Writing takes: JSON Lines and CSV, plain or gzip, and Parquet."""

import gzip
from pathlib import Path

import numpy as np

from kickback.errors import UsageError
from kickback.files.atomic import write_new
from kickback.files.encodings import SUFFIXES, encoding_of_name
from kickback.takes.axes import flipped_columns
from kickback.takes.channels import channel_of
from kickback.takes.take import Column, Take

__all__ = ["encode_take", "write_take"]


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
