"""What dashes show beside their speed: how they end, what they lock out, how long they wait."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.press_bounds import PressBounds, press_bounds_of
from kickback.kinds.foot.throws import throws_of
from kickback.laws.record import Law
from kickback.laws.residuals import foretold
from kickback.laws.steps import Steps
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track

__all__ = ["cooldown_of", "locked_out", "whole_dashes"]

_ALIKE = 1e-3
"""Share by which dashes may differ and be one."""

_SAME = 1e-6
"""Share of a speed by which it may miss what is foretold and have gone on so."""

_SOON = 3
"""Frames within which a press shows in the speed."""


def whole_dashes(motion: FootMotion) -> BoolArray:
    """Return which dashes, shape (k,), end by themselves: by no wall, no jump, no end of a take."""
    dashes = motion.dashes
    last = np.minimum(dashes.stop, len(motion.t) - 1)
    whole: BoolArray = dashes.stop < len(motion.t)
    whole &= ~motion.touches_side[last]
    jumps = throws_of(motion).start  # a jump out of a dash ends it before its time
    return whole & ~np.isin(dashes.stop, jumps) & ~np.isin(dashes.stop + 1, jumps)


def locked_out(motion: FootMotion, track: Track, coast: Law | None) -> tuple[IntArray, IntArray]:
    """Return the stretches from a dash's start to the first frame that opposite input moved.

    Input against the motion brakes; where the speed goes on as if coasting, by the law
    ``coast``, it is not read.
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


def _set(motion: FootMotion, press: int) -> bool:
    """Whether a press was soon followed by the dash's speed: it dashed down to it."""
    speed = abs(float(motion.dashes.speed[0]))
    soon = motion.size[press : press + _SOON]
    return bool(np.any(np.abs(soon - speed) <= _ALIKE * speed))


def cooldown_of(motion: FootMotion) -> PressBounds:
    """Return how long after a dash's press others came, and which of them dashed."""
    dashes = motion.dashes
    game = np.cumsum(motion.dt)
    found: list[tuple[int, float, int, bool]] = []
    for press in dashes.presses.tolist():
        earlier = np.flatnonzero(dashes.press < press)
        if not len(earlier):
            continue
        last = int(earlier[-1])
        since = float(game[press - 1] - game[dashes.press[last] - 1])
        if press in dashes.press:
            found.append((press, since, press - int(dashes.press[last]), True))
        elif press >= dashes.stop[last] and not _set(motion, press):
            found.append((press, since, press - int(dashes.press[last]), False))
    return press_bounds_of(found)
