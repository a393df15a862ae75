"""Moments between frames: carrying the law before an event forward to the event."""

import numpy as np

from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.take import FloatArray

__all__ = ["carried", "crossing", "crossing_error"]

_FITS = 0.05
"""Share of the last step of speed by which a law may miss, to be carried on."""

_WITHIN = 4.0
"""Errors of one printed speed by which a law of two or three of them may miss."""

_EDGE = 1e-6
"""Share of a step by which a crossing may lie beside it: what arithmetic leaves."""

_GENTLY = 4
"""Errors of a speed over which its slope is taken where it changes by less than that a frame."""

_LONGEST = 500
"""Samples that such a slope reaches back at most."""

_BACK = 4
"""Samples before the hit on which a crossing stands."""


def crossing(
    tv: FloatArray,
    v: FloatArray,
    hit: IntArray,
    level: FloatArray,
    first: IntArray,
    *,
    mixed: bool = False,
    errors: tuple[float, float] = (0.0, 0.0),
) -> tuple[FloatArray, BoolArray]:
    """Return when ``v`` reaches ``level`` on its way to sample ``hit``, and how surely.

    ``tv``, ``v``: sample times and speeds, shape (n,). ``hit``: first sample at or
    beyond the level, ``level``, ``first``: the earliest sample under the same law, all
    of shape (k,). The law is read off the samples before ``hit`` (constant acceleration,
    or an exponential approach in any of its discrete forms) and carried into the frame,
    so that a speed clamped in that frame does not bend the answer. Where no law fits,
    the chord does. ``mixed`` says that speeds are means over a step: then the sample
    before ``hit`` may itself be half clamped, and the law before it is tried as well.
    ``errors``: the standard errors of a time and of a speed, within which a law may miss.
    The second array, shape (k,), says where a law was known.
    """
    time, known = _carried_to(tv, v, hit, level, first, errors)
    if mixed:
        again = (~known) & (hit - 2 >= first)
        before = np.where(again, hit - 1, hit)
        earlier, sure = _carried_to(tv, v, before, level, first, errors)
        time = np.where(again & sure, earlier, time)
        known |= again & sure
    return time, known


def crossing_error(
    tv: FloatArray,
    v: FloatArray,
    hit: IntArray,
    level: FloatArray,
    first: IntArray,
    errors: tuple[float, float, float],
) -> FloatArray:
    """Return the standard errors of crossings, shape (k,), s, by propagation of errors.

    ``errors``: the standard errors of one time, one speed and the level. Each sample that a
    crossing stands on is moved by its own error to either side, and half of what that does to
    the moment is added in quadrature (first-order propagation by central differences). Where
    a speed changes by less than its error in a step, the error over its slope is the least.
    """
    of_time, of_speed, of_level = errors
    rows = np.clip(hit[:, None] + np.arange(-_BACK, 2), 0, len(v) - 1)
    width = rows.shape[1]
    moved = [(rows.shape[1], of_level)]
    moved += [(k, of_speed) for k in range(width)] if of_speed else []
    moved += [(width + 1 + k, of_time) for k in range(width)] if of_time else []
    shift = np.zeros((2 * len(moved), 2 * width + 1))
    for row, (place, by) in enumerate(moved):
        shift[2 * row, place], shift[2 * row + 1, place] = by, -by
    speeds = (v[rows][None] + shift[:, None, :width]).ravel()
    levels = (level[None] + shift[:, width, None]).ravel()
    times = (tv[rows][None] + shift[:, None, width + 1 :]).ravel()
    at = np.arange(levels.size) * width + _BACK
    since = np.tile(np.clip(first - hit, -_BACK, -1), len(shift)) + at
    moments, _ = _carried_to(times, speeds, at, levels, since, (of_time, of_speed))
    pairs = moments.reshape(len(moved), 2, len(hit))
    error = np.sqrt(np.sum(((pairs[:, 0] - pairs[:, 1]) / 2) ** 2, axis=0))
    if not of_speed:
        return np.asarray(error)
    least = [
        of_speed / _slope(tv[low : at + 1], v[low : at + 1], of_speed)
        for at, low in zip(
            hit.tolist(), np.maximum(np.maximum(first, hit - _LONGEST), 0).tolist(), strict=True
        )
    ]
    return np.asarray(np.maximum(error, least))


def _slope(tv: FloatArray, v: FloatArray, error: float) -> float:
    """Return how fast speeds change at their end, over enough of them to tell it."""
    far = np.flatnonzero(np.abs(v - v[-1]) >= _GENTLY * error)
    since = int(far[-1]) if far.size else 0
    change = abs(float(v[since] - v[-1])) / max(float(tv[-1] - tv[since]), _EDGE)
    return max(change, _EDGE * error)


