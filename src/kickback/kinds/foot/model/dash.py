"""Dashes of the on-foot model: a speed for a time, from a press, and what it locks."""

import numpy as np
import numpy.typing as npt

from kickback.takes.take import FloatArray

__all__ = ["Dash"]

BoolArray = npt.NDArray[np.bool_]
_OVER = 1e-12
"""Seconds of a timer that count as none: what sums of steps leave."""


class Dash:
    """Each set's dash: what is left of it, of its lock-out and of its cooldown, shape (m,), s.

    ``duration``, ``lockout`` and ``cooldown`` all count from the dash's start.
    """

    def __init__(
        self, speed: FloatArray, duration: FloatArray, lockout: FloatArray, cooldown: FloatArray
    ) -> None:
        self._speed, self._able = speed, (speed > 0) & (duration > 0)
        self._times = np.stack((duration, lockout, np.maximum(cooldown, duration)))
        self._left = np.zeros_like(self._times)
        self._facing = np.ones_like(speed)
        self._side = np.ones_like(speed)

    def step(
        self, move: float, pressed: bool, tick: FloatArray, scale: FloatArray
    ) -> tuple[BoolArray, BoolArray, FloatArray]:
        """Return who dashes in a frame, whose input is locked out, and the dash's speed.

        ``tick``: what timers lose in the frame, s; ``scale``: a factor on the speed.
        """
        if move:
            self._facing = np.full_like(self._facing, np.sign(move))
        if pressed:
            starts = self._able & (self._left[2] <= _OVER)
            self._left = np.where(starts, self._times, self._left)
            self._side = np.where(starts, self._facing, self._side)
        dashing, locked = self._left[0] > _OVER, self._left[1] > _OVER
        self._left = np.maximum(0.0, self._left - tick)
        return dashing, locked, self._side * self._speed * scale
