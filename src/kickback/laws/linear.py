"""Least squares, and what its errors are made of."""

import numpy as np

from kickback.takes.take import FloatArray

__all__ = ["least_squares", "unscaled"]


def least_squares(x: FloatArray, y: FloatArray) -> FloatArray:
    """Return the coefficients, shape (p,), that bring ``x``, shape (n, p), nearest to ``y``."""
    return np.asarray(np.linalg.lstsq(x, y, rcond=None)[0], dtype=np.float64)


def unscaled(x: FloatArray) -> FloatArray:
    """Return ``(XᵀX)⁻¹``, shape (p, p): the coefficients' covariance for noise of size one."""
    return np.asarray(np.linalg.pinv(x.T @ x), dtype=np.float64)
