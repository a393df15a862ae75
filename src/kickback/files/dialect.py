"""The dialect of a table written as text: what stands between cells, and in their numbers."""

import csv

from kickback.takes.record import Record

__all__ = ["Dialect", "dialect_of", "is_number"]

_DELIMITERS = (",", ";", "\t", "|")


class Dialect(Record, frozen=True, kw_only=True):
    """What parts a table's cells, and whether its numbers have decimal commas."""

    delimiter: str = ","
    decimal_comma: bool = False

    def cells(self, line: str) -> list[str]:
        """Return the cells of a line; one that is no line of a table is split plainly."""
        if self.delimiter == " ":
            return line.split()
        try:
            return next(csv.reader([line.strip("\r")], delimiter=self.delimiter), [])
        except csv.Error:
            return line.split(self.delimiter)

    def pointed(self, cell: str) -> str:
        """Return a cell with a decimal point, where numbers have commas."""
        return cell.replace(",", ".") if self.decimal_comma else cell

    def numeric(self, cell: str) -> bool:
        """Whether a cell is a number."""
        return is_number(self.pointed(cell))

    def value(self, cell: str) -> float | str:
        """Return a cell's number, or its words."""
        try:
            return float(self.pointed(cell))
        except ValueError:
            return cell


def is_number(cell: str) -> bool:
    """Whether a cell with a decimal point is a number."""
    try:
        float(cell)
    except ValueError:
        return False
    return True


def dialect_of(names_line: str, sample: str = "") -> Dialect:
    """Return the dialect that a line of names and some rows after it are written in.

    Without rows a comma between names parts them, and numbers may have commas elsewhere.
    """
    counts = {mark: names_line.count(mark) for mark in _DELIMITERS}
    delimiter = max(_DELIMITERS, key=lambda mark: counts[mark])
    if counts[delimiter] == 0:
        delimiter = " " if len(names_line.split()) > 1 else ","
    if delimiter == ",":
        return Dialect(delimiter=delimiter)
    if not sample:
        return Dialect(delimiter=delimiter, decimal_comma=True)
    cells = [cell.strip() for cell in sample.replace("\n", delimiter).split(delimiter)]
    commas = sum(cell.count(",") == 1 and is_number(cell.replace(",", ".")) for cell in cells)
    points = sum("." in cell and is_number(cell) for cell in cells)
    return Dialect(delimiter=delimiter, decimal_comma=commas > points)
