"""What a line of a stream says: a header, a frame, an end, a mark, or nothing of the kind."""

import sys
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any

import msgspec

from kickback.files.dialect import Dialect, dialect_of
from kickback.files.json_lines import is_end, is_header
from kickback.takes.channels import CHANNELS
from kickback.takes.plain import PlainDict, PlainMap

__all__ = [
    "BOM",
    "MARKS",
    "End",
    "Frame",
    "Head",
    "Lines",
    "Mark",
    "Refused",
    "Said",
    "decoded",
    "distinct",
    "many_frames",
]

MARKS = {"sent", "dropped", "take"}
"""Keys of an object that is no frame but counts them."""

BOM = b"\xef\xbb\xbf"
"""What some writers put before UTF-8."""

_LARGEST = sys.float_info.max
_TENTATIVE = 8
"""Lines that may be column names of which the first row chooses one."""

_NAME = 64
"""Characters of the longest column name in a line that no header has announced."""

_OURS = (b'"kickback"', b'"end"', b'"sent"', b'"dropped"', b'"subject"')
# larger whole numbers are for the careful way, which knows how large is too large
_Whole = Annotated[int, msgspec.Meta(ge=-(2**63), le=2**63 - 1)]
_Cell = float | _Whole | str | bool | None
_ARRAYS = msgspec.json.Decoder(list[list[_Cell]])
_OBJECTS = msgspec.json.Decoder(list[dict[str, _Cell]])


@dataclass(slots=True, frozen=True)
class Head:
    """A header."""

    value: PlainDict


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

    value: PlainMap


@dataclass(slots=True, frozen=True)
class Mark:
    """What a sender has counted so far."""

    value: PlainMap


@dataclass(slots=True, frozen=True)
class Refused:
    """A line that is no frame, and why."""

    reason: str


Said = Head | Frame | End | Mark | Refused | None
"""What a line says; None for one that is to be passed over."""


class Lines:
    """Reads lines, knowing what the columns of arrays and of CSV rows are called.

    ``strict`` takes no line for column names in which none of our own stands.
    """

    def __init__(self, *, strict: bool = False) -> None:
        self.names: list[str] | None = None
        self.mistaken = 0
        """Lines that were passed over for column names, and were none."""
        self._strict = strict
        self._csv: list[str] | None = None
        self._tentative: list[tuple[Dialect, list[str]]] = []
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
        self._csv, self._tentative = None, []
        return Head(value)

    def _json(self, text: bytes) -> Said:
        value = decoded(text)
        if value is None:
            return Refused("is not JSON")
        if isinstance(value, dict):
            return _object(text, value)
        if not isinstance(value, list) or self.names is None or len(self.names) != len(value):
            return Refused("is an array that does not fit a header's 'columns'")
        if _too_large(value):
            return Refused(_RANGE)
        return Frame(text, _subject_in(self.names, value), value, self.names)

    def _row(self, words: str) -> Said:
        if self._csv is None:
            return self._first_row(words)
        cells, values = _cells(self._dialect, words)
        if _all_words(values) and distinct([cell.strip() for cell in cells]) == self._csv:
            return None  # the names once more
        if len(values) != len(self._csv):
            return Refused(f"has {len(values)} values where there are {len(self._csv)} columns")
        subject = _subject_in(self._csv, values)
        return Frame(msgspec.json.encode(values), subject, values, self._csv)

    def _first_row(self, words: str) -> Said:
        """Take a line of column names, or the first row, which says which line they were.

        What looks like column names may be a line that a game printed.
        """
        latest = reversed(self._tentative)
        for dialect, names in sorted(latest, key=lambda one: not set(one[1]) & set(CHANNELS)):
            _, values = _cells(dialect, words)
            if len(values) == len(names) and not _all_words(values):
                self._dialect, self._csv = dialect, distinct(names)
                self.mistaken += len(self._tentative) - 1
                return self._row(words)
        dialect = dialect_of(words)
        cells, values = _cells(dialect, words)
        names = [cell.strip() for cell in cells]
        named = len(names) > 1 and _all_words(values) and _are_names(names)
        if named and (not self._strict or set(names) & set(CHANNELS)):
            self._tentative = [*self._tentative[-_TENTATIVE:], (dialect, names)]
            return None
        if self._tentative and not _all_words(values):
            most = len(self._tentative[-1][1])
            return Refused(f"has {len(values)} values where there are {most} columns")
        return Refused("is no frame: expected JSON, or CSV column names before CSV rows")


def _cells(dialect: Dialect, words: str) -> tuple[list[str], list[float | str]]:
    cells = dialect.cells(words)
    return cells, [dialect.value(cell) for cell in cells]


def _all_words(values: Iterable[float | str]) -> bool:
    return all(isinstance(value, str) for value in values)


def _object(text: bytes, value: PlainDict) -> Said:
    if is_header(value):
        return Head(value)
    if is_end(value):
        return End(value)
    if value and set(value) <= MARKS:
        return Mark(value)
    if _too_large(value.values()):
        return Refused(_RANGE)
    return Frame(text, str(value.get("subject", "")), value, None)


_RANGE = "holds a number beyond the range of ±1.8e308"


def _too_large(cells: Iterable[object]) -> bool:
    """Whether a whole number among cells is beyond what a float can hold."""
    return any(type(cell) is int and abs(cell) > _LARGEST for cell in cells)


def _are_names(cells: list[str]) -> bool:
    """Whether words can be the names of columns; one may have none, as an index has."""
    return all(len(cell) <= _NAME and cell.isprintable() for cell in cells) and any(cells)


def distinct(names: list[str]) -> list[str]:
    """Return column names of which none is empty or there twice."""
    found: list[str] = []
    for number, name in enumerate(names, 1):
        base = name or f"column-{number}"
        tries = (base if k == 1 else f"{base}-{k}" for k in range(1, len(names) + 2))
        found.append(next(one for one in tries if one not in found))
    return found


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
