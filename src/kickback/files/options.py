"""How files are read: the limits on what is taken in, and what a caller wants done besides."""

import sys
from collections.abc import Mapping as Map
from typing import TYPE_CHECKING, Any

from kickback.errors import InputError
from kickback.takes.ranges import beyond_range
from kickback.takes.record import Record

if TYPE_CHECKING:
    from kickback.files.mapping import Mapping

__all__ = [
    "PACKED",
    "WRITTEN",
    "ReadLimits",
    "ReadOptions",
    "check_count",
    "check_header",
    "check_lines",
    "check_range",
    "check_size",
    "unpacked_limit",
]

PACKED = 100
"""How many times its size a file may unpack to: numbers pack to a tenth, not a hundredth."""

WRITTEN = 16
"""How many times its size a table written as text may have: a cell is a few characters."""

_MB = 1_000_000
"""Bytes in a megabyte, as disks count."""


class ReadLimits(Record, frozen=True, kw_only=True):
    """What one file may hold; a project raises each under ``[limits]`` by its name.

    ``line_mb``: megabytes in a line; ``columns``: columns of a table; ``header_keys``: keys
    in the header, those inside of others included; ``unpacked_mb``: megabytes that a
    compressed file may unpack to, where a hundred times its own size is less.
    """

    line_mb: float = 8.0
    columns: int = 1000
    header_keys: int = 10_000
    unpacked_mb: float = 64.0


class ReadOptions(Record, frozen=True, kw_only=True):
    """How to read takes.

    ``mapping`` is for logs with columns of their own, ``project_mapping`` for those among
    them that lack our columns. ``defaults`` are header values for
    takes that do not have them; ``named`` those that the file's name gives, which go before
    a mapping's but not before the file's own. ``strict`` refuses lines that are no frames;
    ``any_clock`` lets through times that do not advance, for whoever reports them.
    """

    mapping: "Mapping | None" = None
    project_mapping: "Mapping | None" = None
    defaults: Map[str, object] = {}
    named: Map[str, object] = {}
    strict: bool = False
    any_clock: bool = False
    limits: ReadLimits = ReadLimits()


def check_size(
    size: int, packed: int, limits: ReadLimits, source: str, times: int = PACKED
) -> None:
    """Raise InputError where a file of ``packed`` bytes unpacks to more than it may."""
    most = unpacked_limit(packed, limits, times)
    if size > most:
        raise InputError(
            f"unpacks to more than {most / _MB:.0f} MB, from {packed / _MB:.3g} MB;"
            f" {_raise('unpacked_mb')}",
            source,
        )


def unpacked_limit(packed: int, limits: ReadLimits, times: int = PACKED) -> int:
    """Return how many bytes ``packed`` bytes may unpack to: ``times`` as many, or the limit."""
    return max(_bytes(limits.unpacked_mb), times * packed)


def check_lines(data: Any, limits: ReadLimits, source: str) -> None:
    """Raise InputError for a line that is too long, without looking at every one.

    From each line end, the last one within reach is looked for.
    """
    reach, at, end = _bytes(limits.line_mb), 0, len(data)
    while end - at > reach:
        newline = data.rfind(b"\n", at, at + reach)
        if newline < 0:
            line = 1 + bytes(data[:at]).count(b"\n")
            raise InputError(
                f"a line of more than {limits.line_mb:g} MB; {_raise('line_mb')}",
                f"{source}, line {line}",
            )
        at = newline + 1


def check_count(columns: int, limits: ReadLimits, place: str) -> None:
    """Raise InputError for a table with too many columns."""
    if columns > limits.columns:
        raise InputError(f"more than {limits.columns} columns; {_raise('columns')}", place)


def check_header(header: object, limits: ReadLimits, place: str) -> None:
    """Raise InputError for a header with too many keys, or too large a number, at any depth."""
    left, waiting = limits.header_keys, [header]
    while waiting:
        item = waiting.pop()
        if isinstance(item, dict | list):
            left -= len(item)
            if left < 0:
                raise InputError(
                    f"the header has more than {limits.header_keys} keys; {_raise('header_keys')}",
                    place,
                )
            waiting.extend(item.values() if isinstance(item, dict) else item)
    check_range(header, place)


def check_range(data: object, place: str) -> None:
    """Raise InputError for a number, at any depth, that no calculation can hold."""
    key = beyond_range(data)
    if key is not None:
        raise InputError(f"{key or 'a number'} is beyond the range of numbers, ±1.8e308", place)


def _bytes(megabytes: float) -> int:
    return int(min(megabytes * _MB, sys.maxsize))


def _raise(name: str) -> str:
    return f"if that is right, raise '{name}' under [limits] in kickback.toml"
