"""The ground as a plane: the line that each stretch of input or of sliding goes along.

A side view has one line for good. In a plane each press has the line that it points along, and
each release the one that the subject moved along: on it a run, a stop and a reversal are those
of a side view. What goes on aside of the line is for the measures of turning.
"""

import numpy as np

from kickback.kinds.foot.inputs import DEAD_ZONE, FULL
from kickback.kinds.foot.steering import Complexes, InputAxes, read_axes, turn_between
from kickback.motion.clock import Clock
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take

__all__ = [
    "SIDES",
    "Plane",
    "along_track",
    "aside_track",
    "held_codes",
    "moves_along",
    "read_plane",
    "stick_of",
]

SIDES = 8
"""Directions that are told apart: the four ends of the input's axes and those between."""

_STEADY = 1.0
"""Degrees by which a direction may change from frame to frame and be held."""

_BRIEF = 0.05
"""Seconds below which a direction is one that keys or a stick pass through."""

_PASSED = 60.0
"""Degrees that such a direction is at most from the one after it."""

_LEADS = 0.15
"""Seconds that a direction is held at least for the motion to show where it leads."""

_QUICK = 0.3
"""Share of the highest speed from which a motion shows its direction."""

_SAME = 0.5
"""Degrees between lines that are one."""

_SLIDES = 1e-6
"""Share of a speed by which a slide may go aside of a line and be along it."""

_BENT = 15.0
"""Degrees by which a line may miss where its push leads: as far as dead zones bend a stick."""

_CURVED = 3.0
"""Degrees that a direction held may wander from its middle and be one line."""


_NEARLY = 0.05
"""Share of a speed that may go across a line for a stop or a reversal to be along it."""

_ACROSS = 1e-3
"""Share of the highest speed below which a speed across a line changes nothing along it."""


class Plane(Record, frozen=True, kw_only=True):
    """Motion over a ground of two axes; a direction is a complex number, first axis + i·second.

    Arrays of shape (n,). ``line`` is the direction of the line of each frame, of size 1, and
    ``leg`` the number of its stretch; ``velocity`` the speeds at the tracks' times, ``size`` their
    length, ``wanted`` the input's direction on the ground, of the stick's size, 0 without.
    ``straight`` are those that begin and end along their line.
    ``before`` is the speed before each frame along that frame's own line, ``aside`` that across
    it, ``strayed`` the same before the frame. ``curved`` are frames whose direction wanders.
    ``slow``, length/s: below it a speed across a line is none. ``axes`` are the input's.
    """

    first: Track
    second: Track
    velocity: Complexes
    size: FloatArray
    wanted: Complexes
    line: Complexes
    leg: IntArray
    before: FloatArray
    aside: FloatArray
    strayed: FloatArray
    curved: BoolArray
    straight: BoolArray
    slow: float
    axes: InputAxes

    @property
    def cut(self) -> BoolArray:
        """Return the frames, shape (n,), whose line is another than that of the frame before."""
        fresh = np.zeros(len(self.leg), dtype=bool)
        fresh[1:] = self.leg[1:] != self.leg[:-1]
        return fresh

    @property
    def entered(self) -> BoolArray:
        """Return the frames, shape (n,), before which the motion was along their line, nearly."""
        allowed = np.maximum(self.slow, _NEARLY * np.abs(self.before))
        return np.asarray(np.abs(self.strayed) <= allowed)

    def sector(self, rows: IntArray, way: FloatArray) -> IntArray:
        """Return which of eight directions, seen from the input's axes, ways along lines are.

        ``rows``: frames, ``way``: ±1 along their lines, both of shape (k,). 0 is the first axis's
        plus end; odd numbers are diagonals.
        """
        return self.sector_of(self.line[rows] * way)

    def sector_of(self, direction: Complexes) -> IntArray:
        """Return which of the eight directions each of some over the ground is, shape (k,)."""
        turn = np.exp(-1j * np.deg2rad(self.axes.turned))
        angle = np.rad2deg(np.angle(direction * turn))
        return np.asarray(np.round(angle / (360 / SIDES)).astype(np.int64) % SIDES)


