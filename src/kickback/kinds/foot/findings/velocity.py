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

POSITIONS_REPEATED = FindingKind(
    code="positions-repeated",
    severity="note",
    advice="log once a physics step, or interpolate what is shown: the motion judders",
    explains=("velocity-disagrees", "velocity-scale"),
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
    POSITIONS_REPEATED,
    VELOCITY_DISAGREES,
    VELOCITY_PER_FRAME,
    VELOCITY_SCALE,
    VELOCITY_SIGN,
)
"""What these checks may say."""

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

_SHORT = 8
"""Frames in a row up to which a repeat may be a slower physics step, at an eighth of the rate."""

_RECURS = 8
"""Repeats from which they are a rhythm."""

_REPEATS = 0.2
"""Share of moving frames that repeat the one before, from which it is a rhythm."""


def check_velocity(motion: FootMotion) -> list[Finding]:
    """Return what a velocity column is where it is not the motion: its ratio is named."""
    found = []
    for track in motion.tracks.values():
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
    rate = motion.take.frame_rate
    u, middle, bend = u[calm], middle[calm], bend[calm]
    for ratio in (1.0, rate, -rate, -1.0, median(u / middle)):
        miss = np.abs(u - ratio * middle)
        allowed = _NEAR * np.abs(u) + abs(ratio) * bend + 2 * grain
        wrong = float(np.mean(miss > allowed))
        if wrong <= _SHARE:
            return _explained(track, len(v), ratio, rate)
    # not proportional at all: another body's, a wanted one, or one of another moment
    named = f"v{track.axis}"
    what = f"{named} is not the motion: it misses the displacement in {wrong:.0%} of the frames"
    return [finding(VELOCITY_DISAGREES, 0, len(v), what, column=named)]


def _calm_steps(
    motion: FootMotion, track: Track, middle: FloatArray, bend: FloatArray
) -> BoolArray:
    """Return the steps at speed in which order matters little, so that a ratio shows."""
    free = ~motion.grounded[1:] if track is motion.up else np.ones(len(middle), dtype=bool)
    quick = free & (np.abs(middle) > _SLOW * float(np.max(np.abs(middle), initial=0.0)))
    quick &= bend <= _BENT * np.abs(middle)
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
    """Return positions that stand still under a moving velocity, or are repeated in a rhythm."""
    across = motion.across
    if across is None:
        return []
    still = np.diff(across.p) == 0
    if motion.up is not None:
        still &= np.diff(motion.up.p) == 0
    rhythm = _rhythm(motion, still)
    if rhythm:
        return rhythm
    if across.logged is None or across.quantum:
        return []
    v, name = np.abs(across.logged), across.axis
    top = float(v.max(initial=0.0))
    if "touch_side" in motion.take:
        still &= motion.take.numbers("touch_side")[1:] < 0.5
    found = []
    for start, stop in stretches(still & (v[1:] > _FROZEN * top) & (v[:-1] > 0), 4):
        what = f"the position stands still for {stop - start} frames while v{name} says it moves"
        found.append(finding(POSITION_FROZEN, start + 1, stop + 1, what))
    return found


def _rhythm(motion: FootMotion, still: BoolArray) -> list[Finding]:
    """Return the finding on short, regular repeats while moving: a slower physics step."""
    n = len(still)
    lone = np.zeros(n, dtype=bool)
    for start, stop in stretches(still):
        # a repeat counts where the motion goes on alike on both sides of it
        if start >= 2 and stop + 2 <= n and stop - start <= _SHORT and not still[start - 1]:
            lone[start:stop] = True
    if motion.across is not None and motion.across.quantum:
        return []  # whole pixels repeat by themselves
    moving = ~still | lone
    share = float(np.count_nonzero(lone)) / max(1, int(np.count_nonzero(moving)))
    starts = [start for start, _ in stretches(lone)]
    if share < _REPEATS or len(starts) < _RECURS:
        return []
    rate = motion.take.frame_rate * (1 - share)
    what = (
        f"{share:.0%} of the moving frames repeat the position before: the physics runs at about"
        f" {rate:.3g} steps/s under {motion.take.frame_rate:.4g} frames/s"
    )
    return [finding(POSITIONS_REPEATED, starts[0] + 1, n + 1, what)]
