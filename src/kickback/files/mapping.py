"""Mappings: how a foreign log's columns become ours.

A mapping is TOML with three tables: ``[header]``, ``[columns]`` and ``[rows]``.
"""

import math
from collections.abc import Callable, Collection
from collections.abc import Mapping as Map
from pathlib import Path
from typing import Any

import numpy as np

from kickback.errors import InputError, close_to, nearest
from kickback.files.raw import Cells, RawTable, numbers, to_column
from kickback.files.toml import key_line, read_toml
from kickback.takes.channels import CHANNELS, channel_of
from kickback.takes.plain import PlainMap
from kickback.takes.record import Record
from kickback.takes.take import Column, FloatArray

__all__ = ["Mapping", "Source", "apply_mapping", "parse_mapping", "read_mapping"]

_SOURCE_KEYS = ("from", "as", "scale", "offset", "rate", "radians", "per_frame", "has", "above",
                "invert")  # fmt: skip
_GROUPS = ("position", "velocity", "contact", "heading", "pitch", "ground_pitch", "camera", "label")
"""What of a row's state may be of another moment than the rest of it."""

_ROW_KEYS = ("stamp", "state", *_GROUPS)
_ROW_WORDS = {"stamp": ("end", "start")}
_A_PAIR = 2
"""Columns that an angle is computed from."""


class Source(Record, frozen=True, kw_only=True):
    """One of the log's columns and what is done to it.

    ``value = raw · scale + offset``; ``has`` asks for a word in a list, ``above`` for
    more than a number; ``invert``
    turns 0 and 1 round; ``per_frame`` says that the value is per frame, not per second;
    ``rate``, frames/s, turns a frame number into a time, ``radians`` an angle into degrees. A
    column computed from several has ``more`` paths, and ``how``: their ``sum``, ``difference``
    or ``length``, or the ``angle`` that they point at, degrees.
    """

    path: str
    scale: float = 1.0
    offset: float = 0.0
    per_frame: bool = False
    has: str | None = None
    above: float | None = None
    invert: bool = False
    more: tuple[str, ...] = ()
    how: str = "sum"

    @property
    def plain(self) -> bool:
        """Whether its numbers are the log's own, scaled and shifted or summed."""
        asks = self.has is not None or self.above is not None
        counts = asks or self.invert or self.per_frame
        return not counts and self.how in {"sum", "difference"}


class Mapping(Record, frozen=True, kw_only=True):
    """Header values, the sources of each of our columns (summed), and the rows' meaning.

    ``plain`` is what it was built from.
    """

    place: str
    header: Map[str, object] = {}
    columns: Map[str, tuple[Source, ...]] = {}
    rows: Map[str, str] = {}
    plain: Map[str, object] = {}

    @property
    def clock(self) -> tuple[str, float]:
        """Return the log's column that holds a frame's time, and the factor to seconds."""
        sources = self.columns.get("t", ())
        if len(sources) != 1 or sources[0].scale <= 0:
            return "t", 1.0
        return sources[0].path, sources[0].scale

    @property
    def made(self) -> dict[str, tuple[float, float]]:
        """Return the scale and offset of columns whose numbers are a log's own but for these.

        A sum of several that are scaled alike has the digits of each.
        """
        found = {}
        for name, sources in self.columns.items():
            scales = {abs(one.scale) for one in sources}
            plain = all(one.plain for one in sources)
            if plain and len(scales) == 1 and channel_of(name).kind != "text":
                found[name] = (scales.pop(), sum(one.offset for one in sources))
        return {name: how for name, how in found.items() if how != (1.0, 0.0) and how[0] > 0}

    def knows(self, columns: Collection[str]) -> bool:
        """Whether any column of a log is one that the mapping reads from."""
        sources = [
            path
            for parts in self.columns.values()
            for one in parts
            for path in (one.path, *one.more)
        ]
        return not sources or any(
            path in columns or path.partition(".")[0] in columns for path in sources
        )