def stick_of(take: Take) -> Complexes | None:
    """Return the stick's direction in its own axes, shape (n,), or None where none was recorded."""
    names = [name for name in ("in_move_x", "in_move_y") if name in take]
    if not names:
        return None
    both = [
        take.numbers(n) if n in take else np.zeros(len(take)) for n in ("in_move_x", "in_move_y")
    ]
    return np.asarray(both[0] + 1j * both[1])


def levels_of(stick: Complexes) -> IntArray:
    """Return how far a stick is pressed, shape (n,): 0 not, 1 in part, 2 all the way."""
    size = np.maximum(np.abs(stick), np.maximum(np.abs(stick.real), np.abs(stick.imag)))
    level = np.where(size >= FULL, 2, np.where(size > DEAD_ZONE, 1, 0))
    return np.asarray(level.astype(np.int64))


class _Held(Record, frozen=True, kw_only=True):
    """Stretches in which a stick is held one way, or not at all; arrays of shape (k,).

    Frames ``[start, stop)``; ``way`` is the direction, 0 where none; ``curved`` that it wanders.
    """

    start: IntArray
    stop: IntArray
    way: Complexes
    curved: BoolArray


def _held(direction: Complexes, t: FloatArray) -> _Held:
    """Return the stretches of one direction, shape (n,) with 0 for none.

    What is passed through on the way to a direction is part of that one.
    """
    pressed = direction != 0
    other = np.flatnonzero(direction[1:] != direction[:-1])  # keys seldom change
    change = np.abs(turn_between(direction[other], direction[other + 1]))
    fresh = other[(pressed[other + 1] != pressed[other]) | (change > _STEADY)]
    start = np.concatenate(([0], fresh + 1)).astype(np.int64)
    stop = np.append(start[1:], len(direction)).astype(np.int64)
    way = np.add.reduceat(direction, start)
    size = np.abs(way)
    way = np.where(size > 0, way / np.where(size > 0, size, 1.0), 0)
    off = np.zeros(len(direction))
    moved = np.concatenate((start, other[~np.isin(other, fresh)] + 1))
    moved = moved[pressed[moved]]
    stretch = np.searchsorted(start, moved, side="right") - 1
    off[moved] = np.abs(turn_between(way[stretch], direction[moved]))
    wander = np.maximum.reduceat(off, start)
    exact = direction[start]  # a key's direction is the same in every frame
    way = np.where(wander < 1e-9, exact, way)
    brief = (t[stop - 1] - t[start] < _BRIEF) & (way != 0)
    way = _passed_through(way, brief)
    return _Held(start=start, stop=stop, way=way, curved=(wander > _CURVED) & ~brief)


def held_codes(take: Take, t: FloatArray) -> IntArray:
    """Return the number of the stretch in which a stick is held one way, shape (n,)."""
    stick = stick_of(take)
    if stick is None:
        return np.zeros(len(t), dtype=np.int64)
    held = _held(_units(stick), t)
    same = np.concatenate(([False], held.way[1:] == held.way[:-1]))
    return np.repeat(np.cumsum(~same), held.stop - held.start)


def _units(stick: Complexes) -> Complexes:
    """Return a stick's directions, of size 1, or 0 where it is not pressed."""
    fresh = np.concatenate(([True], stick[1:] != stick[:-1]))  # keys seldom change
    few = stick[fresh]
    pressed = levels_of(few) > 0
    unit = np.where(pressed, few / np.where(pressed, np.abs(few), 1.0), 0)
    return np.asarray(unit[np.cumsum(fresh) - 1])


