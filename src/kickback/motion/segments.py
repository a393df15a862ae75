"""Vectorised helpers over half-open frame ranges ``[start, stop)``."""

import numpy as np
import numpy.typing as npt

__all__ = [
    "BoolArray",
    "IntArray",
    "any_within",
    "first_where",
    "last_where",
    "risings",
    "runs",
    "stretches",
]

BoolArray = npt.NDArray[np.bool_]
IntArray = npt.NDArray[np.int64]


def runs(values: npt.NDArray[np.generic]) -> tuple[IntArray, IntArray]:
    """Return starts and stops of the stretches of equal values, shape (k,) each."""
    if not len(values):
        empty = np.zeros(0, dtype=np.int64)
        return empty, empty
    cuts = np.flatnonzero(values[1:] != values[:-1]) + 1
    starts = np.concatenate(([0], cuts)).astype(np.int64)
    stops = np.concatenate((cuts, [len(values)])).astype(np.int64)
    return starts, stops


def first_where(condition: BoolArray, start: IntArray, stop: IntArray) -> IntArray:
    """Return, for each range, the first index where the condition holds, or -1."""
    hits = np.flatnonzero(condition)
    if not hits.size:
        return np.full(len(start), -1, dtype=np.int64)
    at = np.searchsorted(hits, start, side="left")
    found = hits[np.minimum(at, len(hits) - 1)]
    return np.where((at < len(hits)) & (found < stop), found, -1)


def last_where(condition: BoolArray, start: IntArray, stop: IntArray) -> IntArray:
    """Return, for each range, the last index where the condition holds, or -1."""
    hits = np.flatnonzero(condition)
    if not hits.size:
        return np.full(len(start), -1, dtype=np.int64)
    at = np.searchsorted(hits, stop, side="left") - 1
    found = hits[np.maximum(at, 0)]
    return np.where((at >= 0) & (found >= start), found, -1)


def risings(mask: BoolArray) -> IntArray:
    """Return the indices at which a mask, shape (n,), begins to hold, its first one left out."""
    found: IntArray = np.flatnonzero(mask[1:] & ~mask[:-1]) + 1
    return found


def any_within(rows: IntArray, start: IntArray, stop: IntArray) -> BoolArray:
    """Return which ranges ``[start, stop)``, shape (k,), hold any of some sorted indices."""
    return np.asarray(np.searchsorted(rows, stop) > np.searchsorted(rows, start))


def stretches(mask: BoolArray, shortest: int = 1) -> list[tuple[int, int]]:
    """Return the ranges ``[start, stop)`` of at least ``shortest`` frames where a mask holds."""
    starts, stops = runs(mask)
    keep = mask[starts] & (stops - starts >= shortest) if len(starts) else np.zeros(0, dtype=bool)
    return list(zip(starts[keep].tolist(), stops[keep].tolist(), strict=True))
