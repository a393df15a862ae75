"""Takes from the projectile model: a parameter set, a drill and a frame rate in, a take out."""

from kickback.kinds.playing.takes import Player
from kickback.kinds.shot.model.body import fire_shots
from kickback.kinds.shot.model.drills import DRILLS, ShotDrill, drill_from_mapping
from kickback.kinds.shot.model.parameters import checked_values
from kickback.takes.header import ParameterSet
from kickback.takes.plain import PlainDict

__all__ = ["simulate", "simulate_many"]


def _header(drill: ShotDrill, parameters: ParameterSet) -> PlainDict:
    high = float(parameters.values["muzzle_height"])
    muzzle = [drill.start, high] + ([0.0] if drill.view == "3d" else [])
    extra = {"muzzle": muzzle, **({"target": list(drill.target)} if drill.target else {})}
    return {"subject": "flare", "length_unit": "m", "extra": extra}


_PLAYER = Player(
    play=fire_shots,
    drill=ShotDrill,
    drill_from=drill_from_mapping,
    usual=DRILLS["lob"],
    checked=checked_values,
    header=_header,
)

simulate, simulate_many = _PLAYER.simulate, _PLAYER.simulate_many
