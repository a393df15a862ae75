"""Which metrics of a character on foot a law's constant moves, and what else keeps their feel."""

from collections.abc import Collection, Sequence

import numpy as np

from kickback.causes.constants import ConstantRow, value_at
from kickback.kinds.foot.laws.dashes import COOLDOWN, DASH_TIME, LOCK_OUT
from kickback.kinds.foot.laws.pools import IN_THE_AIR, ON_A_SLOPE
from kickback.kinds.foot.laws.sustained import HOLD
from kickback.kinds.foot.laws.timers import BUFFER, COYOTE, HANG, LAG, SQUAT, STICK, WALL_LOCK
from kickback.kinds.foot.throws import JUMP_GROUPS, JUMP_KINDS
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.keys import PhaseKey

__all__ = ["moved", "moved_by_order", "order_advice", "takeoff_for_midpoint"]

_FLIGHT = (*JUMP_GROUPS, "fall", "wall", "ceiling")
_TRAVEL = ("run", "coast", "brake", "reverse", "turn", "plane", "stick", "slope", "platform")
_RECOVERY = tuple(
    f"{group}.{part}"
    for group in ("dash", "air_dash")
    for part in ("recovery_time", "recovery_distance", "gain")
)
_IN_THE_AIR = tuple(f"{group}.distance" for group in JUMP_GROUPS)
_SHARES = ("air.acceleration_ratio", "air.top_speed_ratio", "air.turn_ratio", *_RECOVERY)
_AIR = ("air", "wall_jump.reach", *_IN_THE_AIR)
_SETTLED = ("coast", "brake", *_IN_THE_AIR)
_VEERED = (
    "plane",
    *(
        f"turn.{name}_{part}"
        for name in ("eighth", "quarter", "half")
        for part in ("time", "width")
    ),
    "turn.radius",
)
_BY_ORDER = (*_FLIGHT, "coast.stop_distance", "brake.stop_distance")
_BY_PHASE = {
    "speed-up": ("run", "reverse", "turn", "plane", "stick", "slope", "platform", *_SHARES),
    "coast": ("coast", "plane.straight_stop", "plane.diagonal_stop", *_RECOVERY),
    "brake": ("brake", "reverse", "turn", "plane", "air.turn_ratio"),
    "veer": _VEERED,
    "limit": ("run", "plane"),
}
_BY_MEDIUM = {ON_A_SLOPE: ("slope", "run.highest_speed"), IN_THE_AIR: _AIR}
_DASH = ("dash", "air_dash", *_TRAVEL, *_IN_THE_AIR)
_TIMERS = {
    HOLD: JUMP_GROUPS,
    DASH_TIME: _DASH,
    LOCK_OUT: ("dash", "air_dash", *_TRAVEL),
    COOLDOWN: ("dash", "input.lost_dashes", "input.without_effect"),
    COYOTE: ("coyote", "coyote_jump", "input.lost_jumps", "input.without_effect"),
    BUFFER: ("buffer", "jump.squat_time", "input.lost_jumps", "input.without_effect"),
    SQUAT: (
        "jump.squat_time",
        "jump.squat_frames",
        "input.latency",
        "input.latency_time",
        "input.jump_latency",
        *(kind.hop for kind in JUMP_KINDS),
    ),
    LAG: ("jump.landing_lag", "run", "reverse", "turn"),
    HANG: ("fall", "coyote_jump"),
    STICK: ("wall", "fall.time_to_terminal", *JUMP_GROUPS),
    WALL_LOCK: ("wall_jump", "air"),
}

_TAKEOFF, _RISE = PhaseKey("takeoff"), PhaseKey("rise")

_BLURRED = 1e-3
"""Error of a takeoff speed, as a share of it, from which the row is a step of gravity later."""


def moved(row: ConstantRow, steady: Collection[PhaseKey]) -> tuple[str, ...]:
    """Return the groups and metrics that a constant moves.

    Phases that are too short at some rates have no constant of their own: what moves one
    phase is taken to move them too, unless a constant of theirs is known to hold: the
    phases of such are ``steady``.
    """
    if row.sort == "time":
        return _TIMERS.get(row.phase, ())
    if row.role.gravity:
        return _FLIGHT
    if row.phase.medium:
        return _BY_MEDIUM[row.phase.medium]
    if row.phase.base not in _BY_PHASE:
        return _DASH
    found = _with_short_phases(row.phase.base, steady)
    if all(one.medium != IN_THE_AIR for one in steady):
        found = (*found, *_AIR)
    if row.phase.base == "speed-up" and row.family in {SMOOTHING, DRIVE}:
        return (*found, *_SETTLED)  # the speed that it settles at may move too
    return found


def _with_short_phases(base: str, steady: Collection[PhaseKey]) -> tuple[str, ...]:
    """Return what a phase moves, and what phases move of which no constant is known to hold."""
    held = {one.base for one in steady if one == PhaseKey(one.base)}
    also = [other for other in _BY_PHASE if other == base or other not in held]
    return tuple(name for other in also for name in _BY_PHASE[other])


def moved_by_order(in_turns: bool) -> tuple[str, ...]:
    """Return what the order of integration moves; ``in_turns``: a push and a friction too."""
    return (*_BY_ORDER, *_TRAVEL, *_SHARES) if in_turns else _BY_ORDER


def order_advice(rows: Sequence[ConstantRow], theta: float, keep: float) -> str:
    """Return what to say beside midpoint integration: the takeoff speed that keeps the apex."""
    speed = takeoff_for_midpoint(rows, theta, keep)
    if speed is None:
        return ""
    return f"; a takeoff speed of {speed:.4g} keeps the apex of {keep:g} frames/s"


def takeoff_for_midpoint(
    rows: Sequence[ConstantRow], theta: float | None, keep: float
) -> float | None:
    """Return the takeoff speed that keeps the highest frame under midpoint integration.

    The frames of a rise are ``y_n = v·n·h − g·h²·n·(n + 2θ − 1)/2`` with ``h = 1/keep``, the
    midpoint's ``v'·n·h − g·h²·n²/2``. None where the takes show no takeoff or no constant
    gravity.
    """
    by_key = {(row.phase, row.constant): row for row in rows}
    thrown, rise = by_key.get((_TAKEOFF, "speed")), by_key.get((_RISE, "acceleration"))
    if thrown is None or rise is None or theta is None:
        return None
    g, h = -value_at(rise, keep, 0), 1 / keep
    nearest = int(np.argmin(np.abs(np.log(thrown.rate / keep))))
    v = float(thrown.value[nearest])
    if thrown.stderr[nearest] > _BLURRED * v:  # the row is a step of gravity later, as θ = 1 hides
        v += g * float(thrown.frame[nearest])
    n = np.arange(1, int(2 * v / (g * h)) + 2)
    apex = float(np.max(v * n * h - g * h * h * n * (n + 2 * theta - 1) / 2))
    speed = float(np.sqrt(2 * g * apex))
    for _ in range(4):  # the frame that is highest hardly changes with the speed
        top = max(1, round(speed / (g * h)))
        speed = (apex + g * h * h * top * top / 2) / (top * h)
    return speed
