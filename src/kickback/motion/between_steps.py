"""The states of a physics step, from places that are drawn between the last two."""

import numpy as np

from kickback.motion.segments import IntArray
from kickback.takes.take import FloatArray

__all__ = ["misfit_between", "states_of"]

_STEADY = 1e-6
"""Weight of a state's second difference, beside a place's: it decides where no place does."""


def states_of(p: FloatArray, index: IntArray, share: FloatArray) -> FloatArray:
    """Return the states after steps, shape (k,), from places drawn between the last two.

    ``p``: places of the frames, ``index``: the steps made by then, ``share``: of a step since,
    0 to 1, all of shape (n,). A place is ``(1 − α)·s[k−1] + α·s[k]``: least squares over all
    states, a banded system.
    """
    knots = _knots(p, index - index[0], share)
    return knots[1:]


def misfit_between(p: FloatArray, index: IntArray, share: FloatArray) -> float:
    """Return the root mean square of what states leave of places, beyond their own number."""
    number = index - index[0]
    knots = _knots(p, number, share)
    left = p - (1 - share) * knots[number] - share * knots[number + 1]
    free = max(1, len(p) - len(knots))
    return float(np.sqrt(np.sum(left * left) / free))


def _knots(p: FloatArray, number: IntArray, share: FloatArray) -> FloatArray:
    """Return the states before and after each step, shape (k + 1,)."""
    from scipy.linalg import solveh_banded

    many = int(number[-1]) + 2
    band = np.zeros((3, many))
    right = np.zeros(many)
    np.add.at(band[2], number, (1 - share) ** 2)
    np.add.at(band[2], number + 1, share**2)
    np.add.at(band[1], number + 1, share * (1 - share))
    np.add.at(right, number, (1 - share) * p)
    np.add.at(right, number + 1, share * p)
    # second differences, lightly: rows of 1, −2, 1
    band[2, :-2] += _STEADY
    band[2, 1:-1] += 4 * _STEADY
    band[2, 2:] += _STEADY
    band[1, 1:-1] -= 2 * _STEADY
    band[1, 2:] -= 2 * _STEADY
    band[0, 2:] += _STEADY
    knots: FloatArray = solveh_banded(band, right)
    return knots
