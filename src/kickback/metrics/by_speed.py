"""Metrics over bins of the speed that their occurrences were played at."""

from collections.abc import Sequence

import numpy as np

from kickback.metrics.record import Measurement
from kickback.motion.segments import IntArray
from kickback.takes.numeric import median
from kickback.takes.record import Record

__all__ = ["SpeedBin", "by_speed"]

_MOST = 8
"""Bins at most."""

_STEPS = (1.0, 2.0, 5.0)
"""Widths of bins, times powers of ten."""


class SpeedBin(Record, frozen=True, kw_only=True):
    """Speeds from ``low`` up to ``high``, length/s: medians by metric, and how many of each."""

    low: float
    high: float
    values: dict[str, float]
    counts: dict[str, int]


def by_speed(rows: Sequence[Measurement]) -> list[SpeedBin]:
    """Return the measurements of one take by the speed at which each occurrence was played.

    The bins are 1, 2 or 5 times a power of ten wide, as fine as leaves no more than eight; none
    where all occurrences lie in one.
    """
    known = [row for row in rows if row.by in row.occurrences.given]
    speeds = [row.occurrences.given[row.by] for row in known]
    highest = max((float(one.max()) for one in speeds if len(one)), default=0.0)
    if highest <= 0:
        return []
    width = _width(highest)
    places = [np.floor(one / width).astype(np.int64) for one in speeds]
    filled = np.unique(np.concatenate(places)).tolist()
    return [_bin(known, places, k, width) for k in filled] if len(filled) > 1 else []


def _bin(
    rows: Sequence[Measurement], places: Sequence[IntArray], place: int, width: float
) -> SpeedBin:
    """Return the bin at a place, of metrics whose occurrences lie at places, each of shape (k,)."""
    held = {
        row.metric: row.occurrences.value[own == place]
        for row, own in zip(rows, places, strict=True)
    }
    return SpeedBin(
        low=place * width,
        high=(place + 1) * width,
        values={name: median(value) for name, value in held.items() if len(value)},
        counts={name: len(value) for name, value in held.items() if len(value)},
    )


def _width(highest: float) -> float:
    """Return the least width, 1, 2 or 5 times a power of ten, of few enough bins."""
    least = highest / _MOST
    power = 10.0 ** np.floor(np.log10(least))
    return float(next(step * power for step in (*_STEPS, 10.0) if step * power >= least))
