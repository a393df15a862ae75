"""A table as a file gave it, before its cells mean anything, and the cells' conversion."""

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from kickback.errors import InputError
from kickback.takes.channels import channel_of
from kickback.takes.plain import PlainMap
from kickback.takes.record import Record
from kickback.takes.take import Column, FloatArray

__all__ = [
    "LARGE",
    "LONGEST_WORD",
    "Cells",
    "RawTable",
    "Skipped",
    "numbers",
    "plain_cells",
    "skipped_lines",
    "to_column",
]

Cells = Sequence[object] | FloatArray

LARGE = 4_000_000
"""Bytes from which the quick readers are worth loading their package."""

LONGEST_WORD = 1000
"""Characters of a word that are kept: states and events have names, not texts."""

_NUMBERS = {float, int, bool}

_WORDS: dict[str, float] = {
    **dict.fromkeys(("true", "yes", "on", "t", "y"), 1.0),
    **dict.fromkeys(("false", "no", "off", "f", "n"), 0.0),
}


class Skipped(Record, frozen=True, kw_only=True):
    """Lines of a log that are no frames: how many, and the first one."""

    count: int
    line: int
    text: str

    @property
    def sentence(self) -> str:
        """Return what to say about them."""
        where = f"at line {self.line}: '{_short(self.text)}'"
        if self.count == 1:
            return f"a line that is no frame was skipped, {where}"
        return f"{self.count} lines that are no frames were skipped, the first {where}"


def skipped_lines(found: Sequence[tuple[int, str]]) -> Skipped | None:
    """Return what was skipped, from lines and their texts."""
    if not found:
        return None
    return Skipped(count=len(found), line=found[0][0], text=found[0][1].strip())


class RawTable(Record, frozen=True, kw_only=True):
    """Cells by column as they stood in the file; ``lines`` is each row's line number.

    It is ``exact`` unless the file was read too quickly to count its lines.
    """

    source: str
    header: PlainMap | None
    columns: Mapping[str, Cells]
    lines: Sequence[int]
    warnings: tuple[str, ...] = ()
    skipped: Skipped | None = None
    exact: bool = True

    def place(self, row: int | None, column: str | None) -> str:
        """Return where a row and column are, for a message."""
        parts = [self.source]
        if row is not None and row < len(self.lines):
            parts.append(f"line {self.lines[row]}")
        if column is not None:
            parts.append(f"column {column}")
        return ", ".join(parts)


def to_column(name: str, cells: Cells, table: RawTable, notes: list[str] | None = None) -> Column:
    """Turn raw cells into a column of numbers, or of words where the channel is text.

    A column of the game's own becomes numbers where all its cells are, words otherwise.
    Longer words than a game has are cut, which ``notes`` gets a sentence on. Raises
    InputError with line and column for a cell that is no number.
    """
    kind = channel_of(name).kind
    if kind == "text":
        return _words(name, cells, table, notes)
    if kind == "other":
        try:
            return numbers(name, cells, table, allow_missing=True)
        except InputError:
            return _words(name, cells, table, notes)
    return numbers(name, cells, table)


def _words(name: str, cells: Cells, table: RawTable, notes: list[str] | None) -> Column:
    """Return cells as words, shape (n,): each word is kept once, however often it stands."""
    known: dict[str, str] = {}
    column = np.empty(len(cells), dtype=object)
    long = 0
    for row, cell in enumerate(cells):
        word = "" if cell is None else str(cell)
        if len(word) > LONGEST_WORD:
            word, long = word[:LONGEST_WORD], long + 1
        column[row] = known.setdefault(word, word)
    if long and notes is not None:
        notes.append(
            f"{table.source}: {long} words of '{name}' are cut to {LONGEST_WORD} characters"
        )
    return column


def numbers(name: str, cells: Cells, table: RawTable, *, allow_missing: bool = False) -> FloatArray:
    """Turn raw cells into floats, shape (n,); true/false and yes/no count as 1/0.

    Raises InputError with line and column for the first cell that is no number.
    """
    if isinstance(cells, np.ndarray):
        return cells.astype(np.float64, copy=False)
    try:
        return _quick(cells, allow_missing=allow_missing)
    except (TypeError, ValueError, OverflowError):
        pass
    values = np.empty(len(cells))
    for row, cell in enumerate(cells):
        value = _number(cell, allow_missing)
        if value is None:
            what = "is empty" if cell in (None, "") else f"is '{_short(cell)}', which is no number"
            raise InputError(f"'{name}' {what}", table.place(row, name))
        values[row] = value
    return values


def _quick(cells: Sequence[Any], *, allow_missing: bool) -> FloatArray:
    if any(isinstance(cell, str) for cell in cells[:1]):
        return np.fromiter(map(float, cells), dtype=np.float64, count=len(cells))
    kinds = set(map(type, cells))
    if not kinds <= ({*_NUMBERS, type(None)} if allow_missing else _NUMBERS):
        raise ValueError  # an array of words would be wide
    return np.array(cells, dtype=np.float64)  # what is missing is NaN


def _number(cell: object, allow_missing: bool) -> float | None:
    if cell is None or cell == "":
        return float("nan") if allow_missing else None
    if isinstance(cell, str):
        cell = _WORDS.get(cell.strip().lower(), cell)
    try:
        return float(cell) if isinstance(cell, str | int | float) else None
    except (ValueError, OverflowError):
        return None


def _short(cell: object) -> str:
    text = " ".join(str(cell).split())
    return text if len(text) <= 40 else text[:37] + "…"


def plain_cells(column: Column) -> list[Any]:
    """Return a column's cells; what is not known is None."""
    cells: list[Any] = column.tolist()
    if column.dtype.kind == "f" and np.isnan(column).any():
        return [None if math.isnan(value) else value for value in cells]
    return cells
