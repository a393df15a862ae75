"""The steps of a motion, sorted by the rule that should be behind them.

A step leads from one frame to the next. Which rule it follows is told by what its update
read: the input, the ground before it, and which way the subject was going.
"""

from itertools import pairwise

import numpy as np

from kickback.motion.analyse import Motion
from kickback.motion.kinematics import Track
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.numeric import typical
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = [
    "Pool",
    "Steps",
    "after_dashes",
    "inner",
    "limit_name",
    "sides_of",
    "stretches_of",
    "thrown_in_the_air",
    "thrown_up",
    "travel_pools",
    "vertical_pools",
]

_LEVEL = 1e-9
_AMOUNTS = 4
"""Partial amounts of a stick that have laws of their own, at most."""

_HELD = 6
"""Steps below which an amount was passed through, not held."""

_THROWN = 0.3
"""Share of a take's highest rise that a jump in the air gives at once."""


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

    def between(self, start: int, stop: int) -> "Steps":
        """Return the steps ``[start, stop)``."""
        part = slice(start, stop)
        return replace(
            self, v0=self.v0[part], v1=self.v1[part], dt=self.dt[part], row=self.row[part]
        )

    def only(self, keep: BoolArray) -> "Steps":
        """Return the steps that a mask of shape (k,) keeps."""
        return replace(
            self, v0=self.v0[keep], v1=self.v1[keep], dt=self.dt[keep], row=self.row[keep]
        )


class Pool(Record, frozen=True, kw_only=True):
    """Equal phases of a take: their steps, and those at a limit, whose speed does not change.

    ``short``: the steps that end in a limit or at rest, and may have been cut short by it.
    ``every``: all of them, in their order; ``way``: toward which end of the axis each was
    turned, ±1, shape (k,).
    """

    track: str
    phase: str
    axis: str
    every: Steps
    way: FloatArray
    steps: Steps
    short: Steps
    level: Steps


def travel_pools(motion: Motion, track: Track) -> list[Pool]:
    """Return the pools of the sideways speed, by phase."""
    steps = _steps(track, motion)
    row = steps.row
    move, before = motion.inputs.move[row], row - 1
    side = np.sign(move)
    brake = (
        motion.inputs.brake[row] if motion.inputs.brake is not None else np.zeros(len(row), bool)
    )
    ground = motion.grounded[before] & motion.grounded[row]
    air = ~motion.grounded[before] & ~motion.grounded[row]
    moving = np.abs(steps.v0) > motion.rest_speed
    crossing = side * steps.v0 < (-motion.rest_speed if track.rounded else 0.0)
    against = (moving & brake) | crossing
    coasting = moving & (side == 0) & ~brake
    full = (np.abs(move) == 2) & ~brake & ~against
    hard = against & (brake | (np.abs(move) == 2))
    bumped = np.zeros(len(row), dtype=bool)
    if "touch_side" in motion.take:
        touch = motion.take.numbers("touch_side") > 0.5
        bumped = touch[row] | touch[before]
    free = ~bumped & ~after_dashes(motion, track)[row]
    axis = "x" if motion.take.header.up[1] != "x" else "y"
    pools = []
    partial = [
        (f"speed-up at {amount:.0%}", pushed & ground, side)
        for amount, pushed in _partial(motion, row, (move != 0) & ~brake & ~against)
    ]
    for phase, mask, turn in (
        ("speed-up", full & ground, side),
        ("coast", coasting & ground, np.sign(steps.v0)),
        ("brake", hard & ground, np.sign(steps.v0)),
        ("speed-up in the air", full & air, side),
        ("brake in the air", hard & air, np.sign(steps.v0)),
        ("coast in the air", coasting & air, np.sign(steps.v0)),
        *partial,
    ):
        keep = mask & free
        if not keep.any():
            continue
        turned = replace(steps, v0=steps.v0 * turn, v1=steps.v1 * turn).only(keep)
        pools.append(_pool("travel", phase, axis, turned, turn[keep], track))
    return pools


def sides_of(pool: Pool, track: Track) -> list[Pool]:
    """Return a pool's steps toward either end of the axis as pools of their own."""
    return [
        _pool(
            pool.track,
            f"{pool.phase} toward {sign}{pool.axis}",
            pool.axis,
            pool.every.only(pool.way == way),
            pool.way[pool.way == way],
            track,
        )
        for sign, way in (("+", 1.0), ("−", -1.0))
        if np.any(pool.way == way)
    ]


def _partial(motion: Motion, row: IntArray, pushed: BoolArray) -> list[tuple[float, BoolArray]]:
    """Return the partial amounts of the stick that are held longest, and the steps at each."""
    if motion.inputs.source != "recorded":
        return []
    partial = pushed & (np.abs(motion.inputs.move[row]) == 1)
    if not partial.any():
        return []
    amount = np.round(np.abs(motion.take.numbers("in_move_x")[row]), 2)
    amounts, counts = np.unique(amount[partial], return_counts=True)
    longest = np.argsort(-counts, kind="stable")[:_AMOUNTS]
    return [
        (float(amounts[k]), partial & (amount == amounts[k]))
        for k in np.sort(longest)
        if counts[k] >= _HELD
    ]


