"""The values at which a model's metrics are what is wished, by Newton's method in logarithms."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["SOLVED", "Found", "Metrics", "newton"]

Metrics = Callable[[Sequence[Mapping[str, float]]], FloatArray]
"""Metrics of some sets of values, shape (sets, metrics); NaN where one is not shown."""

_STEP = 1e-6
"""Share by which a value is moved to see what it does."""

_ROUNDS = 20
_HALVINGS = 12
_EXACT = 1e-13
"""Share of a metric within which the search ends."""

SOLVED = 1e-9
"""Share within which a wish is fulfilled."""

_LONGEST = 1.0
"""The most that a logarithm moves in a step: a value goes by a factor of e."""


class Found(Record, frozen=True, kw_only=True):
    """The best values of a search, and how far the metrics are off as shares, shape (k,)."""

    values: Mapping[str, float]
    off: FloatArray

    @property
    def solved(self) -> bool:
        """Whether all wishes are fulfilled."""
        return bool(np.all(np.abs(self.off) <= SOLVED))


def newton(
    metrics: Metrics, start: Mapping[str, float], wanted: FloatArray, limits: Mapping[str, float]
) -> Found:
    """Return the values that give metrics their ``wanted`` values, or come nearest.

    Metrics of movement are near to products of powers of its constants (``h = v²/2g``), so that
    in logarithms few steps lead there; the steps are halved where they would lead away.
    """
    names = list(start)
    most = np.log([limits.get(name, np.inf) for name in names])
    point = np.minimum(np.log([start[name] for name in names]), most)

    def off(points: Sequence[FloatArray]) -> FloatArray:
        sets = [dict(zip(names, np.exp(one).tolist(), strict=True)) for one in points]
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(np.log(metrics(sets) / wanted))

    def around(at: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return how far a point is off, and the slopes there: one play of them all."""
        here, *moved = off([at, *(at + _STEP * unit for unit in np.eye(len(at)))])
        return here, (np.array(moved) - here).T / _STEP

    here, slopes = around(point)
    for _ in range(_ROUNDS):
        if not np.all(np.isfinite(slopes)) or np.max(np.abs(here), initial=0.0) <= _EXACT:
            break
        step = np.linalg.lstsq(slopes, -here, rcond=1e-9)[0]
        step *= min(1.0, _LONGEST / max(float(np.max(np.abs(step))), 1e-300))
        ahead = np.minimum(point + step, most)
        there, onward = around(ahead)
        if _size(there) >= _size(here):
            tried = [np.minimum(point + step / 2**k, most) for k in range(1, _HALVINGS)]
            left = [_size(one) for one in off(tried)]
            better = next((k for k, size in enumerate(left) if size < _size(here)), None)
            if better is None:
                break
            ahead = tried[better]
            there, onward = around(ahead)
        point, here, slopes = ahead, there, onward
    values = dict(zip(names, np.exp(point).tolist(), strict=True))
    return Found(values=values, off=np.expm1(here))


def _size(off: FloatArray) -> float:
    """Return how far a point is off; infinite where a metric is not shown."""
    return float(np.linalg.norm(off)) if np.all(np.isfinite(off)) else float("inf")
