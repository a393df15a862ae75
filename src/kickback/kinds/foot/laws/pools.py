"""The steps of a character on foot, sorted by the rule that should be behind them.

Which rule a step follows is told by what its update read: the input, the ground before it,
and which way the subject was going.
"""

import msgspec
import numpy as np

from kickback.kinds.foot.delays import Spans, lagging, locked_off_walls
from kickback.kinds.foot.fast_fall import fast_falls
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.throws import thrown_in_the_air
from kickback.kinds.foot.walls import at_wall
from kickback.laws.keys import PhaseKey
from kickback.laws.steps import Pool, Steps, pool_of, steps_of
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.record import replace
from kickback.takes.tolerances import ARITHMETIC

__all__ = [
    "FAST_FALL",
    "IN_THE_AIR",
    "ON_A_SLOPE",
    "WALL_SLIDE",
    "after_dashes",
    "directions_of",
    "travel_pools",
    "vertical_pools",
]

IN_THE_AIR = "in the air"
ON_A_SLOPE = "on a slope"
STRAIGHT, DIAGONAL = "straight", "diagonal"
"""Sides of phases over a plane: along the input's axes, and between them."""

WALL_SLIDE = PhaseKey("wall slide")
FAST_FALL = PhaseKey("fall", part="held down")
FAST_LIMIT = PhaseKey("terminal", part="held down")
_LIMITS = {
    PhaseKey("fall"): PhaseKey("terminal"),
    FAST_FALL: FAST_LIMIT,
    WALL_SLIDE: PhaseKey("wall slide", part="speed"),
}

_AMOUNTS = 4
"""Partial amounts of a stick that have laws of their own, at most."""

_HELD = 6
"""Steps below which an amount was passed through, not held."""


def travel_pools(motion: FootMotion, track: Track) -> list[Pool]:
    """Return the pools of the sideways speed, by phase."""
    steps = steps_of(track, motion)
    row, plane = steps.row, motion.plane
    if plane is not None:  # a line begins with the speed along itself
        steps = replace(steps, v0=np.where(plane.cut[row], plane.before[row], steps.v0))
    steps = _on_what_moves(motion, steps)
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
    touch = motion.touches_side
    bumped = touch[row] | touch[before]
    free = ~bumped & ~after_dashes(motion, track)[row] & ~_unread(motion, track)[row]
    free &= ~_stepped_over(motion, track)[row]
    if plane is not None:  # what goes on across a line is of a rule for both axes
        free &= plane.straight[row]
    sloped = motion.footing.sloped[row] | motion.footing.sloped[before]
    ground, on_slope = ground & ~sloped, ground & sloped & ~motion.footing.moving[row]
    pools = []
    partial = [
        (PhaseKey("speed-up", amount=amount), pushed & ground, side)
        for amount, pushed in _partial(motion, row, (move != 0) & ~brake & ~against)
    ]
    for phase, mask, turn in (
        (PhaseKey("speed-up"), full & ground, side),
        (PhaseKey("coast"), coasting & ground, np.sign(steps.v0)),
        (PhaseKey("brake"), hard & ground, np.sign(steps.v0)),
        (PhaseKey("speed-up", medium=ON_A_SLOPE), full & on_slope, side),
        (PhaseKey("coast", medium=ON_A_SLOPE), coasting & on_slope, np.sign(steps.v0)),
        (PhaseKey("speed-up", medium=IN_THE_AIR), full & air, side),
        (PhaseKey("brake", medium=IN_THE_AIR), hard & air, np.sign(steps.v0)),
        (PhaseKey("coast", medium=IN_THE_AIR), coasting & air, np.sign(steps.v0)),
        *partial,
    ):
        keep = mask & free
        if not keep.any():
            continue
        turned = replace(steps, v0=steps.v0 * turn, v1=steps.v1 * turn).only(keep)
        limit = msgspec.structs.replace(phase, base="cruise") if phase.base == "speed-up" else None
        pools.append(pool_of(ACROSS, phase, turned, turn[keep], track, limit=limit))
    return pools


def _on_what_moves(motion: FootMotion, steps: Steps) -> Steps:
    """Return steps with speeds relative to what is stood on, in a side view."""
    carried = motion.footing.carried
    if carried is None or motion.plane is not None:
        return steps
    belt = np.where(motion.footing.moving, carried.real, 0.0)
    return replace(steps, v0=steps.v0 - belt[steps.row - 1], v1=steps.v1 - belt[steps.row])


def _stepped_over(motion: FootMotion, track: Track) -> BoolArray:
    """Return the frames, shape (n,), around a step on or off what moves: of two rules.

    Whole stretches of fitted speeds know nothing of what moves under them.
    """
    moving = motion.footing.moving
    if track.rounded:
        return moving
    on_or_off = np.concatenate(([False], moving[1:] != moving[:-1]))
    return on_or_off | np.concatenate(([False], on_or_off[:-1]))


