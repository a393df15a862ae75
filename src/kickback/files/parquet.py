"""Parquet: the compact encoding, with the header as JSON in the schema's metadata."""

from collections.abc import Mapping, Sequence

import msgspec
import pyarrow as pa
from pyarrow import parquet

from kickback.errors import InputError
from kickback.files.arrow import plain_columns
from kickback.files.options import ReadLimits, check_count, check_header, check_size
from kickback.files.raw import Cells, RawTable
from kickback.takes.plain import PlainMap
from kickback.takes.take import Column

__all__ = ["encode_parquet", "read_parquet"]

_KEY = b"kickback"


def read_parquet(data: bytes, source: str, limits: ReadLimits | None = None) -> RawTable:
    """Read one take's table from the bytes of a Parquet file.

    Raises InputError where it is none, is larger than it may be, or its header is no JSON
    object.
    """
    limits = limits or ReadLimits()
    try:
        file = parquet.ParquetFile(pa.BufferReader(data))
        about = file.metadata
        names = file.schema_arrow.names
        doubled = next((name for name in names if names.count(name) > 1), None)
        if doubled is not None:
            raise InputError(f"two columns are named '{doubled}'", source)
        check_count(about.num_columns, limits, source)
        cells = 8 * about.num_rows * about.num_columns
        groups = [about.row_group(k).total_byte_size for k in range(about.num_row_groups)]
        check_size(max(cells, sum(groups)), len(data), limits, source)
        # words as a dictionary: a long one that stands in every row is there once
        words = [one.name for one in file.schema_arrow if pa.types.is_string(one.type)]
        file = parquet.ParquetFile(pa.BufferReader(data), read_dictionary=words)
        table = file.read()
    except (pa.ArrowException, OSError, ValueError) as error:
        first = str(error).partition("\n")[0]
        raise InputError(f"is not a sound Parquet file ({first})", source) from error
    columns: Mapping[str, Cells] | None = plain_columns(table)
    if columns is None:  # gaps, or cells with parts of their own
        columns = {name: table.column(name).to_pylist() for name in table.column_names}
    return RawTable(
        source=source,
        header=_header(table.schema.metadata or {}, source, limits),
        columns=columns,
        lines=range(1, table.num_rows + 1),
    )


def _header(metadata: Mapping[bytes, bytes], source: str, limits: ReadLimits) -> PlainMap | None:
    text = metadata.get(_KEY)
    if text is None:
        return None
    try:
        header = msgspec.json.decode(text)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise InputError(f"is not JSON ({error})", f"{source}, header") from error
    if not isinstance(header, dict):
        raise InputError("must be a JSON object", f"{source}, header")
    check_header(header, limits, f"{source}, header")
    return header


def encode_parquet(header: PlainMap, names: Sequence[str], columns: Sequence[Column]) -> bytes:
    """Return a table of columns, each of shape (n,), as the bytes of a Parquet file."""
    arrays = [
        pa.array(column if column.dtype.kind in "fi" else column.tolist()) for column in columns
    ]
    table = pa.Table.from_arrays(arrays, names=list(names))
    table = table.replace_schema_metadata({_KEY: msgspec.json.encode(header)})
    sink = pa.BufferOutputStream()
    parquet.write_table(table, sink)
    return bytes(sink.getvalue().to_pybytes())
