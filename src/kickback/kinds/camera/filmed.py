"""A camera's path beside its subject's, axis by axis."""

import numpy as np

from kickback.kinds.camera.roles import UP, axes_of
from kickback.laws.followed import Followed
from kickback.motion.motion import Motion
from kickback.takes.computed_once import computed_once
from kickback.takes.roles import Role

__all__ = ["Filmed", "followed"]

_ENDS = ("rising", "falling")


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
