"""TOML files: reading them with errors that name file and line, and editing them as they stand."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from kickback.errors import InputError
from kickback.files.options import check_range
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["edited", "key_line", "read_toml", "with_table"]

_MARK = "kickback-marks-this-line"


def read_toml(path: Path, what: str) -> tuple[PlainDict, str]:
    """Return a TOML file's content and text; raises InputError naming ``what`` it should be."""
    import tomllib

    try:
        text = path.read_text(encoding="utf-8")
        data = tomllib.loads(text)
    except FileNotFoundError as error:
        raise InputError(f"no such {what}", str(path)) from error
    except (OSError, UnicodeDecodeError) as error:
        raise InputError(f"cannot be read as a {what} ({error})", str(path)) from error
    except tomllib.TOMLDecodeError as error:
        raise InputError(f"is not TOML: {error}", str(path)) from error
    except RecursionError as error:
        raise InputError("is nested too deep", str(path)) from error
    except ValueError as error:  # a whole number of more digits than are read
        raise InputError(f"cannot be read as a {what} ({error})", str(path)) from error
    check_range(data, str(path))
    return data, text


def edited(text: str, table: str, values: Mapping[str, float]) -> str:
    """Return a TOML text with new values in one of its tables; everything else stays as it is.

    Raises KeyError for a value that the table does not have.
    """
    import tomlkit

    document = tomlkit.parse(text)
    place: Any = document[table]
    for key, value in values.items():
        if key not in place:
            raise KeyError(key)
        place[key] = value
    return tomlkit.dumps(document)


def with_table(path: Path, table: str, values: PlainMap) -> bytes:
    """Return a TOML file's content with entries of a table set; all else stays as it is."""
    import tomlkit

    document = tomlkit.parse(path.read_text(encoding="utf-8"))
    if table not in document:
        document.add(tomlkit.nl())
        document.add(table, tomlkit.table())
    place: Any = document[table]
    for key, value in values.items():
        place[key] = value
    return tomlkit.dumps(document).encode()


def key_line(path: Path, text: str, key: str, under: str = "") -> str:
    """Return ``"file, line n"`` for the line that sets or opens ``key``.

    ``under`` is the table that it stands in, dotted; where it is not found there, anywhere.
    The line is where a mark shows that is put in the key's place: nothing before it moves.
    """
    import tomlkit
    from tomlkit.exceptions import TOMLKitError

    try:
        document = tomlkit.parse(text)
    except (TOMLKitError, RecursionError):
        return str(path)
    start = _walked(document, under.split(".") if under else [])
    place = _holder(start, key) if start is not None else None
    place = place or _holder(document, key)
    if place is None:
        return str(path)
    _marked(*place)
    before, found, _ = tomlkit.dumps(document).partition(_MARK)
    return f"{path}, line {before.count(chr(10)) + 1}" if found else str(path)


def _walked(place: Any, names: Sequence[str]) -> object:
    """Return the table that a path of names leads to, or None."""
    for name in names:
        if not isinstance(place, Mapping) or name not in place:
            return None
        place = place[name]
    return place


def _holder(place: object, key: str) -> tuple[object, str] | None:
    """Return the first table that holds a key, or a part of a dotted one, and the key there."""
    if not isinstance(place, Mapping):
        return None
    if key in place:
        return place, key
    head, _, rest = key.partition(".")
    if rest and head in place and (found := _holder(place[head], rest)):
        return found
    for item in place.values():
        for inner in item if isinstance(item, list) else [item]:
            if found := _holder(inner, key):
                return found
    return None


def _marked(place: Any, key: str) -> None:
    """Put a mark into the line that sets or opens a key."""
    item = place[key]
    first = item[0] if isinstance(item, list) and item and isinstance(item[0], Mapping) else item
    if isinstance(first, Mapping) and hasattr(first, "comment") and not _is_inline(first):
        if getattr(first, "is_super_table", bool)() and first:
            _marked(first, next(iter(first)))  # it has no line of its own
        else:
            first.comment(_MARK)
        return
    place[key] = _MARK


def _is_inline(item: object) -> bool:
    from tomlkit.items import InlineTable

    return isinstance(item, InlineTable)
