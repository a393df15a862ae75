"""What the rows of a foreign log mean: told by uneven frames, from displacements and steps."""

from collections.abc import Mapping as Map

import numpy as np

from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["guess_rows"]

_UNEVEN = 0.02
"""Share by which frames must differ for one row's step to be told from the next one's."""

_BETTER = 0.3
"""Share of one reading's miss that another leaves, to be the right one."""

_FEWEST = 20
"""Moving frames that tell."""


def guess_rows(columns: Map[str, FloatArray]) -> tuple[dict[str, str], str]:
    """Return the ``[rows]`` of a mapping for raw columns, shape (n,) each, and what is unsure.

    A time that is stamped at the start of its update goes with the next row's spacing; a row
    that shows what its update began with, with the step of the row before.
    """
    t, dt = columns.get("t"), columns.get("dt")
    lasted = dt if dt is not None else None if t is None else np.diff(t, prepend=t[0])[1:]
    if lasted is None or len(lasted) < _FEWEST:
        return {}, ""
    middle = median(lasted)
    if middle <= 0 or float(np.mean(np.abs(lasted / middle - 1))) < _UNEVEN:
        return {}, (
            "frames are even, so nothing tells whether rows are written before or after their"
            " update: see [rows]"
        )
    rows: dict[str, str] = {}
    if t is not None and dt is not None:
        spacing = np.diff(t)
        if _miss(spacing, dt[:-1]) < _BETTER * _miss(spacing, dt[1:]):
            rows["stamp"] = "start"
    moved = [
        (np.diff(columns[axis]), columns[f"v{axis}"])
        for axis in "xyz"
        if axis in columns and f"v{axis}" in columns
    ]
    for gone, v in moved:
        if dt is not None:
            if _follows(gone, dt[:-1], v) < _BETTER * _follows(gone, dt[1:], v):
                rows["state"] = "before"
        elif t is not None and len(t) > _FEWEST:
            spacing = np.diff(t)
            late = _follows(gone[:-1], spacing[1:], v[:-1])
            if late < _BETTER * _follows(gone[:-1], spacing[:-1], v[:-1]):
                rows["stamp"] = "start"
    return rows, ""


def _miss(one: FloatArray, other: FloatArray) -> float:
    return median(np.abs(one - other))


def _follows(gone: FloatArray, step: FloatArray, v: FloatArray) -> float:
    """Return by how much displacements miss speeds times steps, as a speed, in the middle."""
    moving = (np.abs(gone) > 0) & (np.abs(v[1:]) > 0) & (step > 0)
    if np.count_nonzero(moving) < _FEWEST:
        return np.inf
    u = gone[moving] / step[moving]
    miss = np.minimum(np.abs(u - v[1:][moving]), np.abs(u - v[:-1][moving]))
    return float(np.mean(miss))
