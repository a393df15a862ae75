"""JSON Lines: a header object, then one object or array a frame, then an end object."""

import contextlib
from collections.abc import Iterator, Sequence
from typing import Any

import msgspec

from kickback.errors import InputError, nearest
from kickback.files.arrow import has_arrow, slowly
from kickback.files.gathering import Gathered, flat_frame, sparse_columns
from kickback.files.options import ReadLimits, check_count, check_header, check_lines
from kickback.files.raw import LARGE, Cells, RawTable, skipped_lines
from kickback.takes.plain import PlainMap
from kickback.takes.record import Record, replace

__all__ = [
    "END_KEY",
    "HEADER_KEY",
    "column_list",
    "frame_columns",
    "is_end",
    "is_header",
    "read_json_lines",
]

HEADER_KEY = "kickback"
END_KEY = "end"

_BOM = b"\xef\xbb\xbf"
_BLOCK = 1 << 20
"""Bytes that are decoded at a time."""

_SPECIAL = (b'"kickback"', b'"end"')
"""What a line that is no frame has in it, and a frame may have."""

_ROWS = 10_000
"""Frames that become columns at a time."""

_LOOKED_AT = 100
"""Lines that are looked at for keys that are there twice."""

_ANY = 1 << 40
"""The size of what is in memory already: no limit to what it may become."""


def is_header(value: object) -> bool:
    """Whether a decoded line is a take's header."""
    return isinstance(value, dict) and HEADER_KEY in value


def is_end(value: object) -> bool:
    """Whether a decoded line ends a take."""
    return isinstance(value, dict) and END_KEY in value and HEADER_KEY not in value


def read_json_lines(
    data: bytes, source: str, limits: ReadLimits | None = None, *, careful: bool = False
) -> RawTable:
    """Read one take's lines from bytes.

    Raises InputError with file and line for a line that is no JSON, a second header,
    or for frames of another length than the column list. A cut-off last line is left out
    with a warning; lines of text that are neither object nor array are counted. ``careful``
    decodes line by line whatever the size, so that every row's line is known exactly.
    """
    limits = limits or ReadLimits()
    check_lines(data, limits, source)
    if len(data) >= LARGE and not careful and has_arrow():
        from kickback.files.json_quick import read_json_quickly

        quick = read_json_quickly(data, source, limits)
        if quick is not None:
            check_count(len(quick.columns), limits, source)
            return quick
    reading = _Reading(data, source, limits)
    for block in _blocks(data):
        reading.take_in(block)
    table = reading.table()
    return replace(table, warnings=(*table.warnings, *slowly(source, len(data))))


class _Block(Record, frozen=True, kw_only=True):
    """Whole lines of a file: the number of the first, and whether the file ends with them."""

    data: bytes
    line: int
    last: bool


def _blocks(data: bytes) -> Iterator[_Block]:
    """Yield a file's lines some megabytes at a time."""
    at, line = len(_BOM) if data.startswith(_BOM) else 0, 1
    while at < len(data):
        end = data.find(b"\n", min(at + _BLOCK, len(data))) + 1 or len(data)
        block = data[at:end]
        yield _Block(data=block, line=line, last=end == len(data))
        at, line = end, line + block.count(b"\n")


def _filled(block: _Block) -> tuple[list[bytes], list[int]]:
    """Return a block's lines that are not blank, and their numbers."""
    pieces = block.data.split(b"\n")
    lines = [number for number, piece in enumerate(pieces, block.line) if piece.strip()]
    if len(lines) < len(pieces):
        pieces = [piece for piece in pieces if piece.strip()]
    return pieces, lines


