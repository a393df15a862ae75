"""Throws: what sends a character up, and the arcs that they begin; told apart by where from."""

from bisect import bisect_left
from typing import Any

import numpy as np

from kickback.kinds.foot.fast_fall import fast_falls
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.walls import held_by_walls
from kickback.motion.segments import BoolArray, IntArray, any_within, risings
from kickback.motion.tracks import Track
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = [
    "AIR_JUMP",
    "CEILING",
    "COYOTE_JUMP",
    "DASH_JUMP",
    "GROUND_JUMP",
    "JUMP_GROUPS",
    "JUMP_KINDS",
    "SECOND_AIR_JUMP",
    "WALL_JUMP",
    "JumpKind",
    "Throws",
    "thrown_in_the_air",
    "thrown_up",
    "throws_of",
    "touched_above",
    "usual_loss",
]

_THROWN = 0.3
"""Share of a take's highest rise that a throw in the air gives at once."""

_SOON = 2
"""Frames within which a press in the air shows in the motion."""

_PRESSED = 0.5
"""Usual steps of gravity that a throw beside a press adds at least, where nothing else tells it."""

_SAME_THROW = 0.02
"""Usual steps of gravity by which a throw differs from the steps beside it at least."""

_ROUNDINGS = 4.0
"""Errors of a printed speed beyond which two of them differ."""

_SAME_SPEED = 0.02
"""Share of their speed by which takeoffs of one kind of jump may differ."""

_UNEVEN = 0.25
"""Usual steps of gravity by which they may differ too: frames last unlike times."""

_BUFFERED = 0.35
"""Seconds that a press may wait for the ground, or a held button for its takeoff."""

_AFTER_LEDGE = 0.3
"""Seconds after a ledge within which a jump is one from the ground that is gone."""

_BESIDE = 3
"""Frames within which a wall that was touched, or a dash, is what a throw is from."""

_BOUNCE = 0.9
"""Share of its landing's speed that a throw stays below which is its rebound."""


CEILING = "a ceiling ends its arc"
"""What ends a jump that bumps its head."""

_PULLED = 1e-6
"""Share of the highest speed that a frame loses of it where something pulls."""

_HELD_UP = 4
"""Usual steps of gravity that a rise loses at once where a ceiling stops it."""


class JumpKind(Record, frozen=True, kw_only=True):
    """A kind of jump: the groups of its metrics, its law's phase, and words of what it is.

    ``hop`` is the group of those that letting go of the button cut short.
    """

    group: str
    hop: str
    phase: str
    words: str


def _off_the_ground(name: str, phase: str, words: str) -> JumpKind:
    return JumpKind(group=f"{name}_jump", hop=f"{name}_hop", phase=phase, words=words)


GROUND_JUMP = JumpKind(group="jump", hop="hop", phase="takeoff", words="from the ground")
COYOTE_JUMP = _off_the_ground("coyote", "coyote jump", "in the air, shortly after a ledge")
AIR_JUMP = _off_the_ground("air", "air jump", "in the air, the first of a flight")
SECOND_AIR_JUMP = _off_the_ground("second_air", "third jump", "in the air, the second of a flight")
WALL_JUMP = _off_the_ground("wall", "wall jump", "off a wall")
DASH_JUMP = _off_the_ground("dash", "dash jump", "out of a dash")

JUMP_KINDS = (GROUND_JUMP, COYOTE_JUMP, AIR_JUMP, SECOND_AIR_JUMP, WALL_JUMP, DASH_JUMP)
"""All kinds of jumps; unlike ones are never measured together."""

JUMP_GROUPS = tuple(group for kind in JUMP_KINDS for group in (kind.group, kind.hop))
"""The groups of metrics of all jumps, whole or cut short."""


class Throws(Record, frozen=True, kw_only=True):
    """Jumps of a take, arrays of shape (k,): frames ``[start, stop)`` are those of an arc.

    ``top`` is its highest frame, ``kind`` the place in ``JUMP_KINDS``. ``landed`` says that it
    ends on the ground; ``end`` what ends it otherwise, in words.
    """

    start: IntArray
    stop: IntArray
    top: IntArray
    kind: IntArray
    landed: BoolArray
    end: tuple[str, ...]

    def __len__(self) -> int:
        """Return the number of jumps."""
        return len(self.start)

    def of(self, kind: JumpKind) -> BoolArray:
        """Return which jumps are of a kind, shape (k,)."""
        return np.asarray(self.kind == JUMP_KINDS.index(kind))


def thrown_up(v: FloatArray) -> IntArray:
    """Return the frames in which an upward speed, shape (n,), is thrown up at once."""
    least = _THROWN * float(np.max(v, initial=0.0))
    return np.flatnonzero((np.diff(v) > least) & (v[1:] > least)) + 1


