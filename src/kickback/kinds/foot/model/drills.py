"""Drills: timed inputs over a floor, so that two takes can be the same exercise."""

from collections.abc import Collection, Mapping, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.errors import InputError, nearest
from kickback.kinds.foot.model.floor import Ceiling, Floor
from kickback.takes.channels import channel_of
from kickback.takes.header import VIEWS
from kickback.takes.ranges import beyond_range
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "Drill",
    "TimedInput",
    "drill_from_mapping",
]

INPUTS = ("move_x", "move_y", "jump", "brake", "dash")
_KEYS = ("name", "notes", "view", "length", "start", "floor", "ceiling", "input")
_STEEPEST = 80.0
"""Degrees up to which a piece of floor may rise; steeper ones are walls, edges between two."""

_SHAPE = "'{key}' must be a list of tables such as {{ x = 40.0, height = -3.0 }}"
_FLOOR_KEYS = ("x", "height", "slope", "moves")
_CEILING_KEYS = ("x", "height")
_LEVEL = [{"x": 0.0, "height": 0.0}]


class TimedInput(Record, frozen=True, kw_only=True):
    """Inputs held from ``at`` until ``until``, s; ``values`` maps columns to amounts."""

    at: float
    until: float
    values: Mapping[str, float]


class Drill(Record, frozen=True, kw_only=True):
    """Timed inputs, how long the take is (s), where it starts, and what it is played on.

    ``view``: ``side``, or ``top`` or ``3d`` over a plane. The floor's pieces and the ceiling's
    go along the first axis; from above the floor is level.
    """

    name: str
    length: float
    inputs: Sequence[TimedInput]
    floor: Floor
    ceiling: Ceiling | None = None
    start: float = 0.0
    notes: str = ""
    view: str = "side"
    columns: Sequence[str] = ("in_move_x", "in_jump", "in_brake")

    def to_mapping(self) -> dict[str, Any]:
        """Return the plain form, that of a drill file."""
        return {
            "name": self.name,
            **({} if self.view == "side" else {"view": self.view}),
            "length": self.length,
            "start": self.start,
            "floor": self.floor.to_rows(),
            **({} if self.ceiling is None else {"ceiling": self.ceiling.to_rows()}),
            "input": [
                {
                    "at": item.at,
                    "until": item.until,
                    **{name.removeprefix("in_"): amount for name, amount in item.values.items()},
                }
                for item in self.inputs
            ],
        }

    def read(self, begins: FloatArray) -> dict[str, FloatArray]:
        """Return what updates that begin at times ``begins``, shape (n,), read."""
        columns = {name: np.zeros(len(begins)) for name in self.columns}
        for item in self.inputs:
            held: npt.NDArray[np.bool_] = (begins >= item.at - 1e-9) & (begins < item.until - 1e-9)
            for name, amount in item.values.items():
                columns[name][held] = amount
        return columns


def drill_from_mapping(data: Mapping[str, Any], place: str) -> Drill:
    """Check and build a drill from its plain form (a TOML file's content).

    Raises InputError naming the key that is unknown or wrong.
    """
    for key in data:
        if key not in _KEYS:
            raise InputError(f"unknown key '{key}'{nearest(key, _KEYS)}", place)
    inputs = _timed_inputs(data.get("input"), place)
    latest = max(item.until for item in inputs)
    length = _number(data.get("length", latest + 1.0), "length", place)
    if length <= 0:
        raise InputError(f"'length' must be above 0, not {length:g}", place)
    used = {name for item in inputs for name in item.values}
    view = _view(data, used, place)
    floor, ceiling = _ground(data, view, place)
    return Drill(
        name=str(data.get("name", "")) or "drill",
        notes=str(data.get("notes", "")),
        length=length,
        inputs=inputs,
        floor=floor,
        ceiling=ceiling,
        view=view,
        start=_number(data.get("start", 0.0), "start", place),
        columns=tuple(f"in_{name}" for name in INPUTS if f"in_{name}" in used),
    )


def _view(data: Mapping[str, Any], used: Collection[str], place: str) -> str:
    """Return the view that a drill is played in: a plane's, where it moves along two axes."""
    view = data.get("view", "3d" if "in_move_y" in used else "side")
    if view not in VIEWS:
        raise InputError(f"'view' is '{view}'{nearest(str(view), VIEWS)}", place)
    return str(view)


def _timed_inputs(items: object, place: str) -> tuple[TimedInput, ...]:
    """Check and build the inputs of a drill."""
    if not isinstance(items, list) or not items:
        raise InputError("a drill needs at least one [[input]]", place)
    return tuple(_timed_input(item, f"{place}, input {i}") for i, item in enumerate(items, 1))


def _timed_input(item: object, place: str) -> TimedInput:
    if not isinstance(item, Mapping):
        raise InputError("must be a table with at, until and inputs", place)
    values: dict[str, float] = {}
    for key, value in item.items():
        if key in {"at", "until"}:
            continue
        if key not in INPUTS:
            raise InputError(f"unknown key '{key}'{nearest(key, ('at', 'until', *INPUTS))}", place)
        column = f"in_{key}"
        amount = _number(value, key, place)
        low = 0.0 if channel_of(column).is_flag else -1.0
        if not low <= amount <= 1.0:
            raise InputError(f"'{key}' must lie between {low:g} and 1, not {amount:g}", place)
        values[column] = amount
    if "at" not in item or "until" not in item or not values:
        raise InputError("needs 'at', 'until' and an input such as move_x = 1.0", place)
    at, until = _number(item["at"], "at", place), _number(item["until"], "until", place)
    if not 0 <= at < until:
        raise InputError(f"'until' ({until:g} s) must be later than 'at' ({at:g} s)", place)
    return TimedInput(at=at, until=until, values=values)


def _ground(data: Mapping[str, Any], view: str, place: str) -> tuple[Floor, Ceiling | None]:
    """Check and build the floor of a drill and its ceiling, if it has one."""
    floor, ceiling = data.get("floor", _LEVEL), data.get("ceiling")
    if view == "top" and not (floor == _LEVEL and ceiling is None):
        raise InputError(
            "from above a floor is level, without a ceiling; leave 'floor' and 'ceiling' out", place
        )
    below = _pieces(floor, "floor", _FLOOR_KEYS, place)
    above = None if ceiling is None else _pieces(ceiling, "ceiling", _CEILING_KEYS, place)
    return Floor.of_rows(below), None if above is None else Ceiling.of_rows(above)


def _pieces(items: object, key: str, names: Sequence[str], place: str) -> list[dict[str, float]]:
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
    row = {name: _number(value, f"{key}.{name}", place) for name, value in item.items()}
    if abs(row.get("slope", 0.0)) > _STEEPEST:
        raise InputError(f"'{key}.slope' must lie between -80 and 80 degrees", place)
    return row


def _number(value: object, key: str, place: str) -> float:
    if isinstance(value, bool) and key in {"jump", "brake", "dash"}:
        return float(value)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise InputError(f"'{key}' must be a number, not {value!r}", place)
    if beyond_range(value) is not None or not np.isfinite(value):
        raise InputError(f"'{key}' must be finite", place)
    return float(value)
