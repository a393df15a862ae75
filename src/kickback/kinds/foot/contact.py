"""Ground contact: recorded flags cleaned of flicker, or contact read off the motion."""

import numpy as np

from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["cleaned_contact", "inferred_contact"]

_MARK = 0.1
"""Share of the vertical speed nearby that a touch which counts must change."""

_AROUND = 8
"""Frames on either side of a change of the flag whose vertical speeds tell its scale."""

_THROWN = 0.25
"""Share of the rise that a takeoff gives at once."""

_CLAMPED = 1.5
"""Grids by which a height must lie above where its speed leads to have been stopped there."""

_FALLING = 0.5
"""Share of the fastest fall at which a body still falls."""

_USUAL = 0.95
"""The percentile of the vertical steps that is called usual."""

_LEVEL = 1e-4
"""Share of a usual vertical step below which the motion is level."""

_HOVER_FRAMES = 1.5
"""Frames that an arc looks level at its top, at least."""

_BEND_TIME = 0.05
"""Seconds over which the curvature of rounded heights is looked at."""

_BENT = 0.3
"""Share of the strongest bend from which a frame shows gravity."""

_HOVER = 2.2
"""How many times √(2q/g) an arc in steps of q looks level at its top: 2, and some to spare."""

FLICKER_FRAMES = 2
"""Frames that a ground flag may lead, lag or flicker: libraries are off by one or two."""

FLICKER_TIME = 0.02
"""Seconds that a flicker may last at high rates, where that is more than two frames."""

SETTLING = 0.05
"""Share of the tallest flight below which a vertical motion is a body that settles."""

PUSHED_BACK = 0.25
"""The same for a rise that ends at rest: libraries push a sunken body out by more."""


