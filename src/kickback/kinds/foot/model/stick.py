"""What a partly pressed stick asks for: a dead zone, a curve, and a threshold of walk and run."""

from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.kinds.playing.parameters import Values, some

__all__ = ["Stick"]

Over = npt.NDArray[Any]


class Stick:
    """Each set's answer to an amount of the stick, shape (m,)."""

    def __init__(self, p: Values) -> None:
        self._p = p
        self._plain = not (
            np.any(p.stick_dead_zone > 0)
            or np.any(p.stick_exponent != 1)
            or np.any(p.walk_below > 0)
        )

    def shaped(self, move: complex | Over) -> Over:
        """Return the inputs that a stick at ``move`` gives, of its direction, shape (m,)."""
        p = self._p
        whole = np.array(np.broadcast_to(move, p.run_speed.shape))
        if self._plain or not some(whole):
            return whole
        reach = np.minimum(np.abs(whole), 1.0)
        beyond = np.clip((reach - p.stick_dead_zone) / (1 - p.stick_dead_zone), 0.0, 1.0)
        answer = beyond**p.stick_exponent
        walks = (p.walk_below > 0) & (answer > 0)
        answer = np.where(walks, np.where(reach < p.walk_below, p.walk_share, 1.0), answer)
        return np.asarray(whole / np.where(reach > 0, reach, 1.0) * answer)