def after_dashes(motion: Motion, track: Track) -> BoolArray:
    """Return the frames, shape (n,), of dashes and of the way back to a speed that input holds.

    The way ends where the input changes or the speed stays; coasting is coasting, also
    from a dash.
    """
    mask = motion.dashing
    if not mask.any():
        return mask
    move, v = motion.inputs.move, track.v
    level = np.abs(np.diff(v, prepend=np.nan)) <= _LEVEL * np.abs(v) + 2 * track.noise
    ends = np.append(motion.dashes.start[1:], len(v))
    for stop, end in zip(motion.dashes.stop.tolist(), ends.tolist(), strict=True):
        if stop >= len(v):
            continue
        mask[stop] = True  # the first step back is of two rules
        other = np.flatnonzero(level[stop:end] | (move[stop:end] != move[stop]))
        if move[stop] != 0:
            mask[stop : stop + int(other[0]) if other.size else end] = True
    return mask


def vertical_pools(motion: Motion, track: Track, apart: BoolArray | None = None) -> list[Pool]:
    """Return the pools of flights: rise and fall, rise apart by the button where it matters.

    ``apart``: frames, shape (n,), whose steps have a rule of their own.
    """
    if not len(motion.flights):
        return []
    steps = _steps(track, motion)
    row = steps.row
    inside = ~motion.grounded[row - 1] & ~motion.grounded[row]
    flights = motion.flights
    inside &= ~np.isin(row, flights.start) & ~np.isin(row, thrown_in_the_air(motion))
    if motion.dashing.any():  # a dash may hold its height; the step out of it is of two rules
        inside &= ~motion.dashing[row] & ~motion.dashing[row - 1]
    if apart is not None:
        inside &= ~apart[row]
    axis = motion.take.header.up[1]
    rising = steps.v0 > 0
    if track.rounded:  # a fitted speed wavers about zero at the top
        rising = np.zeros(len(row), dtype=bool)
        for a, top in zip(flights.start.tolist(), flights.top.tolist(), strict=True):
            rising[max(a - 1, 0) : top] = True
    jump = motion.inputs.jump
    kinds = [("rise", inside & rising), ("fall", inside & ~rising)]
    if jump is not None:
        let_go = jump[row - 1] & ~jump[row]
        inside &= ~(let_go & rising)
        kinds = [
            ("rise", inside & rising & jump[row]),
            ("rise let go", inside & rising & ~jump[row]),
            ("fall", inside & ~rising),
        ]
    return [
        _pool("vertical", phase, axis, steps.only(mask), np.ones(int(mask.sum())), track)
        for phase, mask in kinds
        if mask.any()
    ]


def thrown_up(v: FloatArray) -> IntArray:
    """Return the frames in which an upward speed, shape (n,), is thrown up at once."""
    least = _THROWN * float(np.max(v, initial=0.0))
    return np.flatnonzero((np.diff(v) > least) & (v[1:] > least)) + 1


def thrown_in_the_air(motion: Motion) -> IntArray:
    """Return the frames in which a flight's subject is thrown up once more."""
    if motion.up is None or motion.up.rounded or motion.inputs.jump is None:
        return np.zeros(0, dtype=np.int64)
    jump, up = motion.inputs.jump, thrown_up(motion.up.v)
    inside = ~motion.grounded[up] & ~motion.grounded[up - 1]
    pressed = jump[up] | jump[np.maximum(up - 1, 0)]
    return up[inside & pressed & ~np.isin(up, motion.flights.start)]


def _steps(track: Track, motion: Motion) -> Steps:
    """Return all steps of an axis."""
    dt = motion.dt
    row = np.arange(1, len(dt))
    return Steps(v0=track.v[:-1], v1=track.v[1:], dt=dt[1:], row=row, usual=typical(dt[1:]))


def _pool(track: str, phase: str, axis: str, steps: Steps, way: FloatArray, motion: Track) -> Pool:
    """Split off the steps at a limit, and the one that is cut short by it."""
    change = np.abs(steps.v1 - steps.v0)
    scale = float(np.max(np.abs(steps.v1), initial=0.0))
    level = change <= _LEVEL * scale + 2 * motion.noise
    follows = np.zeros(len(steps), dtype=bool)
    follows[:-1] = level[1:] & (np.diff(steps.row) == 1)
    short = follows | (steps.v1 == 0)  # the step that ends in the limit, or at rest
    return Pool(
        track=track,
        phase=phase,
        axis=axis,
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


def limit_name(phase: str) -> str:
    """Return the name of the limit that a phase runs into, or nothing."""
    if phase.startswith("speed-up"):
        return phase.replace("speed-up", "cruise")
    return "terminal" if phase == "fall" else ""
