"""Linear least squares, and what the errors of the coefficients are made of."""

import numpy as np

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Solution", "linear", "solved"]

_NO_RANK = 1e-13
"""Share of the largest singular value below which a direction of the design tells nothing."""


class Solution(Record, frozen=True, kw_only=True):
    """Coefficients ``found``, shape (p,), ``spread`` their covariance for noise of size one.

    ``left``, shape (n,): what they leave.
    """

    found: FloatArray
    spread: FloatArray
    left: FloatArray

    @property
    def misfit(self) -> float:
        """Return the root mean square of what is left."""
        return float(np.sqrt(np.mean(self.left * self.left)))

    @property
    def rss(self) -> float:
        """Return the sum of squares of what is left."""
        return float(self.left @ self.left)

    @property
    def stderr(self) -> FloatArray:
        """Return the standard errors: ``s²·(XᵀX)⁻¹`` with ``s² = RSS/(n − p)``."""
        free = max(1, len(self.left) - len(self.found))
        return np.asarray(np.sqrt(np.maximum(np.diag(self.spread) * self.rss / free, 0.0)))


def linear(x: FloatArray, y: FloatArray) -> FloatArray:
    """Return the coefficients, shape (p,), that bring ``x``, shape (n, p), nearest to ``y``."""
    return np.asarray(np.linalg.lstsq(x, y, rcond=None)[0], dtype=np.float64)


def solved(x: FloatArray, y: FloatArray) -> Solution:
    """Fit ``y ≈ x·found`` by ordinary least squares, with the coefficients' covariance."""
    if x.shape[1] == 1:  # the common case, in closed form
        one = x[:, 0]
        power = max(float(one @ one), np.finfo(np.float64).tiny)
        found, spread = np.array([float(one @ y) / power]), np.array([[1 / power]])
        return Solution(found=found, spread=spread, left=y - one * found[0])
    found = linear(x, y)
    return Solution(found=found, spread=_covariance(x), left=y - x @ found)


def _covariance(x: FloatArray) -> FloatArray:
    """Return ``(XᵀX)⁻¹``, shape (p, p), from the singular values of ``x`` itself."""
    _, sizes, turns = np.linalg.svd(x, full_matrices=False)
    known = sizes > _NO_RANK * sizes.max(initial=0.0)
    inverse = np.where(known, 1 / np.where(known, sizes, 1.0), 0.0)
    scaled = turns * inverse[:, None]
    return np.asarray(scaled.T @ scaled)
