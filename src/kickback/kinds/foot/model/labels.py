"""The model's labels: what it calls its motion, by speeds at which one begins and ends."""

import numpy as np

from kickback.kinds.foot.model.state import State
from kickback.kinds.playing.parameters import Values

__all__ = ["Labels"]

_WORDS = np.array(["idle", "run", "jump"])
_IDLE, _RUN, _JUMP = range(len(_WORDS))


class Labels:
    """Each set's label; ``used``: whether any set has them."""

    def __init__(self, p: Values, many: int) -> None:
        self._p = p
        self.used = bool(np.any(p.label_run > 0))
        self._flickers, self._stays = p.mistake("state-flicker"), p.mistake("state-contradicts")
        self._code = np.full(many, _IDLE)
        self._since, self._began = np.zeros(many), np.zeros(many, dtype=bool)

    def read(self, s: State, dt: float) -> object:
        """Return the words after a frame, shape (m,), from the motion that it shows."""
        p, speed, was = self._p, np.abs(s.vx), self._code
        ends = np.where(p.label_idle > 0, p.label_idle, p.label_run)
        runs = np.where(was == _RUN, speed >= ends, speed >= p.label_run)
        self._since = np.where(runs, 0.0, self._since + dt)
        runs |= self._stays & (was == _RUN) & (self._since < p.label_hold)
        code = np.where(s.grounded, np.where(runs, _RUN, _IDLE), _JUMP)
        shown = np.where(self._flickers & self._began, _IDLE, code)
        self._began = (code == _RUN) & (was == _IDLE)
        self._code = code
        return _WORDS[shown]
