"""The model's camera: it is smoothed toward its subject, with a band in which it stands."""

import numpy as np

from kickback.kinds.foot.model.state import Over, State
from kickback.kinds.foot.model.values import Steps
from kickback.kinds.playing.parameters import Values
from kickback.takes.take import FloatArray

__all__ = ["Camera"]


class Camera:
    """Each set's camera, over the ground and up; ``used``: whether any set has one."""

    def __init__(self, p: Values, steps: Steps, s: State) -> None:
        self._p, self._steps = p, steps
        self.used = bool(np.any(p.camera_rate > 0))
        self._late = p.mistake("camera-late")
        self.x, self.y = s.x.copy(), s.y + p.camera_height
        self._was: tuple[Over, FloatArray] = (s.x.copy(), s.y.copy())

    def follow(self, s: State) -> None:
        """Move each camera at the end of a frame."""
        old_x, old_y = self._was
        ahead = self._p.camera_ahead * s.vx
        self.x = self._toward(self.x, np.where(self._late, old_x, s.x) + ahead)
        height = np.where(self._late, old_y, s.y) + self._p.camera_height
        self.y = self._toward(self.y, height)
        self._was = (s.x.copy(), s.y.copy())

    def _toward(self, camera: FloatArray, goal: FloatArray) -> FloatArray:
        way = goal - camera
        size = np.abs(way)
        beyond = np.maximum(size - self._p.camera_dead_zone / 2, 0.0)
        share = beyond / np.where(size > 0, size, 1.0)
        return camera + way * share * (1 - self._steps.kept_camera)
