"""What a line of a stream says: a header, a frame, an end, a mark, or nothing of the kind."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from kickback.files.dialect import Dialect, dialect_of
from kickback.files.json_lines import is_end, is_header

__all__ = ["End", "Frame", "Head", "Lines", "Mark", "Refused", "Said", "decoded", "many_frames"]

_MARKS = {"sent", "dropped", "take"}
_OURS = (b'"kickback"', b'"end"', b'"sent"', b'"dropped"', b'"subject"')
_Cell = float | int | str | bool | None
_ARRAYS = msgspec.json.Decoder(list[list[_Cell]])
_OBJECTS = msgspec.json.Decoder(list[dict[str, _Cell]])


@dataclass(slots=True, frozen=True)
class Head:
    """A header."""

    value: dict[str, Any]


@dataclass(slots=True, frozen=True)
class Frame:
    """A frame: its line as it is saved, whose it is, its cells, and their names for an array."""

    line: bytes
    subject: str
    row: Any
    names: list[str] | None


@dataclass(slots=True, frozen=True)
class End:
    """The end of a take, with what its sender counted."""

    value: Mapping[str, Any]


@dataclass(slots=True, frozen=True)
class Mark:
    """What a sender has counted so far."""

    value: Mapping[str, Any]


@dataclass(slots=True, frozen=True)
class Refused:
    """A line that is no frame, and why."""

    reason: str


Said = Head | Frame | End | Mark | Refused | None
"""What a line says; None for one that is to be passed over."""


class Lines:
    """Reads lines, knowing what the columns of arrays and of CSV rows are called."""

    def __init__(self) -> None:
        self.names: list[str] | None = None
        self._csv: list[str] | None = None
        self._dialect = Dialect()

    def read(self, text: bytes) -> Said:
        """Return what a line without its line end says."""
        if text[:1] in b"{[":
            return self._json(text)
        if text[:1] != b"#":
            return self._row(text.decode("utf-8", errors="replace"))
        value = decoded(text.lstrip(b"#").strip())  # anything else is a comment
        if not isinstance(value, dict):
            return None
        self._csv = None
        return Head(value)

    def _json(self, text: bytes) -> Said:
        value = decoded(text)
        if value is None:
            return Refused("is not JSON")
        if isinstance(value, dict):
            return _object(text, value)
        if self.names is None or len(self.names) != len(value):
            return Refused("is an array that does not fit a header's 'columns'")
        return Frame(text, _subject_in(self.names, value), value, self.names)

    def _row(self, words: str) -> Said:
        if self._csv is None:
            self._dialect = dialect_of(words)
        cells = self._dialect.cells(words)
        values = [self._dialect.value(cell) for cell in cells]
        if self._csv is None or cells == self._csv:
            return self._named(cells, values)
        if len(values) != len(self._csv):
            return Refused(f"has {len(values)} values where there are {len(self._csv)} columns")
        subject = _subject_in(self._csv, values)
        return Frame(msgspec.json.encode(values), subject, values, self._csv)

    def _named(self, cells: list[str], values: list[float | str]) -> Said:
        """Take a line of column names; the same ones again are passed over."""
        if len(cells) < 2 or not all(isinstance(value, str) for value in values):
            return Refused("is no frame: expected JSON, or CSV column names before CSV rows")
        if self._csv is None:
            self._csv = [cell.strip() for cell in cells]
        return None


def _object(text: bytes, value: dict[str, Any]) -> Said:
    if is_header(value):
        return Head(value)
    if is_end(value):
        return End(value)
    if value and set(value) <= _MARKS:
        return Mark(value)
    return Frame(text, str(value.get("subject", "")), value, None)


def many_frames(block: bytes, names: list[str] | None) -> list[Any] | None:
    """Return the rows of a block in which every line is a plain frame; None where one is not.

    The typed decoder takes plain cells only, so that frames and lines correspond
    where each line begins and ends as a frame does and their numbers agree.
    """
    first, between, last = (b"[", b"]\n[", b"]\n") if names else (b"{", b"}\n{", b"}\n")
    count = block.count(b"\n")
    framed = block.startswith(first) and block.endswith(last)
    if not framed or block.count(between) != count - 1 or _says_more(block, names):
        return None
    decoder: Any = _ARRAYS if names else _OBJECTS
    try:
        rows: list[Any] = decoder.decode(b"[" + block[:-1].replace(b"\n", b",") + b"]")
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None
    if len(rows) != count or (names and set(map(len, rows)) != {len(names)}):
        return None
    return rows


def _says_more(block: bytes, names: list[str] | None) -> bool:
    """Whether lines of objects may hold more than plain frames."""
    return not names and any(key in block for key in _OURS)


def decoded(text: bytes) -> Any:
    """Return a line's JSON, or None."""
    try:
        return msgspec.json.decode(text)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None


def _subject_in(names: list[str], values: list[Any]) -> str:
    return str(values[names.index("subject")]) if "subject" in names else ""
