"""How far two sides lie apart for sure: intervals of a difference, tests, and how many takes."""

from collections.abc import Sequence
from math import ceil, hypot
from typing import NamedTuple

import numpy as np

from kickback.takes.take import FloatArray

__all__ = ["Interval", "corrected", "few_takes", "interval", "more_takes", "prediction"]

MANY = 5
"""Takes a side from which ranks tell anything at a level that holds for many metrics."""

_DRAWS = 2000
"""Bootstrap samples."""

_LEVEL = 0.05
"""How often, at most, any of the metrics of a comparison of equals is called moved."""

_MOST = 999
"""Takes that nobody is asked for more than."""


class Interval(NamedTuple):
    """A difference of medians with what bounds it, and the rank test's p, 1 where none was made."""

    change: float
    low: float
    high: float
    p: float


def interval(base: FloatArray, candidate: FloatArray, metrics: int, located: float) -> Interval:
    """Return how far the medians of two sides' takes lie apart, for one of so many metrics.

    From five takes a side on: percentiles of a bootstrap over takes, and the two-sided
    Mann-Whitney test. With fewer: Welch's interval about the difference of means. The level is
    5 % over the number of metrics (Bonferroni). ``located`` is what the takes' resolutions add.
    """
    if min(len(base), len(candidate)) >= MANY:
        found = _bootstrap(base, candidate, _LEVEL / max(metrics, 1))
    else:
        found = few_takes(base, candidate, _LEVEL / max(metrics, 1))
    return found._replace(low=found.low - located, high=found.high + located)


def _bootstrap(base: FloatArray, candidate: FloatArray, level: float) -> Interval:
    from scipy.stats import mannwhitneyu

    rng = np.random.default_rng(len(base) * 1000 + len(candidate))
    middles = [
        np.median(side[rng.integers(0, len(side), (_DRAWS, len(side)))], axis=1)
        for side in (base, candidate)
    ]
    apart = middles[1] - middles[0]
    low, high = np.quantile(apart, (level / 2, 1 - level / 2))
    change = float(np.median(candidate) - np.median(base))
    p = float(mannwhitneyu(base, candidate).pvalue) if np.ptp([*base, *candidate]) else 1.0
    return Interval(change, min(float(low), change), max(float(high), change), p)


def few_takes(base: FloatArray, candidate: FloatArray, level: float) -> Interval:
    """Return Welch's interval of the difference of two to four takes a side."""
    from scipy.stats import t as student

    change = float(np.mean(candidate) - np.mean(base))
    shares = [float(np.var(side, ddof=1)) / len(side) for side in (base, candidate)]
    total = sum(shares)
    if not total:
        return Interval(change, change, change, 0.0)
    sizes = [len(side) - 1 for side in (base, candidate)]
    freedom = total**2 / sum(s * s / n for s, n in zip(shares, sizes, strict=True))
    half = float(student.ppf(1 - level / 2, freedom)) * total**0.5
    p = 2 * float(student.sf(abs(change) / total**0.5, freedom))
    return Interval(change, change - half, change + half, p)


def prediction(many: FloatArray) -> float:
    """Return how far one more take may lie off the middle of several, in 95 % of cases."""
    from scipy.stats import t as student

    n = len(many)
    spread = float(np.std(many, ddof=1)) * hypot(1.0, n**-0.5)
    return float(student.ppf(0.975, n - 1)) * spread


def corrected(tests: Sequence[float]) -> list[float]:
    """Return p values corrected for their number (Benjamini and Hochberg)."""
    if not tests:
        return []
    from scipy.stats import false_discovery_control

    return [float(p) for p in false_discovery_control(np.array(tests))]


def more_takes(takes: int, found: Interval, allowed: float) -> int | None:
    """Return how many more takes a side would settle whether a change is within its budget.

    The interval narrows with the root of their number; None where no sensible number would.
    """
    gap = abs(abs(found.change) - allowed)
    half = (found.high - found.low) / 2
    if not gap:
        return None
    needed = max(ceil(max(takes, 1) * (half / gap) ** 2), MANY) - takes
    return max(1, needed) if needed <= _MOST else None
