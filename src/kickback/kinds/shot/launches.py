"""When shots are launched, under which press and in which bursts: over a whole take."""

import itertools
from typing import Any, NamedTuple

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.shot.motion import FEWEST, PAUSED
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.numeric import least_at, median
from kickback.takes.take import FloatArray

__all__ = ["ROUNDED", "Bursts", "Launches", "bursts_of", "launches_of", "timer_of", "waits_of"]

_WORDS = ("fire", "fired", "shot", "shoot", "launch", "launched")
"""Words in the column ``event`` that mean a launch."""

ROUNDED = "rounded"
"""The clock of a timer that begins anew with each launch, in frames that last unlike."""

_LONGER = 1.5
"""Times the gaps of a burst that the wait after it lasts at least."""

_APART = 2.0
"""Frames by which it is longer at least: more than rounding up to frames makes of one wait."""

_ALIKE = 0.2
"""Share by which gaps of one sort may differ beside a frame."""


class Launches(NamedTuple):
    """Launches in order, arrays of shape (k,): frames, times, s, and the step of their frames.

    ``pressed``: when the press before each began, NaN where another launch came since; None where
    no button was recorded. ``held``, shape (k − 1,): whether the next came under the same press;
    without a button, whether the log goes on in between.
    ``idle``: presses that no launch answers, s.
    """

    row: IntArray
    time: FloatArray
    step: FloatArray
    pressed: FloatArray | None
    held: BoolArray
    idle: FloatArray


def launches_of(analysis: AnyAnalysis, *, game: bool = False) -> Launches:
    """Return the launches of a take: those that it notes, else the beginnings of its flights.

    ``game``: in the time of the code, the sum of its steps, and not on the wall's clock.
    """
    take = analysis.take
    dt = analysis.whole.clock.dt if game else take.numbers("dt")
    t = np.cumsum(dt) if game else take.numbers("t")
    step = np.diff(t, prepend=t[0] - dt[0])
    usual = median(step)
    paused = step > PAUSED * usual
    begin = t - np.where(paused, usual, step)
    rows = _noted(take.columns.get("event"))
    if not len(rows):
        rows = _begun(analysis)
    time, step = begin[rows], t[rows] - begin[rows]
    if "in_fire" not in take:
        # what is not written between two shots may be anything
        same = np.diff(np.cumsum(paused)[rows]) == 0
        return Launches(rows, time, step, None, same, np.zeros(0))
    fire = take.numbers("in_fire") > 0.5
    starts = np.flatnonzero(fire & ~np.concatenate(([False], fire[:-1])))
    if not len(starts):
        return Launches(rows, time, step, np.full(len(rows), np.nan), time[1:] < 0, np.zeros(0))
    at = np.searchsorted(starts, rows, side="right") - 1
    same = at[1:] == at[:-1]
    own = (at >= 0) & ~np.concatenate(([False], same))
    pressed = np.where(own, begin[starts[np.maximum(at, 0)]], np.nan)
    idle = np.setdiff1d(np.arange(len(starts)), at[own])
    return Launches(rows, time, step, pressed, same & (at[1:] >= 0), begin[starts[idle]])


def _begun(analysis: AnyAnalysis) -> IntArray:
    """Return the frames in which flights begin, but for one that the take begins with.

    A flight that the next launch cuts short after a few frames tells no path, but is one.
    """
    rows: list[int] = []
    for piece in analysis.pieces:
        rows += [piece.start + start for start in piece.motion.begun]
    edges = [*analysis.breaks.tolist(), len(analysis.take)]
    rows += [a for a, b in itertools.pairwise(edges) if b - a < FEWEST and _moves(analysis, a, b)]
    return np.array(sorted(row for row in rows if row > 0), dtype=np.int64)


def _moves(analysis: AnyAnalysis, start: int, stop: int) -> bool:
    """Whether any place changes in a short stretch of frames."""
    columns = [one for one in ("x", "y", "z") if one in analysis.take]
    return any(np.any(np.diff(analysis.take.numbers(one)[start:stop])) for one in columns)


class Bursts(NamedTuple):
    """The gaps between launches under one press, arrays of shape (k,), s, and which are ``long``.

    ``row``: the launch that each ends with; ``step``: of its frame.
    """

    gap: FloatArray
    start: FloatArray
    end: FloatArray
    step: FloatArray
    row: IntArray
    long: BoolArray

    def sizes(self) -> tuple[IntArray, IntArray]:
        """Return how many launches whole bursts have, and with which long gap each ends."""
        at = np.flatnonzero(self.long)
        first = np.concatenate(([-1], at[:-1]))
        # what began with a press, or after a long gap under the same one, is whole
        runs = [
            (a, b)
            for a, b in zip(first.tolist(), at.tolist(), strict=True)
            if b - a == self.row[b] - (self.row[a] if a >= 0 else self.row[0] - 1)
        ]
        return (
            np.array([b - a for a, b in runs], dtype=np.int64),
            np.array([b for _, b in runs], dtype=np.int64),
        )


