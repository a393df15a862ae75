"""Takes from the on-foot model: a parameter set, a drill and a frame rate in, a take out."""

from collections.abc import Mapping, Sequence

from kickback.kinds.foot.model.body import run_foot
from kickback.kinds.foot.model.drills import FootDrill, drill_from_mapping
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.parameters import checked_values
from kickback.kinds.playing.takes import named, played
from kickback.takes.header import ParameterSet, Value
from kickback.takes.plain import PlainMap
from kickback.takes.take import FloatArray, Take

__all__ = ["simulate", "simulate_many"]


def simulate(
    parameters: ParameterSet | Mapping[str, Value] | None = None,
    drill: FootDrill | PlainMap | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> Take:
    """Play a drill with one parameter set; see ``models.parameters`` for the values.

    ``drill`` may be in the plain form of a drill file, ``{"input": [{"at": 0.5, "until":
    2.0, "move_x": 1.0}]}``; a short standard one without. Raises InputError for parameters
    or a drill that make no sense.
    """
    return simulate_many(
        [parameters or {}], drill, frame_rate=frame_rate, jitter=jitter, seed=seed
    )[0]


def simulate_many(
    sets: Sequence[ParameterSet | Mapping[str, Value]],
    drill: FootDrill | PlainMap | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> list[Take]:
    """Play one drill with many parameter sets at once; one take each, in order."""
    if not isinstance(drill, FootDrill):
        drill = drill_from_mapping(drill, "drill") if drill else standard_drill()
    full = [
        ParameterSet(name=one.name, values=checked_values(one.values, f"parameters '{one.name}'"))
        for one in map(named, sets)
    ]
    header = {"subject": "lamplighter", "length_unit": "m", "probe": "feet"}
    return played(_play, full, drill, header, frame_rate=frame_rate, jitter=jitter, seed=seed)


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