@computed_once
def thrown_in_the_air(motion: FootMotion) -> IntArray:
    """Return the frames in which a flight's subject is thrown up once more, by whatever.

    A large step up of the speed is a throw; one beside a press is, whatever it adds.
    """
    if motion.up is None or motion.up.rounded:
        return np.zeros(0, dtype=np.int64)
    up = thrown_up(motion.up.v)
    inside = ~motion.grounded[up] & ~motion.grounded[up - 1]
    if motion.clock.interrupted is not None:  # behind a freeze it goes on as before
        inside &= ~motion.clock.interrupted[up] & ~motion.clock.interrupted[up - 1]
    up = up[inside & ~np.isin(up, motion.flights.start)]
    return _with(up, _thrown_by_presses(motion, motion.up, up))


def _with(rows: IntArray, others: IntArray) -> IntArray:
    """Return two lists of frames as one, in order, each frame once."""
    every = np.sort(np.concatenate((rows, others)))
    found: IntArray = every[np.diff(every, prepend=-1) > 0]
    return found


def usual_loss(motion: FootMotion) -> float:
    """Return what gravity takes of the upward speed in a usual frame of the air; 0 if unshown."""
    up = motion.up
    if up is None:
        return 0.0
    lost = up.v[:-1] - up.v[1:]
    air = ~motion.grounded[1:] & ~motion.grounded[:-1]
    pulled = air & (lost > _PULLED * float(np.max(np.abs(up.v))))  # not held by a wall or limit
    return median(lost[pulled]) if pulled.any() else 0.0


def _thrown_by_presses(motion: FootMotion, up: Track, known: IntArray) -> IntArray:
    """Return the frames beside a press in the air whose step of the speed is like none beside it.

    A step up is a throw. Where the speed falls less, or more, than in the frames around it, it is
    one if it comes to what a ``known`` throw gives.
    """
    jump, n = motion.inputs.jump, len(motion.t)
    if jump is None or n < 4:
        return np.zeros(0, dtype=np.int64)
    press = risings(jump)
    rows = _with((press[:, None] + np.arange(_SOON + 1)).ravel(), press)
    free = ~motion.grounded & ~motion.dashing
    if motion.clock.interrupted is not None:
        free &= ~motion.clock.interrupted
    rows = rows[(rows >= 2) & (rows < n - 1)]
    rows = rows[free[rows] & free[rows - 1] & free[rows - 2] & jump[rows] & (up.v[rows] > 0)]
    rows = rows[~np.isin(rows, motion.flights.start) & ~np.isin(rows - 1, motion.flights.start)]
    lasts = np.maximum(np.diff(up.tv), ARITHMETIC)
    pace = np.diff(up.v) / lasts
    before, after = pace[rows - 1] - pace[rows - 2], pace[rows - 1] - pace[rows]
    step = lasts[rows - 1]
    both = np.where(before * after > 0, np.minimum(np.abs(before), np.abs(after)), 0.0) * step
    odd = np.where(free[rows + 1], np.sign(before) * both, before * step)
    usual = usual_loss(motion)
    printed = _ROUNDINGS * (up.noise + usual * motion.clock.time_error / np.maximum(step, 1e-9))
    rises = up.v[rows] - up.v[rows - 1] > 0
    sure = rises & (odd > _PRESSED * usual + printed)
    speeds = np.sort(np.concatenate(([-np.inf], up.v[known], up.v[rows[sure]], [np.inf])))
    above = np.searchsorted(speeds, up.v[rows])
    nearest = np.minimum(speeds[above] - up.v[rows], up.v[rows] - speeds[above - 1])
    alike = nearest < printed + _SAME_SPEED * usual
    found: IntArray = rows[sure | (alike & (np.abs(odd) > printed + _SAME_THROW * usual))]
    return found


def touched_above(motion: FootMotion) -> BoolArray:
    """Return the frames, shape (n,), in which a ceiling is touched in the air.

    Where no column says so, a rise that ends at once while the button is down: letting go may
    cut it too.
    """
    n = len(motion.t)
    if "touch_above" in motion.take:
        above: BoolArray = (motion.take.numbers("touch_above") > 0.5) & ~motion.grounded
        return above
    stopped = np.zeros(n, dtype=bool)
    up, jump = motion.up, motion.inputs.jump
    if up is None or jump is None or up.rounded or not len(motion.flights):
        return stopped
    lost, usual = up.v[:-1] - up.v[1:], usual_loss(motion)
    stopped[1:] = ~motion.grounded[1:] & ~motion.grounded[:-1]
    stopped[1:] &= (lost > _HELD_UP * usual) & (up.v[:-1] > _HELD_UP * usual)
    stopped[1:] &= (up.v[1:] <= usual) & jump[1:] & jump[:-1] & ~motion.dashing[1:]
    if motion.clock.interrupted is not None:  # a freeze stops it too
        stopped[1:] &= ~motion.clock.interrupted[1:] & ~motion.clock.interrupted[:-1]
    return stopped