def _passed_through(way: Complexes, brief: BoolArray) -> Complexes:
    """Return the directions, shape (k,), brief ones as that which they lead to, or come from."""
    if not brief.any():
        return way
    out = way.copy()
    for k in np.flatnonzero(brief)[::-1].tolist():
        for beside in (k + 1, k - 1):
            if not 0 <= beside < len(way) or out[beside] == 0:
                continue
            if brief[beside] and beside < k:
                continue
            if abs(np.angle(out[beside] * np.conj(way[k]), deg=True)) <= _PASSED:
                out[k] = out[beside]
                break
    return out


def read_plane(take: Take, clock: Clock, first: Track, second: Track, rest: float) -> Plane:
    """Work out the lines of a stretch of frames from its input, or without one from its motion.

    ``rest``, length/s: the speed below which the subject rests.
    """
    velocity = np.asarray(first.v + 1j * second.v)
    stick = stick_of(take)
    axes = InputAxes()
    if stick is None:
        held = _held(_directions(velocity, rest), clock.t)
        wanted = np.zeros(len(velocity), dtype=np.complex128)
    else:
        heading = take.numbers("camera_heading") if "camera_heading" in take else None
        axes = _axes(_held(_units(stick), clock.t), velocity, clock.t, heading)
        wanted = axes.on_ground(np.where(levels_of(stick) > 0, stick, 0), heading)
        held = _held(_units(wanted), clock.t)
    line, leg = _lines(held, velocity, clock.t, max(rest, first.noise, second.noise))
    spun = velocity * np.conj(line)
    earlier = np.concatenate((velocity[:1], velocity[:-1])) * np.conj(line)
    curved = np.repeat(held.curved, held.stop - held.start)
    slow = max(
        rest,
        2 * max(first.noise, second.noise),
        _ACROSS * float(np.max(np.abs(velocity), initial=0.0)),
    )
    off = np.maximum(np.abs(spun.imag), np.abs(earlier.imag))
    return Plane(
        first=first,
        second=second,
        velocity=velocity,
        size=np.abs(velocity),
        wanted=wanted,
        line=line,
        leg=leg,
        before=np.asarray(earlier.real),
        aside=np.asarray(spun.imag),
        strayed=np.asarray(earlier.imag),
        curved=curved,
        straight=np.asarray((off <= slow) & ~curved),
        slow=slow,
        axes=axes,
    )


def _directions(velocity: Complexes, rest: float) -> Complexes:
    """Return the directions of a motion, shape (n,), of size 1; 0 at rest."""
    size = np.abs(velocity)
    moving = size > rest
    return np.asarray(np.where(moving, velocity / np.where(moving, size, 1.0), 0))


def _axes(held: _Held, v: Complexes, t: FloatArray, heading: FloatArray | None) -> InputAxes:
    """Read the input's axes off where the pushes that are held long enough lead."""
    last = held.stop - 1
    lasts = t[last] - t[held.start]
    quick = np.abs(v[last]) > _QUICK * float(np.max(np.abs(v), initial=0.0))
    keep = (held.way != 0) & (lasts >= _LEADS) & quick
    rows = last[keep]
    steer = None if heading is None else heading[rows]
    return read_axes(held.way[keep], v[rows], steer)


def _lines(
    held: _Held, velocity: Complexes, t: FloatArray, slow: float
) -> tuple[Complexes, IntArray]:
    """Return each frame's line and the number of its leg, shape (n,).

    A press has the line that it points along, or the one it leads to where that is near it; a
    release that on which the subject moves; what is along the line before stays on it.
    """
    lines: list[complex] = []
    legs: list[int] = []
    line, leg = _first_line(held), 0
    last = held.stop - 1
    leads = np.where(t[last] - t[held.start] >= _LEADS, velocity[last], 0)
    slides = velocity[np.maximum(held.start - 1, 0)]
    rows = zip(held.way.tolist(), leads.tolist(), slides.tolist(), strict=True)
    for way, lead, slide in rows:
        new, within = line, _SAME
        if way != 0:
            new = _led(way, lead, slow)
        elif abs(slide) > slow:
            new = slide / abs(slide)
            within = float(np.rad2deg(_SLIDES + slow / abs(slide)))
        if _between(line, new) > within:
            line, leg = new, leg + 1
        lines.append(line)
        legs.append(leg)
    frames = held.stop - held.start
    return np.repeat(np.array(lines), frames), np.repeat(np.array(legs, dtype=np.int64), frames)


