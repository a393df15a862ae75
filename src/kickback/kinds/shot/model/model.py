"""The built-in projectile as its kind brings it."""

from kickback.kinds.model import DrillPart, Model
from kickback.kinds.shot.model.drills import DRILLS, INPUTS, drill_from_mapping
from kickback.kinds.shot.model.parameters import PARAMETERS
from kickback.kinds.shot.model.simulate import simulate, simulate_many

__all__ = ["SHOT_MODEL"]

SHOT_MODEL = Model(
    parameters=PARAMETERS,
    simulate=simulate,
    simulate_many=simulate_many,
    drill=drill_from_mapping,
    inputs=INPUTS,
    drills=DRILLS,
    parts=(
        DrillPart(
            metric="shot.range",
            what="shot that lands",
            advice="fire, and wait until it lies still",
        ),
    ),
)
