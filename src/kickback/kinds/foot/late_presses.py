"""Presses of the jump button in the air: shortly after a ledge, and shortly before a landing."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.press_bounds import PressBounds, press_bounds_of
from kickback.kinds.foot.throws import COYOTE_JUMP, Throws, throws_of
from kickback.motion.segments import IntArray, risings
from kickback.takes.computed_once import computed_once

__all__ = ["after_ledges", "before_landings"]

_SOON = 2
"""Frames within which a press shows in the motion."""


def _presses(motion: FootMotion) -> IntArray:
    """Return the frames that read a press of the jump button in the air."""
    jump = motion.inputs.jump
    if jump is None or motion.up is None:
        return np.zeros(0, dtype=np.int64)
    presses = risings(jump)
    return presses[~motion.grounded[presses - 1]]


def _served(throws: Throws, press: int, start: int, stop: int) -> int | None:
    """Return which throw of the frames ``[start, stop)`` a press shows in, or None."""
    soon = (throws.start >= max(press, start)) & (throws.start <= max(press, start) + _SOON)
    found = np.flatnonzero(soon & (throws.start < stop))
    return int(found[0]) if found.size else None


@computed_once
def after_ledges(motion: FootMotion) -> PressBounds:
    """Return how long after a ledge presses came, and which of them threw it up.

    A press that a jump in the air answers tells nothing of a window after a ledge. ``redeemed``
    are those that did nothing there, and were kept for the landing.
    """
    rows: list[tuple[int, float, int, bool]] = []
    flights, presses = motion.flights, _presses(motion)
    throws = throws_of(motion)
    coyote = throws.of(COYOTE_JUMP)
    kept = _kept(motion)
    redeemed = []
    for a, b, jumped in zip(
        flights.start.tolist(), flights.stop.tolist(), flights.jump.tolist(), strict=True
    ):
        inside = presses[(presses > a) & (presses < b)]
        if jumped or a == 0 or not len(inside):
            continue
        press = int(inside[0])
        by = _served(throws, press, a, b)
        if by is not None and not coyote[by]:
            continue
        rows.append(
            (press, float(motion.begin[press] - motion.begin[a]), press - a, by is not None)
        )
        redeemed.append(by is None and press in kept)
    return press_bounds_of(rows, redeemed)


@computed_once
def before_landings(motion: FootMotion) -> PressBounds:
    """Return how long before a landing presses came, and which of them led to a jump.

    A press that was answered in the air, or followed by another one, tells nothing of that.
    """
    rows: list[tuple[int, float, int, bool]] = []
    throws = throws_of(motion)
    for press, b in _last_presses(motion):
        if _served(throws, press, 0, b) is None:
            by = _served(throws, press, b, len(motion.t))
            early = float(motion.begin[b] - motion.begin[press])
            rows.append((press, early, b - press, by is not None))
    return press_bounds_of(rows)


def _last_presses(motion: FootMotion) -> list[tuple[int, int]]:
    """Return the last press of each flight with its landing, but those that another follows."""
    jump, flights, found = motion.inputs.jump, motion.flights, []
    presses = _presses(motion)
    for a, b in zip(flights.start.tolist(), flights.stop.tolist(), strict=True):
        inside = presses[(presses > a) & (presses < b)]
        if jump is None or b >= len(motion.t) or not len(inside):
            continue
        if not risings(jump[b - 1 : b + _SOON + 1]).size:  # else pressed anew where it lands
            found.append((int(inside[-1]), b))
    return found


def _kept(motion: FootMotion) -> set[int]:
    """Return the presses in the air that a landing answered with a jump."""
    bounds = before_landings(motion)
    return set(bounds.press[bounds.worked].tolist())
