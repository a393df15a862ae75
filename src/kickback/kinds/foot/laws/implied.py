"""The speed of the code where only positions tell it, and frame times are uneven.

The displacement mixes the speeds before and after a step, and uneven steps show how: under
the wrong mix no rule of the known kinds leaves the steps explained.
"""

from itertools import pairwise

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.least_squares import linear
from kickback.laws.position import POSITION
from kickback.laws.record import Constant, Law
from kickback.motion.segments import IntArray
from kickback.motion.tracks import Track
from kickback.takes.quantities import RATIO
from kickback.takes.record import replace
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["implied_tracks", "told_from_steps"]

_FEWEST = 4
"""Frames below which a flight does not show how its steps alternate."""


def implied_tracks(motion: FootMotion, track: Track, role: Role) -> list[tuple[float, Track]]:
    """Return each θ with the speed that it implies; none where nothing could tell them apart.

    ``u[n] = Δx/dt``: with θ = 1 the speed after frame n is ``u[n]``; with θ = 0 it is
    ``u[n+1]``; with θ = ½ it is ``2·u[n] − v[n−1]``, from rest on or, in a flight, from the
    speed that makes its steps even.
    """
    dt = motion.dt
    if track.source != "displacement" or motion.clock.even:
        return []
    u = track.v
    before = np.append(u[1:], u[-1])
    chained = _from_rest(u) if role is ACROSS else _by_flight(motion, u, dt)
    return [
        (1.0, track),
        *((theta, replace(track, v=v)) for theta, v in ((0.0, before), (0.5, chained))),
    ]


def _chained(u: FloatArray, first: float = 0.0) -> FloatArray:
    """Return ``v[n] = 2·u[n] − v[n−1]`` from a speed before the first frame, shape (n,)."""
    sign = np.where(np.arange(len(u)) % 2, -1.0, 1.0)
    v: FloatArray = sign * (2 * np.cumsum(sign * u) - first)
    return v


def _from_rest(u: FloatArray) -> FloatArray:
    """Return the chained speed, begun anew from 0 wherever nothing moves in two frames.

    One begun in motion, or carried on over a rest, would alternate about what is true.
    """
    still = np.abs(u) <= ARITHMETIC * float(np.max(np.abs(u), initial=0.0))
    still[1:] &= still[:-1]
    v = np.zeros_like(u)
    edges = np.flatnonzero(np.diff(still.astype(np.int8))) + 1
    for a, b in pairwise([0, *edges.tolist(), len(u)]):
        if not still[a]:
            v[a:b] = _chained(u[a:b])
    return v


def _by_flight(motion: FootMotion, u: FloatArray, dt: FloatArray) -> FloatArray:
    """Return the chained speed of each flight, begun so that ``Δv/dt`` is one for its rise.

    Begun anew wherever the button changes. Both the speed before, which alternates in
    sign, and the acceleration are linear in the steps ``v[n+1] − v[n]``: least squares.
    """
    v = u.copy()
    flights, jump = motion.flights, motion.inputs.jump
    cuts = np.zeros(0, dtype=np.int64)
    if jump is not None:  # a press or release may set the speed anew between two frames
        cuts = np.flatnonzero(jump[1:] != jump[:-1]) + 1
    for start, top, stop in zip(
        flights.start.tolist(), flights.top.tolist(), flights.stop.tolist(), strict=True
    ):
        inside = cuts[(cuts > start) & (cuts < stop)].tolist()
        for a, b in pairwise([start, *inside, stop]):
            many = top - a + 1 if _FEWEST <= top - a + 1 < b - a else b - a
            if many >= _FEWEST:
                chain = _chained(u[a:b])
                size = _alternating(chain[:many], dt[a : a + many])
                v[a:b] = chain - size * _signs(np.arange(b - a))
    return v


def _signs(index: IntArray) -> FloatArray:
    """Return +1 for even and −1 for odd numbers."""
    signs: FloatArray = np.where(index % 2, -1.0, 1.0)
    return signs


def _alternating(chain: FloatArray, dt: FloatArray) -> float:
    """Return the size of the alternating part of a chain whose steps go with ``dt``."""
    signs = _signs(np.arange(len(chain)))
    x = np.stack((np.diff(signs), dt[1:]), axis=1)
    return float(linear(x, np.diff(chain))[0])


def told_from_steps(motion: FootMotion, axis: str, role: Role, theta: float, frames: int) -> Law:
    """Return the position rule whose θ alone explains the uneven steps."""
    ratio = RATIO.within(motion.take.header.length_unit)
    return Law(
        take=motion.take.name,
        role=role,
        phase=POSITION,
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis=axis,
        family=POSITION_RULE,
        constants=(
            Constant(name="theta", value=theta, unit=ratio),
            Constant(name="scale", value=1.0, unit=ratio),
        ),
        reason="told from uneven steps, without a velocity: other orders leave them unexplained",
        frames=frames,
        frame=motion.clock.usual,
    )
