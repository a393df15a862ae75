"""Timers: lenience after ledges and before landings, and the waits of jumps, landings and walls."""

import numpy as np

from kickback.kinds.foot.delays import Spans, hangs_of, lagging, locked_off_walls, squats_of
from kickback.kinds.foot.late_presses import after_ledges, before_landings
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.press_bounds import PressBounds
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.walls import sticks_of
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law
from kickback.laws.timing import lasted, timer
from kickback.motion.tracks import Track
from kickback.takes.roles import Role

__all__ = ["BUFFER", "COYOTE", "HANG", "LAG", "SQUAT", "STICK", "WALL_LOCK", "timers"]

COYOTE = PhaseKey("coyote")
BUFFER = PhaseKey("buffer")
SQUAT = PhaseKey("squat")
LAG = PhaseKey("landing lag")
HANG = PhaseKey("ledge hang")
STICK = PhaseKey("wall stick")
WALL_LOCK = PhaseKey("wall jump", part="lock-out")

_SQUATS = 2
"""Frames by which squats of one timer may differ: others waited for something else."""


def timers(motion: FootMotion) -> list[Law]:
    """Return the timers that the jumps, falls and landings of a take show.

    The coyote time and the jump buffer lie between a press that worked and one that failed:
    they need a press in the air. The others are read off how long something waited.
    """
    up, across = motion.up, motion.across
    if up is None:
        return []
    found = []
    if motion.inputs.jump is not None:
        pairs = ((COYOTE, after_ledges(motion)), (BUFFER, before_landings(motion)))
        found += [_bracket(motion, name, waits) for name, waits in pairs]
        found.append(_lasted(motion, SQUAT, UP, _of_one_timer(squats_of(motion))))
    if not up.rounded:
        found.append(_lasted(motion, HANG, UP, hangs_of(motion, up)))
        found.append(_lasted(motion, STICK, UP, sticks_of(motion, up)))
    if across is not None:
        found.append(_lasted(motion, LAG, ACROSS, lagging(motion, across)))
        found.append(_lasted(motion, WALL_LOCK, ACROSS, _off_walls(motion, across)))
    return [law for law in found if law is not None]


def _off_walls(motion: FootMotion, across: Track) -> Spans:
    """Return the frames of jumps off walls without input; one alone is the takeoff's own."""
    if motion.inputs.source != "recorded" or across.rounded:
        none = np.zeros(0, dtype=np.int64)
        return none, none
    start, stop = locked_off_walls(motion, across)
    locked = stop - start > 1
    return start[locked], stop[locked]


def _of_one_timer(spans: Spans) -> Spans:
    """Return waits that are all alike, or none: a press may also have waited for a button."""
    start, stop = spans
    if len(start) and np.ptp(stop - start) <= _SQUATS:
        return spans
    return start[:0], stop[:0]


def _lasted(motion: FootMotion, phase: PhaseKey, role: Role, spans: Spans) -> Law | None:
    """Return the timer behind waits, or None where nothing waited."""
    start, stop = spans
    if not len(start) or np.any(stop <= start):
        return None
    return lasted(motion, phase, role, start, stop)


def _bracket(motion: FootMotion, phase: PhaseKey, waits: PressBounds) -> Law | None:
    """Return a timer between the longest that worked and the shortest that failed, or None."""
    between = waits.between(longer=False)
    if between is None:
        return None
    low, high = between
    reason = f"a press {low:.4g} s away still worked"
    late = np.isfinite(high)
    reason += f", one {high:.4g} s away did not" if late else "; none that failed shows its end"
    return timer(motion, phase, UP, between, used=len(waits), reason=reason)