@computed_once
def throws_of(motion: FootMotion) -> Throws:
    """Return the jumps of a take with their arcs.

    An arc ends at the landing, the next throw, a wall that is touched or a dash. Where a
    button is recorded, a throw without one (a rebound, a bounce pad) is no jump.
    """
    found = _Found(motion)
    flights = motion.flights
    air = thrown_in_the_air(motion)
    first = np.searchsorted(air, flights.start, side="right").tolist()
    last = np.searchsorted(air, flights.stop, side="left").tolist()
    parts = zip(flights.start, flights.stop, flights.jump, first, last, strict=True)
    for a, b, jump, low, high in parts:
        found.flight(int(a), int(b), bool(jump), air[low:high].tolist())
    return found.throws()


def _begins(mask: BoolArray) -> list[int]:
    """Return the frames in which what a mask, shape (n,), tells begins."""
    fresh = mask.copy()
    fresh[1:] &= ~mask[:-1]
    begins: list[int] = np.flatnonzero(fresh).tolist()
    return begins


def _slower_than_landed(motion: FootMotion, row: int) -> bool:
    """Whether a takeoff follows a landing at once, and is slower than that."""
    up = motion.up
    if up is None or row <= _SOON or motion.grounded[row - 2]:
        return False
    landing = -float(np.min(up.v[max(0, row - _BESIDE) : row]))
    return landing > 0 and float(up.v[row]) < _BOUNCE * landing


class _TakeoffSpeeds:
    """The speeds with which a take's jumps leave the ground, and with which those in the air do.

    A jump in a flight that began with one, or long after a ledge, is surely one in the air. Where
    a take shows neither, and those shortly after ledges leave with two speeds, the latest is.
    """

    def __init__(self, motion: FootMotion, presses: IntArray) -> None:
        flights, up = motion.flights, motion.up
        self._v = np.zeros(len(motion.t)) if up is None else up.v
        self._noise = 0.0 if up is None else _ROUNDINGS * up.noise
        loss = usual_loss(motion)
        thrown = thrown_in_the_air(motion)
        thrown = thrown[any_within(presses, thrown - _SOON, thrown + 1)]
        of = np.searchsorted(flights.start, thrown, side="right") - 1
        late = motion.begin[thrown] - motion.begin[flights.start[of]]
        self._ground = self._v[flights.start[flights.jump & (flights.start > 0)]]
        air = thrown[flights.jump[of] | (late > _AFTER_LEDGE)]
        self._slack = self._noise + _UNEVEN * loss
        if not len(air) and not len(self._ground) and len(thrown):
            latest = thrown[np.argmax(late)]
            if any(self._off(float(v), self._v[[latest]]) > loss for v in self._v[thrown]):
                air = np.array([latest])
        self._air = self._v[air]
        after = thrown[~np.isin(thrown, air)]
        if not any(self._off(float(v), self._ground) <= 0 for v in self._v[after]):
            self._slack += loss  # gravity acts in the frame of one of them, and not of the other

    def _off(self, v: float, speeds: FloatArray) -> float:
        """Return by how much more than those of one kind a takeoff speed differs from others."""
        nearest = float(np.min(np.abs(speeds - v), initial=np.inf))
        return nearest - _SAME_SPEED * v - self._slack

    def of_the_ground(self, row: int) -> bool:
        """Whether a throw shortly after a ledge is one from the ground that is gone.

        It is none where it leaves with the speed of a jump in the air.
        """
        v = float(self._v[row])
        ground, air = self._off(v, self._ground), self._off(v, self._air)
        if len(self._ground):
            return ground <= 0 and air > ground + self._noise
        return air > 0


