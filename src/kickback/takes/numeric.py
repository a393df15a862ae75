"""Small numerical helpers that every part of the core shares."""

import numpy as np

from kickback.takes.take import FloatArray

__all__ = ["median"]


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
