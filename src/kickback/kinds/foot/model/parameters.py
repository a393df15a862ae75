"""The on-foot model's parameters: one table of names, defaults, limits and meanings."""

from collections.abc import Mapping

from kickback.kinds.playing.parameters import Parameter, Row, checked, table_of
from kickback.takes.header import Value

__all__ = [
    "CRESTS",
    "FAULTS",
    "GROUND_MOVEMENTS",
    "INTEGRATORS",
    "MISTAKES",
    "PARAMETERS",
    "PLANE_MOVEMENTS",
    "SLOPE_SPEEDS",
    "THETA",
    "checked_values",
]

GROUND_MOVEMENTS = ("constant", "smoothing", "friction")
PLANE_MOVEMENTS = ("length", "axis")
SLOPE_SPEEDS = ("level", "along")
CRESTS = ("follow", "fly")
THETA = {"semi-implicit": 1.0, "explicit": 0.0, "trapezoid": 0.5}
"""The share of the new velocity in a step of the position, by the order of integration."""

INTEGRATORS = tuple(THETA)

MISTAKES = {
    "acceleration-per-frame": "ground acceleration and braking are added without the time step",
    "gravity-per-frame": "gravity is added once a frame, without the time step",
    "position-per-frame": "the position moves by a speed per frame, without the time step",
    "impulse-times-dt": "takeoff and dash speeds are multiplied by the time step",
    "dt-twice": "ground acceleration and braking are multiplied by the time step twice",
    "factor-per-frame": "smoothing, friction and camera multiply by a constant factor each frame",
    "first-order-factor": "smoothing, friction and camera multiply by 1 - rate·dt",
    "timer-in-frames": "every timer (dash, hold, coyote, squat, lag and so on) counts frames",
    "all-in-frames": "the whole controller counts in frames",
    "dt-clamped": "the time step never grows beyond 'largest_step'",
    "integration-order": "the position moves with the velocity before its update",
}
"""The mistakes that can be switched on, by the names that causes go by."""


FAULTS = {
    "jump-in-air": "a jump needs no ground",
    "camera-late": "the camera follows where its subject was a frame before",
    "state-flicker": "the frame after a run's first is labelled 'idle'",
    "state-contradicts": "the label 'run' stays for a while after a stop",
    "rise-while-held": "no gravity acts on a rise while the button is held",
    "no-fall": "gravity acts only after a jump",
    "constant-fall": "falls go at one speed from their first frame on",
    "straight-jump": "jumps rise and fall at one speed each",
    "diagonal-faster": "over a plane the input is not shortened, so that diagonals are faster",
    "speed-on-ground": "gravity goes on adding to the vertical speed on the ground",
    "fell-through": "the floor stops only what is within a hundredth of a unit of its surface",
}
"""Faults that a look at a take finds, switched on in the same way."""