class _Found:
    """The jumps of a take, as they are found."""

    def __init__(self, motion: FootMotion) -> None:
        self._motion = motion
        self._rows: list[tuple[int, int, int, int, bool, str]] = []
        self._wall = motion.touches_side
        self._dash = motion.dashing
        self._ends = [
            (_begins(self._wall), "a wall ends its arc", 0),
            (_begins(self._dash), "a dash ends it", 0),
            (_begins(touched_above(motion)), CEILING, 0),
            (_begins(held_by_walls(motion)), "it slides down a wall from there on", 1),
            (
                _begins(fast_falls(motion)),
                "it falls faster from there on, with the stick held down",
                1,
            ),
        ]
        jump = motion.inputs.jump
        self._jump = jump
        self._presses = [] if jump is None else _begins(jump)
        self._like = _TakeoffSpeeds(motion, np.array(self._presses, dtype=np.int64))
        flights = motion.flights
        takeoffs = flights.start[flights.jump].tolist()
        self._bounces = any(
            _slower_than_landed(motion, row) and not (self._pressed(row) or self._waiting(row))
            for row in takeoffs
        )

    def flight(self, start: int, stop: int, jump: bool, thrown: list[int]) -> None:
        """Take up the jumps of one flight, which was ``thrown`` up again at some frames."""
        starts = [start, *thrown] if jump else thrown
        in_the_air = 0
        for number, row in enumerate(starts):
            kind = self._kind(row, start, on_ground=jump and row == start, before=in_the_air)
            if kind is None:
                continue
            in_the_air += kind in {AIR_JUMP, SECOND_AIR_JUMP}
            after = starts[number + 1] if number + 1 < len(starts) else stop
            self._add(row, after, stop, kind)

    def throws(self) -> Throws:
        """Return what was found."""
        columns: list[tuple[Any, ...]] = list(zip(*self._rows, strict=True)) or [()] * 6
        start, stop, top, kind = (np.array(one, dtype=np.int64) for one in columns[:4])
        return Throws(
            start=start,
            stop=stop,
            top=top,
            kind=kind,
            landed=np.array(columns[4], dtype=bool),
            end=tuple(columns[5]),
        )

    def _add(self, row: int, after: int, landing: int, kind: JumpKind) -> None:
        """Take up one jump, whose arc ends before the frame ``after`` at the latest."""
        up = self._motion.up
        if up is None:
            return
        ends = [(after, "" if after == landing else "another throw ends its arc")]
        for begins, words, late in self._ends:
            at = bisect_left(begins, row + 1)
            if at < len(begins) and begins[at] + late < after:
                ends.append((begins[at] + late, words))
        stop, words = min(ends, key=lambda one: one[0])
        top = row + int(np.argmax(up.p[row:stop]))
        self._rows.append((row, stop, top, JUMP_KINDS.index(kind), not words, words))

    def _kind(self, row: int, start: int, *, on_ground: bool, before: int) -> JumpKind | None:
        """Return what kind of jump a throw is; None where it is none."""
        near = slice(max(0, row - _BESIDE), row)
        if on_ground:
            own = self._asked(row, start) and not self._rebounds(row)
            ground = DASH_JUMP if self._dash[near].any() else GROUND_JUMP
            return ground if own else None
        if not self._pressed(row):
            return None
        if self._wall[near].any():
            return WALL_JUMP
        return DASH_JUMP if self._dash[near].any() else self._in_the_air(row, start, before)

    def _in_the_air(self, row: int, start: int, before: int) -> JumpKind:
        """Return which jump of a flight one in the free air is, of which ``before`` were others."""
        motion = self._motion
        off_ledge = not motion.flights.jump[np.searchsorted(motion.flights.start, start)]
        late = float(motion.begin[row] - motion.begin[start])
        if off_ledge and before == 0 and late <= _AFTER_LEDGE and self._like.of_the_ground(row):
            return COYOTE_JUMP
        return AIR_JUMP if before == 0 else SECOND_AIR_JUMP

    def _pressed(self, row: int) -> bool:
        """Whether a recorded button was pressed in a frame, or shortly before."""
        at = bisect_left(self._presses, row - _SOON)
        return at < len(self._presses) and self._presses[at] <= row

    def _asked(self, row: int, start: int) -> bool:
        """Whether the button was held at a takeoff, or pressed shortly before."""
        if self._jump is None:
            return True
        t = self._motion.t
        low = min(int(np.searchsorted(t, t[row] - _BUFFERED)), row - _BESIDE)
        return bool(self._jump[max(0, low) : row + 1].any()) or start == 0

    def _rebounds(self, row: int) -> bool:
        """Whether a takeoff in the frame of a landing is slower than that: thrown by no button.

        One that was asked for before the landing is none, where nothing rebounds by itself.
        """
        if self._pressed(row) or not _slower_than_landed(self._motion, row):
            return False
        return self._bounces or not self._waiting(row)

    def _waiting(self, row: int) -> bool:
        """Whether a button was pressed so shortly before a takeoff that it may be what it asked."""
        begin = float(self._motion.begin[row])
        at = bisect_left(self._presses, row) - 1
        return at >= 0 and begin - float(self._motion.begin[self._presses[at]]) <= _BUFFERED
