"""The roles that a camera's columns play, and its motion along each axis."""

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from kickback.motion.clock import Clock
from kickback.motion.grids import printed_grid
from kickback.motion.prints import Prints
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.roles import Role
from kickback.takes.take import Take

__all__ = ["ACROSS", "ASIDE", "ROLES", "UP", "axes_of", "camera_tracks"]

_MISSING = "no camera was recorded (camera_x, camera_y, …)"

ACROSS = Role(name="camera along", missing=_MISSING)
ASIDE = Role(name="camera aside", missing=_MISSING)
UP = Role(name="camera up", missing="no camera height was recorded")
ROLES = (ACROSS, ASIDE, UP)


def axes_of(take: Take) -> Iterator[tuple[Role, str]]:
    """Yield the roles of the axes in which a camera and its subject were recorded."""
    ground, up = ground_axes(take.header), up_axis(take.header)
    pairs = [*zip((ACROSS, ASIDE), ground, strict=False)]
    if take.header.view != "top":
        pairs.append((UP, up))
    for role, axis in pairs:
        if axis in take and f"camera_{axis}" in take:
            yield role, axis


def camera_tracks(take: Take, clock: Clock, prints: Prints) -> dict[str, Callable[[], Track]]:
    """Return the camera's motion along each axis that it was recorded in, by role."""

    def along(name: str) -> Track:
        column = Column(axis=name, p=take.numbers(name), grid=printed_grid(prints, name))
        return axis_track(column, clock, np.zeros(len(take), dtype=np.int64))

    return {role.name: partial(along, f"camera_{axis}") for role, axis in axes_of(take)}
