"""From a path, standard input or bytes to a take."""

import contextlib
import sys
from collections.abc import Mapping as Map
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from kickback.errors import InputError, UsageError
from kickback.files.encodings import SUFFIXES, encoding_of_content
from kickback.files.options import ReadLimits, ReadOptions, check_size, unpacked_limit
from kickback.files.raw import LARGE, RawTable, to_column
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.plain import PlainMap
from kickback.takes.record import replace
from kickback.takes.take import Column, Take

if TYPE_CHECKING:
    from kickback.files.csv_text import Content
    from kickback.files.mapping import Mapping

__all__ = [
    "find_takes",
    "raw_table",
    "read_take",
    "stem_of",
    "take_from_bytes",
    "take_from_table",
]

_GZIP = b"\x1f\x8b"
_DEEP = 0.01
"""Share of the largest extent from which a third axis moves: less is a layer or noise."""

_CHUNK = 1 << 23
"""Bytes that are unpacked at a time, between looks at the limit."""


def read_take(
    path: str | Path,
    mapping: "Mapping | str | Path | PlainMap | None" = None,
    options: ReadOptions | None = None,
) -> Take:
    """Read one take from a file, or from standard input where the path is ``-``.

    ``mapping`` says how a foreign log's columns become ours: the path of a mapping file, a
    table such as ``{"columns": {"x": "pos_x"}}``, or a ``Mapping``. Raises InputError, with
    file, line and column, for anything that is no take, TypeError for another type.
    """
    if not isinstance(path, str | Path):
        raise TypeError(f"expected the path of a take, not {type(path).__name__}")
    mapping = _mapping_of(mapping)
    source = str(path)
    if source == "-":
        return take_from_bytes(sys.stdin.buffer.read(), "standard input", mapping, options)
    file = Path(path)
    try:
        data = _content(file)
    except FileNotFoundError as error:
        raise InputError("no such file", source) from error
    except IsADirectoryError as error:
        raise InputError("is a folder, not a take", source) from error
    except OSError as error:
        raise InputError(f"cannot be read ({error.strerror})", source) from error
    return take_from_bytes(data, source, mapping, options)


def _mapping_of(mapping: "Mapping | str | Path | PlainMap | None") -> "Mapping | None":
    """Return a mapping from what stands for one."""
    from kickback.files.mapping import Mapping, parse_mapping, read_mapping

    if mapping is None or isinstance(mapping, Mapping):
        return mapping
    if isinstance(mapping, str | Path):
        return read_mapping(Path(mapping))
    if isinstance(mapping, Map):
        return parse_mapping(mapping, "the mapping")
    raise TypeError(f"expected a mapping, its file or a table, not {type(mapping).__name__}")


def take_from_bytes(
    data: "Content",
    source: str,
    mapping: "Mapping | None" = None,
    options: ReadOptions | None = None,
) -> Take:
    """Read one take from the bytes of a file; the encoding is told from the content."""
    options = options or ReadOptions()
    table = raw_table(data, source, options.limits)
    if table.exact:
        return take_from_table(table, mapping, options)
    with contextlib.suppress(InputError):
        return take_from_table(table, mapping, options)
    del table
    # large files are read without counting lines: once more, to name the right one
    return take_from_table(raw_table(data, source, options.limits, careful=True), mapping, options)


