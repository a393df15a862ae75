"""Takes from the on-foot model: a parameter set, a drill and a frame rate in, a take out."""

from collections.abc import Mapping, Sequence

from kickback.kinds.foot.model.body import run_foot
from kickback.kinds.foot.model.drills import FootDrill, drill_from_mapping
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.playing.takes import Player
from kickback.takes.header import Value
from kickback.takes.plain import PlainMap
from kickback.takes.take import FloatArray

__all__ = ["simulate", "simulate_many"]


def _play(
    sets: Sequence[Mapping[str, Value]], drill: FootDrill, dt: FloatArray
) -> Mapping[str, FloatArray]:
    return _columns(run_foot(sets, drill, dt), drill.view)


def _columns(played: PlainMap, view: str) -> dict[str, FloatArray]:
    """Return what was played as the columns of a view; over a plane there is a second axis."""
    if view == "side":
        return dict(played)
    second = "z" if view == "3d" else "y"
    hidden = {"x", "vx", "camera_x"}
    hidden |= set() if view == "3d" else {"y", "vy", "touch_side", "camera_y"}
    plain = {name: column for name, column in played.items() if name not in hidden}
    if "camera_x" in played:
        camera = played["camera_x"]
        plain |= {"camera_x": camera.real, f"camera_{second}": camera.imag}
    return {
        "dt": plain.pop("dt"),
        "x": played["x"].real,
        second: played["x"].imag,
        "vx": played["vx"].real,
        f"v{second}": played["vx"].imag,
        **plain,
    }


_PLAYER = Player(
    play=_play,
    drill=FootDrill,
    drill_from=drill_from_mapping,
    usual=standard_drill,
    checked=checked_values,
    header=lambda *_: {"subject": "lamplighter", "length_unit": "m", "probe": "feet"},
)

simulate, simulate_many = _PLAYER.simulate, _PLAYER.simulate_many