def bursts_of(found: Launches) -> Bursts:
    """Sort the gaps under one press: within bursts, and the longer waits between these."""
    row = np.flatnonzero(found.held) + 1
    gap = found.time[row] - found.time[row - 1]
    return Bursts(
        gap, found.time[row - 1], found.time[row], found.step[row], row, _long(gap, found.step[row])
    )


def _long(gap: FloatArray, step: FloatArray) -> BoolArray:
    """Return which gaps are of the longer of two sorts; none where they are of one sort."""
    none = np.zeros(len(gap), dtype=bool)
    if len(gap) < 3:
        return none
    ordered, frame = np.sort(gap), float(np.max(step))
    k = int(np.argmax(np.diff(ordered)))
    short, long = ordered[: k + 1], ordered[k + 1 :]
    if long[0] < max(_LONGER * short[-1], short[-1] + _APART * frame):
        return none
    alike = all(np.ptp(one) <= frame + _ALIKE * one.mean() for one in (short, long))
    return gap > ordered[k] if alike else none


class Wait(NamedTuple):
    """Between which times, s, a timer between launches lies, and whose it is.

    ``clock``: ``frame`` where it counts frames; ``ROUNDED`` where it begins anew with each
    launch, so that each wait is rounded up to a frame; ``even`` where neither is shown.
    """

    low: float
    high: float
    clock: str = "even"


def timer_of(found: Launches, rows: IntArray, unsure: float) -> Wait:
    """Return the timer that ends with launches ``rows``; ``unsure``: how well a time is known, s.

    One that keeps what it overshoots is known to a frame over its launches. One that begins anew
    ends no later than each wait, and within its last frame.
    """
    over = found.time + found.step  # it is over by the end of the frame that launches
    waits = over[rows] - over[rows - 1]
    anew = float(np.max(waits - found.step[rows])), float(np.min(waits))
    begins_anew = anew[0] <= anew[1] + 2 * unsure
    runs = np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1)
    kept = all(_keeps(over, found.step, run, unsure) for run in runs)
    frames, one = found.row.astype(np.float64), np.ones(len(found.row))
    if not begins_anew and not kept and all(_keeps(frames, one, run, 0.0) for run in runs):
        return Wait(float(np.min(waits)), float(np.max(waits)), "frame")
    if begins_anew and not kept:
        return Wait(min(anew), max(anew), ROUNDED)
    ends = []
    for run in runs:
        first, last = int(run[0]) - 1, int(run[-1])
        whole = found.time[last] - found.time[first]
        frame = max(found.step[last], found.step[first])
        ends.append(((whole - frame) / len(run), (whole + frame) / len(run)))
    low, high = (np.array(one) for one in zip(*ends, strict=True))
    if low.max() < high.min():
        return Wait(float(low.max()), float(high.min()))
    middle, half = float(np.mean(waits)), float(np.max(high - low)) / 2
    return Wait(middle - half, middle + half)


def _keeps(times: FloatArray, steps: FloatArray, run: IntArray, unsure: float) -> bool:
    """Whether a timer that keeps what it overshoots can have ended with launches on end.

    Each comes within its frame of ``begin + k·wait``: by how much one does not is convex in it.
    """
    at = np.arange(run[0] - 1, run[-1] + 1)
    time, step, k = times[at], steps[at], np.arange(len(at))

    def missed(wait: float) -> float:
        off = time - k * wait
        return float(np.max(off - step) - np.min(off))

    usual = float(time[-1] - time[0]) / len(run)
    around = 2 * float(np.max(step)) / len(run)
    return missed(least_at(missed, usual - around, usual + around)) < 2 * unsure


def waits_of(found: Launches) -> tuple[float, float, float, float] | None:
    """Return between which times after a launch a press begins to work, s, and when that was seen.

    The longest wait after which a press did nothing, and the shortest after which one worked;
    None where no press was too soon.
    """
    if found.pressed is None or not len(found.idle) or len(found.time) < 2:
        return None
    at = np.searchsorted(found.time, found.idle, side="right") - 1
    idle = found.idle - found.time[np.maximum(at, 0)]
    gaps = (found.time - np.concatenate(([-np.inf], found.time[:-1])))[np.isfinite(found.pressed)]
    worked = gaps[np.isfinite(gaps)]
    known = (at >= 0) & (idle > 0)
    if not known.any() or not worked.size:
        return None
    low, high = float(np.max(idle[known])), float(np.min(worked))
    k = int(np.argmax(np.where(known, idle, -np.inf)))
    return (low, high, float(found.time[at[k]]), float(found.idle[k])) if low < high else None


def _noted(events: object) -> Any:
    """Return the frames whose event is the word for a launch."""
    if events is None:
        return np.zeros(0, dtype=np.int64)
    words = np.char.lower(np.asarray(events).astype(str))
    return np.flatnonzero(np.isin(words, _WORDS))
