"""How finely a column was printed, found out once, and speeds from positions that were rounded."""

from collections.abc import Mapping

import numpy as np

from kickback.motion.segments import IntArray
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Printed", "fitted_speed", "printed", "printed_grid", "shared"]

_SAMPLE = 4096
"""Values whose look settles that a column is on no grid: most are not."""

_FEWEST = 8
"""Changes of a value below which a grid is chance."""

_PLACES = 9
"""Decimal places, from the largest value's first, to which a column may be printed: of more,
arithmetic leaves no lattice."""

_PARTS = tuple(2.0**-k for k in range(1, 9))
"""Binary parts of a unit that positions are kept in."""

_OFF = 1e-6
"""Share of a step by which a value may lie off it: what arithmetic leaves."""

_JITTERY = 0.02
"""Share of the changes that turn to and fro by a step: rounding does, exact motion does not."""


_PRINTED_TOO = {"t", "x", "y", "z", "vx", "vy", "vz"}
"""Columns whose rounding shows that a log was printed."""

_FINE = 2e-3
"""Share of its largest value that a column's lattice is at most, to be its printing."""

_LEVELS = 0.02
"""Share of the largest value that a grid is at most, for it to show in a path: of fewer levels
than that, steps of a few frames are as uneven."""

_PAIR = 2
"""Values of a column, at least, that may show what they all lie on."""

_LARGE = 0.1
"""Share of the largest value from which values show how many digits are printed."""

_MOST = 0.6
"""Share of the moving frames whose third difference is not 0, in which no motion is exact."""

_ENOUGH = 64
"""Frames either way that a fitted line takes from a wide window."""

_BEND = (0.5, 2.5)
"""Steps by which rounding bends a path from frame to frame: by one or two."""


class Printed(Record, frozen=True, kw_only=True):
    """How a column was printed: ``grid``, what its values were rounded to, or 0.

    ``lattice`` is the coarsest step that all its values lie on, or 0. A lattice alone is no
    proof of rounding: exact motion may happen to fall on one. ``size``: the largest value.
    """

    grid: float = 0.0
    lattice: float = 0.0
    size: float = 0.0


def printed(p: FloatArray) -> Printed:
    """Return how a column ``p``, shape (n,), was printed.

    Rounding shows as second differences that jump to and fro, or as third ones that are
    hardly ever 0 though all values lie on a lattice: exact motion falls on one only where it
    moves by equal amounts, or by evenly growing ones. Of numbers printed to so many digits,
    not decimals, the grid is that of the largest.
    """
    lattice = _lattice(p)
    largest = max(float(np.max(p, initial=0.0)), -float(np.min(p, initial=0.0)))
    large = p[(p >= _LARGE * largest) | (p <= -_LARGE * largest)]
    coarse = max(lattice, _lattice(large)) if len(large) < len(p) else lattice
    rounded = bool(coarse) and (_jitters(p, coarse) or _unsmooth(p, coarse))
    return Printed(grid=coarse if rounded else 0.0, lattice=lattice, size=largest)


def shared(columns: dict[str, Printed]) -> dict[str, float]:
    """Return the grid of each of some columns that were printed alike.

    Where one shows rounding, its grid is also that of the others that lie on it.
    """
    coarsest = max((one.grid for one in columns.values()), default=0.0)
    return {
        name: coarsest if not one.grid and one.lattice >= coarsest else one.grid
        for name, one in columns.items()
    }


def printed_grid(prints: Mapping[str, Printed], name: str) -> float:
    """Return what a column was rounded to, or 0.

    Equal steps may fall on the lattice that a column was printed to by chance: where other
    columns of numbers show that they were rounded, a fine lattice is that of the printing.
    """
    one = prints[name]
    if one.grid or not one.lattice:
        return one.grid
    others = any(prints[key].grid for key in prints if key in _PRINTED_TOO)
    fine = one.lattice <= _FINE * one.size
    return one.lattice if others and fine else 0.0


