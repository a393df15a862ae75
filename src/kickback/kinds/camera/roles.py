"""The camera's path beside its subject's, axis by axis."""

from collections.abc import Iterator

import numpy as np

from kickback.laws.following import Followed
from kickback.motion.clock import Clock
from kickback.motion.grids import printed_grid
from kickback.motion.motion import Motion
from kickback.motion.prints import Prints
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.roles import Role
from kickback.takes.take import Take

__all__ = ["ACROSS", "ASIDE", "ROLES", "UP", "Filmed", "camera_tracks", "followed"]

_MISSING = "no camera was recorded (camera_x, camera_y, …)"

ACROSS = Role(name="camera along", missing=_MISSING)
ASIDE = Role(name="camera aside", missing=_MISSING)
UP = Role(name="camera up", missing="no camera height was recorded")
ROLES = (ACROSS, ASIDE, UP)

_ENDS = ("rising", "falling")


class Filmed(Followed, frozen=True, kw_only=True):
    """One axis of a camera and its subject."""

    role: Role
    axis: str


def _axes(take: Take) -> Iterator[tuple[Role, str]]:
    ground, up = ground_axes(take.header), up_axis(take.header)
    pairs = [*zip((ACROSS, ASIDE), ground, strict=False)]
    if take.header.view != "top":
        pairs.append((UP, up))
    for role, axis in pairs:
        if axis in take and f"camera_{axis}" in take:
            yield role, axis


def camera_tracks(take: Take, clock: Clock, prints: Prints) -> dict[str, Track]:
    """Return the camera's motion along each axis that it was recorded in, by role."""
    alike = np.zeros(len(take), dtype=np.int64)
    found = {}
    for role, axis in _axes(take):
        name = f"camera_{axis}"
        column = Column(axis=name, p=take.numbers(name), grid=printed_grid(prints, name))
        found[role.name] = axis_track(column, clock, alike)
    return found


def followed(motion: Motion) -> list[Filmed]:
    """Return each axis in which both the camera and its subject are known."""
    found = []
    grids = {track.axis: track.quantum for track in motion.tracks.values()}
    for role, axis in _axes(motion.take):
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