def take_from_table(
    table: RawTable, mapping: "Mapping | None" = None, options: ReadOptions | None = None
) -> Take:
    """Turn a raw table into a take, through a mapping where one is given."""
    options = options or ReadOptions()
    if table.skipped is not None and options.strict:
        where = f"{table.source}, line {table.skipped.line}"
        raise InputError(f"no frame: '{table.skipped.text[:60]}'; --strict refuses text", where)
    if not table.columns or not table.lines:
        raise InputError("holds no frames", table.source)
    mapping = _mapping_for(table, mapping, options)
    table = _of_one_subject(table)
    header_data, columns, warnings = _columns_of(table, mapping)
    if table.skipped is not None:
        warnings = (*warnings, f"{table.source}: {table.skipped.sentence}")
    own = table.header or {}
    named = {key: value for key, value in options.named.items() if key not in own}
    plain = {**options.defaults, **header_data, **named}
    if "view" not in plain and _in_space(columns):
        plain["view"] = "3d"
        warnings = (*warnings, f"{table.source}: read as view 3d, for x, y and z all move")
    return build_take(
        Header.from_mapping(plain, f"{table.source}, header"),
        columns,
        name=stem_of(table.source),
        source=table.source,
        place=table.place,
        warnings=warnings,
        any_clock=options.any_clock,
        made=_made_by(mapping),
    )


def _made_by(mapping: "Mapping | None") -> Map[str, tuple[float, float]] | None:
    return None if mapping is None else mapping.made


def _in_space(columns: Map[str, Column]) -> bool:
    """Whether positions move on all three axes, so that no view but 3d shows the whole motion."""
    if not all(axis in columns and columns[axis].dtype.kind == "f" for axis in "xyz"):
        return False
    extents = [float(np.ptp(columns[axis])) for axis in "xyz"]
    return min(extents) > _DEEP * max(extents)


def _of_one_subject(table: RawTable) -> RawTable:
    """Return a table with the subject that its frames name in the header; InputError for several.

    A subject may stand in the first frame alone.
    """
    if "subject" not in table.columns:
        return table
    cells, header = table.columns["subject"], table.header or {}
    subjects = sorted({str(name) for name in cells if name not in {None, ""}})
    if len(subjects) > 1:
        raise InputError(
            f"frames of several subjects ({', '.join(subjects[:4])}); split them with"
            " 'kickback record - < FILE'",
            table.source,
        )
    if subjects and not header.get("subject"):
        header = {**header, "subject": subjects[0]}
    columns = {name: column for name, column in table.columns.items() if name != "subject"}
    return replace(table, header=header, columns=columns)


def _mapping_for(
    table: RawTable, mapping: "Mapping | None", options: ReadOptions
) -> "Mapping | None":
    """Return the mapping that a table is read through: the caller's, its own, the project's."""
    mapping = mapping or options.mapping
    carried = (table.header or {}).get("mapping")
    if mapping is None and isinstance(carried, dict):
        # a foreign log as it was received: it carries the mapping that it was recorded with
        from kickback.files.mapping import parse_mapping

        return parse_mapping(carried, f"{table.source}, mapping in the header")
    return mapping or _project_mapping(table, options)


def _columns_of(
    table: RawTable, mapping: "Mapping | None"
) -> tuple[PlainMap, dict[str, Column], tuple[str, ...]]:
    """Return a table's header, columns and warnings."""
    if mapping is not None:
        from kickback.files.mapping import apply_mapping

        return apply_mapping(table, mapping)
    notes: list[str] = []
    columns = {name: to_column(name, cells, table, notes) for name, cells in table.columns.items()}
    return table.header or {}, columns, (*table.warnings, *notes)


def _project_mapping(table: RawTable, options: ReadOptions) -> "Mapping | None":
    """Return the project's mapping for a log that lacks our columns and has some of its own.

    Decided by the columns alone: a file of ours with a bad cell is still a file of ours.
    """
    if options.project_mapping is None or "mapping" in (table.header or {}):
        return None
    known = {**options.defaults, **options.named, **(table.header or {})}
    placed = any(axis in table.columns for axis in ("x", "y", "z"))
    timed = "t" in table.columns or "dt" in table.columns or known.get("frame_rate") is not None
    if placed and timed:
        return None
    return options.project_mapping if options.project_mapping.knows(table.columns) else None


def find_takes(patterns: Sequence[str]) -> list[str]:
    """Return the takes that files, folders and patterns name, in order, without repeats.

    Raises UsageError where a folder holds none or a pattern fits none.
    """
    return list(dict.fromkeys(item for pattern in patterns for item in _matches(pattern)))


