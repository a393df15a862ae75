"""The built-in vehicle as its kind brings it."""

from kickback.kinds.model import DrillPart, Model
from kickback.kinds.vehicle.model.drills import DRILLS, INPUTS, drill_from_mapping
from kickback.kinds.vehicle.model.parameters import PARAMETERS
from kickback.kinds.vehicle.model.simulate import simulate, simulate_many

__all__ = ["VEHICLE_MODEL"]

VEHICLE_MODEL = Model(
    parameters=PARAMETERS,
    simulate=simulate,
    simulate_many=simulate_many,
    drill=drill_from_mapping,
    inputs=INPUTS,
    drills=DRILLS,
    parts=(
        DrillPart(
            metric="drive.top_speed",
            what="drive to top speed",
            advice="hold the throttle, straight, until it gets no faster",
        ),
        DrillPart(
            metric="drive.coast_time",
            what="coast to a stop",
            advice="touch nothing until it stands",
        ),
        DrillPart(
            metric="drive.brake_time",
            what="stop by braking",
            advice="hold the brake until it stands",
        ),
        DrillPart(
            metric="steer.yaw_rate",
            what="turn at full lock",
            advice="hold full lock for a second",
        ),
    ),
)
