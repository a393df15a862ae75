"""What the rows of a foreign log mean: told by uneven frames, from displacements and steps."""

from collections.abc import Mapping as Map
from collections.abc import Sequence

import numpy as np

from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["guess_rows"]

_UNEVEN = 0.02
"""Share by which frames must differ for one row's step to be told from the next one's."""

_BETTER = 0.3
"""Share of one reading's miss that another leaves, to be the right one."""

_Moved = Sequence[tuple[FloatArray, FloatArray]]
"""Displacements, shape (n − 1,), and speeds, shape (n,), of some axes."""

_EVEN = (
    "frames are even, so nothing tells whether rows are written before or after their update: see"
    " [rows]"
)

_FEWEST = 20
"""Moving frames that tell."""


def guess_rows(columns: Map[str, FloatArray]) -> tuple[dict[str, str], str]:
    """Return the ``[rows]`` of a mapping for raw columns, shape (n,) each, and what is unsure.

    A time that is stamped at the start of its update goes with the next row's spacing; a row
    that shows what its update began with, with the step of the row before.
    """
    t, dt = columns.get("t"), columns.get("dt")
    lasted = dt if dt is not None or t is None else np.diff(t)
    if lasted is None or len(lasted) < _FEWEST:
        return {}, ""
    if not _uneven(lasted):
        return {}, _EVEN
    moved = _moved(columns)
    early = _early(t, dt, moved)
    before = dt is not None and any(_before(gone, v, dt) for gone, v in moved)
    told = (("stamp", "start", early), ("state", "before", before))
    return {key: word for key, word, holds in told if holds}, ""


def _moved(columns: Map[str, FloatArray]) -> _Moved:
    """Return displacements and speeds of the axes that have both."""
    axes = [axis for axis in "xyz" if axis in columns and f"v{axis}" in columns]
    return [(np.diff(columns[axis]), columns[f"v{axis}"]) for axis in axes]


def _uneven(lasted: FloatArray) -> bool:
    """Whether frames differ by enough to tell one row's step from the next one's."""
    middle = median(lasted)
    return middle > 0 and float(np.mean(np.abs(lasted / middle - 1))) >= _UNEVEN


def _early(t: FloatArray | None, dt: FloatArray | None, moved: _Moved) -> bool:
    """Whether times are those of the updates' beginnings."""
    if t is None:
        return False
    if dt is None:
        return any(_stamped_early(gone, v, t) for gone, v in moved)
    spacing = np.diff(t)
    return _miss(spacing, dt[:-1]) < _BETTER * _miss(spacing, dt[1:])


def _before(gone: FloatArray, v: FloatArray, dt: FloatArray) -> bool:
    """Whether displacements go with the step of the row before."""
    return _follows(gone, dt[:-1], v) < _BETTER * _follows(gone, dt[1:], v)


def _stamped_early(gone: FloatArray, v: FloatArray, t: FloatArray) -> bool:
    """Whether displacements go with the spacing to the next row's time."""
    spacing = np.diff(t)
    late = _follows(gone[:-1], spacing[1:], v[:-1])
    return late < _BETTER * _follows(gone[:-1], spacing[:-1], v[:-1])


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
