"""CSV: an optional header line ``# {JSON}``, a line of column names, then one line a frame.

Two ways to the same table: a careful one that knows every cell's line, and a quick one
for large files that gives up, in favour of the careful one, on anything unusual.
"""

import csv
import io
import itertools
import mmap
import sys
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

import msgspec

from kickback.errors import InputError
from kickback.files.arrow import has_arrow, plain_columns, slowly
from kickback.files.dialect import Dialect, dialect_of, is_number
from kickback.files.gathering import Gathered
from kickback.files.options import ReadLimits, check_count, check_header, check_lines
from kickback.files.raw import LARGE, Cells, RawTable, Skipped, skipped_lines
from kickback.takes.channels import channel_of, is_text
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.record import replace

__all__ = ["Content", "decode_header_line", "read_csv"]

Content = bytes | mmap.mmap
"""A file's bytes, in memory or mapped into it."""

_MEASURED = {"time", "position", "velocity", "angle"}
"""Kinds of columns that hold numbers, or the file is no take."""

_ROWS = 10_000
"""Rows that become columns at a time."""

_HEAD = 100_000
"""Lines within which the column names stand: a game may print before it plays."""

_AHEAD = 20
"""Lines within which the first row follows the names, text between them allowed."""


def read_csv(
    data: Content, source: str, limits: ReadLimits | None = None, *, careful: bool = False
) -> RawTable:
    """Read one CSV table from bytes.

    Raises InputError with file and line for a bad header line, missing or doubled
    column names, and rows of another length. A cut-off last line is left out with a
    warning; lines of text that are no frames are counted. ``careful`` reads cell by cell
    whatever the size, so that every row's line is known exactly.
    """
    limits = limits or ReadLimits()
    check_lines(data, limits, source)
    text_head = data[:65536].decode("utf-8-sig", errors="ignore")
    lines = text_head.split("\n", 2)
    commented = lines[0].startswith("#")
    header = None
    if commented:
        end = data.find(b"\n")
        first = data[: end if end >= 0 else None].decode("utf-8-sig", errors="replace")
        header = decode_header_line(first.lstrip("#"), f"{source}, line 1")
        check_header(header, limits, f"{source}, line 1")
    data, warnings = _without_cut_line(data, source)
    if len(data) >= LARGE and not careful and has_arrow():
        quick = _read_quickly(data, source, commented, limits)
        if quick is not None:
            columns, rows = quick
            first_row = 3 if commented else 2
            return RawTable(
                source=source,
                header=header,
                columns=columns,
                lines=range(first_row, first_row + rows),
                warnings=warnings,
                exact=False,
            )
    warnings = (*warnings, *slowly(source, len(data)))
    return _read_carefully(data, source, header, commented, warnings, limits)


def decode_header_line(text: str, place: str) -> PlainMap:
    """Decode a header written as JSON; raises InputError where it is none."""
    try:
        value = msgspec.json.decode(text.strip())
    except (msgspec.DecodeError, RecursionError) as error:
        raise InputError(
            f'the header is not JSON ({error}); expected # {{"kickback": 1, …}}', place
        ) from error
    if not isinstance(value, dict):
        raise InputError('the header must be a JSON object such as {"kickback": 1}', place)
    return value


def _not_text(data: bytes, source: str) -> InputError:
    """Return the error for bytes that are not UTF-8, which names their line."""
    line = 1
    try:
        data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
    return InputError(
        "holds bytes that are not UTF-8 text; expected CSV or JSON Lines", f"{source}, line {line}"
    )


def _read_carefully(
    data: Content,
    source: str,
    header: PlainMap | None,
    commented: bool,
    warnings: tuple[str, ...],
    limits: ReadLimits,
) -> RawTable:
    data = bytes(data)
    stream = io.TextIOWrapper(io.BytesIO(data), encoding="utf-8-sig", newline="\n")
    try:
        lines = [line.removesuffix("\n") for line in itertools.islice(stream, _HEAD)]
        at = _names_row(lines, 1 if commented else 0)
        if at is None:
            raise InputError("no line of column names", source)
        passed = [(number, line) for number, line in enumerate(lines[:at], 1) if line.strip()]
        passed = passed[1:] if commented else passed
        if header is None:
            header, passed = _late_header(passed, source, limits)
        dialect = dialect_of(lines[at], "\n".join(lines[at + 1 : at + 80])[:4000] or " ")
        check_count(lines[at].count(dialect.delimiter) + 1, limits, f"{source}, line {at + 1}")
        size = len(data)
        gathered = Gathered(size, data.count(b"\n") + 1, limits, source, compact=size >= LARGE)
        frames = _Frames(source, dialect, gathered, passed)
        _sort_rows(itertools.chain((f"{line}\n" for line in lines[at:]), stream), at, frames)
    except UnicodeDecodeError:
        raise _not_text(data, source) from None
    return RawTable(
        source=source,
        header=header,
        columns=frames.columns(),
        lines=gathered.lines,
        warnings=warnings,
        skipped=frames.skipped,
    )


