"""Rows gathered into columns a block at a time, so that a large table never lies about whole."""

from array import array
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from kickback.files.options import ReadLimits, check_count, check_size
from kickback.files.raw import Cells
from kickback.takes.channels import is_text

__all__ = ["Gathered", "flat_frame"]

_PLAIN = {float, int, bool}


class Gathered:
    """Cells by column; words are kept once each.

    ``size``: bytes that they come from, which say how large the table may become.
    ``compact`` makes numbers of them block by block, which costs less than cells do.
    """

    def __init__(self, size: int, limits: ReadLimits, source: str, *, compact: bool) -> None:
        self.lines = array("q")
        self._size, self._limits, self._source = size, limits, source
        self._compact = compact
        self._parts: dict[str, list[tuple[int, Cells]]] = {}
        self._known: dict[str, str] = {}

    def check(self, names: int, place: str) -> None:
        """Raise InputError where so many columns are more than a table may have."""
        check_count(names, self._limits, place)
        check_size(8 * names * len(self.lines), self._size, self._limits, self._source)

    def add(self, columns: Mapping[str, Sequence[Any]], lines: Sequence[int]) -> None:
        """Add rows by column; ``lines`` says where each stands. What a column lacks is None.

        Raises InputError for more columns or cells than a table may have.
        """
        start = len(self.lines)
        self.lines.extend(lines)
        new = sum(name not in self._parts for name in columns)
        self.check(len(self._parts) + new, f"{self._source}, line {lines[0] if lines else 1}")
        for name, cells in columns.items():
            self._parts.setdefault(name, []).append((start, self._kept(name, cells)))

    def _kept(self, name: str, cells: Sequence[Any]) -> Cells:
        """Return cells in the form in which they are kept."""
        if self._compact and not is_text(name):
            numbers = _numbers(cells)
            if numbers is not None:
                return numbers
        known = self._known
        return [known.setdefault(cell, cell) if type(cell) is str else cell for cell in cells]

    def columns(self) -> dict[str, Cells]:
        """Return the columns, each as long as there are rows."""
        return {name: self._whole(parts) for name, parts in self._parts.items()}

    def _whole(self, parts: list[tuple[int, Cells]]) -> Cells:
        lengths = sum(len(cells) for _, cells in parts)
        if lengths == len(self.lines) and all(isinstance(one, np.ndarray) for _, one in parts):
            return np.concatenate([one for _, one in parts])
        whole: list[Any] = []
        for start, cells in parts:
            whole += [None] * (start - len(whole))
            whole += cells.tolist() if isinstance(cells, np.ndarray) else cells
        return whole + [None] * (len(self.lines) - len(whole))


def _numbers(cells: Sequence[Any]) -> Cells | None:
    """Return cells as numbers where all are, written or not; None otherwise."""
    kinds = set(map(type, cells))
    try:
        if kinds <= _PLAIN:
            return np.array(cells, dtype=np.float64)
        if kinds == {str}:
            return np.fromiter(map(float, cells), dtype=np.float64, count=len(cells))
    except (ValueError, OverflowError):
        pass
    return None


def flat_frame(value: Mapping[str, Any]) -> dict[str, Any]:
    """Return a frame's cells by name; what lies inside of another by its dotted path.

    ``{"pos": [1, 2]}`` has ``pos.0`` and ``pos.1``; lists of words stay lists.
    """
    flat: dict[str, Any] = {}
    waiting: list[tuple[str, Any]] = list(value.items())[::-1]
    while waiting:
        name, cell = waiting.pop()
        if type(cell) is dict and cell:
            waiting += [(f"{name}.{key}", inner) for key, inner in list(cell.items())[::-1]]
        elif type(cell) is list and cell and all(type(one) in _NESTED for one in cell):
            inside = list(enumerate(cell))
            waiting += [(f"{name}.{index}", inner) for index, inner in reversed(inside)]
        else:
            flat[name] = cell
    return flat


_NESTED = {float, int, bool, dict, list}
"""What a list holds that is a number's or an object's place, not a list of words."""
