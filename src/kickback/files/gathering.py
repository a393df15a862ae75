"""Rows gathered into columns a block at a time, so that a large table never lies about whole."""

from array import array
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from kickback.files.options import WRITTEN, ReadLimits, check_count, check_size
from kickback.files.raw import Cells
from kickback.takes.channels import is_text
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["Gathered", "flat_frame", "sparse_columns"]

_PLAIN = {float, int, bool}


class Gathered:
    """Cells by column; words are kept once each.

    ``size``: bytes that they come from, and ``rows`` at most: they say how large the table
    may become. ``compact`` makes numbers of them block by block, which costs less than
    cells do.
    """

    def __init__(
        self, size: int, rows: int, limits: ReadLimits, source: str, *, compact: bool
    ) -> None:
        self.lines = array("q")
        self._size, self._rows = size, rows
        self._limits, self._source = limits, source
        self._compact = compact
        self._parts: dict[str, list[tuple[int, Cells]]] = {}
        self._known: dict[str, str] = {}

    def check(self, names: int, place: str) -> None:
        """Raise InputError where so many columns are more than a table may have."""
        check_count(names, self._limits, place)
        check_size(8 * names * self._rows, self._size, self._limits, self._source, WRITTEN)

    def add(self, columns: Mapping[str, Sequence[object]], lines: Sequence[int]) -> None:
        """Add rows by column; ``lines`` says where each stands. What a column lacks is None.

        Raises InputError for more columns or cells than a table may have.
        """
        start = len(self.lines)
        self.lines.extend(lines)
        new = sum(name not in self._parts for name in columns)
        self.check(len(self._parts) + new, f"{self._source}, line {lines[0] if lines else 1}")
        for name, cells in columns.items():
            self._parts.setdefault(name, []).append((start, self._kept(name, cells)))

    def _kept(self, name: str, cells: Sequence[object]) -> Cells:
        """Return cells in the form in which they are kept."""
        kinds = set(map(type, cells))
        if self._compact and not is_text(name):
            numbers = _numbers(cells, kinds)
            if numbers is not None:
                return numbers
        if str not in kinds:
            return list(cells)
        known = self._known
        return [known.setdefault(cell, cell) if type(cell) is str else cell for cell in cells]

    def columns(self) -> dict[str, Cells]:
        """Return the columns, each as long as there are rows."""
        return {name: self._whole(parts) for name, parts in self._parts.items()}

    def _whole(self, parts: list[tuple[int, Cells]]) -> Cells:
        lengths = sum(len(cells) for _, cells in parts)
        if lengths == len(self.lines) and all(isinstance(one, np.ndarray) for _, one in parts):
            return np.concatenate([one for _, one in parts])
        whole: list[object] = []
        for start, cells in parts:
            whole += [None] * (start - len(whole))
            whole += cells.tolist() if isinstance(cells, np.ndarray) else cells
        return whole + [None] * (len(self.lines) - len(whole))


def _numbers(cells: Sequence[Any], kinds: set[type]) -> Cells | None:
    """Return cells as numbers where all are, written or not; None otherwise."""
    try:
        if kinds <= _PLAIN:
            return np.array(cells, dtype=np.float64)
        if kinds == {str}:
            return np.fromiter(map(float, cells), dtype=np.float64, count=len(cells))
    except (ValueError, OverflowError):
        pass
    return None


def sparse_columns(rows: Sequence[PlainMap]) -> dict[str, list[object]]:
    """Return the cells of frames that have unlike keys; None where a frame lacks one.

    What it costs grows with the cells that there are, not with the table's size.
    """
    count = len(rows)
    columns: dict[str, list[object]] = {}
    for index, row in enumerate(rows):
        for name, cell in row.items():
            column = columns.get(name)
            if column is None:
                column = columns[name] = [None] * count
            column[index] = cell
    return columns


_NESTED = {float, int, bool, dict, list}
"""What a list holds that is a number's or an object's place, not a list of words."""

_DEEPEST = 8
"""Objects within objects of which the innermost have columns of their own."""


def flat_frame(value: PlainMap) -> PlainDict:
    """Return a frame's cells by name; what lies inside of another by its dotted path.

    ``{"pos": [1, 2]}`` has ``pos.0`` and ``pos.1``; lists of words stay lists.
    """
    flat: PlainDict = {}
    _flatten("", value.items(), flat, _DEEPEST)
    return flat


def _flatten(prefix: str, items: Iterable[tuple[object, Any]], flat: PlainDict, deep: int) -> None:
    for key, cell in items:
        kind = type(cell)
        if kind is dict and cell and deep:
            _flatten(f"{prefix}{key}.", cell.items(), flat, deep - 1)
        elif kind is list and cell and deep and _NESTED.issuperset(map(type, cell)):
            _flatten(f"{prefix}{key}.", enumerate(cell), flat, deep - 1)
        else:
            flat[f"{prefix}{key}"] = cell
