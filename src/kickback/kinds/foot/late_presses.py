"""Presses of the jump button in the air: shortly after a ledge, and shortly before a landing."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.press_bounds import PressBounds, press_bounds_of
from kickback.kinds.foot.throws import thrown_up
from kickback.motion.segments import IntArray

__all__ = ["after_ledges", "before_landings"]

_SOON = 2
"""Frames within which a press shows in the motion."""


def _presses(motion: FootMotion) -> IntArray:
    """Return the frames that read a press of the jump button in the air."""
    jump = motion.inputs.jump
    if jump is None or motion.up is None:
        return np.zeros(0, dtype=np.int64)
    presses = np.flatnonzero(jump[1:] & ~jump[:-1]) + 1
    return presses[~motion.grounded[presses - 1]]


def _thrown(motion: FootMotion) -> IntArray:
    return np.zeros(0, dtype=np.int64) if motion.up is None else thrown_up(motion.up.v)


def after_ledges(motion: FootMotion) -> PressBounds:
    """Return how long after a ledge presses came, and which of them threw it up."""
    rows: list[tuple[int, float, int, bool]] = []
    flights, presses, thrown = motion.flights, _presses(motion), _thrown(motion)
    for a, b, jumped in zip(
        flights.start.tolist(), flights.stop.tolist(), flights.jump.tolist(), strict=True
    ):
        inside = presses[(presses > a) & (presses < b)]
        if jumped or a == 0 or not len(inside):
            continue
        press = int(inside[0])
        delay = float(motion.begin[press] - motion.begin[a])
        soon = bool(np.any((thrown >= press) & (thrown <= press + _SOON)))
        rows.append((press, delay, press - a, soon))
    return press_bounds_of(rows)


def before_landings(motion: FootMotion) -> PressBounds:
    """Return how long before a landing presses came, and which of them led to a jump."""
    rows: list[tuple[int, float, int, bool]] = []
    flights, presses, thrown = motion.flights, _presses(motion), _thrown(motion)
    for a, b in zip(flights.start.tolist(), flights.stop.tolist(), strict=True):
        inside = presses[(presses > a) & (presses < b)]
        if b >= len(motion.t) or not len(inside):
            continue
        press = int(inside[-1])
        if np.any((thrown >= press) & (thrown <= press + _SOON) & (thrown < b)):
            continue  # it threw it up in the air
        early = float(motion.begin[b] - motion.begin[press])
        soon = bool(np.any((thrown >= b) & (thrown <= b + _SOON)))
        rows.append((press, early, b - press, soon))
    return press_bounds_of(rows)
