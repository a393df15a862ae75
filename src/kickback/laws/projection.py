"""Weighted least squares over stretches: what each stretch explains alone is taken off first."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kickback.laws.step_model import Speeds
from kickback.takes.take import FloatArray

__all__ = ["Path", "normal", "off", "orthogonal"]


class Path(NamedTuple):
    """A model at some constants: what is left, and what it goes with, arrays of shape (s, r).

    ``own``: what each stretch goes with alone, and ``basis`` the same made orthogonal; ``lines``:
    what goes with a constant, less these, by its place, and ``raw`` the same with them.
    """

    c: FloatArray
    starts: Speeds
    left: FloatArray
    own: list[FloatArray]
    basis: list[FloatArray]
    lines: dict[int, FloatArray]
    raw: dict[int, FloatArray]
    weight: FloatArray

    @property
    def chi2(self) -> float:
        """Return the weighted sum of squares of what is left."""
        return float(np.sum(self.weight * self.left**2))

    @property
    def score(self) -> float:
        """Return minus twice the logarithm of the likelihood, but for a constant.

        Weights go with the constants, too: by chi squared alone the vaguest would do best.
        """
        return self.chi2 - float(np.sum(np.log(self.weight[self.weight > 0])))

    def off(self, column: FloatArray) -> FloatArray:
        """Return a column less what each stretch's own start explains of it."""
        return off(column, self.basis, self.weight)


def off(column: FloatArray, basis: Sequence[FloatArray], weight: FloatArray) -> FloatArray:
    """Return a column, shape (s, r), less what an orthogonal basis explains of each row."""
    for one in basis:
        column = column - np.sum(weight * one * column, axis=1, keepdims=True) * one
    return column


def orthogonal(columns: Sequence[FloatArray], weight: FloatArray) -> list[FloatArray]:
    """Return columns, shape (s, r), made orthogonal and of size one in each row."""
    found: list[FloatArray] = []
    for column in reversed(columns):  # places first: what starts do is then seen beside them
        rest = off(column, found, weight)
        size = np.sqrt(np.sum(weight * rest**2, axis=1, keepdims=True))
        found.append(np.divide(rest, size, out=np.zeros_like(rest), where=size > 0))
    return found


def normal(
    columns: Sequence[FloatArray], left: FloatArray, weight: FloatArray
) -> tuple[FloatArray, FloatArray] | None:
    """Return the inverse normal matrix of columns, and their products with what is left.

    None where a column tells nothing, or two tell the same.
    """
    matrix = np.stack(columns)
    matrix = matrix.reshape(len(columns), -1)
    weighted = matrix * weight.ravel()
    matrix_of, right = weighted @ matrix.T, weighted @ left.ravel()
    size = np.sqrt(np.diag(matrix_of))
    if not np.all(np.isfinite(matrix_of)) or not np.all(size > 0):
        return None
    if len(columns) == 1:
        return 1 / matrix_of, right
    try:
        inverse = np.linalg.inv(matrix_of / np.outer(size, size))
    except np.linalg.LinAlgError:
        return None
    with np.errstate(over="ignore"):  # columns of hardly anything tell nothing
        inverse = inverse / np.outer(size, size)
    return (inverse, right) if np.all(np.isfinite(inverse)) else None
