"""The values at which a model's metrics are what is wished, by Newton's method in logarithms."""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

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
    search = _Search(metrics, list(start), wanted, limits)
    here = search.at(np.minimum(np.log([*start.values()]), search.most))
    for _ in range(_ROUNDS):
        if not np.all(np.isfinite(here.slopes)) or here.size <= _EXACT:
            break
        step = np.asarray(np.linalg.lstsq(here.slopes, -here.off, rcond=1e-9)[0], dtype=np.float64)
        step *= min(1.0, _LONGEST / max(float(np.max(np.abs(step))), 1e-300))
        better = search.along(here, step)
        if better is None:
            break
        here = better
    return Found(values=search.values(here.point), off=np.expm1(here.off))


class _Point(NamedTuple):
    """Logarithms of values, how far the logarithms of the metrics are off, and their slopes."""

    point: FloatArray
    off: FloatArray
    slopes: FloatArray

    @property
    def size(self) -> float:
        """Return how far it is off."""
        return _size(self.off)


class _Search:
    """The metrics of values whose logarithms are moved, up to limits."""

    def __init__(
        self,
        metrics: Metrics,
        names: Sequence[str],
        wanted: FloatArray,
        limits: Mapping[str, float],
    ) -> None:
        self._metrics, self._names, self._wanted = metrics, names, wanted
        self.most = np.log([limits.get(name, np.inf) for name in names])

    def values(self, point: FloatArray) -> dict[str, float]:
        """Return the values of a point by name."""
        return dict(zip(self._names, np.exp(point).tolist(), strict=True))

    def _off(self, points: Sequence[FloatArray]) -> FloatArray:
        with np.errstate(divide="ignore", invalid="ignore"):
            found = self._metrics([self.values(one) for one in points])
            return np.asarray(np.log(found / self._wanted))

    def at(self, point: FloatArray) -> _Point:
        """Return a point with its slopes: one play of them all."""
        here, *moved = self._off([point, *(point + _STEP * unit for unit in np.eye(len(point)))])
        return _Point(point, here, (np.array(moved) - here).T / _STEP)

    def along(self, here: _Point, step: FloatArray) -> _Point | None:
        """Return a nearer point along a step, halved where it must be; None where there is none."""
        ahead = self.at(np.minimum(here.point + step, self.most))
        if ahead.size < here.size:
            return ahead
        tried = [np.minimum(here.point + step / 2**k, self.most) for k in range(1, _HALVINGS)]
        sizes = [_size(one) for one in self._off(tried)]
        better = next((k for k, size in enumerate(sizes) if size < here.size), None)
        return None if better is None else self.at(tried[better])


def _size(off: FloatArray) -> float:
    """Return how far a point is off; infinite where a metric is not shown."""
    return float(np.linalg.norm(off)) if np.all(np.isfinite(off)) else float("inf")
