"""Laws of dashes: the speed that they set, how long they last, and what they lock."""

import numpy as np

from kickback.kinds.foot.dashing import cooldown_of, locked_out, whole_dashes
from kickback.kinds.foot.laws.events import scaled_by_step
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS
from kickback.laws.families.moments import IMPULSE
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.laws.timing import lasted, timer
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


def dash_laws(motion: FootMotion, track: Track, coast: Law | None) -> list[Law]:
    """Return the impulse of a take's dashes, and their timers as far as the take tells them.

    ``coast``: the law of the coasting, by which input that is locked out is known.
    """
    dashes = motion.dashes
    if not len(dashes) or track.rounded:
        return []
    found = [_impulse(motion, track)]
    whole = dashes.held & whole_dashes(motion)
    if whole.any():
        found.append(lasted(motion, DASH_TIME, ACROSS, dashes.start[whole], dashes.stop[whole]))
    start, stop = locked_out(motion, track, coast)
    if len(start):
        found.append(lasted(motion, LOCK_OUT, ACROSS, start, stop))
    cooldown = _cooldown(motion)
    return [*found, cooldown] if cooldown is not None else found


def _impulse(motion: FootMotion, track: Track) -> Law:
    """Return the speed that a dash sets, that of the code."""
    dashes = motion.dashes
    ranges = zip(dashes.start.tolist(), dashes.stop.tolist(), strict=True)
    speed = np.array([median(np.abs(track.v[a:b])) for a, b in ranges])
    value, spread = median(speed), float(np.ptp(speed))
    by_step = scaled_by_step(speed, motion.dt[dashes.start], motion.clock.step_error)
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


def _cooldown(motion: FootMotion) -> Law | None:
    """Return how long after a dash's start the next one waits, between presses; or None."""
    waits = cooldown_of(motion)
    between = waits.between(longer=True)
    if between is None:
        return None
    low, high = between
    reason = f"counted from a dash's start: a press after {low:.4g} s did nothing"
    late = np.isfinite(high)
    reason += f", one after {high:.4g} s dashed" if late else "; none later shows its end"
    return timer(motion, COOLDOWN, ACROSS, between, used=len(waits), reason=reason)
