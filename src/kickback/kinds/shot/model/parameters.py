"""The projectile model's parameters: one table of names, defaults, limits and meanings."""

from collections.abc import Mapping

from kickback.kinds.playing.parameters import Parameter, Row, checked, table_of
from kickback.takes.header import Value

__all__ = ["FAULTS", "INTEGRATORS", "MISTAKES", "PARAMETERS", "checked_values"]

INTEGRATORS = ("semi-implicit", "explicit", "trapezoid")

MISTAKES = {
    "gravity-per-frame": "gravity is added once a frame, without the time step",
    "position-per-frame": "the position moves by a speed per frame, without the time step",
    "impulse-times-dt": "the launch speed is multiplied by the time step",
    "factor-per-frame": "drag keeps a constant factor each frame",
    "first-order-factor": "drag keeps 1 - rate·dt",
    "timer-in-frames": "the cadence and the cooldown count frames",
    "cadence-rounded": "the cadence starts anew when it fires: it is rounded up to whole frames",
    "dt-clamped": "the time step never grows beyond 'largest_step'",
    "integration-order": "the position moves with the velocity before its update",
}
"""The mistakes that can be switched on, by the names that causes go by."""

FAULTS = {
    "spawn-late": "a shot leaves in the update after the one that reads the press",
    "spawned-behind": "a shot begins a step behind the muzzle",
}
"""Faults that a look at a take finds, switched on in the same way."""

_ROWS: tuple[Row, ...] = (
    ("launch_speed", 24.0, "L/s", False, "speed of a launch"),
    ("gravity", 22.0, "L/s²", True, "fall of a shot"),
    ("linear_drag", 0.0, "1/s", True, "decay rate of its speed"),
    ("quadratic_drag", 0.0, "1/L", True, "loss of its speed with the square of it"),
    ("bounce", 0.45, "", True, "what a bounce keeps of the speed into the ground"),
    ("bounce_friction", 0.3, "", True, "what a bounce takes of the speed along it"),
    ("muzzle_height", 1.0, "L", True, "height over the ground at which a shot begins"),
    ("cadence", 4.1, "s", False, "time between shots while the button is held"),
    ("burst", 1.0, "", False, "shots of a burst, after which the cooldown is waited for"),
    ("cooldown", 0.0, "s", True, "wait after a burst; 0: the cadence"),
    ("scatter", 0.0, "deg", True, "by how much elevations and azimuths scatter"),
    ("reference_rate", 60.0, "1/s", False, "frame rate that mistakes were tuned at"),
    ("largest_step", 0.025, "s", False, "'dt-clamped': the largest time step"),
)

PARAMETERS: dict[str, Parameter] = table_of(
    _ROWS,
    Parameter(
        name="elevation",
        default=50.0,
        unit="deg",
        about="angle of a launch over the level",
        least=-90.0,
        most=90.0,
    ),
    Parameter(
        name="integrator",
        default="trapezoid",
        unit="",
        about="which velocity moves the position: after the update, before it, or their mean",
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
