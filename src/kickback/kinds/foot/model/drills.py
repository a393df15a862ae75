"""Drills of a character on foot, over a floor."""

from collections.abc import Collection, Sequence

from kickback.errors import InputError, nearest
from kickback.kinds.playing.drills import LEVEL, Drill, floor_of, parts_of, pieces
from kickback.kinds.playing.floor import Ceiling, Floor
from kickback.takes.header import VIEWS
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["INPUTS", "FootDrill", "drill_from_mapping"]

INPUTS = ("move_x", "move_y", "jump", "brake", "dash")
"""What may be held, without the columns' ``in_``."""

_KEYS = (
    "kind", "name", "notes", "view", "length", "start", "floor", "ceiling", "input",
)  # fmt: skip
_FLOOR_KEYS = ("x", "height", "slope", "moves")
_CEILING_KEYS = ("x", "height")


class FootDrill(Drill, frozen=True, kw_only=True):
    """A drill over a floor; its pieces and the ceiling's go along the first axis.

    From above the floor is level.
    """

    floor: Floor
    ceiling: Ceiling | None = None
    kind: str = "foot"
    columns: Sequence[str] = ("in_move_x", "in_jump", "in_brake")

    def _scene(self) -> PlainDict:
        return {
            "floor": self.floor.to_rows(),
            **({} if self.ceiling is None else {"ceiling": self.ceiling.to_rows()}),
        }


def drill_from_mapping(data: PlainMap, place: str) -> FootDrill:
    """Check and build a drill from its plain form (a TOML file's content).

    Raises InputError naming the key that is unknown or wrong.
    """
    parts = parts_of(data, _KEYS, INPUTS, place)
    view = _view(data, parts["columns"], place)
    floor, ceiling = _ground(data, view, place)
    return FootDrill(floor=floor, ceiling=ceiling, view=view, **parts)


def _view(data: PlainMap, used: Collection[str], place: str) -> str:
    """Return the view that a drill is played in: a plane's, where it moves along two axes."""
    view = data.get("view", "3d" if "in_move_y" in used else "side")
    if view not in VIEWS:
        raise InputError(f"'view' is '{view}'{nearest(str(view), VIEWS)}", place)
    return str(view)


def _ground(data: PlainMap, view: str, place: str) -> tuple[Floor, Ceiling | None]:
    """Check and build the floor of a drill and its ceiling, if it has one."""
    floor, ceiling = data.get("floor", LEVEL), data.get("ceiling")
    if view == "top" and not (floor == LEVEL and ceiling is None):
        raise InputError(
            "from above a floor is level, without a ceiling; leave 'floor' and 'ceiling' out", place
        )
    above = None if ceiling is None else pieces(ceiling, "ceiling", _CEILING_KEYS, place)
    below = floor_of(data, _FLOOR_KEYS, place)
    return below, None if above is None else Ceiling.of_rows(above)
