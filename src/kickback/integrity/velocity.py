"""The reported velocity against the displacement, and positions that stand still."""

import numpy as np

from kickback.integrity.finding import Finding, finding, stretches
from kickback.motion.analyse import Motion
from kickback.motion.kinematics import Track
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import median

__all__ = ["check_positions", "check_velocity"]

_NEAR = 0.05
_SHARE = 0.25
_SLOW = 0.1
_FEW = 8
_BENT = 0.3
_FROZEN = 0.1
_REPEATS = 0.2


def check_velocity(motion: Motion) -> list[Finding]:
    """Return what a velocity column is where it is not the motion: its ratio is named."""
    found = []
    for axis, track in _tracks(motion):
        if track.source == "reported" or f"v{axis}" not in motion.take:
            continue
        found += _ratio(motion, axis, track)
    return found


def _tracks(motion: Motion) -> list[tuple[str, Track]]:
    up = motion.take.header.up[1]
    pairs = [("x" if up != "x" else "y", motion.across), (up, motion.up)]
    return [(axis, track) for axis, track in pairs if track is not None]


def _ratio(motion: Motion, axis: str, track: Track) -> list[Finding]:
    """Return the finding on a column whose size is not that of the displacement."""
    v = motion.take.numbers(f"v{axis}")
    u = np.diff(track.p) / motion.step[1:]
    middle, bend = (v[1:] + v[:-1]) / 2, np.abs(np.diff(v))
    free = ~motion.grounded[1:] if track is motion.up else np.ones(len(u), dtype=bool)
    quick = free & (np.abs(middle) > _SLOW * float(np.max(np.abs(v), initial=0.0)))
    quick &= bend <= _BENT * np.abs(middle)  # where order matters little, a ratio shows
    calm = quick & (bend <= 3 * median(bend[quick]) + 1e-12) if quick.any() else quick
    if np.count_nonzero(calm) < _FEW or not np.any(u):
        return []
    rate = motion.take.frame_rate
    grain = (track.blur or 0.0) / motion.step[1:][calm]
    for ratio in (1.0, rate, -rate, -1.0, median(u[calm] / middle[calm])):
        miss = np.abs(u - ratio * middle)[calm]
        allowed = _NEAR * np.abs(u[calm]) + abs(ratio) * bend[calm] + 2 * grain
        wrong = float(np.mean(miss > allowed + 1e-12))
        if wrong <= _SHARE:
            break
    last = len(v)
    if wrong > _SHARE:
        # not proportional at all: another body's, a wanted one, or one of another moment
        what = f"v{axis} is not the motion: it misses the displacement in {wrong:.0%} of the frames"
        return [finding("velocity-disagrees", 0, last, what)]
    if abs(ratio / rate - 1) < _NEAR or abs(ratio / rate + 1) < _NEAR:
        what = f"the displacement is {ratio:.4g} times v{axis}, at {rate:.4g} frames/s"
        return [finding("velocity-per-frame", 0, last, what)]
    if abs(ratio + 1) < _NEAR:
        what = f"v{axis} points against the displacement"
        return [finding("velocity-sign", 0, last, what)]
    if abs(ratio - 1) < _NEAR:
        return []
    return [finding("velocity-scale", 0, last, f"the displacement is {ratio:.4g} times v{axis}")]


def check_positions(motion: Motion) -> list[Finding]:
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
    name = next(axis for axis, track in _tracks(motion) if track is across)
    if f"v{name}" not in motion.take or across.quantum:
        return []
    v = np.abs(motion.take.numbers(f"v{name}"))
    top = float(v.max(initial=0.0))
    if "touch_side" in motion.take:
        still &= motion.take.numbers("touch_side")[1:] < 0.5
    found = []
    for start, stop in stretches(still & (v[1:] > _FROZEN * top) & (v[:-1] > 0), 4):
        what = f"the position stands still for {stop - start} frames while v{name} says it moves"
        found.append(finding("position-frozen", start + 1, stop + 1, what))
    return found


def _rhythm(motion: Motion, still: BoolArray) -> list[Finding]:
    """Return the finding on short, regular repeats while moving: a slower physics step."""
    n = len(still)
    lone = np.zeros(n, dtype=bool)
    for start, stop in stretches(still):
        # a repeat counts where the motion goes on alike on both sides of it
        if start >= 2 and stop + 2 <= n and stop - start <= 8 and not still[start - 1]:
            lone[start:stop] = True
    if motion.across is not None and motion.across.quantum:
        return []  # whole pixels repeat by themselves
    moving = ~still | lone
    share = float(np.count_nonzero(lone)) / max(1, int(np.count_nonzero(moving)))
    starts = [start for start, _ in stretches(lone)]
    if share < _REPEATS or len(starts) < 8:
        return []
    rate = motion.take.frame_rate * (1 - share)
    what = (
        f"{share:.0%} of the moving frames repeat the position before: the physics runs at about"
        f" {rate:.3g} steps/s under {motion.take.frame_rate:.4g} frames/s"
    )
    return [finding("positions-repeated", starts[0] + 1, n + 1, what)]
