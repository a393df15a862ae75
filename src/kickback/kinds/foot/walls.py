"""Walls: the frames that touch one, slides down it, and how long it holds a fall."""

from typing import NamedTuple

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.motion.tracks import Track
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median

__all__ = ["Slide", "at_wall", "bumps", "held_by_walls", "slides_of", "sticks_of"]

_HELD = 1e-3
"""Share of a slide's speed by which it may change in a frame and be held."""

_BRIEF = 0.1
"""Seconds that a slide holds its speed at least."""

_STUCK = 1e-3
"""Share of the highest fall below which it sticks."""


_PULLED = 1e-6
"""Share of the highest fall by which a speed may change in a frame that nothing pulls."""


_STEADY = 2
"""Frames before a bump in which its speed changed as it usually does."""

_AT_ONCE = 0.2
"""Share of the highest speed that a bump takes at least."""

_FAR_MORE = 3.0
"""Times what those before it took."""

_LEFT = 0.1
"""Share of what it takes that it leaves."""


class Slide(NamedTuple):
    """Frames ``[start, stop)`` at a wall, of which those from ``since`` on have one ``speed``."""

    start: int
    stop: int
    since: int
    speed: float


def at_wall(motion: FootMotion) -> BoolArray:
    """Return the frames, shape (n,), that touch a wall: beside one a fall may have its own rule."""
    return motion.touches_side & ~motion.grounded


@computed_once
def bumps(motion: FootMotion) -> BoolArray:
    """Return the frames, shape (n,), in which something in the way stops it, told by no column.

    It loses nearly all of its speed over the ground at once, far more than in the frames before,
    while nothing else is pressed.
    """
    size, found = motion.size, np.zeros(len(motion.t), dtype=bool)
    lost = size[:-1] - size[1:]
    if len(lost) < _STEADY + 1:
        return found
    same = motion.inputs.lined[1:] == motion.inputs.lined[:-1]
    same &= (
        ~motion.dashing[1:] & ~motion.dashing[:-1] & (motion.grounded[1:] == motion.grounded[:-1])
    )
    earlier = np.lib.stride_tricks.sliding_window_view(np.abs(lost), _STEADY)[:-1].max(axis=1)
    held = np.lib.stride_tricks.sliding_window_view(same, _STEADY + 1).all(axis=1)
    now, left = lost[_STEADY:], size[_STEADY + 1 :]
    hit = (now > _AT_ONCE * float(np.max(size, initial=0.0))) & (now > _FAR_MORE * earlier)
    found[_STEADY + 1 :] = hit & held & (left < _LEFT * now)
    return found


def slides_of(motion: FootMotion, up: Track) -> list[Slide]:
    """Return the falls along walls that hold a speed for 0.1 s or more."""
    found = []
    beside = at_wall(motion)
    for a, b in zip(*(part.tolist() for part in runs(beside)), strict=True):
        last = b - 1 if b == len(beside) else b - 2
        if not beside[a] or last - a < 2 or up.v[last] >= 0:
            continue
        v = -up.v[a : last + 1]
        off = np.flatnonzero(np.abs(v - v[-1]) > _HELD * v[-1] + 2 * up.noise)
        since = a + (int(off[-1]) + 1 if off.size else 0)
        if since <= last and motion.t[last] - motion.begin[since] >= _BRIEF:
            found.append(Slide(a, last + 1, since, median(v[since - a :])))
    return found


def sticks_of(motion: FootMotion, up: Track) -> tuple[IntArray, IntArray]:
    """Return the frames ``[start, stop)`` in which each slide still stood, shape (k,).

    ``stop`` is that of the first one that moves down; the same as ``start`` where it never
    stood.
    """
    fastest = float(np.max(np.abs(up.v), initial=0.0))
    pairs = []
    for a, b, _, _ in slides_of(motion, up):
        v = up.v[a:b]
        moves = np.flatnonzero(v < -_STUCK * fastest - 2 * up.noise)
        still = np.flatnonzero(np.abs(v) <= _STUCK * fastest + 2 * up.noise)
        if not np.any(np.abs(np.diff(v[still])) <= _PULLED * fastest + 2 * up.noise):
            still = still[:0]  # an apex passes through rest
        after = moves[moves > still[0]] if still.size else still
        pairs.append((a + int(still[0]), a + int(after[0])) if after.size else (a, a))
    start, stop = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
    return start, stop


def held_by_walls(motion: FootMotion) -> BoolArray:
    """Return the frames, shape (n,), of falls that a wall holds or slows."""
    mask = np.zeros(len(motion.t), dtype=bool)
    if motion.up is None or motion.up.rounded:
        return mask
    for slide in slides_of(motion, motion.up):
        falls = motion.up.v[slide.start : slide.stop] <= 0
        mask[slide.start : slide.stop] = falls
    return mask