class _Reading:
    """One take's lines on their way to a table."""

    def __init__(self, data: bytes, source: str, limits: ReadLimits) -> None:
        self._source, self._limits = source, limits
        self._complete = data.endswith(b"\n")
        gathered = Gathered(
            len(data), data.count(b"\n") + 1, limits, source, compact=len(data) >= LARGE
        )
        self._frames = _Frames(gathered, source, limits)
        self._header: PlainMap | None = None
        self._text: list[tuple[int, str]] = []
        self._warnings: list[str] = []
        self._passed = 0
        self._begun = self._ended = False

    def take_in(self, block: _Block) -> None:
        """Take in a block of lines; raises InputError for what is no take's."""
        pieces, lines = _filled(block)
        values = _decoded_at_once(pieces)
        if values is None:
            values, lines = self._one_by_one(pieces, lines, last=block.last)
        if not self._begun and values:
            self._begin(values, lines, block)
        plain = not self._ended and not any(key in block.data for key in _SPECIAL)
        count = len(values) if plain else self._frames_in(values, lines)
        if count:
            self._frames.add(values[:count], lines[:count], self._header)

    def _begin(self, values: list[Any], lines: list[int], block: _Block) -> None:
        """Take the header from the first line, and look for keys that are there twice."""
        self._begun = True
        pieces = block.data.split(b"\n", lines[min(len(lines), _LOOKED_AT) - 1])
        for value, line in zip(values[:_LOOKED_AT], lines, strict=False):
            key = _doubled_key(pieces[line - block.line], value)
            if key is not None:
                self._warnings.append(
                    f"{self._source}, line {line}: '{key}' is there twice; the last one counts"
                )
                break
        if is_header(values[0]):
            check_header(values[0], self._limits, f"{self._source}, line {lines[0]}")
            self._header = values[0]
            del values[0], lines[0]

    def _frames_in(self, values: list[object], lines: list[int]) -> int:
        """Return how many values are frames; raises InputError for another take's lines."""
        for index, (value, line) in enumerate(zip(values, lines, strict=True)):
            if self._ended:
                raise InputError(
                    "lines after the end of the take; split takes with 'kickback record - < FILE'",
                    f"{self._source}, line {line}",
                )
            if type(value) is list:
                continue
            if is_header(value):
                raise InputError(
                    "a second header: the file holds more than one take; split it with"
                    " 'kickback record - < FILE'",
                    f"{self._source}, line {line}",
                )
            if is_end(value):
                self._ended = True
                if index + 1 == len(values):
                    return index
        return len(values)

    def _one_by_one(
        self, pieces: list[bytes], lines: list[int], *, last: bool
    ) -> tuple[list[object], list[int]]:
        """Return a block's values and their lines; lines of text are kept apart."""
        values: list[object] = []
        kept: list[int] = []
        for number, piece in zip(lines, pieces, strict=True):
            begun = self._begun or bool(values)
            place = f"{self._source}, line {number}"
            try:
                value = msgspec.json.decode(piece)
            except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
                if last and number == lines[-1] and not self._complete and begun:
                    self._warnings.append(f"{place}: the last line is cut off and was left out")
                    break
                if not _is_text(piece):
                    raise InputError(_not_json(piece, error, first=not begun), place) from error
                value = None
            if isinstance(value, dict | list):
                values.append(value)
                kept.append(number)
                continue
            self._passed += 1
            if not self._text:
                self._text = [(number, piece.decode("utf-8", errors="replace"))]
        return values, kept

    def table(self) -> RawTable:
        """Return what was read; raises InputError where no line was a take's."""
        if not self._begun and self._text:
            number, words = self._text[0]
            raise InputError(
                f"no line is a JSON object or array, one frame a line; the first is '{words[:40]}'",
                f"{self._source}, line {number}",
            )
        columns = self._frames.gathered.columns()
        skipped = skipped_lines(self._text)
        return RawTable(
            source=self._source,
            header=self._header,
            columns=columns,
            lines=self._frames.gathered.lines,
            warnings=tuple(self._warnings),
            skipped=None if skipped is None else replace(skipped, count=self._passed),
        )


