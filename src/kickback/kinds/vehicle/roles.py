"""What a vehicle's tracks are for."""

from kickback.takes.roles import Role

__all__ = ["FORWARD", "PITCH", "SIDEWAYS", "UP", "YAW"]

_NO_HEADING = "no heading was recorded, and the path alone shows no slide"

FORWARD = Role(name="forward", missing="the take has no motion over the ground")
SIDEWAYS = Role(name="sideways", missing=_NO_HEADING, speed="sideways")
YAW = Role(name="yaw", missing="no heading was recorded", speed="turning")
PITCH = Role(name="pitch", missing="no pitch and ground_pitch were recorded")
UP = Role(name="up", missing="no height was recorded")
