"""Turns in a plane: presses of another direction while moving, and when the motion follows."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.plane import Plane
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.kinds.foot.steering import turn_between
from kickback.motion.between import crossing, crossing_error
from kickback.motion.segments import BoolArray, IntArray, first_where, runs
from kickback.takes.numeric import ROOT_12
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["ALIGNED", "KEPT", "Turns", "Veered", "radii_of", "turns_of", "veered"]

ALIGNED = 5.0
"""Degrees within which the motion has the direction that was pressed."""

KEPT = 0.9
"""Share of the top speed at which a turn is over."""

_FULL_SPEED = 0.99
"""Share of the top speed from which a turn is entered at full speed."""

_MOST = 0.7
"""Share of a turn's angle that must be turned at one rate for its path to have one radius."""

_EVEN = 0.1
"""Share by which the turning of a curve may vary and be of one radius."""

_FEWEST = 3
"""Frames of a curve that show its radius."""

_SLANT = float(np.tan(np.deg2rad(ALIGNED)))


class Turns(Record, frozen=True, kw_only=True):
    """Full presses of another direction on the ground while moving, arrays of shape (k,).

    Frames ``[press, stop)`` hold it; ``angle`` is that between the motion before and the
    direction, degrees, 0 to 180; ``side`` is ±1 along the line of the press, ``top`` the speed
    that such a press leads to, ``entry`` the speed before, ``fast`` whether it was a top speed.
    """

    press: IntArray
    stop: IntArray
    angle: FloatArray
    side: FloatArray
    top: FloatArray
    entry: FloatArray
    fast: BoolArray


class Veered(Record, frozen=True, kw_only=True):
    """When turns have brought the motion into its direction, arrays of shape (k,), NaN where not.

    ``time`` s, ``resolution`` s. ``wide``, length: how far it went across the line that was
    pressed, or on along it the old way before it came round.
    """

    time: FloatArray
    resolution: FloatArray
    wide: FloatArray


def turns_of(scene: Scene, plane: Plane) -> Turns:
    """Find the turns of a take that goes over a plane."""
    motion, move = scene.motion, scene.motion.inputs.move
    start, stop = runs(motion.inputs.lined)
    before = np.maximum(start - 1, 0)
    moving = np.abs(plane.velocity[before]) > max(motion.rest_speed, plane.slow)
    free = motion.grounded & ~motion.dashing & ~plane.curved
    keep = (start > 0) & (np.abs(move[start]) == 2) & moving & free[before] & free[start]
    start, stop, before = start[keep], stop[keep], before[keep]
    ends = first_where(~free | (np.abs(move) != 2), start, stop)
    stop = np.where(ends >= 0, ends, stop)
    side = np.sign(move[start]).astype(np.float64)
    wanted = plane.line[start] * side
    angle = np.abs(turn_between(plane.velocity[before], wanted))
    old = plane.sector_of(plane.velocity[before])
    entry = np.abs(plane.velocity[before])
    top, was = scene.top_speed(motion.toward(start, side)), scene.top_speed(old)
    with np.errstate(invalid="ignore"):
        fast = entry >= _FULL_SPEED * was - 2 * scene.across.noise
    turned = angle > ALIGNED
    found = Turns(press=start, stop=stop, angle=angle, side=side, top=top, entry=entry, fast=fast)
    return _only(found, turned)


def _only(turns: Turns, keep: BoolArray) -> Turns:
    return Turns(**{name: getattr(turns, name)[keep] for name in Turns.__struct_fields__})


def veered(scene: Scene, plane: Plane, turns: Turns) -> Veered:
    """Return when each turn is over: within 5 degrees of its direction and at 90 % of its speed."""
    many = len(turns.press)
    time, resolution = np.full(many, np.nan), np.full(many, np.nan)
    for odd in (0, 1):  # the frame before a turn is the last of the one before it
        part = np.arange(many) % 2 == odd
        if part.any():
            time[part], resolution[part] = _moments(scene, plane, _only(turns, part))
    return Veered(time=time, resolution=resolution, wide=_wide(scene.motion, plane, turns, time))


