"""The reported velocity against the displacement, and positions that stand still."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.kinds.foot.motion import FootMotion
from kickback.motion.segments import BoolArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["FINDINGS", "check_positions", "check_velocity"]

POSITION_FROZEN = FindingKind(
    code="position-frozen",
    severity="warning",
    advice="log the position after the update that the velocity is from",
)

VELOCITY_DISAGREES = FindingKind(
    code="velocity-disagrees",
    severity="warning",
    advice="the displacement is used, as it is what the player sees;"
    " log the velocity that moved it",
)

VELOCITY_PER_FRAME = FindingKind(
    code="velocity-per-frame",
    severity="warning",
    advice="the column is per frame: map it with per_frame = true;"
    " the displacement is used instead",
    explains=("velocity-disagrees", "position-frozen"),
)

VELOCITY_SCALE = FindingKind(
    code="velocity-scale",
    severity="warning",
    advice="the column is in other units: map it with a scale",
)

VELOCITY_SIGN = FindingKind(
    code="velocity-sign",
    severity="warning",
    advice="one axis is flipped: map the column with scale = -1",
)

FINDINGS = (
    POSITION_FROZEN,
    VELOCITY_DISAGREES,
    VELOCITY_PER_FRAME,
    VELOCITY_SCALE,
    VELOCITY_SIGN,
)
"""What these checks may say."""

_LOW = (0.1, 0.9)
"""Shares of the highest speed between which no limit acts."""

_NEAR = 0.05
"""Share by which a ratio may miss a round one: what steps of bent motion leave."""

_SHARE = 0.25
"""Share of the calm steps that may miss a ratio: bumps and landings."""

_SLOW = 0.1
"""Share of the highest speed below which a ratio is mostly noise."""

_FEW = 8
"""Calm steps below which no ratio is told."""

_BENT = 0.3
"""Share of its speed that a step may gain, for the order to matter little."""

_FROZEN = 0.1
"""Share of the highest speed from which a still position is odd."""


def check_velocity(motion: FootMotion) -> list[Finding]:
    """Return what a velocity column is where it is not the motion: its ratio is named."""
    found = []
    for track in motion.by_column:
        if track.source != "reported" and track.logged is not None:
            found += _ratio(motion, track, track.logged)
    return found


def _ratio(motion: FootMotion, track: Track, v: FloatArray) -> list[Finding]:
    """Return the finding on a column whose size is not that of the displacement."""
    u = np.diff(track.p) / motion.step[1:]
    middle, bend = (v[1:] + v[:-1]) / 2, np.abs(np.diff(v))
    calm = _calm_steps(motion, track, middle, bend)
    if np.count_nonzero(calm) < _FEW or not np.any(u):
        return []
    grain = track.blur / motion.step[1:][calm]
    rate = 1 / motion.clock.usual
    u, middle, bend = u[calm], middle[calm], bend[calm]
    for ratio in (1.0, rate, -rate, -1.0, median(u / middle)):
        miss = np.abs(u - ratio * middle)
        allowed = _NEAR * np.abs(u) + abs(ratio) * bend + 2 * grain
        wrong = float(np.mean(miss > allowed))
        if wrong <= _SHARE:
            if ratio not in {1.0, -1.0} and _as_logged_below(track, motion, v):
                return []  # it is the motion but for its limit: logged before that was applied
            return _explained(track, len(v), ratio, rate)
    # not proportional at all: another body's, a wanted one, or one of another moment
    named = f"v{track.axis}"
    what = f"{named} is not the motion: it misses the displacement in {wrong:.0%} of the frames"
    return [finding(VELOCITY_DISAGREES, 0, len(v), what, column=named)]


def _as_logged_below(track: Track, motion: FootMotion, v: FloatArray) -> bool:
    """Whether a column is the displacement's speed where that is well below its highest."""
    u = np.diff(track.p) / motion.step[1:]
    size = np.abs(u)
    below = (size > _LOW[0] * size.max(initial=0.0)) & (size < _LOW[1] * size.max(initial=0.0))
    if np.count_nonzero(below) < _FEW:
        return False
    near = np.minimum(np.abs(u - v[1:]), np.abs(u - v[:-1]))[below]
    bend = np.abs(np.diff(v))[below]
    return bool(np.mean(near <= bend + _NEAR * size[below]) > 1 - _SHARE)


def _calm_steps(
    motion: FootMotion, track: Track, middle: FloatArray, bend: FloatArray
) -> BoolArray:
    """Return the steps at speed in which order matters little, so that a ratio shows."""
    free = ~motion.grounded[1:] if track is motion.up else np.ones(len(middle), dtype=bool)
    quick = free & (np.abs(middle) > _SLOW * float(np.max(np.abs(middle), initial=0.0)))
    quick &= bend <= _BENT * np.abs(middle)
    if motion.clock.interrupted is not None:
        quick &= ~motion.clock.interrupted[1:]
    if not quick.any():
        return quick
    calm: BoolArray = quick & (bend <= 3 * median(bend[quick]))
    return calm


def _explained(track: Track, last: int, ratio: float, rate: float) -> list[Finding]:
    """Return what a column is whose ratio to the displacement is known."""
    named = f"v{track.axis}"
    if abs(abs(ratio) / rate - 1) < _NEAR:
        what = f"the displacement is {ratio:.4g} times {named}, at {rate:.4g} frames/s"
        return [finding(VELOCITY_PER_FRAME, 0, last, what, column=named)]
    if abs(ratio + 1) < _NEAR:
        what = f"{named} points against the displacement"
        return [finding(VELOCITY_SIGN, 0, last, what, column=named)]
    if abs(ratio - 1) < _NEAR:
        return []
    what = f"the displacement is {ratio:.4g} times {named}"
    return [finding(VELOCITY_SCALE, 0, last, what, column=named)]


def check_positions(motion: FootMotion) -> list[Finding]:
    """Return positions that stand still under a moving velocity."""
    across = motion.across
    if across is None:
        return []
    still = np.diff(across.p) == 0
    if motion.up is not None:
        still &= np.diff(motion.up.p) == 0
    if across.logged is None or across.quantum:
        return []
    v, name = np.abs(across.logged), " and v".join(across.axis)
    top = float(v.max(initial=0.0))
    if motion.clock.interrupted is not None:
        still &= ~motion.clock.interrupted[1:]
    still &= ~motion.touches_side[1:]
    found = []
    for start, stop in stretches(still & (v[1:] > _FROZEN * top) & (v[:-1] > 0), 4):
        what = f"the position stands still for {stop - start} frames while v{name} says it moves"
        found.append(finding(POSITION_FROZEN, start + 1, stop + 1, what))
    return found
