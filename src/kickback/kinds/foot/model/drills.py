"""Drills: timed inputs over a floor, so that two takes can be the same exercise."""

from collections.abc import Collection, Mapping, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.errors import InputError, nearest
from kickback.takes.channels import channel_of
from kickback.takes.header import VIEWS
from kickback.takes.ranges import beyond_range
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "Drill",
    "Floor",
    "TimedInput",
    "drill_from_mapping",
    "moves_drill",
    "plane_drill",
    "standard_drill",
]

INPUTS = ("move_x", "move_y", "jump", "brake", "dash")
_KEYS = ("name", "notes", "view", "length", "start", "floor", "input")


class TimedInput(Record, frozen=True, kw_only=True):
    """Inputs held from ``at`` until ``until``, s; ``values`` maps columns to amounts."""

    at: float
    until: float
    values: Mapping[str, float]


class Floor(Record, frozen=True, kw_only=True):
    """A floor in steps: ``heights[i]`` holds from ``edges[i]`` on."""

    edges: FloatArray
    heights: FloatArray

    def height(self, x: FloatArray) -> FloatArray:
        """Return the floor's height under positions ``x``, shape (m,)."""
        if len(self.edges) == 1:
            return np.full_like(x, self.heights[0])
        index = np.searchsorted(self.edges, x, side="right") - 1
        return self.heights[np.maximum(index, 0)]