def _unread(motion: FootMotion, track: Track) -> BoolArray:
    """Return the frames, shape (n,), in which a lag or a jump off a wall locks the input out."""
    mask = np.zeros(len(track.v), dtype=bool)
    if motion.up is None or motion.inputs.source != "recorded" or track.rounded:
        return mask
    waits: tuple[Spans, ...] = (lagging(motion, track), locked_off_walls(motion, track))
    for start, stop in waits:
        for a, b in zip(start.tolist(), stop.tolist(), strict=True):
            mask[a:b] = True
    return mask


def directions_of(motion: FootMotion, track: Track, pool: Pool) -> list[Pool]:
    """Return a pool's steps along the input's axes, and those between them, as pools."""
    if motion.plane is None:
        return []
    odd = motion.plane.sector(pool.every.row, pool.way) % 2 == 1
    pools = []
    for side, keep in ((STRAIGHT, ~odd), (DIAGONAL, odd)):
        if not keep.any():
            continue
        limit = pool.limit and msgspec.structs.replace(pool.limit, side=side)
        phase = msgspec.structs.replace(pool.phase, side=side)
        every = pool.every.only(keep)
        pools.append(
            pool_of(
                pool.role,
                phase,
                every,
                pool.way[keep],
                track,
                limit=limit,
                settles=pool.settles,
            )
        )
    return pools


def _partial(motion: FootMotion, row: IntArray, pushed: BoolArray) -> list[tuple[float, BoolArray]]:
    """Return the partial amounts of the stick that are held longest, and the steps at each."""
    if motion.inputs.source != "recorded":
        return []
    partial = pushed & (np.abs(motion.inputs.move[row]) == 1)
    if not partial.any():
        return []
    amount = np.round(motion.amount[row], 2)
    amounts, counts = np.unique(amount[partial], return_counts=True)
    longest = np.argsort(-counts, kind="stable")[:_AMOUNTS]
    return [
        (float(amounts[k]), partial & (amount == amounts[k]))
        for k in np.sort(longest)
        if counts[k] >= _HELD
    ]


def after_dashes(motion: FootMotion, track: Track) -> BoolArray:
    """Return the frames, shape (n,), of dashes and of the way back to a speed that input holds.

    The way ends where the input changes or the speed stays; coasting is coasting, also
    from a dash.
    """
    mask = motion.dashing
    if not mask.any():
        return mask
    move, v = motion.inputs.move, track.v
    level = np.abs(np.diff(v, prepend=np.nan)) <= ARITHMETIC * np.abs(v) + 2 * track.noise
    ends = np.append(motion.dashes.start[1:], len(v))
    for stop, end in zip(motion.dashes.stop.tolist(), ends.tolist(), strict=True):
        if stop >= len(v):
            continue
        mask[stop] = True  # the first step back is of two rules
        other = np.flatnonzero(level[stop:end] | (move[stop:end] != move[stop]))
        if move[stop] != 0:
            mask[stop : stop + int(other[0]) if other.size else end] = True
    return mask


def vertical_pools(motion: FootMotion, track: Track, apart: BoolArray | None = None) -> list[Pool]:
    """Return the pools of flights: rise and fall, rise apart by the button where it matters.

    ``apart``: frames, shape (n,), whose steps have a rule of their own.
    """
    if not len(motion.flights):
        return []
    steps = steps_of(track, motion)
    row = steps.row
    inside = ~motion.grounded[row - 1] & ~motion.grounded[row]
    flights = motion.flights
    inside &= ~np.isin(row, flights.start) & ~np.isin(row, thrown_in_the_air(motion))
    if motion.dashing.any():  # a dash may hold its height; the step out of it is of two rules
        inside &= ~motion.dashing[row] & ~motion.dashing[row - 1]
    if apart is not None:
        inside &= ~apart[row]
    beside = at_wall(motion)
    slides = inside & beside[row] & beside[row - 1] & (steps.v0 <= 0)
    inside &= ~beside[row] & ~beside[row - 1]
    rising = steps.v0 > 0
    if track.rounded:  # a fitted speed wavers about zero at the top
        rising = np.zeros(len(row), dtype=bool)
        for a, top in zip(flights.start.tolist(), flights.top.tolist(), strict=True):
            rising[max(a - 1, 0) : top] = True
    jump, fast = motion.inputs.jump, fast_falls(motion)
    held_down = inside & ~rising & fast[row] & fast[row - 1]
    inside &= rising | ~(fast[row] | fast[row - 1])
    rise, let_go_of, fall = PhaseKey("rise"), PhaseKey("rise", part="let go"), PhaseKey("fall")
    kinds = [(rise, inside & rising), (fall, inside & ~rising)]
    if jump is not None:
        let_go = jump[row - 1] & ~jump[row]
        inside &= ~(let_go & rising)
        kinds = [
            (rise, inside & rising & jump[row]),
            (let_go_of, inside & rising & ~jump[row]),
            (fall, inside & ~rising),
        ]
    kinds += [(FAST_FALL, held_down), (WALL_SLIDE, slides)]
    return [
        pool_of(
            UP,
            phase,
            steps.only(mask),
            np.ones(int(mask.sum())),
            track,
            limit=_LIMITS.get(phase),
            settles=phase in _LIMITS,
        )
        for phase, mask in kinds
        if mask.any()
    ]
