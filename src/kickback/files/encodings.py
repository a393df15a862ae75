"""The table of encodings: how each is told, read and written. Light: readers load when used."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from kickback.takes.plain import PlainMap

if TYPE_CHECKING:
    from kickback.files.csv_text import Content
    from kickback.files.options import ReadLimits
    from kickback.files.raw import RawTable
    from kickback.takes.take import Column

__all__ = ["ENCODINGS", "NAMES", "SUFFIXES", "Encoding", "encoding_of_content", "encoding_of_name"]

Reader = Callable[["Content", str, "ReadLimits", bool], "RawTable"]
"""Reads a file's content, of a source, within limits, and carefully or not."""

Writer = Callable[[PlainMap, Sequence[str], "Sequence[Column]"], bytes]
"""Writes a header, column names and columns."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoding:
    """One encoding: its name, which is its ending, and whether it may be packed with gzip.

    ``tells`` says whether content, of a file of some name, is of it.
    """

    name: str
    packed: bool
    tells: Callable[["Content", str], bool]
    read: Reader
    write: Writer

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        if not self.name.isalnum():
            raise TypeError(f"an encoding's name is its ending, not '{self.name}'")


def _is_parquet(data: "Content", _: str) -> bool:
    return data[:4] == b"PAR1"


def _read_parquet(data: "Content", source: str, limits: "ReadLimits", _: bool) -> "RawTable":
    from kickback.files.arrow import need_arrow

    need_arrow("a Parquet file")
    from kickback.files.parquet import read_parquet

    return read_parquet(bytes(data), source, limits)


def _write_parquet(header: PlainMap, names: Sequence[str], columns: "Sequence[Column]") -> bytes:
    from kickback.files.arrow import need_arrow

    need_arrow("a Parquet file")
    from kickback.files.parquet import encode_parquet

    return encode_parquet(header, names, columns)


def _is_json(data: "Content", source: str) -> bool:
    """Whether a file is called JSON, begins with it, or most of its first lines are of it."""
    if source.endswith((".jsonl", ".jsonl.gz")):
        return True
    lines = [line.strip() for line in data[:65536].lstrip(b"\xef\xbb\xbf").split(b"\n")]
    lines = [line for line in lines if line][:400]
    shut = sum(line[:1] + line[-1:] in {b"{}", b"[]"} for line in lines)
    first = lines[0][:1] if lines else b""
    return first == b"{" or 2 * shut > max(len(lines), 1) or (first == b"[" and shut > 0)


def _read_json(data: "Content", source: str, limits: "ReadLimits", careful: bool) -> "RawTable":
    from kickback.files.json_lines import read_json_lines

    return read_json_lines(bytes(data), source, limits, careful=careful)


def _write_json(header: PlainMap, names: Sequence[str], columns: "Sequence[Column]") -> bytes:
    import msgspec

    from kickback.files.raw import plain_cells

    head = msgspec.json.encode({**header, "columns": names})
    rows = zip(*map(plain_cells, columns), strict=True)
    return head + b"\n" + msgspec.json.Encoder().encode_lines([list(row) for row in rows])


def _read_csv(data: "Content", source: str, limits: "ReadLimits", careful: bool) -> "RawTable":
    from kickback.files.csv_text import read_csv

    return read_csv(data, source, limits, careful=careful)


def _write_csv(header: PlainMap, names: Sequence[str], columns: "Sequence[Column]") -> bytes:
    import csv
    import io

    import msgspec

    from kickback.files.raw import plain_cells

    text = io.StringIO(newline="")
    text.write("# " + msgspec.json.encode(header).decode() + "\n")
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(names)
    writer.writerows(zip(*map(plain_cells, columns), strict=True))
    return text.getvalue().encode()


ENCODINGS = (
    Encoding(
        name="parquet", packed=False, tells=_is_parquet, read=_read_parquet, write=_write_parquet
    ),
    Encoding(name="jsonl", packed=True, tells=_is_json, read=_read_json, write=_write_json),
    Encoding(name="csv", packed=True, tells=lambda _data, _source: True, read=_read_csv,
             write=_write_csv),
)  # fmt: skip
"""The encodings, in the order in which content is held against them; the last takes any text."""

NAMES = (
    *(one.name for one in ENCODINGS if one.packed),
    *(f"{one.name}.gz" for one in ENCODINGS if one.packed),
    *(one.name for one in ENCODINGS if not one.packed),
)
"""What an encoding is called on the command line, packed or not."""

SUFFIXES = tuple(f".{name}" for name in NAMES)
"""The endings of takes' files."""


def encoding_of_content(data: "Content", source: str) -> Encoding:
    """Return the encoding that content is of."""
    return next(one for one in ENCODINGS if one.tells(data, source))


def encoding_of_name(name: str) -> Encoding:
    """Return the encoding of a name; KeyError where there is none."""
    for one in ENCODINGS:
        if one.name == name:
            return one
    raise KeyError(name)
