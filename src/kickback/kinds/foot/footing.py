"""What a character stands on: level ground that rests, or a slope, or something that moves."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.foot.steering import Complexes
from kickback.motion.segments import BoolArray, runs
from kickback.motion.tracks import Track
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["SLOPE", "Footing", "read_footing"]

SLOPE = 3.0
"""Degrees from which ground is a slope."""

_WINDOW = 0.05
"""Seconds over which ground rises or does not: rounded heights rise by steps."""

_BRIEF = 0.1
"""Seconds below which ground that rises is a step, or a body that sinks in."""

_STEPS = 1.5
"""Grids by which a height may differ from a level one."""


class Footing(Record, frozen=True, kw_only=True):
    """The ground under each frame, arrays of shape (n,).

    ``carried`` is the velocity over the ground of what it stands on, None where no column says
    so; ``sloped`` and ``moving`` say where the ground is no level one at rest.
    """

    carried: Complexes | None
    sloped: BoolArray
    moving: BoolArray

    @property
    def plain(self) -> BoolArray:
        """Return the frames on level ground at rest, or in the air."""
        return ~(self.sloped | self.moving)


def read_footing(
    take: Take, grounded: BoolArray, up: Track | None, ground: Sequence[Track], rest: float
) -> Footing:
    """Return what is under each frame; ``rest``: the speed below which something rests."""
    carried = _carried(take, ground)
    moving = np.zeros(len(take), dtype=bool)
    if carried is not None:
        moving = grounded & (np.abs(carried) > rest)
    return Footing(carried=carried, sloped=_sloped(take, grounded, up, ground), moving=moving)


def _carried(take: Take, ground: Sequence[Track]) -> Complexes | None:
    names = [f"platform_v{track.axis}" for track in ground]
    if not any(name in take for name in names):
        return None
    zero = np.zeros(len(take))
    axes = [take.numbers(name) if name in take else zero for name in names]
    second = axes[1] if len(axes) > 1 else zero
    return np.asarray(axes[0] + 1j * second, dtype=np.complex128)


def _sloped(
    take: Take, grounded: BoolArray, up: Track | None, ground: Sequence[Track]
) -> BoolArray:
    """Return the frames whose way over the ground rises or falls like a slope, shape (n,)."""
    n = len(take)
    if up is None or not ground or n < 2:
        return np.zeros(n, dtype=bool)
    if not np.any(grounded[1:] & grounded[:-1] & (up.p[1:] != up.p[:-1])):
        return np.zeros(n, dtype=bool)  # level ground, as most is
    t = take.numbers("t")
    low = np.clip(np.searchsorted(t, t - _WINDOW, side="right") - 1, 0, n - 1)
    low = np.minimum(low, np.maximum(np.arange(n) - 1, 0))
    over = np.sqrt(sum((track.p - track.p[low]) ** 2 for track in ground))
    rise = np.abs(up.p - up.p[low])
    off = np.concatenate(([0], np.cumsum(~grounded)))
    stood = (off[np.arange(n) + 1] - off[low]) == 0
    steep = np.tan(np.deg2rad(SLOPE)) * over + _STEPS * up.quantum
    return _lasting(stood & (rise > steep) & (over > 0), t)


def _lasting(mask: BoolArray, t: FloatArray) -> BoolArray:
    """Return a mask without what is brief: a step that is climbed, a body that sinks in."""
    kept = mask.copy()
    for a, b in zip(*(part.tolist() for part in runs(mask)), strict=True):
        if mask[a] and t[b - 1] - t[max(a - 1, 0)] < _BRIEF:
            kept[a:b] = False
    return kept