def _late_header(
    passed: list[tuple[int, str]], source: str, limits: ReadLimits
) -> tuple[PlainMap | None, list[tuple[int, str]]]:
    """Return the header that stands among lines before the names, and the other lines."""
    for number, line in passed:
        if line.lstrip().startswith("# {"):
            header = decode_header_line(line.lstrip().lstrip("#"), f"{source}, line {number}")
            check_header(header, limits, f"{source}, line {number}")
            return header, [item for item in passed if item[0] != number]
    return None, passed


def _sort_rows(lines: Iterator[str], at: int, frames: "_Frames") -> None:
    """Sort the rows from the line of names on, line ``at`` from 0, into frames and text."""
    if frames.dialect.delimiter == " ":
        lines = (f"{line.strip()}\n" for line in lines)
    start = at
    while batch := list(itertools.islice(lines, _ROWS)):
        if any('"' in line for line in batch):  # a cell may go on in the next line
            _sort_one_by_one(itertools.chain(batch, lines), start, frames)
            return
        _sort_batch(batch, start, frames)
        start += len(batch)


def _sort_batch(batch: list[str], start: int, frames: "_Frames") -> None:
    """Sort rows of a line each, of which the first is line ``start`` from 0."""
    reader = _rows(batch, frames.dialect)
    try:
        rows = list(reader)
    except csv.Error as error:
        raise InputError(str(error), frames.place(start + reader.line_num)) from error
    if not frames.take_all(rows, start + 1):
        for line, row in enumerate(rows, start + 1):
            if row:
                frames.take(row, line, 1)


def _sort_one_by_one(lines: Iterator[str], start: int, frames: "_Frames") -> None:
    """Sort rows that may be of several lines."""
    reader = _rows(lines, frames.dialect)
    last = 0
    try:
        for row in reader:
            if row:
                frames.take(row, reader.line_num + start, reader.line_num - last)
            last = reader.line_num
    except csv.Error as error:
        raise InputError(str(error), frames.place(reader.line_num + start)) from error


def _rows(lines: Iterable[str], dialect: Dialect) -> Any:
    """Return a reader of a table's rows; a line's own limit is that of a cell too."""
    csv.field_size_limit(sys.maxsize)
    return csv.reader(lines, delimiter=dialect.delimiter, skipinitialspace=dialect.delimiter == " ")


def _names_row(lines: list[str], start: int) -> int | None:
    """Return the index of the line of column names, or None where all lines are blank.

    A game may have printed text before it: the names are the first line without numbers
    that is followed, within some lines, by one of as many cells with a number in it.
    Where no line is, the first one is taken and its faults are reported.
    """
    filled = [index for index in range(start, len(lines)) if lines[index].strip()]
    for place, index in enumerate(filled):
        dialect = dialect_of(lines[index])
        names = dialect.cells(lines[index])
        if len(names) < 2 or any(is_number(name) for name in names):
            continue
        for later in filled[place + 1 : place + 1 + _AHEAD]:
            cells = dialect.cells(lines[later])
            if len(cells) == len(names) and any(map(dialect.numeric, cells)):
                return index
    return filled[0] if filled else None


class _Frames:
    """The rows that are frames, and the lines of text between them and before (``passed``)."""

    def __init__(
        self,
        source: str,
        dialect: Dialect,
        gathered: Gathered,
        passed: list[tuple[int, str]],
    ) -> None:
        self.gathered, self.dialect = gathered, dialect
        self._source, self._passed, self._text = source, len(passed), passed[:1]
        self._numeric = dialect.numeric
        self._names: list[str] = []
        self._rows: list[list[str]] = []
        self._lines: list[int] = []
        self._worded = False

    @property
    def skipped(self) -> Skipped | None:
        """Return the lines of text, those before the names too."""
        found = skipped_lines(self._text)
        return None if found is None else replace(found, count=self._passed)

    def place(self, line: int) -> str:
        """Return where a line is, for a message."""
        return f"{self._source}, line {line}"

    def take_all(self, rows: list[list[str]], line: int) -> bool:
        """Take in rows of a line each from ``line`` on, where all of them are plain frames."""
        if not self._names or set(map(len, rows)) != {len(self._names)}:
            return False
        try:
            for row in rows:
                float(self.dialect.pointed(row[0]))
        except ValueError:
            return False
        self._gather()
        self._rows, self._lines = rows, list(range(line, line + len(rows)))
        self._gather()
        return True

    def take(self, row: list[str], line: int, height: int) -> None:
        """Sort in a row of ``height`` lines that ends at ``line``.

        Raises InputError for a broken frame.
        """
        if not self._names:
            self._names = _checked_names(row, self.place(line))
            return
        if len(row) == len(self._names):
            if self._numeric(row[0]) or any(map(self._numeric, row)) or not any(row):
                if not self._lines and not self.gathered.lines:
                    self._worded = not self._numeric(row[0])
                self._rows.append(row)
                self._lines.append(line)
                if len(self._rows) >= _ROWS:
                    self._gather()
                return
        else:
            self._check_text(row, line)
        if height > 1:
            raise InputError(
                "a quotation mark that is not closed swallows the lines after it",
                f"{self._source}, line {line - height + 1}",
            )
        self._passed += 1
        if not self._text:
            self._text = [(line, ", ".join(row))]

    def _check_text(self, row: list[str], line: int) -> None:
        """Raise InputError for a row of another length that was meant as a frame."""
        if row[0].lstrip().startswith("# {"):
            raise InputError(
                "a second header: the file holds more than one take; split it with"
                " 'kickback record - < FILE'",
                self.place(line),
            )
        numbers = sum(map(self._numeric, row))
        if self._numeric(row[0]) or (self._worded and 2 * numbers >= len(self._names)):
            raise InputError(
                f"{len(row)} values where there are {len(self._names)} columns",
                self.place(line),
            )

    def columns(self) -> dict[str, Cells]:
        """Return the cells of each column, with decimal points."""
        self._gather()
        return self.gathered.columns()

    def _gather(self) -> None:
        """Turn the rows so far into columns."""
        cells: Any = zip(*self._rows, strict=True) if self._rows else ([] for _ in self._names)
        if self.dialect.decimal_comma:
            cells = (map(self.dialect.pointed, column) for column in cells)
        columns = {name: list(column) for name, column in zip(self._names, cells, strict=True)}
        self.gathered.add(columns, self._lines)
        self._rows, self._lines = [], []


