"""CSV: an optional header line ``# {JSON}``, a line of column names, then one line a frame.

Two ways to the same table: a careful one that knows every cell's line, and a quick one
for large files that gives up, in favour of the careful one, on anything unusual.
"""

import csv
import io
import mmap
from collections.abc import Mapping
from typing import Any

import msgspec

from kickback.errors import InputError
from kickback.files.raw import LARGE, Cells, RawTable
from kickback.takes.channels import is_text

__all__ = ["Content", "decode_header_line", "detect_dialect", "read_csv"]

Content = bytes | mmap.mmap
"""A file's bytes, in memory or mapped into it."""

_DELIMITERS = (",", ";", "\t", "|")


def read_csv(data: Content, source: str, *, careful: bool = False) -> RawTable:
    """Read one CSV table from bytes.

    Raises InputError with file and line for a bad header line, missing or doubled
    column names, and rows of another length. A cut-off last line is left out with a
    warning. ``careful`` reads cell by cell whatever the size, so that every row's line
    is known exactly.
    """
    text_head = data[:65536].decode("utf-8-sig", errors="ignore")
    lines = text_head.split("\n", 2)
    commented = lines[0].startswith("#")
    header = None
    if commented:
        end = data.find(b"\n")
        first = data[: end if end >= 0 else None].decode("utf-8-sig", errors="replace")
        header = decode_header_line(first.lstrip("#"), f"{source}, line 1")
    data, warnings = _without_cut_line(data, source)
    if len(data) >= LARGE and not careful:
        quick = _read_quickly(data, source, commented)
        if quick is not None:
            columns, rows = quick
            first_row = 3 if commented else 2
            return RawTable(
                source=source,
                header=header,
                columns=columns,
                lines=range(first_row, first_row + rows),
                warnings=warnings,
            )
    return _read_carefully(data, source, header, commented, warnings)


def decode_header_line(text: str, place: str) -> Mapping[str, Any]:
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


def detect_dialect(names_line: str, sample: str) -> tuple[str, bool]:
    """Return the delimiter, and whether numbers have decimal commas."""
    counts = {mark: names_line.count(mark) for mark in _DELIMITERS}
    delimiter = max(_DELIMITERS, key=lambda mark: counts[mark])
    if counts[delimiter] == 0:
        delimiter = ","
    if delimiter == ",":
        return delimiter, False
    cells = [cell.strip() for cell in sample.replace("\n", delimiter).split(delimiter)]
    commas = sum(cell.count(",") == 1 and _is_number(cell.replace(",", ".")) for cell in cells)
    points = sum("." in cell and _is_number(cell) for cell in cells)
    return delimiter, commas > points


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


def _decode(data: Content, source: str) -> str:
    data = bytes(data)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise InputError(
            "holds bytes that are not UTF-8 text; expected CSV or JSON Lines",
            f"{source}, line {line}",
        ) from error


def _read_carefully(
    data: Content,
    source: str,
    header: Mapping[str, Any] | None,
    commented: bool,
    warnings: tuple[str, ...],
) -> RawTable:
    text = _decode(data, source)
    skipped = 0
    if commented:
        _, _, text = text.partition("\n")
        skipped = 1
    while text.startswith(("\n", "\r\n")):
        text = text.partition("\n")[2]
        skipped += 1
    names_line, _, rest = text.partition("\n")
    if not names_line.strip():
        raise InputError("no line of column names", source)
    delimiter, comma = detect_dialect(names_line, rest[:4000])
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    rows: list[list[str]] = []
    places: list[int] = []
    names: list[str] = []
    try:
        for row in reader:
            line = reader.line_num + skipped
            if not names:
                names = _checked_names(row, f"{source}, line {line}")
            elif row:
                _check_row(row, names, source, line)
                rows.append(row)
                places.append(line)
    except csv.Error as error:
        raise InputError(str(error), f"{source}, line {reader.line_num + skipped}") from error
    columns: dict[str, Cells] = {}
    for index, name in enumerate(names):
        cells = [row[index] for row in rows]
        columns[name] = [cell.replace(",", ".") for cell in cells] if comma else cells
    return RawTable(source=source, header=header, columns=columns, lines=places, warnings=warnings)


def _check_row(row: list[str], names: list[str], source: str, line: int) -> None:
    if len(row) == len(names):
        return
    if row[0].lstrip().startswith("# {"):
        raise InputError(
            "a second header: the file holds more than one take; split it with"
            " 'kickback record - < FILE'",
            f"{source}, line {line}",
        )
    raise InputError(
        f"{len(row)} values where there are {len(names)} columns", f"{source}, line {line}"
    )


def _checked_names(row: list[str], place: str) -> list[str]:
    names = [name.strip() for name in row]
    if names and all(_is_number(name) for name in names):
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
    delimiter, _ = detect_dialect(before[-1], "")
    cells = last.split(delimiter)
    others = [line.split(delimiter) for line in before]
    if len(cells) != len(others[-1]):
        return False
    lengths = [len(row[-1]) for row in others if len(row) == len(cells)]
    return len(cells[-1]) >= min(lengths, default=1) and cells[-1] not in {"", "-"}


def _read_quickly(
    data: Content, source: str, commented: bool
) -> tuple[Mapping[str, Cells], int] | None:
    """Read with PyArrow, or return None where anything is out of the ordinary."""
    import pyarrow as pa
    from pyarrow import csv as arrow_csv

    from kickback.files.arrow import plain_columns

    head = data[:65536].decode("utf-8-sig", errors="ignore").split("\n")
    names_line = head[1 if commented else 0]
    delimiter, comma = detect_dialect(names_line, "\n".join(head[2:40]))
    names = _checked_names(next(csv.reader([names_line], delimiter=delimiter), []), source)
    if comma or not names:
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
                column_types={name: pa.string() for name in names if is_text(name)},
            ),
        )
    except pa.ArrowInvalid:
        return None
    columns = plain_columns(table)
    return None if columns is None else (columns, table.num_rows)
