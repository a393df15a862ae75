"""Takes from the projectile model: a parameter set, a drill and a frame rate in, a take out."""

from collections.abc import Mapping, Sequence

from kickback.kinds.playing.takes import named, played
from kickback.kinds.shot.model.body import fire_shots
from kickback.kinds.shot.model.drills import DRILLS, ShotDrill, drill_from_mapping
from kickback.kinds.shot.model.parameters import checked_values
from kickback.takes.header import ParameterSet, Value
from kickback.takes.plain import PlainMap
from kickback.takes.take import Take

__all__ = ["simulate", "simulate_many"]


def simulate(
    parameters: ParameterSet | Mapping[str, Value] | None = None,
    drill: ShotDrill | PlainMap | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> Take:
    """Play a drill with one parameter set; a few lobs without.

    Raises InputError for parameters or a drill that make no sense.
    """
    return simulate_many(
        [parameters or {}], drill, frame_rate=frame_rate, jitter=jitter, seed=seed
    )[0]


def simulate_many(
    sets: Sequence[ParameterSet | Mapping[str, Value]],
    drill: ShotDrill | PlainMap | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> list[Take]:
    """Play one drill with many parameter sets at once; one take each, in order."""
    if not isinstance(drill, ShotDrill):
        drill = drill_from_mapping(drill, "drill") if drill else DRILLS["lob"]()
    full = [
        ParameterSet(name=one.name, values=checked_values(one.values, f"parameters '{one.name}'"))
        for one in map(named, sets)
    ]
    high = float(full[0].values["muzzle_height"])
    muzzle = [drill.start, high] + ([0.0] if drill.view == "3d" else [])
    extra = {"muzzle": muzzle, **({"target": list(drill.target)} if drill.target else {})}
    header = {"subject": "flare", "length_unit": "m", "extra": extra}
    return played(fire_shots, full, drill, header, frame_rate=frame_rate, jitter=jitter, seed=seed)
