"""Pushes and releases on the ground: where they begin and end, and the speed they settle at."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.walls import bumps
from kickback.motion.segments import BoolArray, IntArray, first_where, last_where, runs
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "Plateaus",
    "Pushes",
    "Releases",
    "plateaus_of",
    "pushes_of",
    "releases_of",
]

_SUMS = 1e-9
"""Share of a time by which sums of steps miss it."""

_FULL_WITHIN = 0.1
"""Seconds within which a stick must be all the way, for a push to be a full one."""


_NOT_FREE = 2
"""A number that is none of a side along a line."""


class Plateaus(Record, frozen=True, kw_only=True):
    """Stretches of full input on the ground, arrays of shape (k,).

    Frames ``[start, stop)``; ``speed`` is what the stretch settles at (NaN where it does
    not), held from frame ``settled`` on; ``side`` is the direction along the line, ±1, and
    ``toward`` a number for the direction over the ground.
    """

    start: IntArray
    stop: IntArray
    side: FloatArray
    toward: IntArray
    speed: FloatArray
    settled: IntArray


class Pushes(Record, frozen=True, kw_only=True):
    """Presses of one direction, arrays of shape (k,); held in the first frame is no press.

    Frames ``[press, stop)`` read the press and stay on the ground. ``entry`` is the
    speed along the push just before it, across which there is next to none; ``full`` whether
    the stick went all the way; ``plateau`` the index of the push's plateau stretch, or -1.
    """

    press: IntArray
    stop: IntArray
    side: FloatArray
    toward: IntArray
    entry: FloatArray
    full: BoolArray
    plateau: IntArray


class Releases(Record, frozen=True, kw_only=True):
    """Stretches ``[start, stop)`` of slowing down, arrays of shape (k,).

    ``entry`` is the signed speed just before, ``toward`` a number for its direction; ``cause``
    says what ends each: ``input``, ``air``, a ``wall``, ``ground`` that slopes or
    moves, a ``dash``, or the ``end`` of the take.
    """

    start: IntArray
    stop: IntArray
    entry: FloatArray
    toward: IntArray
    cause: tuple[str, ...]


def plateaus_of(motion: FootMotion, track: Track) -> Plateaus:
    """Find where full input settles at a speed: at least 0.2 s within 0.1 % at its end.

    The speed is the median over the later half of that time (at least 0.2 s of it); with
    rounded positions the slope of a line through them. Both numbers are the motion's
    thresholds.
    """
    inputs, least = motion.inputs, motion.options.plateau_time
    free = motion.grounded & (np.abs(inputs.move) == 2) & ~motion.dashing & motion.footing.plain
    if inputs.brake is not None:
        free &= ~inputs.brake
    every = runs(np.where(free, inputs.lined, _NOT_FREE))
    keep = free[every[0]]
    start, stop = every[0][keep], every[1][keep]
    side = np.sign(inputs.move[start]).astype(np.float64)
    last = _last_speeds(motion, track, start, stop)
    final = np.repeat(np.where(keep, 0.0, np.nan), every[1] - every[0])
    final[~np.isnan(final)] = np.repeat(last, stop - start)
    change = motion.options.plateau_change
    off = np.abs(track.v - final) > change * np.abs(final) + 2 * track.noise
    if motion.plane is not None:
        off |= ~motion.plane.straight
    if track.rounded:
        for b in stop.tolist():
            off[b - track.window - 1 : b] = False  # cut-off windows are noisy
    settled = np.where((away := last_where(off, start, stop)) < 0, start, away + 1)
    lasts = motion.t[np.maximum(stop - 1, 0)] - motion.begin[np.minimum(settled, stop - 1)]
    sound = (lasts >= least * (1 - _SUMS)) & (settled < stop)
    sound &= last * side > motion.rest_speed
    speed = np.full(len(start), np.nan)
    late = motion.t[np.maximum(stop - 1, 0)] - np.maximum(least, lasts / 2) * (1 + _SUMS)
    late_rows = np.maximum(np.searchsorted(motion.t, late), settled)
    for k in np.flatnonzero(sound & ~_level(track, late_rows, stop, speed)).tolist():
        a, b = int(late_rows[k]), int(stop[k])
        speed[k] = _settled_speed(motion, track, a, b)
    speed = np.where(sound, speed * side, np.nan)
    toward = motion.toward(start, side)
    return Plateaus(start=start, stop=stop, side=side, toward=toward, speed=speed, settled=settled)


def _level(track: Track, start: IntArray, stop: IntArray, speed: FloatArray) -> BoolArray:
    """Return which ranges hold one speed to the last digit, and put that into ``speed``.

    Clamped speeds do, and need no median.
    """
    none = np.zeros(len(start), dtype=bool)
    if track.rounded or not len(start):
        return none
    v = np.append(track.v, np.nan)  # so that a range may end with the take
    edges = np.stack((np.minimum(start, stop - 1), stop), axis=1).ravel()
    highest, lowest = np.maximum.reduceat(v, edges)[::2], np.minimum.reduceat(v, edges)[::2]
    level: BoolArray = highest == lowest
    speed[level] = highest[level]
    return level


def _last_speeds(motion: FootMotion, track: Track, start: IntArray, stop: IntArray) -> FloatArray:
    """Return the speed at the end of each range; over a plateau's time where it is fitted."""
    if not track.rounded:
        return track.v[stop - 1]
    since = motion.t[stop - 1] - motion.options.plateau_time
    low = np.maximum(start, np.searchsorted(motion.t, since))
    return np.array(
        [
            _settled_speed(motion, track, a, b) if b - a > 1 else 0.0
            for a, b in zip(low.tolist(), stop.tolist(), strict=True)
        ]
    )