class Drill(Record, frozen=True, kw_only=True):
    """Timed inputs, how long the take is (s), where it starts, and the floor.

    ``view``: ``side``, or ``top`` or ``3d`` over a plane, whose floor is level.
    """

    name: str
    length: float
    inputs: Sequence[TimedInput]
    floor: Floor
    start: float = 0.0
    notes: str = ""
    view: str = "side"
    columns: Sequence[str] = ("in_move_x", "in_jump", "in_brake")

    def to_mapping(self) -> dict[str, Any]:
        """Return the plain form, that of a drill file."""
        steps = zip(self.floor.edges.tolist(), self.floor.heights.tolist(), strict=True)
        return {
            "name": self.name,
            **({} if self.view == "side" else {"view": self.view}),
            "length": self.length,
            "start": self.start,
            "floor": [{"x": x, "height": height} for x, height in steps],
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
    view, floor = _view(data, used, place), data.get("floor", [{"x": 0.0, "height": 0.0}])
    if view != "side" and floor != [{"x": 0.0, "height": 0.0}]:
        raise InputError(f"a drill in a '{view}' view has a level floor; leave 'floor' out", place)
    return Drill(
        name=str(data.get("name", "")) or "drill",
        notes=str(data.get("notes", "")),
        length=length,
        inputs=inputs,
        floor=_floor(floor, place),
        view=view,
        start=_number(data.get("start", 0.0), "start", place),
        columns=tuple(f"in_{name}" for name in INPUTS if f"in_{name}" in used),
    )


def _view(data: Mapping[str, Any], used: Collection[str], place: str) -> str:
    """Return the view that a drill is played in: a plane's, where it moves along two axes."""
    view = data.get("view", "3d" if "in_move_y" in used else "side")
    if view not in VIEWS:
        raise InputError(f"'view' is '{view}'{nearest(str(view), VIEWS)}", place)
    if view == "side" and "in_move_y" in used:
        raise InputError('\'move_y\' is of no use in a side view; view = "top" or "3d"', place)
    return str(view)


def _timed_inputs(items: object, place: str) -> tuple[TimedInput, ...]:
    """Check and build the inputs of a drill."""
    if not isinstance(items, list) or not items:
        raise InputError("a drill needs at least one [[input]]", place)
    return tuple(_timed_input(item, f"{place}, input {i}") for i, item in enumerate(items, 1))


def standard_drill() -> Drill:
    """Return a short drill on flat ground: run, coast, run, turn, brake, jump, hop."""
    return drill_from_mapping(
        {
            "name": "standard",
            "length": 12.0,
            "input": [
                {"at": 0.5, "until": 2.0, "move_x": 1.0},
                {"at": 3.5, "until": 5.0, "move_x": 1.0},
                {"at": 5.0, "until": 6.5, "move_x": -1.0},
                {"at": 8.0, "until": 8.5, "jump": 1.0},
                {"at": 10.0, "until": 10.1, "jump": 1.0},
            ],
        },
        "standard drill",
    )


def moves_drill() -> Drill:
    """Return a drill of all moves: runs, dashes (two come too soon), jumps, two in the air."""
    inputs = [
        (0.5, 2.0, "move_x", 1.0),
        (3.0, 3.1, "dash", 1.0),
        (3.3, 3.4, "dash", 1.0),
        (4.5, 4.6, "dash", 1.0),
        (5.6, 6.5, "move_x", 1.0),
        (6.4, 6.45, "dash", 1.0),
        (6.5, 7.6, "move_x", -1.0),
        (6.85, 6.9, "dash", 1.0),
        (7.6, 8.4, "move_x", 1.0),
        (9.0, 9.9, "jump", 1.0),
        (10.6, 11.0, "jump", 1.0),
        (11.15, 11.9, "jump", 1.0),
    ]
    return drill_from_mapping(
        {
            "name": "moves",
            "length": 14.0,
            "floor": [{"x": -500.0, "height": 0.0}],
            "input": [{"at": a, "until": b, name: amount} for a, b, name, amount in inputs],
        },
        "moves drill",
    )


def plane_drill(view: str = "3d") -> Drill:
    """Return a drill over a plane: runs and stops each way, turns by 45, 90 and 180 degrees.

    In three dimensions it jumps as well.
    """
    held = [
        (0.5, 2.0, 1.0, 0.0), (2.0, 3.2, -1.0, 0.0),  # along the first axis, and back
        (4.0, 5.2, 0.0, 1.0), (6.0, 7.2, 1.0, 1.0),  # along the second; a diagonal
        (8.0, 9.0, 1.0, 0.0), (9.0, 10.0, 0.0, 1.0),  # a turn by 90 degrees
        (10.0, 11.0, 1.0, 1.0), (11.0, 12.0, -1.0, -1.0),  # by 45, and by 180
        (13.0, 14.2, -1.0, 0.0), (15.0, 16.2, 0.0, -1.0),
    ]  # fmt: skip
    inputs: list[dict[str, float]] = [
        {"at": a, "until": b, "move_x": x, "move_y": y} for a, b, x, y in held
    ]
    jumps = [(17.0, 17.6), (20.5, 20.6)] if view == "3d" else []
    inputs += [{"at": a, "until": b, "jump": 1.0} for a, b in jumps]
    inputs += [{"at": 15.7, "until": 15.8, "dash": 1.0}]
    return drill_from_mapping(
        {"name": f"plane-{view}", "view": view, "length": 23.0 if jumps else 17.0, "input": inputs},
        "plane drill",
    )


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


def _floor(items: object, place: str) -> Floor:
    shape = "'floor' must be a list of tables such as { x = 40.0, height = -3.0 }"
    if not isinstance(items, list) or not items:
        raise InputError(shape, place)
    for item in items:
        if not isinstance(item, Mapping) or set(item) != {"x", "height"}:
            raise InputError(shape, place)
    edges = np.array([_number(item["x"], "floor.x", place) for item in items])
    heights = np.array([_number(item["height"], "floor.height", place) for item in items])
    if np.any(np.diff(edges) <= 0):
        raise InputError("the floor's 'x' must grow from step to step", place)
    return Floor(edges=edges, heights=heights)


def _number(value: object, key: str, place: str) -> float:
    if isinstance(value, bool) and key in {"jump", "brake", "dash"}:
        return float(value)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise InputError(f"'{key}' must be a number, not {value!r}", place)
    if beyond_range(value) is not None or not np.isfinite(value):
        raise InputError(f"'{key}' must be finite", place)
    return float(value)
