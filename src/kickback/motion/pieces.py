"""Where a take is broken: positions that jump further than any motion explains.

What lies on both sides is measured, but never across.
"""

from itertools import pairwise

import numpy as np

from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.numeric import median
from kickback.takes.record import replace
from kickback.takes.take import Column, FloatArray, Take

__all__ = ["find_breaks", "pieces_of"]

_AGREES = (0.8, 1.25)
"""How displacement and velocity go together where the column is the motion."""

_AXES = ("x", "y", "z")
_LEAP = 3.0
"""How many times the largest step that has company a leap is."""

_ALONE = 4.0
"""How many times every step near it a leap is."""

_EXCESS = 1.5
"""How many times the highest speed a step goes beyond what its velocity explains."""

_NEAR = 3
"""Steps to either side that count as near."""

_SHORTEST = 4
"""Frames of a stretch below which nothing can be told from it."""


def find_breaks(take: Take) -> IntArray:
    """Return the frames, shape (k,), whose displacement no motion explains.

    A step that is alone in its size: more than four times every step near it, and three
    times the largest that has company anywhere. With a velocity column also one that goes
    beyond what the velocity explains by half again the take's largest speed.
    """
    t = take.numbers("t")
    step = np.diff(t)
    broken = np.zeros(len(t), dtype=bool)
    for axis in _AXES:
        if axis not in take or len(t) < 2 * _SHORTEST:
            continue
        p = take.numbers(axis)
        size = np.abs(np.diff(p))
        broken[1:] |= _lone_leaps(size, step)
        if f"v{axis}" in take:
            lasted = np.maximum(take.numbers("dt")[1:], step)  # frames may be missing
            broken[1:] |= _unexplained(size, take.numbers(f"v{axis}"), lasted)
    return np.flatnonzero(broken)


def _lone_leaps(size: FloatArray, step: FloatArray) -> BoolArray:
    """Return which steps, shape (n-1,), are alone in their size."""
    speed = size / step
    none = np.zeros(len(speed), dtype=bool)
    quickest = int(np.argmax(speed))
    beside = speed[max(quickest - 1, 0) : quickest + 2]
    if np.count_nonzero(_LEAP * beside >= speed[quickest]) > 1:
        return none  # settled at a look: the quickest step has company beside it
    company = np.maximum(np.minimum(speed[1:], speed[:-1]).max(initial=0.0), 0.0)
    if speed.max(initial=0.0) <= _LEAP * company:
        return none
    padded = np.pad(speed, _NEAR)
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * _NEAR + 1)
    ranked = np.partition(windows, -2, axis=1)
    second = ranked[:, -2]
    usual = float(second.max(initial=0.0))
    if usual == 0:
        return none
    alone = speed > _ALONE * second
    leaps: BoolArray = alone & (size > _LEAP * usual * step)
    return leaps


def _unexplained(size: FloatArray, v: FloatArray, step: FloatArray) -> BoolArray:
    """Return which steps, shape (n-1,), go far beyond what the velocity explains."""
    none = np.zeros(len(size), dtype=bool)
    top = max(float(v.max()), -float(v.min()))
    if size.max(initial=0.0) <= _EXCESS * top * step.min(initial=np.inf):
        return none  # settled at a look: no step is longer than the highest speed explains
    reach = np.maximum(np.abs(v[1:]), np.abs(v[:-1])) * step
    moving = size > 0
    if np.count_nonzero(moving) < 2 * _SHORTEST:
        return none
    known = moving & (reach > 0)
    usual = median(size[known] / reach[known]) if known.any() else 0.0
    low, high = _AGREES
    if not low < usual < high:  # the column is no velocity of this motion, or in other units
        return none
    leaps: BoolArray = size - reach > _EXCESS * top * step
    return leaps


def pieces_of(take: Take, breaks: IntArray) -> list[tuple[int, Take]]:
    """Return the stretches between breaks, each with the frame at which it starts.

    Stretches of fewer than four frames are left out: nothing can be told from them.
    """
    edges = [0, *breaks.tolist(), len(take)]
    pieces = []
    for start, stop in pairwise(edges):
        if stop - start >= _SHORTEST:
            columns: dict[str, Column] = {
                name: column[start:stop] for name, column in take.columns.items()
            }
            pieces.append((start, replace(take, columns=columns)))
    return pieces
