"""Drills: timed inputs, so that two takes can be the same exercise."""

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from kickback.errors import InputError, nearest
from kickback.kinds.playing.floor import Floor
from kickback.takes.channels import channel_of
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.ranges import beyond_range
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "LEVEL",
    "Drill",
    "TimedInput",
    "floor_of",
    "number",
    "parts_of",
    "pieces",
    "timed_inputs",
]

STEEPEST = 80.0
"""Degrees up to which a piece of floor may rise; steeper ones are walls, edges between two."""

LEVEL = [{"x": 0.0, "height": 0.0}]
"""The rows of a floor that is level."""

_BUTTONS = ("jump", "brake", "dash", "fire")
"""Inputs that are held or not."""

_SHAPE = "'{key}' must be a list of tables such as {{ x = 40.0, height = -3.0 }}"


class TimedInput(Record, frozen=True, kw_only=True):
    """Inputs held from ``at`` until ``until``, s; ``values`` maps columns to amounts."""

    at: float
    until: float
    values: Mapping[str, float]


class Drill(Record, frozen=True, kw_only=True):
    """Timed inputs for a ``kind`` of subject, how long the take is (s), and where it starts.

    ``view``: ``side``, or ``top`` or ``3d`` over a plane. ``columns`` are the inputs that it has.
    """

    kind: str
    name: str
    length: float
    inputs: Sequence[TimedInput]
    start: float = 0.0
    notes: str = ""
    view: str = "side"
    columns: Sequence[str] = ()

    def to_mapping(self) -> PlainDict:
        """Return the plain form, that of a drill file."""
        return {
            "name": self.name,
            **({} if self.view == "side" else {"view": self.view}),
            "length": self.length,
            "start": self.start,
            **self._scene(),
            "input": [
                {
                    "at": item.at,
                    "until": item.until,
                    **{name.removeprefix("in_"): amount for name, amount in item.values.items()},
                }
                for item in self.inputs
            ],
        }

    def _scene(self) -> PlainDict:
        """Return what it is played on, in the plain form."""
        return {}

    def read(self, begins: FloatArray) -> dict[str, FloatArray]:
        """Return what updates that begin at times ``begins``, shape (n,), read."""
        columns = {name: np.zeros(len(begins)) for name in self.columns}
        for item in self.inputs:
            held: npt.NDArray[np.bool_] = (begins >= item.at - 1e-9) & (begins < item.until - 1e-9)
            for name, amount in item.values.items():
                columns[name][held] = amount
        return columns


def parts_of(data: PlainMap, keys: Sequence[str], inputs: Sequence[str], place: str) -> PlainDict:
    """Check and return what all drills have: name, notes, length, inputs, start, columns.

    ``keys`` are those that a drill file may have, ``inputs`` what may be held. Raises InputError
    naming the key that is unknown or wrong.
    """
    for key in data:
        if key not in keys:
            raise InputError(f"unknown key '{key}'{nearest(key, keys)}", place)
    items = timed_inputs(data.get("input"), inputs, place)
    length = number(data.get("length", max(item.until for item in items) + 1.0), "length", place)
    if length <= 0:
        raise InputError(f"'length' must be above 0, not {length:g}", place)
    used = {name for item in items for name in item.values}
    return {
        "name": str(data.get("name", "")) or "drill",
        "notes": str(data.get("notes", "")),
        "length": length,
        "inputs": items,
        "start": number(data.get("start", 0.0), "start", place),
        "columns": tuple(f"in_{name}" for name in inputs if f"in_{name}" in used),
    }


def timed_inputs(items: object, names: Sequence[str], place: str) -> tuple[TimedInput, ...]:
    """Check and build the inputs of a drill, of those that may be held."""
    if not isinstance(items, list) or not items:
        raise InputError("a drill needs at least one [[input]]", place)
    return tuple(
        _timed_input(item, names, f"{place}, input {i}") for i, item in enumerate(items, 1)
    )


def _timed_input(item: object, names: Sequence[str], place: str) -> TimedInput:
    if not isinstance(item, Mapping):
        raise InputError("must be a table with at, until and inputs", place)
    values: dict[str, float] = {}
    for key, value in item.items():
        if key in {"at", "until"}:
            continue
        if key not in names:
            raise InputError(f"unknown key '{key}'{nearest(key, ('at', 'until', *names))}", place)
        column = f"in_{key}"
        amount = number(value, key, place)
        low = 0.0 if channel_of(column).is_flag else -1.0
        if not low <= amount <= 1.0:
            raise InputError(f"'{key}' must lie between {low:g} and 1, not {amount:g}", place)
        values[column] = amount
    if "at" not in item or "until" not in item or not values:
        raise InputError(f"needs 'at', 'until' and an input such as {names[0]} = 1.0", place)
    at, until = number(item["at"], "at", place), number(item["until"], "until", place)
    if not 0 <= at < until:
        raise InputError(f"'until' ({until:g} s) must be later than 'at' ({at:g} s)", place)
    return TimedInput(at=at, until=until, values=values)


def floor_of(data: PlainMap, names: Sequence[str], place: str) -> Floor:
    """Check and build the floor of a drill, level without one."""
    return Floor.of_rows(pieces(data.get("floor", LEVEL), "floor", names, place))


def pieces(items: object, key: str, names: Sequence[str], place: str) -> list[dict[str, float]]:
    """Return a floor's or a ceiling's pieces, checked.

    Each needs its x, and its height unless it is one of a floor that goes on from the last.
    """
    if not isinstance(items, list) or not items:
        raise InputError(_SHAPE.format(key=key), place)
    rows: list[dict[str, float]] = []
    for item in items:
        needed = {"x"} if rows and "slope" in names else {"x", "height"}
        rows.append(_piece(item, key, names, needed, place))
    if any(b["x"] <= a["x"] for a, b in pairwise(rows)):
        raise InputError(f"the {key}'s 'x' must grow from piece to piece", place)
    return rows


def _piece(
    item: object, key: str, names: Sequence[str], needed: set[str], place: str
) -> dict[str, float]:
    if not isinstance(item, Mapping) or not needed <= set(item):
        raise InputError(_SHAPE.format(key=key), place)
    for name in item:
        if name not in names:
            raise InputError(f"unknown key '{name}' in '{key}'{nearest(str(name), names)}", place)
    row = {name: number(value, f"{key}.{name}", place) for name, value in item.items()}
    if abs(row.get("slope", 0.0)) > STEEPEST:
        raise InputError(f"'{key}.slope' must lie between -80 and 80 degrees", place)
    return row


def number(value: object, key: str, place: str) -> float:
    """Return a number of a drill; raises InputError for what is none, or is not finite."""
    if isinstance(value, bool) and key in _BUTTONS:
        return float(value)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise InputError(f"'{key}' must be a number, not {value!r}", place)
    if beyond_range(value) is not None or not np.isfinite(value):
        raise InputError(f"'{key}' must be finite", place)
    return float(value)
