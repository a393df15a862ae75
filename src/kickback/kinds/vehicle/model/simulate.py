"""Takes from the vehicle model: a parameter set, a drill and a frame rate in, a take out."""

from collections.abc import Mapping, Sequence

from kickback.kinds.playing.takes import named, played
from kickback.kinds.vehicle.model.body import drive_vehicle
from kickback.kinds.vehicle.model.drills import VehicleDrill, drill_from_mapping, flats_drill
from kickback.kinds.vehicle.model.parameters import checked_values
from kickback.takes.header import ParameterSet, Value
from kickback.takes.plain import PlainMap
from kickback.takes.take import Take

__all__ = ["simulate", "simulate_many"]


def simulate(
    parameters: ParameterSet | Mapping[str, Value] | None = None,
    drill: VehicleDrill | PlainMap | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> Take:
    """Play a drill with one parameter set; the one over the flats without.

    Raises InputError for parameters or a drill that make no sense.
    """
    return simulate_many(
        [parameters or {}], drill, frame_rate=frame_rate, jitter=jitter, seed=seed
    )[0]


def simulate_many(
    sets: Sequence[ParameterSet | Mapping[str, Value]],
    drill: VehicleDrill | PlainMap | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> list[Take]:
    """Play one drill with many parameter sets at once; one take each, in order."""
    if not isinstance(drill, VehicleDrill):
        drill = drill_from_mapping(drill, "drill") if drill else flats_drill()
    full = [
        ParameterSet(name=one.name, values=checked_values(one.values, f"parameters '{one.name}'"))
        for one in map(named, sets)
    ]
    header = {"subject": "salt sled", "length_unit": "m"}
    return played(
        drive_vehicle, full, drill, header, frame_rate=frame_rate, jitter=jitter, seed=seed
    )
