"""What the constants of laws foretell of metrics on foot: closed forms, up to a factor."""

from kickback.kinds.foot.throws import JUMP_GROUPS, JUMP_KINDS
from kickback.kinds.foretold import Foretold

__all__ = ["FORETOLD", "MEANS", "groups_of"]

_TOP, _UP, _COAST, _BRAKE = (
    "cruise.speed", "speed-up.acceleration", "coast.acceleration", "brake.acceleration",
)  # fmt: skip
_RATE, _COAST_RATE, _BRAKE_RATE = "speed-up.rate", "coast.rate", "brake.rate"
_TAKEOFF, _RISE, _FALL = "takeoff.speed", "rise.acceleration", "fall.acceleration"

FORETOLD = (
    Foretold("run.top_speed", (_TOP,), lambda v: v, "the speed of its limit"),
    Foretold("run.time_to_90", (_TOP, _UP), lambda v, a: v / a, "top speed over acceleration"),
    Foretold("run.time_to_90", (_RATE,), lambda k: 1 / k, "one over the rate"),
    Foretold("run.time_to_top_speed", (_TOP, _UP), lambda v, a: v / a,
             "top speed over acceleration"),
    Foretold("run.time_to_top_speed", (_RATE,), lambda k: 1 / k, "one over the rate"),
    Foretold("coast.stop_time", (_TOP, _COAST), lambda v, a: v / a, "top speed over deceleration"),
    Foretold("coast.stop_time", (_COAST_RATE,), lambda k: 1 / k, "one over the rate"),
    Foretold("coast.stop_distance", (_TOP, _COAST), lambda v, a: v * v / a,
             "top speed squared over deceleration"),
    Foretold("coast.stop_distance", (_TOP, _COAST_RATE), lambda v, k: v / k,
             "top speed over the rate"),
    Foretold("brake.stop_time", (_TOP, _BRAKE), lambda v, a: v / a, "top speed over deceleration"),
    Foretold("brake.stop_distance", (_TOP, _BRAKE), lambda v, a: v * v / a,
             "top speed squared over deceleration"),
    Foretold("reverse.time_to_zero", (_TOP, _BRAKE), lambda v, a: v / a,
             "top speed over deceleration"),
    Foretold("turn.time", (_TOP, _BRAKE, _UP), lambda v, b, a: v / b + v / a,
             "top speed over both accelerations"),
    Foretold("jump.takeoff_speed", (_TAKEOFF,), lambda v: v, "the takeoff"),
    Foretold("hop.takeoff_speed", (_TAKEOFF,), lambda v: v, "the takeoff"),
    Foretold("jump.apex_height", (_TAKEOFF, _RISE), lambda v, g: v * v / g,
             "a takeoff squared over gravity"),
    Foretold("jump.time_to_apex", (_TAKEOFF, _RISE), lambda v, g: v / g, "a takeoff over gravity"),
    Foretold("jump.air_time", (_TAKEOFF, _RISE, _FALL), lambda v, g, f: v / g + v / (g * f) ** 0.5,
             "a takeoff over both gravities"),
    Foretold("jump.landing_speed", (_TAKEOFF, _RISE, _FALL), lambda v, g, f: v * (f / g) ** 0.5,
             "a takeoff and both gravities"),
    Foretold("fall.terminal_speed", ("terminal.speed",), lambda v: v, "the speed of its limit"),
)  # fmt: skip

_AIR = (*JUMP_GROUPS, "fall", "wall", "ceiling")
_RUNS = ("run", "reverse", "turn", "plane", "stick", "slope", "platform")
_SHARES = ("air.acceleration_ratio", "air.top_speed_ratio", "air.turn_ratio")
_DASHES = ("dash", "air_dash")
_STOPS = ("coast", "brake")

_GROUPS = {
    "cruise": (*_RUNS, *_STOPS, "air", *_DASHES, *(f"{group}.distance" for group in JUMP_GROUPS)),
    "speed-up": (*_RUNS, *_SHARES, *_DASHES, "jump.landing_lag"),
    "coast": ("coast",),
    "brake": ("brake", "reverse", "turn"),
    "veer": ("plane", "turn"),
    "limit": ("run", "plane"),
    "dash": _DASHES,
    "cooldown": ("dash", "input.lost_dashes", "input.without_effect"),
    "lock-out": _DASHES,
    "coyote": ("coyote", "coyote_jump", "input.lost_jumps"),
    "buffer": ("buffer", "input.lost_jumps"),
    "wall slide": ("wall",),
    "wall stick": ("wall.stick_time", "wall.time_to_slide"),
    "wall jump": ("wall_jump",),
    "squat": ("jump.squat_time", "jump.squat_frames", "input.jump_latency"),
    "landing lag": ("jump.landing_lag",),
    "ledge hang": ("fall.ledge_delay",),
    "takeoff": (*JUMP_GROUPS, "ceiling", "fall.largest_step", "fall.time_to_terminal"),
    "rise": _AIR,
    "fall": _AIR,
    "terminal": ("fall",),
    "release": tuple(kind.hop for kind in JUMP_KINDS),
}


MEANS = {
    "jump": "takeoff", "leap": "takeoff", "run": "cruise", "speed": "cruise", "max": "cruise",
    "accel": "speed-up", "acceleration": "speed-up", "decel": "coast", "deceleration": "coast",
    "friction": "coast", "brake": "brake", "gravity": "rise", "cut": "release", "air": "air",
}  # fmt: skip
"""What words in parameters' names are of, beside the words of the laws themselves."""


def groups_of(phase: str) -> tuple[str, ...]:
    """Return the groups and metrics that a constant of a phase moves."""
    return _GROUPS.get(phase, ())
