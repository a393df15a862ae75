"""Dashes of the on-foot model: a speed for a time, from a press, and what it locks."""

from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.takes.take import FloatArray

__all__ = ["Dash"]

BoolArray = npt.NDArray[np.bool_]
Ways = npt.NDArray[Any]
"""Directions: signs along one axis, or complex numbers over a plane."""
_OVER = 1e-12
"""Seconds of a timer that count as none: what sums of steps leave."""


class Dash:
    """Each set's dash: what is left of it, of its lock-out and of its cooldown, shape (m,), s.

    ``duration``, ``lockout`` and ``cooldown`` all count from the dash's start. Over a ``plane``
    it goes where the input last pointed, a complex number.
    """

    def __init__(
        self,
        speed: FloatArray,
        duration: FloatArray,
        lockout: FloatArray,
        cooldown: FloatArray,
        *,
        plane: bool = False,
    ) -> None:
        self._speed, self._able = speed, (speed > 0) & (duration > 0)
        self._times = np.stack((duration, lockout, np.maximum(cooldown, duration)))
        self._left = np.zeros_like(self._times)
        self._facing: Ways = np.ones(len(speed), dtype=np.complex128 if plane else np.float64)
        self._side = self._facing.copy()

    def step(
        self, move: complex | Ways, pressed: bool | BoolArray, tick: FloatArray, scale: FloatArray
    ) -> tuple[BoolArray, BoolArray, Ways]:
        """Return who dashes in a frame, whose input is locked out, and the dash's speed.

        ``tick``: what timers lose in the frame, s; ``scale``: a factor on the speed.
        """
        if np.any(move):
            size = np.abs(move)
            self._facing = np.where(size > 0, move / np.where(size > 0, size, 1.0), self._facing)
        if np.any(pressed):
            starts = self._able & (self._left[2] <= _OVER) & pressed
            self._left = np.where(starts, self._times, self._left)
            self._side = np.where(starts, self._facing, self._side)
        dashing, locked = self._left[0] > _OVER, self._left[1] > _OVER
        self._left = np.maximum(0.0, self._left - tick)
        return dashing, locked, np.asarray(self._side * self._speed * scale)
