"""What interrupts a motion: a freeze, a pause, slow motion, a leap; of any kind of subject.

What one touches is not what the constants of the game make of an input: such occurrences
leave the median.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.motion.segments import BoolArray, IntArray, runs, stretches
from kickback.takes.numeric import median, quantile
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = [
    "CUT_SCENE",
    "HIT_STOP",
    "LEAP",
    "PAUSE",
    "RESPAWN",
    "SLOW_MOTION",
    "Interruption",
    "InterruptionKind",
    "find_interruptions",
    "interrupted_frames",
]

_AXES = ("x", "y", "z")

_FREEZE = 2
"""Frames that stand still in a motion from which it is frozen: one may be a repeat."""

_GRIDS = 2.5
"""Grids that a step must be beside a freeze, for it to be none of rounding."""

_PAUSE = 0.4
"""Seconds from which a freeze is a pause."""

_GAP = 4.0
"""Usual steps from which a frame may hide a pause."""

_AT_LEAST = 0.3
"""Seconds that such a frame lasts at least: a shorter one is a hitch whose step is clamped."""

_ADVANCED = 0.4
"""Share of what its speed makes of a gap that a subject covers, if its game went on."""

_MOVES = 0.05
"""Share of the highest speed from which it moves."""

_ALIKE = (0.5, 2.0)
"""How the speeds before and after a freeze go together."""

_SLOWED = 0.9
"""Share of the usual pace below which a game runs slow."""

_SLOW_FRAMES = 4
"""Frames of slow motion at least: one alone is a step that is clamped."""

_SCALED = 0.7
"""Share of the usual spacing below which frames of a rhythm are scaled."""

_SCALED_FRAMES = 8
"""Frames of such a spacing at least."""

_LOST = 0.004
"""Seconds that slow motion loses at least: more than rounded times do."""

_RHYTHM = 0.7
"""Share of the frames that a take in rhythm has of one length."""

_PACED = 0.05
"""Share by which game time may go with the wall clock's and be it."""


class InterruptionKind(Record, frozen=True, kw_only=True):
    """One way in which a motion is interrupted: its name, and what it is called in a sentence."""

    name: str
    words: str


HIT_STOP = InterruptionKind(name="hit-stop", words="a hit-stop")
PAUSE = InterruptionKind(name="pause", words="a pause")
SLOW_MOTION = InterruptionKind(name="slow-motion", words="slow motion")
RESPAWN = InterruptionKind(name="respawn", words="a respawn")
LEAP = InterruptionKind(name="leap", words="a leap")
CUT_SCENE = InterruptionKind(name="cut-scene", words="a cut scene")


class Interruption(Record, frozen=True, kw_only=True):
    """Frames ``[start, stop)`` that a motion is interrupted in, from ``begin`` to ``end``, s."""

    kind: InterruptionKind
    start: int
    stop: int
    begin: float
    end: float

    @property
    def text(self) -> str:
        """Say what it is and when."""
        return f"{self.kind.words} at {self.begin:.2f} s"


def interrupted_frames(found: Sequence[Interruption], frames: int) -> BoolArray:
    """Return the frames, shape (n,), whose steps no law of the motion made."""
    mask = np.zeros(frames, dtype=bool)
    for one in found:
        mask[one.start : one.stop] = True
    return mask


def find_interruptions(
    take: Take, breaks: IntArray, grids: Mapping[str, float]
) -> list[Interruption]:
    """Return freezes, pauses and slow motion in the order of time, and the leaps at ``breaks``.

    ``grids``: what places were rounded to, by axis.
    """
    t = take.numbers("t")
    frozen = _frozen(take, grids, breaks)
    gaps = _gaps(take) & ~frozen
    slow = _slow(take) & ~frozen & ~gaps
    found = [
        _made(HIT_STOP if t[b - 1] - t[a - 1] < _PAUSE else PAUSE, a, b, t)
        for a, b in stretches(frozen)
    ]
    found += [_made(PAUSE, a, b, t) for a, b in stretches(gaps)]
    found += [_made(SLOW_MOTION, a, b, t) for a, b in stretches(slow)]
    found += [_made(LEAP, int(row), int(row) + 1, t) for row in breaks]
    return sorted(found, key=lambda one: one.start)


def _made(kind: InterruptionKind, start: int, stop: int, t: FloatArray) -> Interruption:
    begin, end = float(t[max(start - 1, 0)]), float(t[stop - 1])
    return Interruption(kind=kind, start=start, stop=stop, begin=begin, end=end)


