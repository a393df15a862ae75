"""A camera's path beside its subject's, axis by axis."""

from typing import NamedTuple

import numpy as np

from kickback.kinds.camera.roles import UP, axes_of
from kickback.laws.followed import Followed
from kickback.motion.motion import Motion
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.roles import Role
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["Band", "Filmed", "band_of", "followed"]

_ENDS = ("rising", "falling")

_GRIDS = 2.02
"""Grids that places may be off which one end of a band carries along."""

_FEWEST = 6
"""Frames at either end of a band that tell it."""


class Filmed(Followed, frozen=True, kw_only=True):
    """One axis of a camera and its subject."""

    role: Role
    axis: str


@computed_once
def followed(motion: Motion) -> list[Filmed]:
    """Return each axis in which both the camera and its subject are known."""
    found = []
    grids = {track.axis: track.quantum for track in motion.tracks.values()}
    for role, axis in axes_of(motion.take):
        if role.name not in motion.tracks:
            continue
        camera = motion.tracks[role.name]
        found.append(
            Filmed(
                role=role,
                axis=axis,
                follower=camera.p,
                leader=motion.take.numbers(axis),
                grid=float(np.hypot(camera.quantum, grids.get(axis, camera.quantum))),
                ends=_ENDS if role is UP else (f"toward +{axis}", f"toward −{axis}"),
                ahead=True,
                pace=motion.take.numbers(f"v{axis}") if f"v{axis}" in motion.take else None,
            )
        )
    return found


class Band(NamedTuple):
    """A band in which a camera stands; its ends carry it along. Places of the subject in it."""

    low: float
    high: float

    @property
    def width(self) -> float:
        """Return how far the subject moves in it."""
        return self.high - self.low


def band_of(one: Filmed) -> Band | None:
    """Return the band in which a camera stands, along an axis, or None where there is none.

    It moves where its subject is at either end, and stands where that is between.
    """
    slack = _GRIDS * one.grid + ARITHMETIC * float(np.ptp(one.leader))
    moved = np.diff(one.follower)
    off = (one.leader - one.follower)[1:]
    ends = [off[side * moved > slack] for side in (-1.0, 1.0)]
    if any(len(end) < _FEWEST or np.ptp(end) > slack for end in ends):
        return None
    low, high = (median(end) for end in ends)
    inside = np.all((off >= low - slack) & (off <= high + slack))
    return Band(low, high) if inside and high - low > 2 * slack else None
