"""Small numerical helpers that every part of the core shares."""

import numpy as np

from kickback.takes.take import FloatArray

__all__ = ["ROOT_12", "even_share", "median", "typical"]

ROOT_12 = 12.0**0.5
"""A rounding to ``q`` has a standard error of ``q/√12``."""

ENOUGH = 50_000
"""Values that settle what is usual in a take."""


def median(values: FloatArray) -> float:
    """Return the median of values, shape (n,), n ≥ 1.

    Like NumPy's own, which loads its masked arrays at the first call: a tenth of what an
    ordinary take costs in all.
    """
    middle = len(values) // 2
    if len(values) % 2:
        return float(np.partition(values, middle)[middle])
    low, high = np.partition(values, [middle - 1, middle])[[middle - 1, middle]]
    return float(low + (high - low) / 2)


def even_share(values: FloatArray) -> FloatArray:
    """Return values, shape (n,), or an even share of some 50,000 where there are many more."""
    return values[:: max(1, len(values) // ENOUGH)]


def typical(values: FloatArray) -> float:
    """Return the median of an even share of values, shape (n,), n ≥ 1: good for scales."""
    return median(even_share(values))
