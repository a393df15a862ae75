"""JSON Lines: a header object, then one object or array a frame, then an end object."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import msgspec

from kickback.errors import InputError, nearest
from kickback.files.arrow import has_arrow, slowly
from kickback.files.options import ReadLimits, check_count, check_header, check_lines
from kickback.files.raw import LARGE, Cells, RawTable, Skipped, skipped_lines

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
    frames of another length than the column list, and frames of several subjects. A
    cut-off last line is left out with a warning; lines of text that are neither object nor
    array are counted. ``careful`` decodes line by line whatever the size, so that every
    row's line is known exactly.
    """
    limits = limits or ReadLimits()
    check_lines(data, limits, source)
    if len(data) >= LARGE and not careful and has_arrow():
        from kickback.files.json_quick import read_json_quickly

        quick = read_json_quickly(data, source)
        if quick is not None:
            check_count(len(quick.columns), limits, source)
            return quick
    values, lines, warnings, skipped = _decode_lines(data, source)
    header, values, lines = _one_take(values, lines, source)
    place = f"{source}, line {lines[0] if lines else 1}"
    check_header(header, limits, place)
    for value in values[:1]:
        check_count(len(value) if isinstance(value, dict | list) else 0, limits, place)
    columns = frame_columns(
        values, header, lambda row: f"{source}, line {lines[row]}", limits.columns
    )
    check_count(len(columns), limits, source)
    header = _with_subject(header, columns.pop("subject", []), source)
    return RawTable(
        source=source,
        header=header,
        columns=columns,
        lines=lines,
        warnings=(*warnings, *slowly(source, len(data))),
        skipped=skipped,
    )


def _with_subject(
    header: Mapping[str, Any] | None, cells: Cells, source: str
) -> Mapping[str, Any] | None:
    """Return a header with the subject that the frames name; InputError for several."""
    subjects = sorted({str(name) for name in cells})
    if len(subjects) > 1:
        raise InputError(
            f"frames of several subjects ({', '.join(subjects[:4])}); split them with"
            " 'kickback record - < FILE'",
            source,
        )
    if subjects and not (header or {}).get("subject"):
        return {**(header or {}), "subject": subjects[0]}
    return header


def _one_take(
    values: list[Any], lines: list[int], source: str
) -> tuple[Mapping[str, Any] | None, list[Any], list[int]]:
    """Return the header, and the frames with their lines; raises InputError for two takes."""
    header = None
    if values and is_header(values[0]):
        header, values, lines = values[0], values[1:], lines[1:]
    for index, value in enumerate(values):
        if type(value) is list:
            continue
        if is_header(value):
            raise InputError(
                "a second header: the file holds more than one take; split it with"
                " 'kickback record - < FILE'",
                f"{source}, line {lines[index]}",
            )
        if is_end(value):
            if index + 1 < len(values):
                raise InputError(
                    "lines after the end of the take; split takes with 'kickback record - < FILE'",
                    f"{source}, line {lines[index + 1]}",
                )
            return header, values[:index], lines[:index]
    return header, values, lines


def frame_columns(
    values: Sequence[Any], header: Mapping[str, Any] | None, where: Any, most: int = 1_000_000
) -> dict[str, Cells]:
    """Turn decoded frames, objects or arrays, into columns, little more than ``most``.

    ``where(row)`` says where a row is. A key that only some frames have is None in the
    others. Raises InputError for frames of neither kind, and for arrays that do not fit
    the header's ``columns``.
    """
    if not values:
        return {}
    if isinstance(values[0], list):
        return _array_columns(values, header, where)
    for row, value in enumerate(values):
        if type(value) is not dict:
            raise InputError("expected an object, one frame a line", where(row))
    keys = _keys_of(values, most)
    if len(keys) > most:  # refused by the caller, before there is a cell for each
        values = values[:1]
    return {key: [value.get(key) for value in values] for key in keys}


def _keys_of(values: Sequence[Any], most: int) -> list[str]:
    """Return the keys of objects, in the order in which they first come; no more than needed."""
    first = values[0].keys()
    if all(value.keys() == first for value in values):
        return list(first)
    every: dict[str, None] = {}
    for value in values:
        every.update(dict.fromkeys(value))
        if len(every) > most:
            break
    return list(every)


def _array_columns(
    values: Sequence[Any], header: Mapping[str, Any] | None, where: Any
) -> dict[str, Cells]:
    names = column_list(header, where(0))
    for row, value in enumerate(values):
        if type(value) is not list:
            raise InputError("expected an array, as the frames before", where(row))
        if len(value) != len(names):
            raise InputError(
                f"{len(value)} values where the header lists {len(names)} columns", where(row)
            )
    return dict(zip(names, (list(cells) for cells in zip(*values, strict=True)), strict=True))


def column_list(header: Mapping[str, Any] | None, place: str) -> list[str]:
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


_Decoded = tuple[list[Any], list[int], tuple[str, ...], Skipped | None]


def _decode_lines(data: bytes, source: str) -> _Decoded:
    pieces = data.removeprefix(b"\xef\xbb\xbf").split(b"\n")
    lines = [number for number, piece in enumerate(pieces, 1) if piece.strip()]
    pieces = [piece for piece in pieces if piece.strip()]
    try:
        joined = b"[" + b",".join(pieces) + b"]"
        values = msgspec.json.decode(joined)
        if len(values) == len(pieces) and all(type(value) in {dict, list} for value in values):
            return values, lines, (), None
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        pass
    return _decode_one_by_one(pieces, lines, source, complete=data.endswith(b"\n"))


def _decode_one_by_one(
    pieces: Iterable[bytes], lines: list[int], source: str, *, complete: bool
) -> _Decoded:
    values: list[Any] = []
    kept: list[int] = []
    text: list[tuple[int, str]] = []
    warnings: tuple[str, ...] = ()
    for number, piece in zip(lines, pieces, strict=True):
        try:
            value = msgspec.json.decode(piece)
        except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
            place = f"{source}, line {number}"
            if number == lines[-1] and not complete and values:
                warnings = (f"{place}: the last line is cut off and was left out",)
                break
            if not _is_text(piece):
                raise InputError(_not_json(piece, error, first=not values), place) from error
            value = None
        if isinstance(value, dict | list):
            values.append(value)
            kept.append(number)
        else:
            text.append((number, piece.decode("utf-8", errors="replace")))
    if not values and text:
        number, words = text[0]
        error_place = f"{source}, line {number}"
        raise InputError(
            f"no line is a JSON object or array, one frame a line; the first is '{words[:40]}'",
            error_place,
        )
    return values, kept, warnings, skipped_lines(text)


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