def _frozen(take: Take, grids: Mapping[str, float], breaks: IntArray) -> BoolArray:
    """Return the frames, shape (n,), that stand still in the middle of a motion.

    Those whose step is 0; and stretches of frames that show one place, where the motion goes
    on behind as it came, under the same input, and no leap makes up for it.
    """
    stopped: BoolArray = take.numbers("dt") == 0
    axes = [axis for axis in _AXES if axis in take]
    places = [take.numbers(axis) for axis in axes]
    still = np.zeros(len(take), dtype=bool)
    still[1:] = np.logical_and.reduce([one[1:] == one[:-1] for one in places])
    a, b = runs(still)
    inside = still[a] & (b - a >= _FREEZE) & (a >= 2) & (b < len(take) - 1)
    leaps = np.searchsorted(breaks, a - 1, side="left") < np.searchsorted(breaks, b, side="right")
    a, b = a[inside & ~leaps], b[inside & ~leaps]
    if not len(a):
        return stopped
    presses = _changes_of_input(take)
    same = presses[b] == presses[a - 1]
    if not same.any():
        return stopped
    grid = np.array([grids.get(axis, 0.0) for axis in axes])
    step = np.diff(np.stack(places), axis=1)
    speed = np.sqrt(np.sum((step / np.diff(take.numbers("t"))) ** 2, axis=0))
    top = quantile(speed, 0.99)
    for begin, end in zip(a[same].tolist(), b[same].tolist(), strict=True):
        stopped[begin:end] |= _goes_on(step, speed, grid, (begin, end), top)
    return stopped


def _changes_of_input(take: Take) -> IntArray:
    """Return how many times an input has changed up to each frame, shape (n,)."""
    changed = np.zeros(len(take), dtype=np.int64)
    for name, column in take.columns.items():
        if name.startswith("in_"):
            changed[1:] += column[1:] != column[:-1]
    return np.cumsum(changed)


def _goes_on(
    step: FloatArray, speed: FloatArray, grid: FloatArray, still: tuple[int, int], top: float
) -> bool:
    """Whether motion goes on behind frames ``[a, b)`` that stand still as it came.

    ``step``: displacements, shape (axes, n − 1), ``speed``, shape (n − 1,), ``grid`` of each axis,
    ``top``: a speed that few frames go beyond.
    """
    a, b = still
    before, after = float(speed[a - 2]), float(speed[b - 1 : b + 1].max())
    if not (before > _MOVES * top and _ALIKE[0] * before < after < _ALIKE[1] * before):
        return False
    clear = np.any(np.abs(step[:, [a - 2, b]]) > _GRIDS * grid[:, None])
    return bool(clear) and float(step[:, a - 2] @ step[:, b]) > 0


def _gaps(take: Take) -> BoolArray:
    """Return the frames, shape (n,), that last far longer than their motion did."""
    n, t = len(take), take.numbers("t")
    spacing = np.diff(t)
    mask = np.zeros(n, dtype=bool)
    long = np.flatnonzero(spacing > max(_GAP * median(spacing), _AT_LEAST)).tolist()
    if not long:
        return mask
    places = np.stack([take.numbers(axis) for axis in _AXES if axis in take])
    moved = np.sqrt(np.sum(np.diff(places, axis=1) ** 2, axis=0))
    for row in long:
        beside = [k for k in (row - 1, row + 1) if 0 <= k < n - 1]
        speed = max((float(moved[k] / spacing[k]) for k in beside), default=0.0)
        reach = speed * float(spacing[row])
        if reach > 0:
            mask[row + 1] = moved[row] < _ADVANCED * reach
        else:
            mask[row + 1] = _waited(take, row)
    return mask


def _waited(take: Take, row: int) -> bool:
    """Whether a long frame of a subject at rest was one step of the game, and none is missing."""
    if "dt" in take.derived or "tick" not in take:
        return False
    t, tick = take.numbers("t"), take.numbers("tick")
    short = take.numbers("dt")[row + 1] < (t[row + 1] - t[row]) / 2
    return bool(short and tick[row + 1] - tick[row] <= 1)


def _slow(take: Take) -> BoolArray:
    """Return the frames, shape (n,), in which the game's time runs slow for a while.

    Its steps are smaller than the spacing of the times, which elsewhere they are not; or both
    are smaller than in the rhythm of the take, where the times are the game's.
    """
    n, t, dt = len(take), take.numbers("t"), take.numbers("dt")
    spacing = np.diff(t, prepend=t[0] - dt[0])
    usual = median(spacing[1:])
    mask = np.zeros(n, dtype=bool)
    pace = dt / np.where(spacing > 0, spacing, 1.0)
    if "dt" not in take.derived and abs(median(pace) - 1) <= _PACED:
        for a, b in stretches((pace < _SLOWED) & (dt > 0)):
            lost = float(np.sum(spacing[a:b] - dt[a:b]))
            mask[a:b] = b - a >= _SLOW_FRAMES and lost > max(usual, _LOST)
    if np.mean(np.abs(spacing / usual - 1) < _PACED) > _RHYTHM:
        for a, b in stretches((spacing < _SCALED * usual) & (spacing > 0)):
            alike = float(np.ptp(spacing[a + 1 : b - 1])) if b - a > 2 else np.inf
            mask[a:b] |= b - a >= _SCALED_FRAMES and alike < _PACED * usual
    return mask