def read_mapping(path: Path) -> Mapping:
    """Read a mapping file; raises InputError for TOML or keys that make no sense."""
    data, text = read_toml(path, "mapping file")
    return parse_mapping(data, str(path), lambda key, table: key_line(path, text, key, table))


Where = Callable[[str, str], str]
"""Says where a key of a table stands: ``where("x", "columns")`` -> ``"game.map.toml, line 9"``."""


def parse_mapping(data: PlainMap, place: str, where: Where | None = None) -> Mapping:
    """Check and build a mapping from its plain form; ``where`` finds a key's line."""
    at = where or (lambda key, table: f"{place}, {table}.{key}" if table else f"{place}, {key}")
    _only_known(data, ("header", "columns", "rows"), "", at, "table")
    columns: dict[str, tuple[Source, ...]] = {}
    for name, value in _table(data, "columns", at).items():
        own = name not in CHANNELS and not name.startswith("in_")
        if own and close_to(name, list(CHANNELS)):
            hint = nearest(name, CHANNELS)
            raise InputError(f"'{name}' is none of our columns{hint}", at(name, "columns"))
        parts = value if isinstance(value, list) else [value]
        columns[name] = tuple(_source(part, name, at) for part in parts)
    rows = _table(data, "rows", at)
    _only_known(rows, _ROW_KEYS, "rows", at, "key")
    for key, word in rows.items():
        allowed = _ROW_WORDS.get(key, ("after", "before"))
        if word not in allowed:
            raise InputError(
                f"'{key}' must be {' or '.join(allowed)}, not {word!r}", at(key, "rows")
            )
    return Mapping(
        place=place,
        header=dict(_table(data, "header", at)),
        columns=columns,
        rows=dict(rows),
        plain=dict(data),
    )


def _table(data: PlainMap, key: str, at: Where) -> PlainMap:
    value = data.get(key, {})
    if not isinstance(value, Map):
        raise InputError(f"'{key}' must be a table, [{key}]", at(key, ""))
    return value


def _only_known(data: PlainMap, known: tuple[str, ...], table: str, at: Where, what: str) -> None:
    for key in data:
        if key not in known:
            raise InputError(f"unknown {what} '{key}'{nearest(key, known)}", at(key, table))


def _source(value: object, column: str, at: Where) -> Source:
    """Check and build one source of a column; every fault is placed at the column."""
    place = at(column, "columns")
    if isinstance(value, str):
        return Source(path=value)
    if not isinstance(value, Map):
        raise InputError('must be a column\'s name or { from = "…" }', place)
    _only_known(value, _SOURCE_KEYS, "columns", lambda _key, _table: place, "key")
    paths, how = _paths(value, place)
    for key, (default, sound, what) in _SOURCE_RULES.items():
        given = value.get(key, default)
        if not sound(given):
            raise InputError(f"'{key}' must be {what.format(given)}", place)
    scale = float(value.get("scale", 1.0)) / float(value.get("rate", 1))
    return Source(
        path=paths[0],
        more=tuple(paths[1:]),
        how=how,
        scale=scale * (180.0 / math.pi if value.get("radians") else 1.0),
        offset=float(value.get("offset", 0.0)),
        per_frame=value.get("per_frame", False),
        has=value.get("has"),
        above=value.get("above"),
        invert=value.get("invert", False),
    )


def _paths(value: PlainMap, place: str) -> tuple[list[str], str]:
    """Return the columns that a source reads from, and what is computed from several."""
    paths = value.get("from")
    paths = [paths] if isinstance(paths, str) else paths
    if not isinstance(paths, list) or not paths or not all(isinstance(p, str) for p in paths):
        raise InputError("needs 'from', the log's own column, or a list of them", place)
    how = value.get("as", "sum")
    if how not in _COMPUTED or (how == "angle" and len(paths) != _A_PAIR):
        raise InputError(
            f"'as' must be one of {', '.join(_COMPUTED)} (an angle is of two columns)", place
        )
    return paths, how


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _is_rate(value: Any) -> bool:
    return _is_number(value) and 0 < value < math.inf


