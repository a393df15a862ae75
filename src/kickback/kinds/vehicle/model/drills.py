"""Drills of a vehicle: pedals and wheel over time, from above or over slopes, and built-in ones."""

from collections.abc import Sequence

from kickback.errors import InputError, nearest
from kickback.kinds.playing.drills import LEVEL, Drill, floor_of, parts_of
from kickback.kinds.playing.floor import Floor
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["DRILLS", "INPUTS", "VehicleDrill", "drill_from_mapping"]

INPUTS = ("throttle", "steer", "brake")
"""What may be held, without the columns' ``in_``."""

_KEYS = ("kind", "name", "notes", "view", "length", "start", "heading", "floor", "input")
_FLOOR_KEYS = ("x", "height", "slope")
_VIEWS = ("top", "side")


class VehicleDrill(Drill, frozen=True, kw_only=True):
    """A drill from above, or from the side over a floor; ``heading``: where it points at first."""

    floor: Floor
    heading: float = 0.0
    kind: str = "vehicle"

    def _scene(self) -> PlainDict:
        if self.view == "side":
            return {"kind": "vehicle", "floor": self.floor.to_rows()}
        return {"kind": "vehicle", "heading": self.heading}


def drill_from_mapping(data: PlainMap, place: str) -> VehicleDrill:
    """Check and build a drill from its plain form (a TOML file's content).

    Raises InputError naming the key that is unknown or wrong.
    """
    parts = parts_of(data, _KEYS, INPUTS, place)
    view = data.get("view", "side" if "floor" in data else "top")
    if view not in _VIEWS:
        raise InputError(f"'view' is '{view}'{nearest(str(view), _VIEWS)}", place)
    if view == "top" and data.get("floor", LEVEL) != LEVEL:
        raise InputError("from above a floor is level; leave 'floor' out", place)
    if view == "side" and "in_steer" in parts["columns"]:
        raise InputError("from the side nothing is steered; leave 'steer' out", place)
    heading = data.get("heading", 0.0)
    if isinstance(heading, bool) or not isinstance(heading, int | float):
        raise InputError(f"'heading' must be a number, not {heading!r}", place)
    floor = floor_of(data, _FLOOR_KEYS, place)
    return VehicleDrill(view=view, floor=floor, heading=float(heading), **parts)


_Held = tuple[float, float, str, float]
"""From when until when an input is held, s, its name and its amount."""


def _drill(name: str, length: float, held: Sequence[_Held], **scene: object) -> VehicleDrill:
    items = [{"at": a, "until": b, key: amount} for a, b, key, amount in held]
    data = {"name": name, "length": length, "input": items, **scene}
    return drill_from_mapping(data, f"{name} drill")


def flats_drill() -> VehicleDrill:
    """Return a drill from above: top speed, coasting, brakes, reverse, turns, slides, a swerve."""
    held = [
        (0.5, 7.0, "throttle", 1.0),
        (14.0, 20.0, "throttle", 0.5),
        (20.0, 26.0, "throttle", 1.0),
        (26.0, 29.0, "brake", 1.0),
        (30.0, 36.0, "throttle", -1.0),
        (36.0, 56.0, "throttle", 1.0),
        (42.0, 44.0, "steer", 1.0),
        (48.0, 50.0, "steer", -1.0),
        (54.0, 54.4, "steer", 1.0),
        (54.6, 55.0, "steer", -1.0),
        (64.0, 65.0, "steer", 1.0),
    ]
    return _drill("flats", 66.0, held, heading=20.0)


def dunes_drill() -> VehicleDrill:
    """Return a drill from the side: over a rise and a crest, down again, and a stop."""
    floor = [
        {"x": -500.0, "height": 0.0},
        {"x": 60.0, "slope": 12.0},
        {"x": 90.0},
        {"x": 130.0, "slope": -15.0},
        {"x": 160.0},
        {"x": 200.0, "slope": 20.0},
        {"x": 212.0, "slope": -20.0},
        {"x": 224.0},
    ]
    held = [(0.5, 20.0, "throttle", 1.0), (20.0, 22.5, "brake", 1.0)]
    return _drill("dunes", 23.0, held, view="side", floor=floor)


DRILLS = {"flats": flats_drill, "dunes": dunes_drill}
"""The drills that come with the model, the usual one first."""