def _carried_to(
    tv: FloatArray,
    v: FloatArray,
    hit: IntArray,
    level: FloatArray,
    first: IntArray,
    errors: tuple[float, float],
) -> tuple[FloatArray, BoolArray]:
    """Return the crossing in the step into ``hit``, by the best law or else the chord."""
    i = hit - 1
    h2 = tv[hit] - tv[i]
    rest, step = level - v[i], v[hit] - v[i]
    # a speed that stays to the last digit from the hit on was clamped there
    stays = v[hit] == v[np.minimum(hit + 1, len(v) - 1)]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        fraction = np.clip(np.where(step != 0, rest / np.where(step != 0, step, 1.0), 0.0), 0, 1)
        known = np.zeros(len(hit), dtype=bool)
        best = np.full(len(hit), np.inf)
        scale = np.abs(v[i] - v[np.maximum(i - 1, 0)])
        printed = _WITHIN * np.hypot(errors[1], errors[0] * scale / h2)
        proven = i - 3 >= first
        earlier = np.where(proven, i - 1, i)
        for law in (_linear, _per_frame, _first_order, _exponential):
            enough = i - (1 if law is _linear else 2) >= first
            now, share = law(tv, v, i, h2, rest)
            past, _ = law(tv, v, earlier, tv[earlier + 1] - tv[earlier], rest)
            over = stays & (law is _linear) & ((now - v[hit]) * step > 0)
            ahead = np.where(over, 0.0, np.abs(now - v[hit]))
            miss = np.where(proven, np.abs(past - v[earlier + 1]), ahead)
            sound = enough & np.isfinite(share) & (share > -_EDGE) & (share <= 1 + _EDGE)
            sound &= miss <= _FITS * scale + printed
            better = sound & (miss < best - _EDGE * scale)
            fraction = np.where(better, np.clip(share, 0.0, 1.0), fraction)
            best = np.where(better, miss, best)
            known |= better
    return tv[i] + fraction * h2, known


def _before(
    tv: FloatArray, v: FloatArray, i: IntArray
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Return the last two steps of speed and of time up to sample ``i``."""
    a, b = np.maximum(i - 1, 0), np.maximum(i - 2, 0)
    return v[a] - v[b], v[i] - v[a], tv[a] - tv[b], tv[i] - tv[a]


Step = tuple[FloatArray, FloatArray]
"""The speed predicted for the next sample, and the share of the step to the level."""


def _linear(tv: FloatArray, v: FloatArray, i: IntArray, h2: FloatArray, rest: FloatArray) -> Step:
    """Carry a constant acceleration on: ``v' = d1/h1``."""
    _, d1, _, h1 = _before(tv, v, i)
    step = d1 / h1 * h2
    return v[i] + step, rest / step


def _approach(v1: FloatArray, gap: FloatArray, keep: FloatArray, rest: FloatArray) -> Step:
    """Exponential approach: the ``gap`` to the goal shrinks to ``keep·gap`` in the step."""
    after = v1 + gap * (1 - keep)
    return after, np.log((gap - rest) / gap) / np.log(keep)


def _per_frame(
    tv: FloatArray, v: FloatArray, i: IntArray, h2: FloatArray, rest: FloatArray
) -> Step:
    """Carry a constant factor each frame on: ``d1/d0`` whatever the steps in time."""
    del h2
    d0, d1, _, _ = _before(tv, v, i)
    keep = d1 / d0
    return _approach(v[i], d1 * keep / (1 - keep), keep, rest)


def _first_order(
    tv: FloatArray, v: FloatArray, i: IntArray, h2: FloatArray, rest: FloatArray
) -> Step:
    """Carry the factor ``1 - rate·dt`` on: acceleration linear in the speed before the step."""
    d0, d1, h0, h1 = _before(tv, v, i)
    rate = (d0 / h0 - d1 / h1) / d0
    return _approach(v[i], d1 / h1 / rate - d1, 1 - rate * h2, rest)


def _exponential(
    tv: FloatArray, v: FloatArray, i: IntArray, h2: FloatArray, rest: FloatArray
) -> Step:
    """Carry the factor ``exp(-rate·dt)`` on; the rate solves the ratio of the last two steps."""
    d0, d1, h0, h1 = _before(tv, v, i)
    ratio = d1 / d0
    rate = -np.log(ratio) / (0.5 * (h0 + h1))
    for _ in range(6):  # Newton on f(rate) = exp(-rate·h0)(1 - exp(-rate·h1))/(1 - exp(-rate·h0))
        e0, e1 = np.exp(-rate * h0), np.exp(-rate * h1)
        f = e0 * (1 - e1) / (1 - e0)
        slope = f * (h1 * e1 / (1 - e1) - h0 / (1 - e0))
        rate = rate - (f - ratio) / slope
    e1 = np.exp(-rate * h1)
    return _approach(v[i], d1 * e1 / (1 - e1), np.exp(-rate * h2), rest)


def carried(
    points: tuple[FloatArray, FloatArray, FloatArray], times: tuple[FloatArray, ...]
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return position, slope and half curvature at the last of three points.

    ``points`` and ``times``: three arrays of shape (k,), in order. The parabola through
    them is ``p2 + b·τ + c·τ²`` with ``τ`` counted from the last time: a discrete motion
    under constant acceleration lies on it exactly, whichever the integration order.
    NaN where two of the points are one.
    """
    (p0, p1, p2), (t0, t1, t2) = points, times
    with np.errstate(divide="ignore", invalid="ignore"):
        s1 = (p2 - p1) / (t2 - t1)
        s0 = (p1 - p0) / (t1 - t0)
        c = (s1 - s0) / (t2 - t0)
        return p2, s1 + c * (t2 - t1), c
