"""Large JSON Lines files through PyArrow's parsers; anything unusual is left to the careful way."""

from collections.abc import Mapping

import msgspec
import pyarrow as pa
from pyarrow import csv as arrow_csv
from pyarrow import json as arrow_json

from kickback.files.arrow import plain_columns
from kickback.files.json_lines import END_KEY, HEADER_KEY, column_list, is_end, is_header
from kickback.files.options import ReadLimits
from kickback.files.raw import Cells, RawTable

__all__ = ["read_json_quickly"]

_PLAIN = b"0123456789+-.eE,[] \r\n"
_BLOCK = 1 << 24
"""Bytes that are parsed at once: larger ones take more memory and no less time."""


def read_json_quickly(data: bytes, source: str, limits: ReadLimits) -> RawTable | None:
    """Read one take of plain arrays or of flat objects, or return None."""
    first, _, body = data.partition(b"\n")
    try:
        header = msgspec.json.decode(first)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None
    if not is_header(header):
        header, body = None, data
    body = _without_end(body)
    try:
        if header is not None and isinstance(header.get("columns"), list):
            found = _arrays(body, column_list(header, f"{source}, line 1"))
        else:
            found = _objects(body, limits)
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError):
        return None
    if found is None:
        return None
    columns, rows = found
    line = 1 if header is None else 2
    lines = range(line, line + rows)
    return RawTable(source=source, header=header, columns=columns, lines=lines, exact=False)


def _without_end(body: bytes) -> bytes:
    """Return the lines without an end object at their end."""
    stripped = body.rstrip()
    last = stripped.rfind(b"\n") + 1
    if len(stripped) - last > 1000 or stripped[last : last + 1] != b"{":
        return body
    try:
        ends = is_end(msgspec.json.decode(stripped[last:]))
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        ends = False
    return body[:last] if ends else body


def _arrays(body: bytes, names: list[str]) -> tuple[Mapping[str, Cells], int] | None:
    """Read lines that are nothing but arrays of numbers: less their brackets, they are CSV."""
    if not body.endswith(b"]\n") or body.translate(None, _PLAIN):
        return None
    rows = body.count(b"\n")
    if not body.count(b"[") == body.count(b"]") == body.count(b"]\n") == rows:
        return None
    table = arrow_csv.read_csv(
        pa.py_buffer(body.translate(None, b"[] \r")),
        read_options=arrow_csv.ReadOptions(column_names=names, block_size=_BLOCK),
        convert_options=arrow_csv.ConvertOptions(null_values=[]),
    )
    columns = plain_columns(table) if table.num_rows == rows else None
    return None if columns is None else (columns, rows)


def _objects(body: bytes, limits: ReadLimits) -> tuple[Mapping[str, Cells], int] | None:
    """Read lines that are flat objects with the same keys in every frame."""
    if not body.endswith(b"}\n"):
        return None
    schema = _schema_of(body[: body.find(b"\n")], limits)
    if schema is None:
        return None
    table = arrow_json.read_json(
        pa.py_buffer(body),
        read_options=arrow_json.ReadOptions(block_size=_BLOCK),
        # other keys in later frames: for the careful way, which knows how many there may be
        parse_options=arrow_json.ParseOptions(
            explicit_schema=schema, unexpected_field_behavior="error"
        ),
    )
    columns = plain_columns(table)
    return None if columns is None else (columns, table.num_rows)


def _schema_of(line: bytes, limits: ReadLimits) -> pa.Schema | None:
    """Return the types of a first frame's cells; None where it is not flat, or not a frame's."""
    try:
        first = msgspec.json.decode(line)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None
    ours = {HEADER_KEY, END_KEY, "subject"}
    if not isinstance(first, dict) or ours & first.keys() or len(first) > limits.columns:
        return None
    kinds = {float: pa.float64(), int: pa.float64(), bool: pa.bool_(), str: pa.string()}
    if any(type(cell) not in kinds for cell in first.values()):
        return None
    return pa.schema([(name, kinds[type(cell)]) for name, cell in first.items()])
