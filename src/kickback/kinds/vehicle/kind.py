"""The kind of a vehicle: from above, on slopes seen from the side, or in three dimensions."""

from typing import TYPE_CHECKING

from kickback.kinds.kind import Kind, Measuring, Reading, Rules, Showing, itself
from kickback.kinds.vehicle.roles import FORWARD, PITCH, SIDEWAYS, UP, YAW
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.kinds.model import Model
    from kickback.kinds.vehicle.motion import VehicleMotion

__all__ = ["VEHICLE"]

HEADLINES = (
    "drive.top_speed",
    "drive.time_to_90",
    "drive.coast_distance",
    "drive.brake_distance",
    "steer.yaw_rate",
    "steer.radius",
    "steer.slide_time",
    "tilt.lag_time",
    "steer.slip_angle",
)
"""What is shown first where there is room for a few, the most telling one at the head."""


def _applies(take: Take) -> bool:
    """Whether a take is of a vehicle: a throttle or a wheel was pressed, and no stick."""
    return bool({"in_throttle", "in_steer"} & set(take.columns)) and "in_move_x" not in take


def _reading() -> "Reading[VehicleMotion]":
    from kickback.kinds.vehicle.motion import join_motions, read_motion
    from kickback.kinds.vehicle.phases import vehicle_events, vehicle_phases

    return Reading(
        read=read_motion, join=join_motions, phases=vehicle_phases, events=vehicle_events
    )


def _measuring() -> "Measuring[VehicleMotion, VehicleMotion]":
    from kickback.kinds.vehicle.findings import (
        FINDINGS,
        check_air,
        check_heading,
        check_slides,
        check_surfaces,
        check_view,
        check_wheel,
    )
    from kickback.kinds.vehicle.metrics import drive, steer, tilt

    return Measuring(
        metrics=(*drive.METRICS, *steer.METRICS, *tilt.METRICS),
        scene=itself,
        headlines=HEADLINES,
        checks=(check_view, check_heading, check_air, check_slides, check_surfaces, check_wheel),
        findings=FINDINGS,
    )


def _rules() -> "Rules[VehicleMotion]":
    from kickback.kinds.vehicle.causes import STEERING_PER_FRAME
    from kickback.kinds.vehicle.effects import FORETOLD, MEANS, groups_of, moved, moved_by_order
    from kickback.kinds.vehicle.laws.of_others import with_rolling_of_others
    from kickback.kinds.vehicle.laws.recover import vehicle_laws
    from kickback.kinds.vehicle.laws.steering import PACE, RESPONSE, STEERING
    from kickback.kinds.vehicle.laws.tilt import ALIGNMENT

    return Rules(
        laws=vehicle_laws,
        of_game=with_rolling_of_others,
        families=(STEERING, RESPONSE, PACE, ALIGNMENT),
        causes=(STEERING_PER_FRAME,),
        moved=moved,
        by_order=moved_by_order,
        foretold=FORETOLD,
        groups_of=groups_of,
        phases_of_words=MEANS,
    )


def _showing() -> "Showing[VehicleMotion]":
    from kickback.kinds.vehicle.picture import vehicle_now, vehicle_picture

    return Showing(picture=vehicle_picture, now=vehicle_now)


def _model() -> "Model":
    from kickback.kinds.vehicle.model.model import VEHICLE_MODEL

    return VEHICLE_MODEL


VEHICLE = Kind(
    name="vehicle",
    about="a vehicle that is driven and steered, in any view",
    roles=(FORWARD, SIDEWAYS, YAW, PITCH, UP),
    applies=_applies,
    load_reading=_reading,
    load_measuring=_measuring,
    load_rules=_rules,
    load_showing=_showing,
    load_model=_model,
)
