"""From the columns of an Arrow table to plain ones."""

from collections.abc import Sequence
from importlib.util import find_spec
from typing import Any

import numpy as np

from kickback.errors import UsageError
from kickback.files.raw import LARGE, Cells
from kickback.takes.take import FloatArray

__all__ = ["has_arrow", "need_arrow", "plain_columns", "slowly"]


def has_arrow() -> bool:
    """Whether the package that large tables are read with is installed."""
    return find_spec("pyarrow") is not None


def slowly(source: str, size: int) -> tuple[str, ...]:
    """Return what to say where a large file is read without the package that is quick at it."""
    if size < LARGE or has_arrow():
        return ()
    return (f"{source}: large files are read several times as quickly with 'kickback[large]'",)


def need_arrow(what: str) -> None:
    """Raise UsageError where the package that something needs is not installed."""
    if not has_arrow():
        raise UsageError(f"{what} needs pyarrow: pip install 'kickback[large]'")


def plain_columns(table: Any) -> dict[str, Cells] | None:
    """Return columns of numbers or words; None where one is nested, a date, or has gaps."""
    import pyarrow as pa

    columns: dict[str, Cells] = {}
    for field, column in zip(table.schema, table.columns, strict=True):
        if column.null_count:
            return None
        if pa.types.is_dictionary(field.type):
            columns[field.name] = _words(column.chunks)
        elif pa.types.is_string(field.type):
            columns[field.name] = _words([chunk.dictionary_encode() for chunk in column.chunks])
        elif pa.types.is_boolean(field.type):
            columns[field.name] = _floats([chunk.cast(pa.uint8()) for chunk in column.chunks])
        elif pa.types.is_floating(field.type) or pa.types.is_integer(field.type):
            columns[field.name] = _floats(column.chunks)
        else:
            return None
    return columns


def _words(chunks: Sequence[Any]) -> list[Any]:
    """Return the cells of chunks of words, each word once in memory."""
    cells: list[Any] = []
    for chunk in chunks:
        words = chunk.dictionary.to_pylist()
        cells += map(words.__getitem__, np.from_dlpack(chunk.indices).tolist())
    return cells


def _floats(chunks: Sequence[Any]) -> FloatArray:
    """Return chunks as one array.

    Through DLPack: Arrow's own way to an array would load pandas first, which takes as
    long as reading half a million frames.
    """
    parts = [np.from_dlpack(chunk) for chunk in chunks]
    if not parts:
        return np.zeros(0)
    whole = parts[0] if len(parts) == 1 else np.concatenate(parts)
    return whole.astype(np.float64, copy=False)
