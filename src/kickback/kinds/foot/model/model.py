"""The built-in character on foot as its kind brings it."""

from functools import partial

from kickback.kinds.foot.fit.fitting import FOOT_FITTING
from kickback.kinds.foot.model.drills import INPUTS, drill_from_mapping
from kickback.kinds.foot.model.exercises import (
    belt_drill,
    edges_drill,
    moves_drill,
    plane_drill,
    slopes_drill,
    standard_drill,
    stick_drill,
    walls_drill,
)
from kickback.kinds.foot.model.parameters import PARAMETERS
from kickback.kinds.foot.model.simulate import simulate, simulate_many
from kickback.kinds.foot.reach.reaching import FOOT_REACHING
from kickback.kinds.foot.wishes import FOOT_WISHES
from kickback.kinds.model import DrillPart, Model

__all__ = ["FOOT_MODEL"]

FOOT_MODEL = Model(
    parameters=PARAMETERS,
    simulate=simulate,
    simulate_many=simulate_many,
    drill=drill_from_mapping,
    inputs=INPUTS,
    fitting=FOOT_FITTING,
    wishing=FOOT_WISHES,
    reaching=FOOT_REACHING,
    drills={
        "standard": standard_drill,
        "moves": moves_drill,
        "edges": edges_drill,
        "stick": stick_drill,
        "walls": walls_drill,
        "slopes": slopes_drill,
        "belt": belt_drill,
        "plane": plane_drill,
        "above": partial(plane_drill, "top"),
    },
    parts=(
        DrillPart(
            metric="run.time_to_top_speed",
            what="run to top speed",
            advice="hold the direction until it gets no faster",
        ),
        DrillPart(
            metric="coast.stop_time",
            what="full stop",
            advice="hold still until the end of the slide",
        ),
        DrillPart(
            metric="brake.stop_time",
            what="stop by braking",
            advice="hold the brake until the stop",
        ),
        DrillPart(
            metric="turn.time",
            what="turn at top speed",
            advice="press the other way at top speed, and keep it pressed",
        ),
        DrillPart(
            metric="jump.apex_height",
            what="full jump",
            advice="hold the button past the top, from a stand or a run",
        ),
        DrillPart(
            metric="hop.apex_height",
            what="short hop",
            advice="let go of the button early, while still rising",
        ),
    ),
)
