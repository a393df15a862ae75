"""The steps of a motion, sorted by the rule that should be behind them.

A step leads from one frame to the next. Which rule it follows is told by what its update
read: the input, the ground before it, and which way the subject was going.
"""

from itertools import pairwise

import msgspec
import numpy as np

from kickback.laws.keys import PhaseKey
from kickback.motion.clock import EVEN, uneven_share
from kickback.motion.motion import Motion
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.record import Record, replace
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["Pool", "Steps", "inner", "pool_of", "side_name", "sides_of", "steps_of", "stretches_of"]


class Steps(Record, frozen=True, kw_only=True):
    """Steps from one frame to the next, arrays of shape (k,).

    ``v0`` and ``v1``: the speed before and after, length/s, turned so that the push goes
    toward plus. ``dt``: the step that the update used, s. ``row``: the frame it led to.
    ``usual``: the take's usual time step, s.
    """

    v0: FloatArray
    v1: FloatArray
    dt: FloatArray
    row: IntArray
    usual: float

    def __len__(self) -> int:
        """Return the number of steps."""
        return len(self.row)

    @property
    def even(self) -> bool:
        """Whether all the steps last equally long, so that nothing tells frame from second."""
        return uneven_share(self.dt) <= EVEN

    def between(self, start: int, stop: int) -> "Steps":
        """Return the steps ``[start, stop)``."""
        part = slice(start, stop)
        return replace(
            self, v0=self.v0[part], v1=self.v1[part], dt=self.dt[part], row=self.row[part]
        )

    def only(self, keep: BoolArray) -> "Steps":
        """Return the steps that a mask of shape (k,) keeps."""
        if keep.all():
            return self
        return replace(
            self, v0=self.v0[keep], v1=self.v1[keep], dt=self.dt[keep], row=self.row[keep]
        )


class Pool(Record, frozen=True, kw_only=True):
    """Equal phases of a take: their steps, and those at a limit, whose speed does not change.

    ``short``: the steps that end in a limit or at rest, and may have been cut short by it.
    ``every``: all of them, in their order; ``way``: toward which end of the axis each was
    turned, ±1, shape (k,). ``limit`` is the limit that the phase runs into, where it has one;
    ``settles`` whether its speed may come to stay before it ends.
    """

    role: Role
    phase: PhaseKey
    axis: str
    limit: PhaseKey | None
    settles: bool
    every: Steps
    way: FloatArray
    steps: Steps
    short: Steps
    level: Steps


def steps_of(track: Track, motion: Motion) -> Steps:
    """Return all steps of a track, but those that something interrupts."""
    dt = motion.dt
    row = np.arange(1, len(dt))
    steps = Steps(v0=track.v[:-1], v1=track.v[1:], dt=dt[1:], row=row, usual=motion.clock.usual)
    apart = motion.clock.interrupted
    return steps if apart is None else steps.only(~apart[1:])


def side_name(axis: str, way: float) -> str:
    """Return what the side of an axis toward either of its ends is called."""
    return f"toward {'+' if way > 0 else '−'}{axis}"


def sides_of(pool: Pool, track: Track) -> list[Pool]:
    """Return a pool's steps toward either end of the axis as pools of their own."""
    pools = []
    for way in (1.0, -1.0):
        keep = pool.way == way
        if not np.any(keep):
            continue
        side = side_name(pool.axis, way)
        phase = msgspec.structs.replace(pool.phase, side=side)
        limit = None if pool.limit is None else msgspec.structs.replace(pool.limit, side=side)
        pools.append(
            pool_of(
                pool.role,
                phase,
                pool.every.only(keep),
                pool.way[keep],
                track,
                limit=limit,
                settles=pool.settles,
            )
        )
    return pools


def pool_of(
    role: Role,
    phase: PhaseKey,
    steps: Steps,
    way: FloatArray,
    track: Track,
    *,
    limit: PhaseKey | None = None,
    settles: bool = True,
) -> Pool:
    """Split off the steps at a limit, and the one that is cut short by it."""
    change = np.abs(steps.v1 - steps.v0)
    scale = float(np.max(np.abs(steps.v1), initial=0.0))
    level = change <= ARITHMETIC * scale + 2 * track.noise
    follows = np.zeros(len(steps), dtype=bool)
    follows[:-1] = level[1:] & (np.diff(steps.row) == 1)
    short = follows | (steps.v1 == 0)  # the step that ends in the limit, or at rest
    return Pool(
        role=role,
        phase=phase,
        axis=track.axis,
        limit=limit,
        settles=settles,
        every=steps,
        way=way,
        steps=steps.only(~level & ~short),
        short=steps.only(~level & short),
        level=steps.only(level),
    )


def stretches_of(steps: Steps) -> list[tuple[int, int]]:
    """Return the ranges ``[start, stop)`` of steps that follow on each other."""
    cuts = np.flatnonzero(np.diff(steps.row) != 1) + 1
    edges = np.concatenate(([0], cuts, [len(steps)])).tolist()
    return [(a, b) for a, b in pairwise(edges) if b > a]


def inner(steps: Steps) -> Steps:
    """Return steps without the first and last of each stretch, which may be of two rules."""
    row = steps.row
    first = np.diff(row, prepend=-1) != 1
    last = np.diff(row, append=row[-1:] + 2) != 1 if len(row) else first
    return steps.only(~first & ~last)