_SOURCE_RULES: Map[str, tuple[object, Callable[[Any], bool], str]] = {
    "scale": (0, _is_number, "a number, not {0!r}"),
    "offset": (0, _is_number, "a number, not {0!r}"),
    "rate": (1, _is_rate, "a number above 0, not {0!r}"),
    "radians": (False, lambda value: isinstance(value, bool), "true or false"),
    "per_frame": (False, lambda value: isinstance(value, bool), "true or false"),
    "invert": (False, lambda value: isinstance(value, bool), "true or false"),
    "above": (None, lambda value: value is None or _is_number(value), "a number, not {0!r}"),
    "has": (None, lambda value: value is None or isinstance(value, str), "a word"),
}
"""Keys of a source: what they are without being given, what is sound, and what to say else."""


def apply_mapping(
    table: RawTable, mapping: Mapping
) -> tuple[PlainMap, dict[str, Column], tuple[str, ...]]:
    """Return the header, our columns and warnings for a foreign table.

    Raises InputError for a column that the log does not have, naming the nearest.
    """
    own = {key: value for key, value in (table.header or {}).items() if key != "mapping"}
    header = {**own, **mapping.header}
    flat = _Flat(table)
    per_frame: list[str] = []
    notes: list[str] = []
    columns = _recognised(table, mapping, notes)
    for name, sources in mapping.columns.items():
        if channel_of(name).kind == "text":
            cells = flat.cells(sources[0].path, mapping.place)
            columns[name] = to_column(name, cells, table, notes)
            continue
        parts = [_evaluate(source, name, flat, mapping.place) for source in sources]
        columns[name] = np.sum(parts, axis=0) if len(parts) > 1 else parts[0]
        if any(source.per_frame for source in sources):
            per_frame.append(name)
    columns, dropped = _place_rows(columns, mapping.rows)
    for name in per_frame:
        columns[name] = columns[name] / _steps(columns, header, mapping.place)
    warnings = (*table.warnings, *_likely_typos(mapping), *notes)
    if dropped:
        warnings = (
            *warnings,
            f"{table.source}: {dropped} frame left out at the end: its end is not in the log",
        )
    return header, columns, warnings


def _recognised(table: RawTable, mapping: Mapping, notes: list[str]) -> dict[str, Column]:
    """Return the log's columns that have our names, and that the mapping says nothing of."""
    sources = {
        path.partition(".")[0]
        for parts in mapping.columns.values()
        for one in parts
        for path in (one.path, *one.more)
    }
    names = [
        name
        for name in table.columns
        if (name in CHANNELS or name.startswith("in_"))
        and name not in mapping.columns
        and name not in sources
    ]
    return {name: to_column(name, table.columns[name], table, notes) for name in names}


def _likely_typos(mapping: Mapping) -> list[str]:
    """Return a sentence for each input of the game's own that is spelt nearly as one of ours."""
    return [
        f"{mapping.place}: '{name}' is none of our columns and is kept as the game's own"
        f"{nearest(name, CHANNELS)}"
        for name in mapping.columns
        if name not in CHANNELS and close_to(name, list(CHANNELS))
    ]


class _Flat:
    """The table's columns by dotted path, looked up when they are asked for."""

    def __init__(self, table: RawTable) -> None:
        self.table = table

    def cells(self, path: str, place: str) -> Cells:
        columns = self.table.columns
        if path in columns:
            return columns[path]
        head, _, rest = path.partition(".")
        while head not in columns and "." in rest:
            step, _, rest = rest.partition(".")
            head = f"{head}.{step}"
        if head in columns and rest:
            found = [_dig(cell, rest.split(".")) for cell in columns[head]]
            if any(value is not None for value in found):
                return found
        raise InputError(
            f"the log {self.table.source} has no column '{path}'{nearest(path, self.names())}",
            place,
        )

    def names(self) -> list[str]:
        """Return all paths of the first row, for hints."""
        paths: list[str] = []
        for name, cells in self.table.columns.items():
            first = cells[0] if len(cells) else None
            paths.append(name)
            if isinstance(first, dict):
                paths.extend(f"{name}.{key}" for key in first)
            elif isinstance(first, list):
                paths.extend(f"{name}.{index}" for index in range(len(first)))
        return paths


