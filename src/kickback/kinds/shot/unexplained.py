"""What neither gravity nor drag explains of a flight: how much, which way, and toward what."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kickback.kinds.shot.motion import ShotMotion
from kickback.kinds.shot.rules import FEWEST_ROWS
from kickback.kinds.shot.target import target_of
from kickback.laws.least_squares import linear
from kickback.takes.take import FloatArray

__all__ = ["Unexplained", "unexplained_of"]

_TOWARD = 0.8
"""Mean cosine from which what is left points to one side."""

_MOST_ACROSS = 2.0
"""Times what is left along a path that is left across it, where it only turns the path."""


class Unexplained(NamedTuple):
    """What is left beside the likest gravity and drag, as accelerations, length/s².

    ``size``: root mean square; ``across`` and ``along`` the path; ``cause``: what that looks like.
    """

    size: float
    across: float
    along: float
    cause: str


def unexplained_of(motion: ShotMotion) -> Unexplained | None:
    """Return what is left of the flights of a motion; None where they are too short to tell.

    ``Δv/dt = −g·up − k·v − q·|v|·v`` is fitted to all steps at once, then looked at.
    """
    steps = [
        _steps(motion, slice(arc.start, arc.stop))
        for arc in motion.arcs
        if arc.stop - arc.start >= FEWEST_ROWS
    ]
    if not steps:
        return None
    v, gain, place = (np.concatenate(parts) for parts in zip(*steps, strict=True))
    size = np.linalg.norm(v, axis=1, keepdims=True)
    up = np.zeros_like(v)
    up[:, 2] = -1.0 if motion.flies else 0.0
    design = np.stack((up, -v, -size * v), axis=-1).reshape(-1, 3)
    design = design[:, np.any(design != 0, axis=0)]
    left = (gain.ravel() - design @ linear(design, gain.ravel())).reshape(-1, 3)
    way = v / np.maximum(size, 1e-300)
    along = np.sum(left * way, axis=1)
    across = left - along[:, None] * way
    return Unexplained(
        size=_mean_size(left),
        across=_mean_size(across),
        along=float(np.sqrt(np.mean(along**2))),
        cause=_cause(motion, across, along, way, place),
    )


def _mean_size(vectors: FloatArray) -> float:
    return float(np.sqrt(np.mean(np.sum(vectors**2, axis=1))))


def _steps(motion: ShotMotion, rows: slice) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return velocities, accelerations and places of the steps of a flight, shape (k, 3)."""
    drift, ground = motion.drift[rows], motion.ground[rows]
    v = np.stack((drift.real, drift.imag, motion.rise[rows]), axis=1)
    place = np.stack((ground.real, ground.imag, motion.height[rows], motion.t[rows]), axis=1)
    gain = np.diff(v, axis=0) / motion.dt[rows][1:, None]
    return v[:-1], gain, place[:-1]


def _cause(
    motion: ShotMotion, across: FloatArray, along: FloatArray, way: FloatArray, place: FloatArray
) -> str:
    """Say what what is left looks like, in words."""
    if _mean_size(across) < _MOST_ACROSS * float(np.sqrt(np.mean(along**2))):
        return "another rule"
    if _points_to_target(motion, across, way, place):
        return "it is drawn toward the target: homing"
    sides: Sequence[FloatArray] = (_upright(way), np.cross(way, _upright(way)))
    if any(abs(_cosine(across, side)) > _TOWARD for side in sides):
        return "it bends to one side all the way: lift"
    return "it is steered: lift or homing"


def _points_to_target(
    motion: ShotMotion, across: FloatArray, way: FloatArray, place: FloatArray
) -> bool:
    target = target_of(motion)
    if target is None:
        return False
    at = [target.at(time) for time in place[:, 3].tolist()]
    there = np.array([(ground.real, ground.imag, high) for ground, high in at])
    off = there - place[:, :3]
    return _cosine(across, off - np.sum(off * way, axis=1)[:, None] * way) > _TOWARD


def _upright(way: FloatArray) -> FloatArray:
    """Return the upward direction across a path, shape (k, 3)."""
    up = np.array([0.0, 0.0, 1.0]) - way[:, 2:] * way
    return np.asarray(up)


def _cosine(one: FloatArray, other: FloatArray) -> float:
    """Return the mean cosine between vectors, the larger ones counting more."""
    sizes = np.linalg.norm(one, axis=1) * np.linalg.norm(other, axis=1)
    weight = float(np.sum(np.linalg.norm(one, axis=1)))
    if not weight:
        return 0.0
    dots = np.sum(one * other, axis=1) / np.maximum(sizes, 1e-300)
    return float(np.sum(dots * np.linalg.norm(one, axis=1)) / weight)
