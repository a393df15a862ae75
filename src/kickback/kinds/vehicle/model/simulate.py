"""Takes from the vehicle model: a parameter set, a drill and a frame rate in, a take out."""

from kickback.kinds.playing.takes import Player
from kickback.kinds.vehicle.model.body import drive_vehicle
from kickback.kinds.vehicle.model.drills import VehicleDrill, drill_from_mapping, flats_drill
from kickback.kinds.vehicle.model.parameters import checked_values

__all__ = ["simulate", "simulate_many"]

_PLAYER = Player(
    play=drive_vehicle,
    drill=VehicleDrill,
    drill_from=drill_from_mapping,
    usual=flats_drill,
    checked=checked_values,
    header=lambda *_: {"subject": "salt sled", "length_unit": "m"},
)

simulate, simulate_many = _PLAYER.simulate, _PLAYER.simulate_many
