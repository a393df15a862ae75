"""Moments from rounded positions: the distance to a final line, fitted and solved.

A subject that comes to a steady speed (or to rest) approaches a straight line
``x = c + V·t``. Under constant acceleration the distance to it is ``a·(T - t)²/2``, under
smoothing or friction ``C·exp(-k·t)``. Either is fitted to many frames at once, which
locates a moment far better than any single rounded frame can.
"""

import numpy as np

from kickback.takes.take import FloatArray

__all__ = ["approach_moment", "final_line"]

_BLURRED = 1.5
"""Grids within which a distance says nothing about how it shrinks."""


def final_line(t: FloatArray, p: FloatArray) -> tuple[float, float]:
    """Return offset and slope of the line through positions ``p`` at times ``t``."""
    slope, offset = np.polyfit(t, p, 1)
    return float(offset), float(slope)


def approach_moment(
    t: FloatArray, distance: FloatArray, missing_speed: float, grid: float
) -> tuple[float, float]:
    """Return when the speed is ``missing_speed`` short of its final value, and its change.

    ``distance``: how far the position still is from the final line, shape (n,), falling
    to zero; ``grid``: what positions were rounded to. The second value is the
    acceleration at that moment, for the resolution. NaN where too few frames tell.
    """
    far = distance > _BLURRED * grid
    end = int(np.argmin(far)) if not far.all() else len(far)
    t, distance = t[:end], distance[:end]
    if len(t) < 3:
        return float("nan"), float("nan")
    root = np.polyfit(t, np.sqrt(distance), 1)
    log = np.polyfit(t, np.log(distance), 1, w=distance)
    miss_root = float(np.sum((np.polyval(root, t) ** 2 - distance) ** 2))
    miss_log = float(np.sum((np.exp(np.polyval(log, t)) - distance) ** 2))
    if miss_root <= miss_log and root[0] < 0:
        a = 2 * float(root[0]) ** 2
        return float(-root[1] / root[0]) - missing_speed / a, a
    if log[0] >= 0 or missing_speed <= 0:
        return float("nan"), float("nan")
    k = -float(log[0])
    moment = (float(log[1]) + np.log(k / missing_speed)) / k
    return float(moment), k * missing_speed