def _matches(pattern: str) -> list[str]:
    """Return the takes that one word names."""
    path = Path(pattern)
    if pattern in _RECENT:
        return [_recent(pattern)]
    if pattern == "-" or path.is_file():
        return [pattern]
    if path.is_dir():
        names = sorted(str(item) for item in path.iterdir() if item.name.endswith(SUFFIXES))
        lacks = f"the folder holds no takes ({', '.join(SUFFIXES)})"
    elif any(mark in pattern for mark in "*?["):
        names, lacks = _globbed(path, pattern), "no file fits the pattern"
    else:
        raise InputError("no such file or folder", pattern)
    if not names:
        raise UsageError(f"{pattern}: {lacks}")
    return names


def _globbed(path: Path, pattern: str) -> list[str]:
    """Return the files that fit a pattern, in order."""
    anchor = Path(path.anchor) if path.anchor else Path()
    relative = str(path.relative_to(path.anchor)) if path.anchor else pattern
    return sorted(str(item) for item in anchor.glob(relative) if item.is_file())


_RECENT = {"@last": 1, "@previous": 2}
TAKES_FOLDER = Path("takes")


def _recent(word: str) -> str:
    """Return the take in the takes folder that was written last, or the one before."""
    folder = TAKES_FOLDER
    known = [item for item in folder.glob("*") if item.name.endswith(SUFFIXES)]
    known.sort(key=lambda item: (item.stat().st_mtime_ns, item.name))
    if len(known) < _RECENT[word]:
        raise UsageError(f"{word}: there are {len(known)} takes in {folder.resolve()}")
    return str(known[-_RECENT[word]])


def stem_of(source: str) -> str:
    """Return a file's name without its folder and ending."""
    name = Path(source).name
    for suffix in sorted(SUFFIXES, key=len, reverse=True):
        if name.endswith(suffix):
            return name.removesuffix(suffix)
    return name


def _content(file: Path) -> "Content":
    """Return a file's bytes; a large table is mapped, to be parsed where it lies."""
    if file.name.endswith(".csv") and file.stat().st_size >= LARGE:
        import mmap

        with file.open("rb") as opened:
            return mmap.mmap(opened.fileno(), 0, access=mmap.ACCESS_READ)
    return file.read_bytes()


def raw_table(
    data: "Content", source: str, limits: ReadLimits, *, careful: bool = False
) -> RawTable:
    """Return the cells of a file as they stand in it; the encoding is told from the content."""
    if data[:2] == _GZIP:
        data = _unzipped(bytes(data), source, limits)
    start = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if not start:
        raise InputError("is empty", source)
    encoding = encoding_of_content(data, source)
    begun = start[:1] in {b"{", b"["}  # a take that something damaged: the reader says where
    if encoding.packed and not begun and b"\0" in data[:4096]:
        raise InputError(
            "is a binary file; a take is CSV, JSON Lines or Parquet (*.csv, *.jsonl, *.parquet)",
            source,
        )
    return encoding.read(data, source, limits, careful)


def _unzipped(data: bytes, source: str, limits: ReadLimits) -> bytes:
    """Return the content of gzip bytes; of a cut-off file, what it still gives.

    The readers then see a line that is cut off. Raises InputError for one that unpacks to
    far more than its size.
    """
    import zlib

    most = unpacked_limit(len(data), limits)
    parts: list[bytes] = []
    size, rest = 0, data
    try:
        while rest[:2] == _GZIP:  # a file may consist of several members
            member = zlib.decompressobj(wbits=31)
            while not member.eof and rest:
                parts.append(member.decompress(rest, _CHUNK))
                size += len(parts[-1])
                if size > most:
                    parts.clear()
                    check_size(size, len(data), limits, source)
                rest = member.unconsumed_tail
            rest = member.unused_data.lstrip(b"\0")
    except zlib.error as error:
        raise InputError(f"is not a sound gzip file ({error})", source) from error
    return b"".join(parts)
