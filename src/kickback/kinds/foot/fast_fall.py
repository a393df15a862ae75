"""Falls with the stick held down, where that makes them faster."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.motion.segments import BoolArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median, quantile

__all__ = ["falls_by_stick", "fast_falls", "pull_of"]

_DOWN = 0.5
"""Amount of the vertical stick from which it is held down."""

_MORE = 1.05
"""How many times as hard a fall is pulled, or as fast, that goes with the stick."""

_USUAL = 0.9
"""Quantile of the pulls of falling frames that is near their gravity: limits pull less."""

_HELD = 0.5
"""Share of it below which a limit holds a fall back."""


def falls_by_stick(motion: FootMotion) -> tuple[BoolArray, BoolArray] | str:
    """Return the falling frames with the stick held down and those without, or why none tell.

    Shape (n,); frames in which the stick moves are of neither.
    """
    up = motion.up
    if up is None or motion.plane is not None or "in_move_y" not in motion.take:
        return "no vertical stick was recorded in a side view (in_move_y)"
    air = ~motion.grounded & ~motion.dashing & (up.v < 0)
    air[1:] &= ~motion.grounded[:-1] & (up.v[:-1] < 0)
    air[0] = False
    down = motion.take.numbers("in_move_y") < -_DOWN
    same = np.concatenate(([False], down[1:] == down[:-1]))
    return air & down & same, air & ~down & same


def pull_of(motion: FootMotion, up: Track, mask: BoolArray) -> float:
    """Return the usual downward acceleration of falling frames that no limit holds, or 0."""
    pull = (-np.diff(up.v, prepend=up.v[:1]) / motion.dt)[mask]
    pulled = pull[pull > _HELD * quantile(pull, _USUAL)] if len(pull) else pull
    return median(pulled) if len(pulled) and pulled.max() > 0 else 0.0


def fast_falls(motion: FootMotion) -> BoolArray:
    """Return the frames, shape (n,), of falls that the stick makes faster; none if it does not."""
    none = np.zeros(len(motion.t), dtype=bool)
    both, up = falls_by_stick(motion), motion.up
    if isinstance(both, str) or up is None or not all(mask.any() for mask in both):
        return none
    held, free = (pull_of(motion, up, mask) for mask in both)
    fast = [float(np.max(-up.v[mask])) for mask in both]
    slack = 4 * up.noise / motion.clock.usual
    if held <= _MORE * free + slack and fast[0] <= _MORE * fast[1] + 2 * up.noise:
        return none
    down = motion.take.numbers("in_move_y") < -_DOWN
    falling: BoolArray = down & ~motion.grounded & (up.v <= 0)
    return falling
