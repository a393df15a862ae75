"""Drills of a projectile: when the button is held, and a target to be hit."""

from kickback.errors import InputError, nearest
from kickback.kinds.playing.drills import Drill, number, parts_of
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["DRILLS", "INPUTS", "ShotDrill", "drill_from_mapping"]

INPUTS = ("fire",)
"""What may be held, without the columns' ``in_``."""

_KEYS = ("kind", "name", "notes", "view", "length", "start", "target", "input")
_VIEWS = {"side": 2, "3d": 3}


class ShotDrill(Drill, frozen=True, kw_only=True):
    """A drill over level ground; ``target``: a place in the order of the axes, or none."""

    target: tuple[float, ...] = ()
    kind: str = "shot"

    def _scene(self) -> PlainDict:
        return {"kind": "shot", **({"target": list(self.target)} if self.target else {})}


def drill_from_mapping(data: PlainMap, place: str) -> ShotDrill:
    """Check and build a drill from its plain form (a TOML file's content).

    Raises InputError naming the key that is unknown or wrong.
    """
    parts = parts_of(data, _KEYS, INPUTS, place)
    view = data.get("view", "side")
    if view not in _VIEWS:
        raise InputError(f"'view' is '{view}'{nearest(str(view), _VIEWS)}", place)
    target = data.get("target", [])
    many = _VIEWS[view]
    if not isinstance(target, list) or len(target) not in {0, many}:
        raise InputError(f"'target' must be a list of {many} numbers in this view", place)
    where = tuple(number(one, "target", place) for one in target)
    return ShotDrill(view=view, target=where, **parts)


def _drill(name: str, view: str, target: list[float]) -> ShotDrill:
    held = [{"at": 0.5, "until": 16.9, "fire": 1.0}]
    data = {"name": name, "view": view, "length": 17.0, "target": target, "input": held}
    return drill_from_mapping(data, f"{name} drill")


DRILLS = {
    "lob": lambda: _drill("lob", "side", [24.0, 4.0]),
    "volley": lambda: _drill("volley", "3d", [24.0, 4.0, 0.0]),
}
"""The drills that come with the model, the usual one first."""
