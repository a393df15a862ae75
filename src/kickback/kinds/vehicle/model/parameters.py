"""The vehicle model's parameters: one table of names, defaults, limits and meanings."""

from collections.abc import Mapping

from kickback.kinds.playing.parameters import Parameter, Row, checked, table_of
from kickback.takes.header import Value

__all__ = ["FAULTS", "INTEGRATORS", "MISTAKES", "PARAMETERS", "checked_values"]

INTEGRATORS = ("semi-implicit", "explicit")

MISTAKES = {
    "acceleration-per-frame": "engine, brake and rolling are added without the time step",
    "position-per-frame": "the position moves by a speed per frame, without the time step",
    "dt-twice": "engine, brake and rolling are multiplied by the time step twice",
    "factor-per-frame": "drag, grip, wheel and tilt keep a constant factor each frame",
    "first-order-factor": "drag, grip, wheel and tilt keep 1 - rate·dt",
    "steering-per-frame": "the heading turns by an amount a frame, without the time step",
    "all-in-frames": "the whole vehicle counts in frames",
    "dt-clamped": "the time step never grows beyond 'largest_step'",
    "integration-order": "the position moves with the velocity before its update",
}
"""The mistakes that can be switched on, by the names that causes go by."""

FAULTS = {
    "steers-in-air": "the wheel turns it in the air as well",
    "drives-in-air": "the engine drives it in the air as well",
    "wheel-reversed": "plus on the wheel turns the heading to minus",
}
"""Faults that a look at a take finds, switched on in the same way."""

_ROWS: tuple[Row, ...] = (
    ("engine", 24.0, "L/s²", False, "push of full throttle"),
    ("reverse_engine", 10.0, "L/s²", True, "push of full throttle backward"),
    ("brake", 30.0, "L/s²", True, "loss of speed with the brake held"),
    ("rolling", 0.0, "L/s²", True, "loss of speed on the ground, whatever the speed"),
    ("linear_drag", 1.2, "1/s", True, "loss of speed with the speed: a decay of that rate"),
    ("quadratic_drag", 0.0, "1/L", True, "loss of speed with its square"),
    ("top_speed", 0.0, "L/s", True, "speed that it never goes beyond; 0: what drag leaves"),
    ("grip_rate", 7.0, "1/s", True, "decay rate of the sideways speed on the ground"),
    ("yaw_rate", 110.0, "deg/s", False, "how quickly full lock turns it"),
    ("steer_rate", 10.0, "1/s", True, "rate of the turning toward that; 0: at once"),
    ("full_steer_speed", 4.0, "L/s", True, "speed from which the wheel turns it fully"),
    ("align_rate", 9.0, "1/s", True, "rate of its tilt toward the slope; 0: at once"),
    ("gravity", 30.0, "L/s²", False, "fall in the air, and along a slope"),
    ("reference_rate", 60.0, "1/s", False, "frame rate that mistakes were tuned at"),
    ("largest_step", 0.025, "s", False, "'dt-clamped': the largest time step"),
)

PARAMETERS: dict[str, Parameter] = table_of(
    _ROWS,
    Parameter(
        name="integrator",
        default="semi-implicit",
        unit="",
        about="which velocity moves the position: after the update, or before it",
        words=INTEGRATORS,
    ),
    Parameter(
        name="mistakes", default="", unit="", about="mistakes to switch on, separated by spaces"
    ),
)
"""Every parameter of the model, by name."""


def checked_values(values: Mapping[str, Value], place: str) -> dict[str, Value]:
    """Return all parameters, defaults filled in; raises InputError for what makes no sense."""
    return checked(PARAMETERS, MISTAKES | FAULTS, values, place)
