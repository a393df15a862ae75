"""The shape of flights: what rises, floats or falls as nothing under gravity does."""

from collections.abc import Callable

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.kinds.foot.motion import FootMotion
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["FINDINGS", "check_flights"]

_THROWN = 0.3
"""Share of a flight's highest speed that a takeoff in the air gives at once."""

_STEADY = 0.25
"""Share of its highest speed by which a held rise may slow and still be held up."""

_RISING = 0.1
"""Share of a flight's highest speed from which it rises."""

_SHOWN = 0.15
"""Seconds of a fall that show that it goes at one speed."""

CONSTANT_FALL = FindingKind(
    code="constant-fall",
    severity="warning",
    advice="add gravity to the falling speed in each step",
)

CEILING_HANG = FindingKind(
    code="ceiling-hang",
    severity="warning",
    advice="set the rising speed to 0 where something is hit above",
)

JUMP_IN_AIR = FindingKind(
    code="jump-in-air",
    severity="warning",
    advice="ask for ground contact, or count the jumps, before a takeoff",
)

NO_FALL = FindingKind(
    code="no-fall",
    severity="warning",
    advice="apply gravity whenever there is no ground, not only after a jump",
)

RISE_WHILE_HELD = FindingKind(
    code="rise-while-held",
    severity="warning",
    advice="limit how long the button holds the rise up",
)

STRAIGHT_JUMP = FindingKind(
    code="straight-jump",
    severity="note",
    advice="rise and fall at one speed each: no gravity acts in the arc",
    explains=("constant-fall",),
)

UP_FLIPPED = FindingKind(
    code="up-flipped",
    severity="error",
    advice="falls go up: the header's up should name the other direction",
    explains=("velocity-disagrees", "fell-through", "falls-on", "sinks-in"),
)

FINDINGS = (
    CEILING_HANG,
    CONSTANT_FALL,
    JUMP_IN_AIR,
    NO_FALL,
    RISE_WHILE_HELD,
    STRAIGHT_JUMP,
    UP_FLIPPED,
)
"""What these checks may say."""

_MOSTLY = 0.5
"""Share of a fall's frames at a wall from which it is a slide."""

_LEVEL = 0.02
"""Share of a speed by which it may change and be one speed."""

_LONG_HOLD = 0.4
"""Seconds of a rise at one speed that no game means."""

_STAYS = 4
"""Frames of a level stretch in a jump that are no apex between frames."""

_CLINGS = 0.1
"""Seconds of it."""

_AT_ONCE = 0.1
"""Share of its highest speed that a rise has when it ends at once."""

_HANG = 0.3
"""Seconds level in the air that no frame or two of a late flag explain."""

_SHORTEST = 6
"""Frames of a flight below which its shape tells nothing."""

_AGAIN = 3
"""Takeoffs in one flight from which it is over and over: two may be a double jump."""


def check_flights(motion: FootMotion) -> list[Finding]:
    """Return what is wrong with the flights of a take."""
    if motion.up is None or not len(motion.flights):
        return []
    found = _flipped(motion)
    if found:
        return found  # nothing that is said about falls would be true
    v = _speeds(motion)
    checks: tuple[Callable[[FootMotion, FloatArray, int, int, int], Finding | None], ...] = (
        _jumps_in_air,
        _ceiling,
        _held_rise,
        _no_fall,
        _straight,
        _constant_fall,
    )
    for k in range(len(motion.flights)):
        a, b = int(motion.flights.start[k]), min(int(motion.flights.stop[k]), len(v))
        for check in checks:
            one = check(motion, v, k, a, b)
            if one is not None:
                found.append(one)
                break  # the first one explains what the others would say
    return found


def _speeds(motion: FootMotion) -> FloatArray:
    """Return the vertical speed of each frame's step, shape (n,)."""
    if motion.up is None:
        raise LookupError("no vertical position")
    y = motion.up.p
    u = np.diff(y) / motion.step[1:]
    return np.concatenate((u[:1], u))


def _flipped(motion: FootMotion) -> list[Finding]:
    """Return the finding on an axis along which every jump is a dip."""
    if motion.up is None or "touch_ground" not in motion.take:
        return []
    y, flights = motion.up.p, motion.flights
    dips = arcs = 0
    for a, b in zip(flights.start.tolist(), flights.stop.tolist(), strict=True):
        if a == 0 or b >= len(y) or b - a < _SHORTEST:
            continue
        level = (y[a - 1] + y[b]) / 2
        over, under = float(y[a:b].max() - level), float(level - y[a:b].min())
        away = abs(y[a - 1] - y[b])
        dips += under > 4 * max(over, 0.0) + away
        arcs += over > 4 * max(under, 0.0) + away
    if not dips or arcs:
        return []
    what = f"{dips} flights dip below the ground and come back to it, and none rises"
    return [finding(UP_FLIPPED, 0, len(y), what)]