_ROWS: tuple[Row, ...] = (
    ("run_speed", 8.0, "L/s", False, "top speed on the ground at full input"),
    ("reverse_speed", 0.0, "L/s", True, "top speed toward -x; 0 means the run speed"),
    ("ground_acceleration", 40.0, "L/s²", False, "gain of speed while pressing that way"),
    ("coast_deceleration", 32.0, "L/s²", True, "loss of speed with the input let go"),
    ("brake_deceleration", 64.0, "L/s²", True, "loss of speed against the input"),
    ("smoothing_rate", 9.0, "1/s", False, "'smoothing': rate toward the wanted speed"),
    ("stop_rate", 9.0, "1/s", False, "'smoothing': rate toward rest with the input let go"),
    ("friction_rate", 5.0, "1/s", False, "'friction': decay rate of the speed"),
    ("stick_exponent", 1.0, "", False, "power of the stick's amount beyond the dead zone"),
    ("walk_below", 0.0, "", True, "amount below which the stick walks and above it runs; 0: none"),
    ("walk_share", 0.4, "", False, "speed of a walk as a share of the run's"),
    ("slope_effect", 0.0, "", True, "share of the top speed lost up a slope, times its sine"),
    ("slide_angle", 0.0, "deg", True, "slope from which it slides with no input; 0: never"),
    ("slide_acceleration", 20.0, "L/s²", True, "gain of speed while it slides down a slope"),
    ("belt_kept", 1.0, "", True, "share of what carries it that a takeoff keeps"),
    ("air_acceleration", 20.0, "L/s²", True, "change of speed in the air while pressing"),
    ("air_deceleration", 0.0, "L/s²", True, "loss of speed in the air with the input let go"),
    ("air_rate", 0.0, "1/s", True, "rate toward the wanted speed in the air; 0: by the two above"),
    ("air_stop_rate", 0.0, "1/s", True, "rate toward rest in the air with the input let go"),
    ("air_speed", 0.0, "L/s", True, "speed that a press in the air goes to; 0: the run speed"),
    ("gravity_rise", 40.0, "L/s²", False, "gravity while moving up"),
    ("gravity_fall", 40.0, "L/s²", False, "gravity while moving down"),
    ("jump_speed", 13.0, "L/s", False, "vertical speed given at takeoff"),
    ("release_cut", 0.5, "", True, "factor on the rising speed when the button is let go"),
    ("release_speed", 0.0, "L/s", True, "most that is left of a rise that is let go of; 0: any"),
    ("terminal_speed", 24.0, "L/s", False, "largest falling speed"),
    ("fast_fall", 1.0, "", False, "factor on gravity and largest speed of a fall with down held"),
    ("squat_time", 0.0, "s", True, "how long from a press on the ground its takeoff waits"),
    ("landing_lag", 0.0, "s", True, "how long after a landing no input is read"),
    ("ledge_hang", 0.0, "s", True, "how long after a ledge no gravity acts"),
    ("coyote_time", 0.1, "s", True, "how long after a ledge a jump still works"),
    ("jump_buffer", 0.1, "s", True, "how long before a landing a press still counts"),
    ("hold_time", 0.0, "s", True, "how long a held button lightens gravity after takeoff"),
    ("hold_gravity", 0.5, "", True, "factor on the rising gravity in that time"),
    ("air_jumps", 0.0, "", True, "jumps that are left after leaving the ground"),
    ("air_jump_speed", 11.0, "L/s", False, "vertical speed given by a jump in the air"),
    ("wall_slide_speed", 0.0, "L/s", True, "largest falling speed at a wall; 0: no slide"),
    ("wall_stick_time", 0.0, "s", True, "how long a wall holds a fall before it slides"),
    ("wall_jump_speed", 0.0, "L/s", True, "vertical speed of a jump off a wall; 0: none"),
    ("wall_jump_away", 8.0, "L/s", True, "sideways speed of a jump off a wall"),
    ("wall_jump_lockout", 0.0, "s", True, "how long after a jump off a wall no input is read"),
    ("dash_speed", 18.0, "L/s", True, "sideways speed of a dash; 0 means there is none"),
    ("dash_time", 0.18, "s", True, "how long a dash lasts"),
    ("dash_lockout", 0.18, "s", True, "how long from a dash's start no input moves"),
    ("dash_cooldown", 0.5, "s", True, "how long from a dash's start the next one waits"),
    ("camera_rate", 0.0, "1/s", True, "rate of the camera toward its subject; 0: no camera"),
    ("camera_height", 2.0, "L", True, "how far over its subject the camera looks"),
    ("camera_ahead", 0.0, "s", True, "seconds of its subject's speed that it looks ahead"),
    ("camera_dead_zone", 0.0, "L", True, "width of the band in which it does not follow"),
    ("label_run", 0.0, "L/s", True, "speed from which the label is 'run'; 0: no labels"),
    ("label_idle", 0.0, "L/s", True, "speed below which a run is 'idle' again; 0: the same"),
    ("label_hold", 0.25, "s", True, "'state-contradicts': how long 'run' stays at rest"),
    ("reference_rate", 60.0, "1/s", False, "frame rate that mistakes were tuned at"),
    ("largest_step", 0.025, "s", False, "'dt-clamped': the largest time step"),
)

PARAMETERS: dict[str, Parameter] = table_of(
    _ROWS,
    Parameter(
        name="ground_movement",
        default="constant",
        unit="",
        about="how speed changes on the ground",
        words=GROUND_MOVEMENTS,
    ),
    Parameter(
        name="stick_dead_zone",
        default=0.0,
        unit="",
        about="amount of the stick up to which nothing moves",
        most=0.99,
    ),
    Parameter(
        name="plane_movement",
        default="length",
        unit="",
        about="over a plane: whether speed changes by the vector's length, or each axis by itself",
        words=PLANE_MOVEMENTS,
    ),
    Parameter(
        name="crest",
        default="follow",
        unit="",
        about="whether a run follows the ground over a crest, or flies on with the slope's rise",
        words=CRESTS,
    ),
    Parameter(
        name="slope_speed",
        default="level",
        unit="",
        about="whether speeds are over the level ground, or along a slope",
        words=SLOPE_SPEEDS,
    ),
    Parameter(
        name="integrator",
        default="trapezoid",
        unit="",
        about="which velocity moves the position: after the update, before it, or their mean",
        words=INTEGRATORS,
    ),
    Parameter(
        name="rise_integrator",
        default="",
        unit="",
        about="the same of the height, where it is another",
        words=("", *INTEGRATORS),
    ),
    Parameter(
        name="mistakes", default="", unit="", about="mistakes to switch on, separated by spaces"
    ),
)
"""Every parameter of the model, by name."""


def checked_values(values: Mapping[str, Value], place: str) -> dict[str, Value]:
    """Return all parameters, defaults filled in; raises InputError for what makes no sense."""
    return checked(PARAMETERS, MISTAKES | FAULTS, values, place)
