"""Which metrics of a vehicle a constant of its laws moves, and what constants foretell."""

from collections.abc import Collection

from kickback.causes.constants import ConstantRow
from kickback.kinds.foretold import Foretold
from kickback.laws.keys import PhaseKey

__all__ = ["FORETOLD", "MEANS", "groups_of", "moved", "moved_by_order"]

_SLIDING = ("steer.radius", "steer.slip_angle", "steer.slide_distance", "steer.speed_lost",
            "steer.drift_angle", "steer.drift_time", "steer.recovery_time",
            "steer.drift_exit_speed")  # fmt: skip
"""What goes with how it slides."""

_BY_SPEED = (*_SLIDING, "steer.radius_power", "steer.standing_yaw_rate", "tilt.hop_height",
             "tilt.grounded_share")  # fmt: skip
"""What goes with the speed that it is driven at."""

_PUSH = (
    "drive.top_speed",
    "drive.time_to_50",
    "drive.time_to_90",
    "drive.time_to_top_speed",
    "drive.distance_to_top_speed",
    "drive.acceleration",
    "drive.throttle_ratio",
)
_BY_PHASE = {
    "speed-up": ("drive", *_BY_SPEED),
    "cruise": ("drive", *_BY_SPEED),
    "reverse": ("drive.reverse_speed",),
    "coast": ("drive", *_BY_SPEED),
    "brake": ("drive.brake_time", "drive.brake_distance"),
    "grip": (*_SLIDING, "steer.slide_time"),
    "steer": ("steer",),
    "tilt": ("tilt",),
}  # fmt: skip
"""What the constants of each phase move."""

_BY_ORDER = ("drive.coast_distance", "drive.brake_distance", "drive.engine_braking",
             "drive.distance_to_top_speed", *_SLIDING, "tilt.hop_height")  # fmt: skip
"""What a step that turns, grips and moves in turns leaves to its length."""

FORETOLD = (
    Foretold("steer.yaw_rate", ("steer.yaw_rate",), lambda w: w, "the turning at full lock"),
    Foretold("tilt.lag_time", ("tilt.rate",), lambda k: 1 / k, "one over the rate"),
)

_DRIVEN = "coast speed-up reverse brake"

MEANS = {
    "engine": "speed-up", "throttle": "speed-up", "power": "speed-up", "accel": "speed-up",
    "acceleration": "speed-up", "drag": _DRIVEN, "friction": _DRIVEN, "rolling": _DRIVEN,
    "resistance": _DRIVEN, "brake": "brake", "braking": "brake", "grip": "grip",
    "traction": "grip", "slide": "grip", "steer": "steer", "steering": "steer", "yaw": "steer",
    "turn": "steer", "align": "tilt", "alignment": "tilt", "tilt": "tilt", "max": "cruise",
}  # fmt: skip
"""What words in parameters' names are of, beside the words of the laws themselves."""


def moved(row: ConstantRow, _: Collection[PhaseKey]) -> tuple[str, ...]:
    """Return the groups and metrics that a constant moves; a drag acts under every pedal."""
    if row.phase.base == "brake" and row.constant in {"rate", "quadratic"}:
        return groups_of("coast")
    return groups_of(row.phase.base)


def groups_of(phase: str) -> tuple[str, ...]:
    """Return the groups and metrics that a constant of a phase moves."""
    return _BY_PHASE.get(phase, ("drive", "steer"))


def moved_by_order(in_turns: bool) -> tuple[str, ...]:
    """Return what the order of integration moves; ``in_turns``: a push and a drag too."""
    return (*_BY_ORDER, *_PUSH, "drive.reverse_speed", "steer.yaw_rate") if in_turns else _BY_ORDER
