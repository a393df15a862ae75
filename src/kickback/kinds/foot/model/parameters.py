"""The on-foot model's parameters: one table of names, defaults, limits and meanings."""

import math
from collections.abc import Mapping

from kickback.errors import InputError, nearest
from kickback.takes.header import Value
from kickback.takes.record import Record

__all__ = [
    "FAULTS",
    "GROUND_MOVEMENTS",
    "INTEGRATORS",
    "MISTAKES",
    "PARAMETERS",
    "PLANE_MOVEMENTS",
    "Parameter",
    "checked_values",
    "mistakes_of",
]

GROUND_MOVEMENTS = ("constant", "smoothing", "friction")
PLANE_MOVEMENTS = ("length", "axis")
INTEGRATORS = ("semi-implicit", "explicit", "trapezoid")

MISTAKES = {
    "acceleration-per-frame": "ground acceleration and braking are added without the time step",
    "gravity-per-frame": "gravity is added once a frame, without the time step",
    "position-per-frame": "the position moves by a speed per frame, without the time step",
    "impulse-times-dt": "takeoff and dash speeds are multiplied by the time step",
    "dt-twice": "ground acceleration and braking are multiplied by the time step twice",
    "factor-per-frame": "smoothing and friction multiply by a constant factor each frame",
    "first-order-factor": "smoothing and friction multiply by 1 - rate·dt",
    "timer-in-frames": "dash, cooldown, hold, coyote and buffer times are counted in frames",
    "all-in-frames": "the whole controller counts in frames",
    "dt-clamped": "the time step never grows beyond 'largest_step'",
    "integration-order": "the position moves with the velocity before its update",
}
"""The mistakes that can be switched on, by the names that causes go by."""


FAULTS = {
    "jump-in-air": "a jump needs no ground",
    "rise-while-held": "no gravity acts on a rise while the button is held",
    "no-fall": "gravity acts only after a jump",
    "constant-fall": "falls go at one speed from their first frame on",
    "straight-jump": "jumps rise and fall at one speed each",
    "diagonal-faster": "over a plane the input is not shortened, so that diagonals are faster",
    "speed-on-ground": "gravity goes on adding to the vertical speed on the ground",
    "fell-through": "the floor stops only what is within a hundredth of a unit of its surface",
}
"""Faults that a look at a take finds, switched on in the same way."""


class Parameter(Record, frozen=True, kw_only=True):
    """One parameter: ``default``, whether 0 is allowed, unit and meaning."""

    name: str
    default: Value
    unit: str
    about: str
    zero: bool = True
    words: tuple[str, ...] = ()


_ROWS: tuple[tuple[str, Value, str, bool, str], ...] = (
    ("run_speed", 8.0, "L/s", False, "top speed on the ground at full input"),
    ("reverse_speed", 0.0, "L/s", True, "top speed toward -x; 0 means the run speed"),
    ("ground_acceleration", 40.0, "L/s²", False, "gain of speed while pressing that way"),
    ("coast_deceleration", 32.0, "L/s²", True, "loss of speed with the input let go"),
    ("brake_deceleration", 64.0, "L/s²", True, "loss of speed against the input"),
    ("smoothing_rate", 9.0, "1/s", False, "'smoothing': rate toward the wanted speed"),
    ("stop_rate", 9.0, "1/s", False, "'smoothing': rate toward rest with the input let go"),
    ("friction_rate", 5.0, "1/s", False, "'friction': decay rate of the speed"),
    ("air_acceleration", 20.0, "L/s²", True, "change of speed in the air while pressing"),
    ("gravity_rise", 40.0, "L/s²", False, "gravity while moving up"),
    ("gravity_fall", 40.0, "L/s²", False, "gravity while moving down"),
    ("jump_speed", 13.0, "L/s", False, "vertical speed given at takeoff"),
    ("release_cut", 0.5, "", True, "factor on the rising speed when the button is let go"),
    ("terminal_speed", 24.0, "L/s", False, "largest falling speed"),
    ("coyote_time", 0.1, "s", True, "how long after a ledge a jump still works"),
    ("jump_buffer", 0.1, "s", True, "how long before a landing a press still counts"),
    ("hold_time", 0.0, "s", True, "how long a held button lightens gravity after takeoff"),
    ("hold_gravity", 0.5, "", True, "factor on the rising gravity in that time"),
    ("air_jumps", 0.0, "", True, "jumps that are left after leaving the ground"),
    ("air_jump_speed", 11.0, "L/s", False, "vertical speed given by a jump in the air"),
    ("dash_speed", 18.0, "L/s", True, "sideways speed of a dash; 0 means there is none"),
    ("dash_time", 0.18, "s", True, "how long a dash lasts"),
    ("dash_lockout", 0.18, "s", True, "how long from a dash's start no input moves"),
    ("dash_cooldown", 0.5, "s", True, "how long from a dash's start the next one waits"),
    ("reference_rate", 60.0, "1/s", False, "frame rate that mistakes were tuned at"),
    ("largest_step", 0.025, "s", False, "'dt-clamped': the largest time step"),
)

