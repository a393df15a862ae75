"""Ground contact: recorded flags cleaned of flicker, or contact read off the motion."""

import numpy as np

from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["cleaned_contact", "inferred_contact"]

FLICKER_FRAMES = 2
FLICKER_TIME = 0.02


def cleaned_contact(touch: BoolArray, y: FloatArray, t: FloatArray) -> BoolArray:
    """Return recorded contact, shape (n,), without flicker and aligned with the motion.

    A touch of a frame or two in the air counts only where the fall was stopped there;
    a gap of a frame or two counts only where the subject was thrown up. A flag that
    leads or lags the motion by a frame or two is moved to it.
    """
    touch = touch.copy()
    u = np.diff(y, prepend=y[0]) / np.diff(t, prepend=t[0] - (t[1] - t[0]))
    for wanted in (False, True):
        starts, stops = runs(touch)
        brief = (stops - starts <= FLICKER_FRAMES) | (
            t[stops - 1] - t[np.maximum(starts - 1, 0)] < FLICKER_TIME
        )
        inner = (starts > 0) & (stops < len(touch)) & (touch[starts] == wanted) & brief
        for start, stop in zip(starts[inner].tolist(), stops[inner].tolist(), strict=True):
            if _is_flicker(u, start, stop, wanted):
                touch[start:stop] = not wanted
    return _aligned(touch, y, u)


def _is_flicker(u: FloatArray, start: int, stop: int, touching: bool) -> bool:
    """Whether a brief change of the flag leaves no mark on the vertical speed ``u``."""
    after = u[min(stop + 1, len(u) - 1)] if touching else u[start:stop].max()
    before = u[start - 1]
    gain = after - before
    scale = float(np.max(np.abs(u[max(0, start - 8) : stop + 8]), initial=0.0))
    return bool(gain <= 0.1 * scale)


def _aligned(touch: BoolArray, y: FloatArray, u: FloatArray) -> BoolArray:
    """Move each takeoff to the frame that was thrown up, each landing to the frame that stopped."""
    out = touch.copy()
    starts, stops = runs(touch)
    for start, stop in zip(starts.tolist(), stops.tolist(), strict=True):
        if touch[start]:
            continue
        if start > 0:
            _align_takeoff(out, u, start, stop)
        if stop < len(y):
            _align_landing(out, y, u, start, stop)
    return out


def _align_takeoff(out: BoolArray, u: FloatArray, start: int, stop: int) -> None:
    low = start
    while low > 1 and start - low < FLICKER_FRAMES and out[low - 1] and out[low - 2]:
        low -= 1
    high = min(start + FLICKER_FRAMES, stop - 1)
    rows = np.arange(low, high + 1)
    gains = u[rows] - u[rows - 1]
    best = int(rows[np.argmax(gains)])
    rise = float(u[start:stop].max(initial=0.0))
    if rise <= 0 or gains.max() < 0.25 * rise:
        return
    out[start:best] = True
    out[best:start] = False


def _align_landing(out: BoolArray, y: FloatArray, u: FloatArray, start: int, stop: int) -> None:
    fall = -float(u[start:stop].min(initial=0.0))
    if fall <= 0:
        return
    row = stop
    while row - 1 > start and stop - row < FLICKER_FRAMES and y[row - 1] <= y[stop]:
        row -= 1  # at rest height already: the flag lags
    while row + 1 < len(y) and row - stop < FLICKER_FRAMES and u[row + 1] < -0.5 * fall:
        row += 1  # still falling at speed: the flag leads
    out[row:stop] = True
    out[stop:row] = False


def inferred_contact(y: FloatArray, t: FloatArray, grid: float) -> BoolArray:
    """Return contact read off heights ``y``, shape (n,), that were rounded to ``grid`` or 0.

    Stretches of level motion are ground, except short ones at the top of an arc or on
    the way; a fall that turns into a rise at once touched the ground in between. Level
    or stepped ground only: on a slope nothing in the heights tells a walk from a fall.
    """
    change = np.diff(y)
    moving = np.abs(change[change != 0])
    if not moving.size:
        return np.ones(len(y), dtype=bool)
    at = int(0.95 * (len(moving) - 1))
    usual = float(np.partition(moving, at)[at])
    slack = max(0.5 * grid, 1e-4 * usual)
    sign = np.where(change > slack, 1, np.where(change < -slack, -1, 0))
    starts, stops = runs(sign)
    kind = sign[starts]
    brief = t[stops] - t[starts] <= _hover_time(y, t, grid)
    air = _airborne_runs(kind, brief)
    contact = np.zeros(len(y), dtype=bool)
    for start, stop, flying in zip(starts.tolist(), stops.tolist(), air.tolist(), strict=True):
        if not flying:
            contact[start : stop + 1] = True
    direct = np.flatnonzero((sign[:-1] == -1) & (sign[1:] == 1)) + 1
    contact[direct] = True
    return contact


def _airborne_runs(kind: IntArray, brief: BoolArray) -> BoolArray:
    """Return which runs of vertical motion (-1, 0, +1) are flight."""
    air: BoolArray = kind != 0
    for i in np.flatnonzero((kind == 0) & brief).tolist():
        if 0 < i < len(kind) - 1:
            air[i] = not (kind[i - 1] == -1 and kind[i + 1] == 1)
    return air


def _hover_time(y: FloatArray, t: FloatArray, grid: float) -> float:
    """Return how long an arc may look level at its top, s.

    A frame and a half; with heights rounded to ``q`` also ``2·sqrt(2q/g)``, where ``g``
    is the curvature of the heights over a tenth of a second.
    """
    step = median(np.diff(t))
    hover = 1.5 * step
    lag = max(1, round(0.05 / step))
    if grid and len(y) > 4 * lag:
        bend = (y[2 * lag :] - 2 * y[lag:-lag] + y[: -2 * lag]) / (lag * step) ** 2
        falling = bend[bend < 0.3 * bend.min(initial=0.0)]
        if falling.size:
            hover += 2.2 * float(np.sqrt(2 * grid / -median(falling)))
    return hover