def _lattice(p: FloatArray) -> float:
    """Return the coarsest decimal or binary step that values ``p`` all lie on, or 0."""
    start = _moved(p[:_SAMPLE])
    if len(start) >= _FEWEST and not any(_on_grid(start, grid) for grid in _steps(start)):
        return 0.0
    moved = _moved(p)
    if len(moved) < _PAIR:
        return 0.0
    for grid in _steps(moved):
        if _on_grid(moved[:64], grid) and _on_grid(moved, grid):
            return grid
    return 0.0


def _steps(p: FloatArray) -> list[float]:
    """Return the steps that values of such a size may be printed to, the coarsest first."""
    size = float(np.max(np.abs(p)))
    first = int(np.floor(np.log10(size))) if size > 0 else 0
    decimal = [10.0**place for place in range(first, first - _PLACES, -1)]
    return sorted({*decimal, *(part for part in _PARTS if part < size)}, reverse=True)


def _moved(p: FloatArray) -> FloatArray:
    """Return the values of ``p`` that differ from the one before."""
    return p[np.flatnonzero(np.diff(p)) + 1]


def _on_grid(p: FloatArray, grid: float) -> bool:
    cells = p / grid
    return bool(np.all(np.abs(cells - np.round(cells)) < _OFF))


def _jitters(p: FloatArray, grid: float) -> bool:
    bends = np.diff(p, 2)
    size = np.abs(bends)
    sharp = (size > _BEND[0] * grid) & (size < _BEND[1] * grid)  # rounding bends by a step or two
    turns = sharp[1:] & sharp[:-1] & (bends[1:] * bends[:-1] < 0)
    moving = np.count_nonzero(np.diff(p)) or 1
    return bool(np.count_nonzero(turns) >= max(2, _JITTERY * moving))


def _unsmooth(p: FloatArray, grid: float) -> bool:
    """Whether values on a lattice, while they move in every frame, leave no smooth path."""
    third, largest = np.abs(np.diff(p, 3)), float(np.max(np.abs(p)))
    moved = (np.abs(np.diff(p)) > 0.5 * grid) & (np.abs(p[1:]) >= _LARGE * largest)
    busy = moved[2:] & moved[1:-1] & moved[:-2]
    many = np.count_nonzero(busy) if grid <= _LEVELS * largest else 0
    return bool(many >= _FEWEST and np.count_nonzero(third[busy] > 0.5 * grid) > _MOST * many)


def _shifts(half_width: int) -> range:
    """Return the frames of a window, counted from its middle; not all of a wide one."""
    stride = -(-half_width // _ENOUGH)
    reach = half_width // stride * stride
    return range(-reach, reach + 1, stride)


def fitted_speed(
    p: FloatArray, t: FloatArray, half_width: int, segment: IntArray
) -> tuple[FloatArray, FloatArray]:
    """Return slopes of lines through windows of positions, and the times they belong to.

    ``p``: positions, ``t``: times, ``segment``: the number of the stretch of constant
    input that each frame's step belongs to, all of shape (n,). A window spans
    ``half_width`` frames either way but never a change of input, where the motion bends.
    Of wide ones an even share of the frames is taken: what it costs grows with n alone.
    """
    n = len(p)
    index = np.arange(n)
    starts = np.flatnonzero(np.concatenate(([True], segment[1:] != segment[:-1])))
    number = np.searchsorted(starts, index, side="right") - 1
    low = np.maximum(starts[number] - 1, 0)
    high = np.append(starts[1:], n)[number] - 1
    count, st, sp, stt, stp = (np.zeros(n) for _ in range(5))
    for shift in _shifts(min(half_width, n)):
        j = index + shift
        inside = (j >= low) & (j <= high)
        j = np.clip(j, 0, n - 1)
        dt = np.where(inside, t[j] - t, 0.0)
        dp = np.where(inside, p[j] - p, 0.0)
        count += inside
        st += dt
        sp += dp
        stt += dt * dt
        stp += dt * dp
    spread = stt - st * st / count
    safe = np.where(spread > 0, spread, 1.0)
    slope = np.where(spread > 0, (stp - st * sp / count) / safe, 0.0)
    return slope, t + st / count
