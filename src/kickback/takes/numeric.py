"""Small numerical helpers that every part of the core shares."""

from collections.abc import Callable, Sequence

import numpy as np

from kickback.takes.take import FloatArray

__all__ = [
    "ROOT_12",
    "even_share",
    "least_at",
    "median",
    "quantile",
    "root_between",
    "typical",
]

ROOT_12 = 12.0**0.5
"""A rounding to ``q`` has a standard error of ``q/√12``."""

_THIRDS = 60
"""Times by which a third of what is left goes: some ten digits."""

ENOUGH = 50_000
"""Values that settle what is usual in a take."""


def quantile(values: FloatArray | Sequence[float], share: float) -> float:
    """Return the value, of n ≥ 1, below which a share of them lies, between neighbours in line.

    Like NumPy's own, which loads its masked arrays at the first call: a tenth of what an
    ordinary take costs in all.
    """
    at = share * (len(values) - 1)
    low = int(at)
    high = min(low + 1, len(values) - 1)
    ordered = np.partition(values, sorted({low, high, len(values) - 1}))
    if np.isnan(ordered[-1]):  # what is not known comes last, and leaves the whole unknown
        return float("nan")
    return float(ordered[low] + (at - low) * (ordered[high] - ordered[low]))


def median(values: FloatArray | Sequence[float]) -> float:
    """Return the median of values, shape (n,), n ≥ 1."""
    return quantile(values, 0.5)


def even_share(values: FloatArray) -> FloatArray:
    """Return values, shape (n,), or an even share of some 50,000 where there are many more."""
    return values[:: max(1, len(values) // ENOUGH)]


def typical(values: FloatArray) -> float:
    """Return the median of an even share of values, shape (n,), n ≥ 1: good for scales."""
    return median(even_share(values))


def least_at(of: Callable[[float], float], low: float, high: float) -> float:
    """Return where a convex function is least between two numbers."""
    for _ in range(_THIRDS):
        a, b = low + (high - low) / 3, high - (high - low) / 3
        low, high = (low, b) if of(a) < of(b) else (a, high)
    return (low + high) / 2


def root_between(of: Callable[[float], float], low: float, high: float) -> float:
    """Return where a function is 0 between two places at which its signs differ, by halving.

    To the last bit. SciPy's own costs more to load than all that most takes need.
    """
    below = of(low) > 0
    while low < (middle := low + (high - low) / 2) < high:
        if (of(middle) > 0) is below:
            low = middle
        else:
            high = middle
    return low