def _checked_names(row: list[str], place: str) -> list[str]:
    names = [name.strip() for name in row]
    if names and all(is_number(name) for name in names):
        raise InputError(
            "numbers where the column names should be; the first line names the columns,"
            " such as t,x,y",
            place,
        )
    for index, name in enumerate(names):
        if not name:
            raise InputError(f"column {index + 1} has no name", place)
        if name in names[:index]:
            raise InputError(f"two columns are named '{name}'", place)
    return names


def _without_cut_line(data: Content, source: str) -> tuple[Content, tuple[str, ...]]:
    """Leave out a last line that looks cut off in the middle."""
    if data[-1:] in {b"", b"\n", b"\r"}:
        return data, ()
    data = bytes(data)
    body, newline, last = data.rpartition(b"\n")
    if not newline or not last.strip():
        return data, ()
    tail = body[-8192:].decode("utf-8", errors="replace").split("\n")[1:]
    before = [line.rstrip("\r") for line in tail if line.strip() and not line.startswith("#")]
    if _is_whole(last.decode("utf-8", errors="replace"), before[-20:]):
        return data, ()
    line = data.count(b"\n") + 1
    warning = f"{source}, line {line}: the last line is cut off and was left out"
    return body + b"\n", (warning,)


def _is_whole(last: str, before: list[str]) -> bool:
    """Whether a last line without a line end can be trusted to be complete.

    It can where it has as many cells as the others and its last cell is no shorter
    than theirs: a number that lost digits would read as another number.
    """
    if not before:
        return True
    delimiter = dialect_of(before[-1]).delimiter
    cells = last.split(delimiter)
    others = [line.split(delimiter) for line in before]
    counts = [len(row) for row in others]
    if len(cells) != max(set(counts), key=counts.count):
        return False
    lengths = [len(row[-1]) for row in others if len(row) == len(cells)]
    return len(cells[-1]) >= min(lengths, default=1) and cells[-1] not in {"", "-"}


def _read_quickly(
    data: Content, source: str, commented: bool, limits: ReadLimits
) -> tuple[Mapping[str, Cells], int] | None:
    """Read with PyArrow, or return None where anything is out of the ordinary."""
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    head = data[:65536].decode("utf-8-sig", errors="ignore").split("\n")
    if len(head) < 3:  # lines longer than any table's names
        return None
    names_line = head[1 if commented else 0]
    dialect = dialect_of(names_line, "\n".join(head[2:40]) or " ")
    delimiter, comma = dialect.delimiter, dialect.decimal_comma
    check_count(names_line.count(delimiter) + 1, limits, source)
    names = _checked_names(next(csv.reader([names_line], delimiter=delimiter), []), source)
    if comma or delimiter == " " or not names:
        return None
    skip = 2 if commented else 1
    try:
        table = arrow_csv.read_csv(
            pa.py_buffer(data),
            read_options=arrow_csv.ReadOptions(
                column_names=names, skip_rows=skip, block_size=1 << 24
            ),
            parse_options=arrow_csv.ParseOptions(delimiter=delimiter),
            convert_options=arrow_csv.ConvertOptions(
                null_values=[],
                true_values=["true", "True", "TRUE"],
                false_values=["false", "False", "FALSE"],
                column_types=_types(names),
            ),
        )
    except pa.ArrowInvalid:
        return None
    columns = plain_columns(table)
    return None if columns is None else (columns, table.num_rows)


def _types(names: list[str]) -> PlainDict:
    """Return what the columns are that can be nothing else; the others are told by their cells."""
    import pyarrow as pa

    words = {name: pa.string() for name in names if is_text(name)}
    return words | {name: pa.float64() for name in names if channel_of(name).kind in _MEASURED}