def _moments(scene: Scene, plane: Plane, turns: Turns) -> tuple[FloatArray, FloatArray]:
    """Return when turns are over, and how well that is located, shape (k,), s."""
    track, press, n = scene.across, turns.press, len(scene.motion.t)
    along, aside = track.v.copy(), plane.aside.copy()
    along[press - 1], aside[press - 1] = plane.before[press], plane.strayed[press]
    way, goal, over = np.zeros(n), np.full(n, np.nan), np.zeros(n)
    for a, b, side, top, off in zip(
        press.tolist(),
        turns.stop.tolist(),
        turns.side.tolist(),
        turns.top.tolist(),
        plane.strayed[press].tolist(),
        strict=True,
    ):
        way[a - 1 : b], goal[a - 1 : b] = side, KEPT * top
        over[a - 1 : b] = np.sign(off) or 1.0
    rows = np.flatnonzero(way)  # all else is no turn
    forward, slant = np.zeros(n), np.zeros(n)
    reached, aligned = np.zeros(n, dtype=bool), np.zeros(n, dtype=bool)
    onward, across = along[rows] * way[rows], aside[rows]
    forward[rows], slant[rows] = onward, across * over[rows] - _SLANT * onward
    reached[rows] = (np.hypot(onward, across) >= goal[rows]) & (onward > 0)
    aligned[rows] = (np.abs(across) <= _SLANT * onward) & (onward > 0)
    hit = first_where(reached & aligned, press, turns.stop)
    found = hit > 0
    safe = np.where(found, hit, 1)
    first = np.minimum(press - 1, safe - 1)
    back = turns.angle > 90.0  # the way back is of one law, the way to a stand of another
    came = first_where(forward > 0, press, turns.stop)
    first = np.where(back & (came >= 0), np.minimum(came, safe - 1), first)
    late_slant, error_slant = _crossed(scene, slant, safe, np.zeros(len(safe)), first)
    rest = goal[safe] ** 2
    level = np.sqrt(np.maximum(rest - aside[safe] ** 2, 0.0))
    late_speed, error_speed = _crossed(scene, forward, safe, level, first)
    for _ in range(2):  # the speed across the line counts in the speed's length
        there = _between(track.tv, aside, safe, late_speed)
        level = np.sqrt(np.maximum(rest - there**2, 0.0))
        late_speed, error_speed = _crossed(scene, forward, safe, level, first)
    last = safe - 1
    by_slant, by_speed = ~aligned[last], ~reached[last]
    time = np.where(by_speed, late_speed, -np.inf)
    slower = by_slant & (late_slant > time)
    time = np.where(slower, late_slant, time)
    error = np.where(slower, error_slant, error_speed)
    time = np.where(found & np.isfinite(time), time, np.nan)
    return time, np.where(np.isfinite(time), error, np.nan)


def _between(tv: FloatArray, v: FloatArray, hit: IntArray, time: FloatArray) -> FloatArray:
    """Return a speed between the frame before a hit and the hit, at a time, shape (k,)."""
    span = tv[hit] - tv[hit - 1]
    share = np.clip((time - tv[hit - 1]) / np.where(span > 0, span, 1.0), 0.0, 1.0)
    return np.asarray(v[hit - 1] + share * (v[hit] - v[hit - 1]))


def _crossed(
    scene: Scene, v: FloatArray, hit: IntArray, level: FloatArray, first: IntArray
) -> tuple[FloatArray, FloatArray]:
    """Return when speeds reach a level on their way to a frame, and how well that is located."""
    track, clock = scene.across, scene.motion.clock
    of_time, of_speed = clock.grid / ROOT_12, track.printed / ROOT_12
    mixed = track.source == "displacement"
    time, known = crossing(track.tv, v, hit, level, first, mixed=mixed, errors=(of_time, of_speed))
    error = np.zeros(len(hit))
    if of_time or of_speed:
        errors = (of_time, of_speed, KEPT * of_speed)
        error = np.hypot(crossing_error(track.tv, v, hit, level, first, errors), of_time)
    located = scene.moment_resolution(time, known, error)
    if track.rounded:  # windows of so many frames smooth what changes within them
        located = np.maximum(located, (track.window + 1) * scene.motion.step[hit])
    return time, located


def _wide(motion: FootMotion, plane: Plane, turns: Turns, time: FloatArray) -> FloatArray:
    """Return how far turns lead across the line that was pressed, or on the old way, length."""
    place, wide = motion.place, np.full(len(time), np.nan)
    rows = zip(turns.press.tolist(), turns.side.tolist(), turns.angle.tolist(), strict=True)
    for k, (press, side, angle) in enumerate(rows):
        if not np.isfinite(time[k]):
            continue
        stop = int(np.searchsorted(motion.t, time[k])) + 1
        turned = (place[press - 1 : stop] - place[press - 1]) * np.conj(plane.line[press] * side)
        if angle > 180.0 - ALIGNED:
            wide[k] = float(np.max(-turned.real, initial=0.0))
        else:
            wide[k] = abs(float(np.interp(time[k], motion.t[press - 1 : stop], turned.imag)))
    return wide


def radii_of(scene: Scene, plane: Plane, turns: Turns) -> tuple[FloatArray, FloatArray]:
    """Return the radius of each turn's path at full speed, length, NaN without, and its resolution.

    ``Σ|v|·dt / ΣΔangle`` over the frames, three at least, that begin and end at 90 % of the top
    speed and turn at one rate: a path that bends ever more and ever less has no one radius.
    """
    v, step, size = plane.velocity, scene.motion.step, plane.size
    radius, sure = np.full(len(turns.press), np.nan), np.zeros(len(turns.press))
    for k, (press, stop, top) in enumerate(
        zip(turns.press.tolist(), turns.stop.tolist(), turns.top.tolist(), strict=True)
    ):
        rows = np.arange(press, stop)
        least = KEPT * top - NINETY_FIVE * scene.across.noise
        rows = rows[(size[rows] >= least) & (size[rows - 1] >= least)]
        turn = np.abs(np.angle(v[rows] * np.conj(v[rows - 1])))
        pace = turn / step[rows]
        on = pace >= (1 - _EVEN) * float(np.max(pace, initial=0.0))
        quick, angle = rows[on], float(np.sum(turn[on]))
        if len(quick) >= _FEWEST and angle >= _MOST * np.deg2rad(turns.angle[k]):
            radius[k] = float(np.sum(size[quick] * step[quick])) / angle
            sure[k] = radius[k] * float(np.ptp(pace[on])) / float(pace.max())
    return radius, sure