class _Frames:
    """Frames, objects or arrays, on their way to columns."""

    def __init__(self, gathered: Gathered, source: str, limits: ReadLimits) -> None:
        self.gathered = gathered
        self._source, self._limits = source, limits
        self._names: list[str] | None = None
        self._kind: object = None

    def add(self, values: list[object], lines: Sequence[int], header: PlainMap | None) -> None:
        """Add frames; raises InputError for one of another kind than those before it."""
        if self._kind is None:
            self._kind = type(values[0])
            if self._kind is list:
                self._names = column_list(header, self._place(lines[0]))
                self.gathered.check(len(self._names), self._place(lines[0]))
        self._check(values, lines)
        for at in range(0, len(values), _ROWS):
            rows, numbers = values[at : at + _ROWS], lines[at : at + _ROWS]
            if self._names is None:
                self.gathered.add(self._keyed(rows, numbers), numbers)
            else:
                cells = zip(*rows, strict=True)
                self.gathered.add(dict(zip(self._names, cells, strict=True)), numbers)

    def _check(self, values: list[Any], lines: Sequence[int]) -> None:
        """Raise InputError for a frame of another kind or length than those before it."""
        alike = set(map(type, values)) == {self._kind}
        if alike and (self._names is None or set(map(len, values)) == {len(self._names)}):
            return
        for value, line in zip(values, lines, strict=True):
            if type(value) is not self._kind:
                kind = "an array" if self._kind is list else "an object"
                raise InputError(f"expected {kind}, as the frames before", self._place(line))
            if self._names is not None and len(value) != len(self._names):
                raise InputError(
                    f"{len(value)} values where the header lists {len(self._names)} columns",
                    self._place(line),
                )

    def _place(self, line: int) -> str:
        return f"{self._source}, line {line}"

    def _keyed(self, rows: list[Any], lines: Sequence[int]) -> dict[str, list[Any]]:
        """Return the cells of objects by key, those of deeper ones by their path."""
        if any(type(cell) in {dict, list} for row in rows for cell in row.values()):
            rows = [flat_frame(row) for row in rows]
        first = rows[0].keys()
        if all(row.keys() == first for row in rows):
            self.gathered.check(len(first), self._place(lines[0]))
            return {name: [row[name] for row in rows] for name in first}
        names: set[str] = set()
        for row, line in zip(rows, lines, strict=True):
            names |= row.keys()
            if len(names) > self._limits.columns:
                self.gathered.check(len(names), self._place(line))
        self.gathered.check(len(names), self._place(lines[0]))
        return sparse_columns(rows)


def frame_columns(values: list[Any], header: PlainMap | None) -> dict[str, Cells]:
    """Turn decoded frames, objects or arrays, into columns.

    A key that only some frames have is None in the others. Raises InputError for frames of
    unlike kinds, and for arrays that do not fit the header's ``columns``.
    """
    gathered = Gathered(_ANY, len(values), ReadLimits(), "a frame", compact=False)
    frames = _Frames(gathered, "a frame", ReadLimits())
    if values:
        frames.add(values, range(1, len(values) + 1), header)
    return frames.gathered.columns()


def column_list(header: PlainMap | None, place: str) -> list[str]:
    """Return the header's column list; raises InputError where it is missing or unsound."""
    names = (header or {}).get("columns")
    if names is None:
        hint = nearest("columns", header or {}) if header else ""
        raise InputError(f"a frame is an array but the header has no 'columns' list{hint}", place)
    if not isinstance(names, list) or not all(isinstance(name, str) and name for name in names):
        raise InputError("the header's 'columns' must be a list of names", place)
    if len(set(names)) != len(names):
        raise InputError("the header's 'columns' names a column twice", place)
    return names


def _decoded_at_once(pieces: list[bytes]) -> list[Any] | None:
    """Return the values of lines that are all objects and arrays; None where one is not."""
    try:
        values: list[object] = msgspec.json.decode(b"[" + b",".join(pieces) + b"]")
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None
    plain = len(values) == len(pieces) and all(type(value) in {dict, list} for value in values)
    return values if plain else None


def _doubled_key(piece: bytes, value: object) -> str | None:
    """Return a key that an object's line has twice, None where it has none."""
    if not isinstance(value, dict) or piece.count(b":") <= len(value):
        return None
    import json

    found: list[str] = []

    def look(pairs: list[tuple[str, object]]) -> None:
        names = [name for name, _ in pairs]
        found.extend(name for name in names if names.count(name) > 1)

    with contextlib.suppress(ValueError, RecursionError):
        json.loads(piece, object_pairs_hook=look)
    return found[0] if found else None


def _is_text(piece: bytes) -> bool:
    """Whether a line that is no JSON is one that was printed beside the frames.

    What begins like an object or an array of values was meant as one.
    """
    text = piece.strip()
    if text[:1] == b"[":  # "[INFO] loaded" is text, "[nan, 1.5]" is not
        return text[1:2].isalpha() and (text.find(b"]") < len(text) - 1 or b"," not in text)
    return text[:1] != b"{"


def _not_json(piece: bytes, error: Exception, *, first: bool) -> str:
    """Return what is wrong with a line, in the reader's words where they are known."""
    if b"NaN" in piece or b"Infinity" in piece:
        return "holds NaN or Infinity; numbers must be finite"
    if first:
        return f'the header is not JSON ({error}); expected {{"kickback": 1, …}} or a first frame'
    return f"is not JSON ({error}); expected one frame a line"