def _jumps_in_air(motion: FootMotion, v: FloatArray, k: int, a: int, b: int) -> Finding | None:
    """Return takeoffs in the air, over and over, each with a press of the button."""
    del k
    jump = motion.inputs.jump
    if jump is None or b - a < _SHORTEST:
        return None
    gain = np.diff(v[a:b])
    size = float(np.max(v[a:b], initial=0.0))  # of the rises: a long fall is far quicker
    thrown = np.flatnonzero((gain > _THROWN * size) & (v[a + 1 : b] > 0)) + a + 1
    if len(thrown) < _AGAIN:
        return None
    low = max(a - 3, 0)
    held = jump[low : b + 3]
    pressed = np.flatnonzero(held[1:] & ~held[:-1]) + low + 1
    count = sum(bool(np.any(np.abs(pressed - row) <= 2)) for row in thrown.tolist())
    if count < _AGAIN:
        return None
    what = f"{count} jumps begin in the air at one go from {motion.t[a]:.6g} s"
    return finding(JUMP_IN_AIR, a, b, what)


def _ceiling(motion: FootMotion, v: FloatArray, k: int, a: int, b: int) -> Finding | None:
    """Return a jump whose rise ends at once and which then stays up, level, before it falls."""
    up = motion.up
    if up is None or up.rounded or not motion.flights.jump[k] or b - a < 2 * _SHORTEST:
        return None
    top = float(np.max(v[a:b]))
    level = (np.abs(v[a:b]) <= _LEVEL * top + 2 * up.noise) & ~motion.dashing[a:b]
    if motion.clock.interrupted is not None:
        level &= ~motion.clock.interrupted[a:b]
    level &= ~motion.touches_side[a:b]
    for start, stop in stretches(level, _STAYS):
        seconds = float(motion.t[a + stop - 1] - motion.begin[a + start])
        rose = start > 0 and v[a + start - 1] > _AT_ONCE * top
        if rose and seconds >= _CLINGS and a + stop < len(v):
            what = f"it stays level for {seconds:.2f} s at the top of its rise"
            return finding(CEILING_HANG, a + start, a + stop, what)
    return None


def _held_rise(motion: FootMotion, v: FloatArray, k: int, a: int, b: int) -> Finding | None:
    """Return a rise that goes on at one speed for as long as the button is held."""
    jump = motion.inputs.jump
    if jump is None or not motion.flights.jump[k]:
        return None
    held = jump[a:b]
    until = a + (int(np.argmin(held)) if not held.all() else len(held))
    seconds = float(motion.t[until - 1] - motion.begin[a]) if until > a else 0.0
    if seconds < _LONG_HOLD or until - a < _SHORTEST:
        return None
    rise = v[a + 1 : until]
    top = float(np.max(np.abs(v[a:b])))
    if rise.min() <= _RISING * top or np.ptp(rise) > _STEADY * float(rise.max()):
        return None
    what = f"the rise goes on at {median(rise):.4g} for the {seconds:.2f} s that jump is held"
    return finding(RISE_WHILE_HELD, a, until, what)


def _no_fall(motion: FootMotion, v: FloatArray, k: int, a: int, b: int) -> Finding | None:
    """Return a step off a ledge after which it goes on level."""
    if motion.flights.jump[k] or a == 0 or motion.contact_source != "recorded":
        return None  # where contact is inferred, level motion is ground
    noise = motion.up.noise if motion.up is not None else 0.0
    size = np.abs(v[a:b])
    level = size <= _LEVEL * float(size.max()) + 2 * noise
    stop = a + (int(np.argmin(level)) if not level.all() else len(level))
    seconds = float(motion.t[stop - 1] - motion.begin[a]) if stop > a else 0.0
    if seconds < _HANG:
        return None
    what = f"it stays level in the air for {seconds:.2f} s after it left the ground"
    return finding(NO_FALL, a, stop, what)


def _straight(motion: FootMotion, v: FloatArray, k: int, a: int, b: int) -> Finding | None:
    """Return a jump whose rise and fall go at one speed each."""
    if not motion.flights.jump[k] or not motion.flights.whole[k] or b - a < 2 * _SHORTEST:
        return None
    top = int(motion.flights.top[k])
    rise, fall = v[a + 1 : top], v[top + 2 : b - 1]
    if len(rise) < 4 or len(fall) < 4 or not (_is_level(rise) and _is_level(fall)):
        return None
    return finding(STRAIGHT_JUMP, a, b, f"a jump of straight lines at {motion.t[a]:.6g} s")


def _constant_fall(motion: FootMotion, v: FloatArray, k: int, a: int, b: int) -> Finding | None:
    """Return a fall that has its whole speed from the first frames on."""
    top = int(motion.flights.top[k]) if motion.flights.jump[k] else a
    fall = v[top + 1 : b - 1]
    if len(fall) < 2 * _SHORTEST:
        return None
    settled = fall[3:]
    seconds = float(motion.t[b - 2] - motion.t[top])
    if seconds < _SHOWN or not _is_level(settled) or settled.max() >= 0:
        return None
    if np.mean(_against_wall(motion)[top + 4 : b - 1]) > _MOSTLY:
        return None  # a slide down it
    speed = abs(median(settled))
    what = f"the fall at {motion.t[top]:.6g} s goes at {speed:.4g} from its first frames"
    return finding(CONSTANT_FALL, top, b, what)


def _against_wall(motion: FootMotion) -> BoolArray:
    """Return the frames that touch a wall, or that push sideways and do not move, shape (n,)."""
    pushed = np.abs(motion.inputs.move) > 0
    still = motion.size <= motion.rest_speed
    against: BoolArray = motion.touches_side | (pushed & still)
    return against


def _is_level(v: FloatArray) -> bool:
    return bool(np.ptp(v) <= _LEVEL * float(np.max(np.abs(v))))
