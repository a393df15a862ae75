"""How a number scales with the frame rate: exponent, interval and limit."""

import numpy as np

from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["Scaling", "scaling"]


class Scaling(Record, frozen=True, kw_only=True):
    """``exponent`` p of ``value ∝ rate^p`` within ``[low, high]``; ``limit`` as dt → 0.

    All None where the values do not allow it (zero or mixed signs, a single rate).
    """

    exponent: float | None
    low: float | None
    high: float | None
    limit: float | None


def scaling(rate: FloatArray, value: FloatArray, resolution: FloatArray) -> Scaling:
    """Fit ``ln|value| = p·ln(rate) + c`` and ``value = limit + c/rate``.

    All of shape (k,). The interval adds the 95 % interval of the straight line (three
    rates or more) to what the resolutions allow at worst.
    """
    limit = None
    if len(rate) >= 2:
        limit = float(np.polyfit(1 / rate, value, 1)[1])
        if abs(limit) < ARITHMETIC * float(np.max(np.abs(value))):
            limit = 0.0
    if len(rate) < 2 or np.any(value == 0) or np.any(np.sign(value) != np.sign(value[0])):
        return Scaling(exponent=None, low=None, high=None, limit=limit)
    x, y = np.log(rate), np.log(np.abs(value))
    weight = (x - x.mean()) / float(np.sum((x - x.mean()) ** 2))
    p = float(np.sum(weight * y))
    slack = float(np.sum(np.abs(weight) * np.minimum(resolution / np.abs(value), 10.0)))
    if len(rate) >= 3:
        miss = y - y.mean() - p * (x - x.mean())
        free = len(rate) - 2
        error = np.sqrt(float(np.sum(miss**2)) / free * float(np.sum(weight**2)))
        slack += _student(free) * float(error)
    return Scaling(exponent=p, low=p - slack, high=p + slack, limit=limit)


def _student(free: int) -> float:
    """Return the 97.5 % point of Student's t with ``free`` degrees of freedom.

    From a table for few, else by the expansion in ``1/free`` about the normal point z
    (Abramowitz and Stegun 26.7.5): a package that has it would take a quarter of a run's time
    to load.
    """
    if free <= len(_FEW):
        return _FEW[free - 1]
    z = 1.959963984540054
    terms = (
        (z**3 + z) / 4,
        (5 * z**5 + 16 * z**3 + 3 * z) / 96,
        (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384,
    )
    return float(z + sum(term / free**power for power, term in enumerate(terms, 1)))


_FEW = (12.7062047, 4.3026527, 3.1824463, 2.7764451, 2.5705818, 2.4469119)
"""The 97.5 % points of Student's t for one to six degrees of freedom."""