PARAMETERS: dict[str, Parameter] = {
    name: Parameter(name=name, default=default, unit=unit, about=about, zero=zero)
    for name, default, unit, zero, about in _ROWS
} | {
    "ground_movement": Parameter(
        name="ground_movement",
        default="constant",
        unit="",
        about="how speed changes on the ground",
        words=GROUND_MOVEMENTS,
    ),
    "plane_movement": Parameter(
        name="plane_movement",
        default="length",
        unit="",
        about="over a plane: whether speed changes by the vector's length, or each axis by itself",
        words=PLANE_MOVEMENTS,
    ),
    "integrator": Parameter(
        name="integrator",
        default="trapezoid",
        unit="",
        about="which velocity moves the position: after the update, before it, or their mean",
        words=INTEGRATORS,
    ),
    "mistakes": Parameter(
        name="mistakes", default="", unit="", about="mistakes to switch on, separated by spaces"
    ),
}


def checked_values(values: Mapping[str, Value], place: str) -> dict[str, Value]:
    """Return all parameters, defaults filled in.

    Raises InputError for an unknown name (naming the nearest), a word where a number
    belongs, or a number out of range.
    """
    full: dict[str, Value] = {name: item.default for name, item in PARAMETERS.items()}
    for name, value in values.items():
        known = PARAMETERS.get(name)
        if known is None:
            raise InputError(f"unknown parameter '{name}'{nearest(name, PARAMETERS)}", place)
        full[name] = _checked(known, value, place)
    mistakes_of(full, place)
    return full


def _checked(known: Parameter, value: Value, place: str) -> Value:
    if isinstance(known.default, str):
        if not isinstance(value, str):
            raise InputError(f"'{known.name}' must be a word, not {value!r}", place)
        if known.words and value not in known.words:
            raise InputError(
                f"'{known.name}' is '{value}' but must be one of {', '.join(known.words)}", place
            )
        return value
    if isinstance(value, bool | str):
        raise InputError(f"'{known.name}' must be a number, not {value!r}", place)
    if not math.isfinite(value) or value < 0 or (value == 0 and not known.zero):
        floor = "0 or more" if known.zero else "above 0"
        raise InputError(f"'{known.name}' must be {floor}, not {value:g}", place)
    return float(value)


def mistakes_of(values: Mapping[str, Value], place: str) -> frozenset[str]:
    """Return the mistakes that a parameter set switches on; raises InputError for others."""
    names = str(values.get("mistakes", "")).replace(",", " ").split()
    for name in names:
        known = MISTAKES | FAULTS
        if name not in known:
            raise InputError(f"unknown mistake '{name}'{nearest(name, known)}", place)
    return frozenset(names)