def _dig(value: Any, path: list[str]) -> object:
    for step in path:
        if isinstance(value, dict):
            value = value.get(step)
        elif isinstance(value, list) and step.isdecimal() and int(step) < len(value):
            value = value[int(step)]
        else:
            return None
    return value


def _evaluate(source: Source, name: str, flat: _Flat, place: str) -> FloatArray:
    if source.has is not None:
        cells = flat.cells(source.path, place)
        values = np.array([float(source.has in _words(cell)) for cell in cells])
    else:
        parts = [
            numbers(f"{name} (from {path})", flat.cells(path, place), flat.table)
            for path in (source.path, *source.more)
        ]
        values = _COMPUTED[source.how](np.stack(parts)) if source.more else parts[0]
    if source.above is not None:
        values = np.asarray(values > source.above, dtype=np.float64)
    if source.invert:
        values = 1.0 - values
    return values * source.scale + source.offset


_COMPUTED: Map[str, Callable[[FloatArray], FloatArray]] = {
    "sum": lambda parts: np.asarray(parts.sum(axis=0)),
    "difference": lambda parts: np.asarray(parts[0] - parts[1:].sum(axis=0)),
    "length": lambda parts: np.asarray(np.sqrt((parts * parts).sum(axis=0))),
    "angle": lambda parts: np.asarray(np.degrees(np.arctan2(parts[1], parts[0]))),
}
"""What is computed from several columns, shape (columns, n): each gives shape (n,)."""


def _words(cell: object) -> list[str]:
    if isinstance(cell, list):
        return [str(item) for item in cell]
    text = "" if cell is None else str(cell)
    for mark in (";", "|", "+", ","):
        text = text.replace(mark, " ")
    return text.split()


def _group_of(name: str) -> str:
    """Return which group of a row's state a column belongs to; its kind where to none."""
    if name.startswith("camera_"):
        return "camera"
    named = {"heading", "pitch", "ground_pitch"}
    return "label" if name == "state" else name if name in named else channel_of(name).kind


def _place_rows(columns: dict[str, Column], rows: Map[str, str]) -> tuple[dict[str, Column], int]:
    """Move what belongs to another row, and drop the row whose state is unknown."""
    default = rows.get("state", "after")
    moves = {group: rows.get(group, default) == "before" for group in _GROUPS}
    stamp_start = rows.get("stamp", "end") == "start"
    ends_known = "dt" in columns or "t" not in columns
    if not any(moves.values()) and (not stamp_start or ends_known):
        if stamp_start and "t" in columns:
            t, dt = columns["t"], columns["dt"]
            ends = np.append(t[1:], t[-1:] + dt[-1:])
            return {**columns, "t": ends}, 0
        return columns, 0
    placed: dict[str, Column] = {}
    for name, column in columns.items():
        moved = moves.get(_group_of(name), False) or (name == "t" and stamp_start)
        placed[name] = column[1:] if moved else column[:-1]
    return placed, 1


def _steps(columns: Map[str, Column], header: PlainMap, place: str) -> FloatArray | float:
    if "dt" in columns:
        return columns["dt"]
    if "t" in columns:
        steps = np.diff(columns["t"])
        return np.concatenate((steps[:1], steps))
    rate = header.get("frame_rate")
    if isinstance(rate, int | float) and rate > 0:
        return 1.0 / rate
    raise InputError("'per_frame' needs t, dt or the header's frame_rate", place)
