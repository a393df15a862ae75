"""Timers: how long after a ledge a jump still works, and how long before a landing it counts."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.throws import thrown_up
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law
from kickback.laws.timing import timer
from kickback.motion.segments import IntArray

__all__ = ["BUFFER", "COYOTE", "timers"]

COYOTE = PhaseKey("coyote")
BUFFER = PhaseKey("buffer")

_SOON = 2
"""Frames within which a press shows in the motion."""


def timers(motion: FootMotion) -> list[Law]:
    """Return the coyote time and the jump buffer, between a press that worked and one that failed.

    A timer needs a press in the air: shortly after a ledge, or shortly before a landing.
    """
    if motion.up is None or motion.inputs.jump is None:
        return []
    jump = motion.inputs.jump
    presses = np.flatnonzero(jump[1:] & ~jump[:-1]) + 1
    presses = presses[~motion.grounded[presses - 1]]
    if not len(presses):
        return []
    thrown = thrown_up(motion.up.v)
    return [
        law
        for name, (worked, failed) in (
            (COYOTE, _after_ledges(motion, presses, thrown)),
            (BUFFER, _before_landings(motion, presses, thrown)),
        )
        if (law := _bracket(motion, name, worked, failed)) is not None
    ]


def _after_ledges(
    motion: FootMotion, presses: IntArray, thrown: IntArray
) -> tuple[list[float], list[float]]:
    """Return how long after a ledge presses came, s: those that threw it up, and the others."""
    worked: list[float] = []
    failed: list[float] = []
    flights = motion.flights
    for a, b, jumped in zip(
        flights.start.tolist(), flights.stop.tolist(), flights.jump.tolist(), strict=True
    ):
        inside = presses[(presses > a) & (presses < b)]
        if jumped or a == 0 or not len(inside):
            continue
        press = int(inside[0])
        delay = float(motion.begin[press] - motion.begin[a])
        soon = np.any((thrown >= press) & (thrown <= press + _SOON))
        (worked if soon else failed).append(delay)
    return worked, failed


def _before_landings(
    motion: FootMotion, presses: IntArray, thrown: IntArray
) -> tuple[list[float], list[float]]:
    """Return how long before a landing presses came, s: those that led to a jump, and others."""
    worked: list[float] = []
    failed: list[float] = []
    flights = motion.flights
    for a, b in zip(flights.start.tolist(), flights.stop.tolist(), strict=True):
        inside = presses[(presses > a) & (presses < b)]
        if b >= len(motion.t) or not len(inside):
            continue
        press = int(inside[-1])
        if np.any((thrown >= press) & (thrown <= press + _SOON) & (thrown < b)):
            continue  # it threw it up in the air
        early = float(motion.begin[b] - motion.begin[press])
        soon = np.any((thrown >= b) & (thrown <= b + _SOON))
        (worked if soon else failed).append(early)
    return worked, failed


def _bracket(
    motion: FootMotion, phase: PhaseKey, worked: list[float], failed: list[float]
) -> Law | None:
    """Return a timer between the longest that worked and the shortest that failed, or None."""
    if not worked:
        return None
    low = max(worked)
    late = [value for value in failed if value > low]
    reason = f"a press {low:.4g} s away still worked"
    high = min(late, default=float("inf"))
    reason += f", one {high:.4g} s away did not" if late else "; none that failed shows its end"
    used = len(worked) + len(failed)
    return timer(motion, phase, UP, (low, high), used=used, reason=reason)
