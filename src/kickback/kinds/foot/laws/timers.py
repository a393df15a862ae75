"""Timers: how long after a ledge a jump still works, and how long before a landing it counts."""

import numpy as np

from kickback.kinds.foot.lenience import after_ledges, before_landings
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.waits import Waits
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law
from kickback.laws.timing import timer

__all__ = ["BUFFER", "COYOTE", "timers"]

COYOTE = PhaseKey("coyote")
BUFFER = PhaseKey("buffer")


def timers(motion: FootMotion) -> list[Law]:
    """Return the coyote time and the jump buffer, between a press that worked and one that failed.

    A timer needs a press in the air: shortly after a ledge, or shortly before a landing.
    """
    if motion.up is None or motion.inputs.jump is None:
        return []
    pairs = ((COYOTE, after_ledges(motion)), (BUFFER, before_landings(motion)))
    return [law for name, waits in pairs if (law := _bracket(motion, name, waits)) is not None]


def _bracket(motion: FootMotion, phase: PhaseKey, waits: Waits) -> Law | None:
    """Return a timer between the longest that worked and the shortest that failed, or None."""
    between = waits.between(longer=False)
    if between is None:
        return None
    low, high = between
    reason = f"a press {low:.4g} s away still worked"
    late = np.isfinite(high)
    reason += f", one {high:.4g} s away did not" if late else "; none that failed shows its end"
    return timer(motion, phase, UP, between, used=len(waits), reason=reason)
