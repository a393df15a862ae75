"""What a game calls its parameters, in which units they stand in its code, and in which file."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from kickback.errors import InputError, nearest
from kickback.files.toml import read_toml
from kickback.takes.amounts import Amount, Scales, frames_in
from kickback.takes.plain import PlainMap
from kickback.takes.quantities import (
    ACCELERATION,
    ANGLE,
    LENGTH,
    PER_TIME,
    RATIO,
    SPEED,
    TIME,
    Dimension,
)
from kickback.takes.record import Record

__all__ = ["OwnName", "in_code", "parse_names", "rewritten", "told_kind"]

_KEYS = ("name", "unit", "sign", "file", "table")

_DIMENSIONS: Mapping[str, Dimension] = {
    "": RATIO,
    "L": LENGTH,
    "L/s": SPEED,
    "L/s²": ACCELERATION,
    "s": TIME,
    "1/s": PER_TIME,
    "deg": ANGLE,
}
"""What a parameter's unit is the dimension of."""


class OwnName(Record, frozen=True, kw_only=True):
    """A parameter as a game's code has it: its ``name``, ``unit``, ``sign``.

    ``file`` is the game's TOML or JSON file that holds it, beside the project file, ``table`` the
    table in it, dotted.
    """

    parameter: str
    name: str
    unit: str = ""
    sign: int = 1
    file: Path | None = None
    table: str = ""


def parse_names(table: PlainMap, place: Any, folder: Path, scales: Scales) -> dict[str, OwnName]:
    """Return the names of a project file's ``[names]``; ``place`` says where a key stands.

    Raises InputError for a parameter, key, unit or file ending that is none.
    """
    from kickback.kinds.models import models

    known = {name: one for model in models().values() for name, one in model.parameters.items()}
    out = {}
    for key, value in table.items():
        if key not in known:
            raise InputError(f"unknown parameter '{key}'{nearest(key, known)}", place(key))
        row = {"name": value} if isinstance(value, str) else value
        if not isinstance(row, Mapping) or not isinstance(row.get("name"), str) or not row["name"]:
            raise InputError(f"'{key}' is a name, or a table with one: {{ name = … }}", place(key))
        for part in row:
            if part not in _KEYS:
                raise InputError(f"unknown key '{part}'{nearest(part, _KEYS)}", place(key))
        out[key] = _own_name(key, row, known[key].unit, place(key), folder, scales)
    return out


def _own_name(
    key: str, row: PlainMap, unit: str, where: str, folder: Path, scales: Scales
) -> OwnName:
    words = {part: row.get(part, "") for part in ("unit", "file", "table")}
    sign = row.get("sign", 1)
    if not all(isinstance(word, str) for word in words.values()) or sign not in (1, -1):
        raise InputError(f"'{key}': unit, file and table are words, sign is 1 or -1", where)
    if words["unit"] and not _fits(words["unit"], unit, scales):
        raise InputError(f"'{key}' is in {unit or 'shares'}, which '{words['unit']}' is not", where)
    file = folder / words["file"] if words["file"] else None
    if file is not None and file.suffix not in {".toml", ".json"}:
        raise InputError(f"'{key}': a *.toml or *.json file, not '{words['file']}'", where)
    return OwnName(
        parameter=key,
        name=row["name"],
        unit=words["unit"],
        sign=int(sign),
        file=file,
        table=words["table"],
    )


def _fits(text: str, unit: str, scales: Scales) -> bool:
    dimension = _DIMENSIONS.get(unit)
    one = Amount(number=1.0, unit=text, text=text)
    return dimension is not None and one.fits(dimension, scales)


def in_code(own: OwnName, value: float, unit: str, length: str, scales: Scales) -> float:
    """Return a parameter's value as the game's code has it.

    ``unit`` is that of the parameter, with ``L`` for the ``length`` unit. Raises InputError where
    nothing says how large the code's length is in that.
    """
    if not own.unit:
        return own.sign * value
    one = Amount(number=1.0, unit=own.unit, text=own.unit)
    worth = one.within(_DIMENSIONS[unit].within(length), scales, f"{own.name}: ")
    return own.sign * value / worth


_KINDS = {
    ("L/s", -1): "speed",
    ("L/s²", -2): "acceleration",
    ("L/s²", -1): "gain",
    ("s", 1): "timer",
}
"""Which kind of constant a parameter of a unit is, whose own unit has a power of frames."""


def told_kind(own: OwnName, unit: str, scales: Scales) -> str | None:
    """Return the kind of constant that a name's own unit tells; None for one of the second."""
    return _KINDS.get((unit, frames_in(own.unit, scales)))


def rewritten(path: Path, values: Mapping[tuple[str, str], float]) -> tuple[str, str]:
    """Return a game's file as it is, and with new numbers by table and name; all else stays.

    Raises InputError for a file that cannot be read, and a table or name that it does not have.
    """
    if path.suffix == ".json":
        return _json(path, values)
    import tomlkit

    _, text = read_toml(path, "file of the game's parameters")
    document: Any = tomlkit.parse(text)
    for (table, name), value in values.items():
        _holder(document, table, name, path)[name] = value
    return text, tomlkit.dumps(document)


def _json(path: Path, values: Mapping[tuple[str, str], float]) -> tuple[str, str]:
    try:
        text = path.read_text(encoding="utf-8")
        document = json.loads(text)
    except (OSError, ValueError) as error:
        raise InputError(f"cannot be read as the game's parameters ({error})", str(path)) from error
    for (table, name), value in values.items():
        _holder(document, table, name, path)[name] = value
    line = next((line for line in text.splitlines() if line[:1] in {" ", "\t"}), "  ")
    indent = line[: len(line) - len(line.lstrip())]
    new = json.dumps(document, indent=indent, ensure_ascii=False)
    return text, new + ("\n" if text.endswith("\n") else "")


def _holder(document: Any, table: str, name: str, path: Path) -> Any:
    """Return the table of a document that holds a name; InputError where there is none."""
    place = document
    for part in table.split(".") if table else []:
        if not isinstance(place, Mapping) or part not in place:
            raise InputError(f"has no table '{table}' that holds '{name}'", str(path))
        place = place[part]
    if not isinstance(place, Mapping) or name not in place:
        known = list(place) if isinstance(place, Mapping) else []
        raise InputError(f"has no '{name}'{nearest(name, known)}", str(path))
    return place