def _first_line(held: _Held) -> complex:
    pressed = np.flatnonzero(held.way)
    return complex(held.way[pressed[0]]) if len(pressed) else 1.0 + 0j


def _led(way: complex, lead: complex, slow: float) -> complex:
    """Return the line of a push: where it leads, if that is near where it points but not there."""
    if abs(lead) <= slow:
        return way
    off = _between(way, lead)
    onward = (lead * way.conjugate()).real > 0
    return lead / abs(lead) if onward and _SAME < off <= _BENT else way


def _between(one: complex, other: complex) -> float:
    """Return the degrees between two lines, whichever way along them."""
    turn = other * one.conjugate()
    return float(np.rad2deg(abs(np.arctan(turn.imag / turn.real)))) if turn.real else 90.0


def along_track(plane: Plane) -> Track:
    """Return the motion along the lines as a track: its places go on where lines meet."""
    first, second, line = plane.first, plane.second, plane.line
    step = np.diff(first.p) + 1j * np.diff(second.p)
    start = first.p[0] * line[0].real + second.p[0] * line[0].imag
    p = start + np.concatenate(([0.0], np.cumsum((step * np.conj(line[1:])).real)))
    worst = _worse(first, second)
    turns = np.unique(np.abs(np.angle(line[plane.cut | (np.arange(len(line)) == 0)])))
    cos, sin = np.abs(np.cos(turns)), np.abs(np.sin(turns))
    logged = None
    if first.logged is not None and second.logged is not None:
        logged = ((first.logged + 1j * second.logged) * np.conj(line)).real
    return replace(
        worst,
        axis=first.axis + second.axis,
        p=p,
        v=(plane.velocity * np.conj(line)).real,
        logged=logged,
        # on a diagonal both axes are rounded alike: their errors add up
        logged_grid=float(np.max(cos * first.logged_grid + sin * second.logged_grid)),
        quantum=float(np.max(cos * first.quantum + sin * second.quantum)),
        blur=float(np.max(cos * first.blur + sin * second.blur)),
        noise=float(np.max(cos * first.noise + sin * second.noise)),
        window=max(first.window, second.window),
    )


def aside_track(plane: Plane, across: Track) -> Track:
    """Return the motion across the lines as a track; its places start anew with each line."""
    step = np.diff(plane.first.p) + 1j * np.diff(plane.second.p)
    gone = np.concatenate(([0.0], np.cumsum((step * np.conj(plane.line[1:])).imag)))
    fresh = plane.cut.copy()
    fresh[0] = True
    since = np.maximum.accumulate(np.where(fresh, np.arange(len(gone)), 0))
    before = np.maximum(since - 1, 0)
    return replace(across, p=gone - gone[before], v=plane.aside, logged=None, logged_grid=0.0)


def _worse(first: Track, second: Track) -> Track:
    """Return the track whose speed is the less certain; of one that never moves nothing is told."""
    moving = [track for track in (first, second) if np.any(track.v)] or [first]
    order = ("reported", "displacement", "fitted")
    return max(moving, key=lambda track: order.index(track.source))


def moves_along(plane: Plane, stick: Complexes) -> IntArray:
    """Return the input along each frame's line, shape (n,): 0, ±1 in part, ±2 all the way."""
    level = levels_of(stick)
    way = np.sign((plane.wanted * np.conj(plane.line)).real)
    return np.asarray((way * level).astype(np.int64))
