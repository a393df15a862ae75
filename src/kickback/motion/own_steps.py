"""Whether each frame of a take is a step of its own, told by its speeds."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.motion.grids import Printed
from kickback.motion.segments import BoolArray
from kickback.takes.take import Take

__all__ = ["goes_by_frame"]

_BENT = 4.0
"""Grids that a change of speed must move a place by in a frame, for it to tell whose step it is."""

_HALF = 0.3
"""Share of late frames below which no step lasts for whole frames, whose ways would be its own."""

_DENIES = 0.15
"""Share of the changes of a speed that come in late frames where there is no step."""

_TELL = 6
"""Frames whose speed changes that tell whose step they are."""

_OWN = 0.9
"""Share of such frames that go by their own speeds where each frame is a step."""

_EXACT = 1e-7
"""Share of a path's extent that arithmetic leaves at most."""


def goes_by_frame(
    take: Take, places: Sequence[str], prints: Mapping[str, Printed], late: BoolArray
) -> bool:
    """Whether each frame's way is that of its own speeds: then each frame is a step.

    A speed that is held for most of a take changes in few frames, whose rhythm is that of the
    hands: it also changes in frames that are said to be ``late``, to show no new step. Of places
    drawn between steps a frame's way is of two speeds in ever other shares.
    """
    dt = np.diff(take.numbers("t"))
    for axis in places:
        if f"v{axis}" not in take:
            continue
        v, way = take.numbers(f"v{axis}"), np.diff(take.numbers(axis))
        grid = prints[axis].grid + prints[f"v{axis}"].grid * dt
        grid = grid + np.abs(v[1:]) * prints["t"].grid + _EXACT * float(np.max(np.abs(way)))
        bent = np.abs(np.diff(v)) * dt > _BENT * grid
        if np.count_nonzero(bent) < _TELL:
            continue
        left = [np.abs(way - dt * ((1 - theta) * v[:-1] + theta * v[1:])) for theta in (0, 0.5, 1)]
        own = max(float(np.mean((one <= 1.5 * grid)[bent])) for one in left)
        slow = float(np.mean(late)) < _HALF or float(np.mean(late[1:][bent])) > _DENIES
        return own >= _OWN and slow
    return False
