"""Rules as recurrences ``v1 = f·v0 + c·g``: one form for every family, clock and order."""

from collections.abc import Callable

import numpy as np

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Recurrence", "decays_by", "falls_by", "steps_as"]

Kept = Callable[[float, FloatArray], FloatArray]
"""Gives the share of a speed that a step keeps, from a rate, 1/s, and the steps, s."""

Push = Callable[[FloatArray, FloatArray], FloatArray]
"""Gives what a step adds of the shared constant, from the shares kept and the steps, s."""


def decays_by(rate: float, step: FloatArray) -> FloatArray:
    """Return ``exp(−k·dt)``."""
    kept: FloatArray = np.exp(-rate * step)
    return kept


def falls_by(rate: float, step: FloatArray) -> FloatArray:
    """Return ``1 − k·dt``, the first order of the same."""
    return 1 - rate * step


def steps_as(power: float, dt: FloatArray, usual: float) -> FloatArray:
    """Return the steps that count where a constant goes with ``dt^power``, in usual steps, s."""
    if power == 1:
        return dt
    scaled: FloatArray = usual * np.where(dt > 0, dt / usual, 1.0) ** power
    return scaled


class Recurrence(Record, frozen=True, kw_only=True):
    """One form of a rule: what a step keeps of the speed, and what it adds.

    ``constant`` names ``c``, where there is one. The step that counts for the rate (or for
    ``c``, where nothing decays) is ``dt^power``; ``push_power`` is that of a drive's push.
    ``clock``, ``gain`` and ``friction_first`` are what a law of it says, see ``Law``.
    """

    clock: str
    power: float = 1
    kept: Kept | None = None
    push: Push | None = None
    push_power: float | None = None
    constant: str = ""
    gain: str = "second"
    friction_first: bool = False

    @property
    def timed(self) -> bool:
        """Whether the length of a step matters at all."""
        return self.power != 0 or self.push_power not in {None, 0}

    @property
    def coarse(self) -> bool:
        """Whether a step's own length matters beside their sum: no way along a smooth path."""
        return self.kept is falls_by or self.push_power is not None
