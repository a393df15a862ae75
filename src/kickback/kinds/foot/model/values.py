"""What each parameter set makes of a time step: where mistakes live."""

import numpy as np

from kickback.kinds.playing.parameters import Values
from kickback.takes.take import FloatArray

__all__ = ["OVER", "Steps"]

OVER = 1e-12
"""What is left of a timer that has run out, s."""


class Steps:
    """The time step that each term uses in a frame of ``dt`` seconds: mistakes live here."""

    def __init__(self, p: Values) -> None:
        self.p = p
        self.reference = 1.0 / p.reference_rate
        self.in_frames = p.mistake("all-in-frames")
        self.clamped = p.mistake("dt-clamped")
        self.acceleration_free = p.mistake("acceleration-per-frame")
        self.twice = p.mistake("dt-twice")
        self.gravity_free = p.mistake("gravity-per-frame")
        self.position_free = p.mistake("position-per-frame")
        self.timer_free = p.mistake("timer-in-frames")
        self.impulse_scaled = p.mistake("impulse-times-dt")
        self.factor_free = p.mistake("factor-per-frame")
        self.factor_first_order = p.mistake("first-order-factor")
        self._last = 0.0
        self.take(1.0 / 60.0)

    def take(self, dt: float) -> None:
        """Set every term's step for a frame of ``dt`` seconds."""
        if dt == self._last:
            return
        self._last, h0 = dt, self.reference
        h = np.where(self.clamped, np.minimum(dt, self.p.largest_step), dt)
        self.used = h
        h = np.where(self.in_frames, h0, h)
        self.speed = np.where(self.acceleration_free, h0, np.where(self.twice, h * h / h0, h))
        self.gravity = np.where(self.gravity_free, h0, h)
        self.position = np.where(self.position_free, h0, h)
        self.timer = np.where(self.timer_free, h0, h)
        self.impulse = np.where(self.impulse_scaled, h / h0, 1.0)
        decaying = np.where(self.factor_free, h0, h)
        self.kept_pressing = self._kept(self.p.smoothing_rate, decaying)
        self.kept_letting_go = self._kept(self.p.stop_rate, decaying)
        self.kept_in_air = self._kept(self.p.air_rate, decaying)
        self.kept_drifting = self._kept(self.p.air_stop_rate, decaying)
        self.kept_rubbing = self._kept(self.p.friction_rate, decaying)
        self.kept_camera = self._kept(self.p.camera_rate, decaying)

    def _kept(self, rate: FloatArray, h: FloatArray) -> FloatArray:
        """Return the factor that remains of a decaying speed after a step of ``h``."""
        return np.where(self.factor_first_order, np.maximum(0.0, 1.0 - rate * h), np.exp(-rate * h))
