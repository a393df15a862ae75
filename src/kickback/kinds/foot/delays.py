"""What waits: squats before takeoffs, lags after landings, hangs after ledges, locks off walls."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.throws import GROUND_JUMP, WALL_JUMP, Throws, throws_of
from kickback.motion.segments import BoolArray, IntArray, first_where, risings
from kickback.motion.tracks import Track
from kickback.takes.numeric import quantile
from kickback.takes.tolerances import ARITHMETIC

__all__ = [
    "Spans",
    "asked_by",
    "falls_after",
    "hangs_of",
    "lagging",
    "lags_of",
    "locked_off_walls",
    "squats_of",
]

_WAITS = 0.5
"""Seconds that a press may be before the takeoff that it asked for."""

_THERE = 0.99
"""Share of the top speed at which a run is free after a landing."""

_ABOVE = 1.001
"""Share of the top speed beyond which a landing's speed falls to it by itself."""

_GROWS = 1e-6
"""Share of the top speed that a run grows by in a frame: more than arithmetic leaves."""

_ANSWERS = 1e-6
"""Share of a speed that changes where an input is read."""

_ALIKE = 2.5
"""Frames by which lags may differ and be of one timer."""

Spans = tuple[IntArray, IntArray]
"""Frames ``[start, stop)`` of each of some waits, shape (k,)."""


def asked_by(motion: FootMotion, start: IntArray) -> IntArray:
    """Return the frame of the press on the ground that asked for takeoffs ``start``, or -1."""
    jump, none = motion.inputs.jump, np.full(len(start), -1, dtype=np.int64)
    press = none if jump is None else risings(jump)
    if jump is None or not len(press):
        return none
    at = np.searchsorted(press, start, side="right") - 1
    row = press[np.maximum(at, 0)]
    stood = np.concatenate(([0], np.cumsum(~motion.grounded)))
    fine = (at >= 0) & (stood[start] == stood[np.maximum(row - 1, 0)])
    fine &= motion.begin[start] - motion.begin[row] <= _WAITS
    return np.where(fine, row, -1)


def squats_of(motion: FootMotion) -> Spans:
    """Return the frames from each press on the ground until the takeoff that it asked for."""
    throws = throws_of(motion)
    start = throws.start[throws.of(GROUND_JUMP)]
    row = asked_by(motion, start)
    return row[row >= 0], start[row >= 0]


def lags_of(motion: FootMotion, track: Track, rows: IntArray, top: float) -> Spans:
    """Return the frames after landings ``rows`` in which a direction held through them waits.

    ``top``: the top speed. ``stop`` is the first frame that speeds up or runs at it, -1 where
    that is not to be seen: nothing held, a wall, or faster than the top speed.
    """
    n = len(motion.t)
    row = np.minimum(rows, n - 1)
    move, lined = motion.inputs.move, motion.inputs.lined
    held = (rows < n) & (np.abs(move[row]) == 2) & (row > 0)
    held &= (lined[row] == lined[row - 1]) & motion.straight[row]
    along, before = track.v * np.sign(move), motion.before * np.sign(move)
    grows = along - before > _GROWS * top + 2 * track.noise
    keeps = (along >= _THERE * top) & (along >= before - _GROWS * top - 2 * track.noise)
    ends = np.append(np.flatnonzero(np.diff(lined) != 0) + 1, n)
    until = ends[np.searchsorted(ends, row, side="right")]
    free = first_where(grows | keeps, row + 1, until)
    blocked = np.abs(motion.before[row]) <= motion.rest_speed
    dipped = before[np.maximum(free, 0)] < _THERE * top - 2 * track.noise
    slower = along[row] <= _ABOVE * top + 2 * track.noise
    known = held & (slower | dipped) & ~blocked
    return row + 1, np.where(known, free, -1)


def lagging(motion: FootMotion, track: Track) -> Spans:
    """Return the frames of landing lags that are of one timer; none where they are not."""
    none = np.zeros(0, dtype=np.int64)
    fit = motion.inputs.source == "recorded" and not track.rounded
    rows = motion.flights.stop[motion.flights.jump]
    ground = motion.grounded & ~motion.dashing & (np.abs(motion.inputs.move) == 2)
    if not fit or not len(rows) or not ground.any():
        return none, none
    start, stop = lags_of(motion, track, rows, quantile(motion.size[ground], 0.99))
    start, stop = start[stop >= 0], stop[stop >= 0]
    if not len(start) or np.any(stop == start):
        return none, none
    lasts = motion.begin[stop] - motion.begin[start]
    return (none, none) if np.ptp(lasts) > _ALIKE * motion.clock.usual else (start, stop)


def falls_after(up: Track, a: int, b: int) -> int:
    """Return the first frame that falls of a flight ``[a, b)`` off a ledge, or -1."""
    level = float(up.p[a - 1])
    drop = level - up.p[a:b]
    if drop.max(initial=0.0) <= 2 * up.quantum + ARITHMETIC * abs(level):
        return -1
    falls: BoolArray = drop > up.quantum + ARITHMETIC * float(drop.max())
    if up.source == "reported":  # a place may follow a frame later, or more if it is rounded
        falls = falls | (up.v[a:b] < -2 * up.noise - ARITHMETIC * float(np.max(np.abs(up.v))))
    return a + int(np.flatnonzero(falls)[0])


def hangs_of(motion: FootMotion, up: Track) -> Spans:
    """Return the frames after each ledge in which it does not fall yet, the first one apart."""
    flights = motion.flights
    pairs = [
        (a + 1, falls_after(up, a, b))
        for a, b, jumped in zip(
            flights.start.tolist(), flights.stop.tolist(), flights.jump.tolist(), strict=True
        )
        if not jumped and a > 0
    ]
    start, stop = np.array([p for p in pairs if p[1] >= p[0]], dtype=np.int64).reshape(-1, 2).T
    return start, stop


def locked_off_walls(motion: FootMotion, track: Track, throws: Throws | None = None) -> Spans:
    """Return the frames ``[start, stop)`` of jumps off walls that do not read the input.

    Input toward the wall that is held from the takeoff on shows their end: it slows. Shape
    (k,), of jumps that show it. ``throws``: all jumps, where they are known already.
    """
    throws = throws_of(motion) if throws is None else throws
    pairs, move = [], motion.inputs.move
    for k in np.flatnonzero(throws.of(WALL_JUMP)).tolist():
        start, stop = int(throws.start[k]), int(throws.stop[k])
        side = float(np.sign(track.v[start]))
        until = np.flatnonzero(move[start:stop] * side >= 0)
        end = start + int(until[0]) if until.size else stop
        v = track.v[start:end] * side
        slower = np.flatnonzero(np.diff(v) < -_ANSWERS * abs(v[:1].sum()) - 2 * track.noise)
        if end - start >= 2 and slower.size:
            pairs.append((start, start + 1 + int(slower[0])))
    first, last = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
    return first, last