def cleaned_contact(
    touch: BoolArray,
    y: FloatArray,
    t: FloatArray,
    vy: FloatArray | None = None,
    grid: float = 0.0,
) -> BoolArray:
    """Return recorded contact, shape (n,), without flicker and aligned with the motion.

    A touch of a frame or two in the air counts only where the fall was stopped there;
    a gap of a frame or two counts only where the subject was thrown up. A flag that
    leads or lags the motion by a frame or two is moved to it. Where heights were rounded to
    ``grid``, a last one above the floor may read as the floor's: the game's own ``vy`` tells.
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
    free = np.zeros(len(y), dtype=bool)
    if vy is not None and grid:
        free[1:] = y[:-1] + vy[1:] * np.diff(t) >= y[1:] - _CLAMPED * grid
        free &= vy < -_FALLING * float(np.max(-vy, initial=0.0))
    return _aligned(touch, y, u, free)


def _is_flicker(u: FloatArray, start: int, stop: int, touching: bool) -> bool:
    """Whether a brief change of the flag leaves no mark on the vertical speed ``u``."""
    after = u[min(stop + 1, len(u) - 1)] if touching else u[start:stop].max()
    before = u[start - 1]
    gain = after - before
    scale = float(np.max(np.abs(u[max(0, start - _AROUND) : stop + _AROUND]), initial=0.0))
    return bool(gain <= _MARK * scale)


def _aligned(touch: BoolArray, y: FloatArray, u: FloatArray, free: BoolArray) -> BoolArray:
    """Move each takeoff to the frame that was thrown up, each landing to the frame that stopped.

    ``free``: frames that are where they fell to, whatever height they are at.
    """
    out = touch.copy()
    starts, stops = runs(touch)
    air = ~touch[starts]
    before = np.where(np.arange(len(starts)) > 0, (stops - starts)[np.arange(len(starts)) - 1], 0)
    start, stop, stood = starts[air], stops[air], before[air]
    if not len(start):
        return out
    rise, fall = np.maximum.reduceat(u, starts)[air], -np.minimum.reduceat(u, starts)[air]
    thrown = _thrown_frames(u, start, stop, stood, rise)
    stopped = _stopped_frames(y, u, start, stop, fall, free)
    for a, b, up, down in zip(
        *(part.tolist() for part in (start, stop, thrown, stopped)), strict=True
    ):
        out[a:up] = True
        out[up:a] = False
        out[down:b] = True
        out[b:down] = False
    return out


def _thrown_frames(
    u: FloatArray, start: IntArray, stop: IntArray, stood: IntArray, rise: FloatArray
) -> IntArray:
    """Return the frame, within two of ``start``, whose vertical speed jumped up the most.

    It rises in that frame: the end of a fall shortly before it jumps up too.
    """
    best, gain = start.copy(), np.full(len(start), -np.inf)
    for shift in range(-FLICKER_FRAMES, FLICKER_FRAMES + 1):
        row = start + shift
        allowed = (start > 0) & (row >= 1) & (row < stop) & (-shift < stood)
        row = np.clip(row, 1, len(u) - 1)
        allowed &= u[row] >= _THROWN * rise
        step = np.where(allowed, u[row] - u[row - 1], -np.inf)
        best = np.where(step > gain, row, best)
        gain = np.maximum(gain, step)
    return np.where((rise > 0) & (gain >= _THROWN * rise), best, start)


def _stopped_frames(
    y: FloatArray,
    u: FloatArray,
    start: IntArray,
    stop: IntArray,
    fall: FloatArray,
    free: BoolArray,
) -> IntArray:
    """Return the frame, within two of ``stop``, at which the fall ended."""
    n = len(y)
    row = stop.copy()
    landed = (stop < n) & (fall > 0)
    for _ in range(FLICKER_FRAMES):  # at rest height already: the flag lags
        above = np.maximum(row - 1, 0)
        lower = (y[above] <= y[np.minimum(stop, n - 1)]) & ~free[above]
        row = np.where(
            landed & (row - 1 > start) & lower & (row > stop - FLICKER_FRAMES), row - 1, row
        )
    early = row < stop
    for _ in range(FLICKER_FRAMES):  # still falling at speed: the flag leads
        falling = u[np.minimum(row + 1, n - 1)] < -_FALLING * fall
        row = np.where(landed & ~early & (row + 1 < n) & falling, row + 1, row)
    return row


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
    at = int(_USUAL * (len(moving) - 1))
    usual = float(np.partition(moving, at)[at])
    slack = max(grid / 2, _LEVEL * usual)
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
    return _without_settling(contact, y)


def _without_settling(contact: BoolArray, y: FloatArray) -> BoolArray:
    """Return contact, shape (n,), that goes on while a body settles after a landing.

    Physics libraries let it sink below its rest height and push it back over some tenths
    of a second: motion of less than a twentieth of the tallest flight is no flight, nor is
    a rise of less than a quarter of it that comes to rest without a fall.
    """
    starts, stops = runs(contact)
    low = np.maximum(starts - 1, 0)
    span = np.maximum.reduceat(y, starts) - np.minimum.reduceat(y, starts)
    span = np.maximum(span, np.abs(y[starts] - y[low]))
    air = ~contact[starts]
    tallest = float(np.max(span[air], initial=0.0))
    only_up = y[stops - 1] >= np.maximum.reduceat(y, starts)
    small = air & (span < np.where(only_up, PUSHED_BACK, SETTLING) * tallest)
    out = contact.copy()
    for start, stop in zip(starts[small].tolist(), stops[small].tolist(), strict=True):
        out[start:stop] = True
    return out


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
    hover = _HOVER_FRAMES * step
    lag = max(1, round(_BEND_TIME / step))
    if grid and len(y) > 4 * lag:
        bend = (y[2 * lag :] - 2 * y[lag:-lag] + y[: -2 * lag]) / (lag * step) ** 2
        falling = bend[bend < _BENT * bend.min(initial=0.0)]
        if falling.size:
            hover += _HOVER * float(np.sqrt(2 * grid / -median(falling)))
    return hover