def _settled_speed(motion: FootMotion, track: Track, a: int, b: int) -> float:
    if track.rounded:
        t = motion.t[a:b] - motion.t[a:b].mean()
        return float(np.sum(t * track.p[a:b]) / np.sum(t * t))
    return median(track.v[a:b])


def pushes_of(motion: FootMotion, plateaus: Plateaus) -> Pushes:
    """Find the presses of a direction that the take shows from their start."""
    move = motion.inputs.move
    side = np.sign(move)
    start, stop = runs(motion.inputs.lined)
    keep = (side[start] != 0) & (start > 0) & motion.entered[start]
    start, stop = start[keep], stop[keep]
    plain = motion.footing.plain
    air = first_where(~motion.grounded | motion.dashing | ~plain, start, stop)
    stop = np.where(air >= 0, air, stop)
    keep = (stop > start) & motion.grounded[start - 1]
    start, stop = start[keep], stop[keep]
    first_full = first_where(np.abs(move) == 2, start, stop)
    soft = last_where(np.abs(move) == 1, start, stop)
    quick = motion.begin[np.maximum(first_full, 0)] - motion.begin[start] <= _FULL_WITHIN
    full = (first_full >= 0) & quick & (soft < first_full)
    at = np.searchsorted(plateaus.start, first_full)
    inside = full & (at < len(plateaus.start))
    inside[inside] = plateaus.start[at[inside]] < stop[inside]
    way = side[start].astype(np.float64)
    return Pushes(
        press=start,
        stop=stop,
        side=way,
        toward=motion.toward(start, way),
        entry=motion.before[start] * way,
        full=full,
        plateau=np.where(inside, at, -1),
    )


def releases_of(motion: FootMotion, *, braking: bool) -> Releases:
    """Find coasting (input let go) or braking (opposite or brake input) while moving."""
    inputs = motion.inputs
    side = np.sign(inputs.move)
    brake = inputs.brake if inputs.brake is not None else np.zeros(len(side), dtype=bool)
    lined = inputs.lined
    start, stop = runs(2 * lined + brake)
    keep = (start > 0) & motion.entered[start]
    start, stop = start[keep], stop[keep]
    before = motion.before[start]
    moving = (np.abs(before) > motion.rest_speed) & motion.grounded[start - 1]
    if braking:
        pressed = brake[start] | (side[start] * before < 0)
        kind = pressed & ~brake[start - 1] & (lined[start - 1] != lined[start])
    else:
        kind = (side[start] == 0) & ~brake[start] & ~brake[start - 1]
    plain = motion.footing.plain
    keep = moving & kind & plain[start] & plain[start - 1]
    start, stop = start[keep], stop[keep]
    stop, cause = _ended(motion, start, stop)
    entry = motion.before[start]
    return Releases(
        start=start,
        stop=stop,
        entry=entry,
        toward=motion.toward(start, np.sign(entry)),
        cause=cause,
    )


def _ended(motion: FootMotion, start: IntArray, stop: IntArray) -> tuple[IntArray, tuple[str, ...]]:
    """Return where stretches ``[start, stop)`` of slowing down end, and what ends each."""
    cause = np.where(stop == len(motion.t), "end", "input").astype(object)
    for what, mask in (
        ("air", ~motion.grounded),
        ("wall", motion.touches_side | bumps(motion)),
        ("ground", ~motion.footing.plain),
        ("dash", motion.dashing),
    ):
        row = first_where(mask, start, stop)
        cause = np.where(row >= 0, what, cause)
        stop = np.where(row >= 0, row, stop)
    return stop, tuple(cause.tolist())
