"""Laws of dashes: the speed that they set, how long they last, and what they lock."""

import numpy as np

from kickback.kinds.foot.dashes import Dashes
from kickback.kinds.foot.laws.events import scaled_by_step
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.throws import throws_of
from kickback.laws.families.moments import IMPULSE
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.laws.residuals import foretold
from kickback.laws.steps import Steps
from kickback.laws.timing import lasted, timer
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.quantities import SPEED

__all__ = ["COOLDOWN", "DASH_TIME", "LOCK_OUT", "dash_laws"]

_ALIKE = 1e-3
"""Share by which dashes may differ and be one."""

DASH_TIME = PhaseKey("dash", part="time")
LOCK_OUT = PhaseKey("lock-out")
COOLDOWN = PhaseKey("cooldown")

_SAME = 1e-6
"""Share of a speed by which it may miss what is foretold and have gone on so."""

_SOON = 3
"""Frames within which a press shows in the speed."""


def dash_laws(motion: FootMotion, track: Track, coast: Law | None) -> list[Law]:
    """Return the impulse of a take's dashes, and their timers as far as the take tells them.

    ``coast``: the law of the coasting, by which input that is locked out is known.
    """
    dashes = motion.dashes
    if not len(dashes) or track.rounded:
        return []
    found = [_impulse(motion, track)]
    whole = dashes.held & (dashes.stop < len(motion.t)) & _ended(motion, dashes)
    jumps = throws_of(motion).start  # a jump out of a dash ends it before its time
    whole &= ~np.isin(dashes.stop, jumps) & ~np.isin(dashes.stop + 1, jumps)
    if whole.any():
        found.append(lasted(motion, DASH_TIME, ACROSS, dashes.start[whole], dashes.stop[whole]))
    start, stop = _locked(motion, track, coast)
    if len(start):
        found.append(lasted(motion, LOCK_OUT, ACROSS, start, stop))
    cooldown = _cooldown(motion, track)
    return [*found, cooldown] if cooldown is not None else found


def _ended(motion: FootMotion, dashes: Dashes) -> BoolArray:
    """Return which dashes a timer ended, not a wall."""
    if "touch_side" not in motion.take:
        return np.ones(len(dashes), dtype=bool)
    last = np.minimum(dashes.stop, len(motion.t) - 1)
    return motion.take.numbers("touch_side")[last] < 0.5


def _locked(motion: FootMotion, track: Track, coast: Law | None) -> tuple[IntArray, IntArray]:
    """Return the stretches from a dash's start to the first frame that opposite input moved.

    Input against the motion brakes; where the speed goes on as if coasting, it is not read.
    """
    rows: list[tuple[int, int]] = []
    dt, v, move = motion.dt, track.v, motion.inputs.move
    for start, stop in zip(motion.dashes.start.tolist(), motion.dashes.stop.tolist(), strict=True):
        if coast is None or stop >= len(v) or move[stop] * v[stop - 1] >= 0:
            continue
        other = np.flatnonzero(move[stop:] != move[stop])
        row = np.arange(stop, stop + int(other[0]) if other.size else len(v))
        side = np.sign(v[stop - 1])
        steps = Steps(
            v0=v[row - 1] * side, v1=v[row] * side, dt=dt[row], row=row, usual=coast.frame
        )
        ahead = foretold(coast, steps)
        if ahead is None:
            continue
        braked = np.flatnonzero(np.abs(ahead - steps.v1) > _SAME * abs(v[stop - 1]))
        if braked.size and braked[0] > 0:
            rows.append((start, stop + int(braked[0])))
    first, last = zip(*rows, strict=True) if rows else ((), ())
    return np.array(first, dtype=np.int64), np.array(last, dtype=np.int64)


def _impulse(motion: FootMotion, track: Track) -> Law:
    """Return the speed that a dash sets, that of the code."""
    dashes = motion.dashes
    ranges = zip(dashes.start.tolist(), dashes.stop.tolist(), strict=True)
    speed = np.array([median(np.abs(track.v[a:b])) for a, b in ranges])
    value, spread = median(speed), float(np.ptp(speed))
    by_step = scaled_by_step(speed, motion.dt[dashes.start], motion.clock.time_error)
    reason = by_step or (f"dashes differ by {spread:.4g}" if spread > _ALIKE * value else None)
    if not dashes.held.any():
        reason = "; ".join(filter(None, ("the speed falls from the next frame on", reason)))
    return Law(
        take=motion.take.name,
        role=ACROSS,
        phase=PhaseKey("dash"),
        start=float(motion.begin[dashes.start[0]]),
        end=float(motion.t[dashes.stop[-1] - 1]),
        axis=track.axis,
        family=IMPULSE,
        constants=(
            Constant(
                name="speed",
                value=value,
                unit=SPEED.within(motion.take.header.length_unit),
                stderr=max(float(np.std(speed)), _SAME * _ALIKE * value),
            ),
        ),
        reason=reason,
        clock="step" if by_step else "even",
        frames=int((dashes.stop - dashes.start).sum()),
        misfit=spread,
    )


def _set(track: Track, press: int, dashes: Dashes) -> bool:
    """Whether a press was soon followed by the dash's speed: it dashed down to it."""
    soon = np.abs(track.v[press : press + _SOON])
    return bool(np.any(np.abs(soon - abs(dashes.speed[0])) <= _ALIKE * abs(dashes.speed[0])))


def _cooldown(motion: FootMotion, track: Track) -> Law | None:
    """Return how long after a dash's start the next one waits, between presses; or None.

    A press that dashed shows that it was over; one that did not, that it was not.
    """
    dashes = motion.dashes
    game = np.cumsum(motion.dt)
    worked: list[float] = []
    failed: list[float] = []
    for press in dashes.presses.tolist():
        earlier = np.flatnonzero(dashes.press < press)
        if not len(earlier):
            continue
        last = int(earlier[-1])
        since = float(game[press - 1] - game[dashes.press[last] - 1])
        if press in dashes.press:
            worked.append(since)
        elif press >= dashes.stop[last] and not _set(track, press, dashes):
            failed.append(since)
    if not failed:
        return None
    low = max(failed)
    late = [value for value in worked if value > low]
    reason = f"counted from a dash's start: a press after {low:.4g} s did nothing"
    reason += f", one after {min(late):.4g} s dashed" if late else "; none later shows its end"
    high = min(late, default=float("inf"))
    used = len(worked) + len(failed)
    return timer(motion, COOLDOWN, ACROSS, (low, high), used=used, reason=reason)
