"""Windows: numbers that are known only from tries on either side of them."""

from collections.abc import Sequence
from functools import partial

import numpy as np

from kickback.metrics.metric import Combine
from kickback.metrics.record import Occurrences, joined, none
from kickback.motion.segments import BoolArray
from kickback.takes.numerals import plain
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["STICK_FROM", "WAIT", "WINDOW", "WINDOW_FRAMES", "WORKED", "bracket"]

_WIDE = 4.0
"""Times the last try within a limit that the first one beyond it may be."""

WORKED = "worked"
"""The key of what says, of each try, whether it had its effect."""


def bracket(wait: FloatArray, worked: BoolArray, *, longer: bool) -> tuple[float, float] | None:
    """Return what a limit lies between, infinite above where no try shows its end.

    ``wait``: how far tries were from it, ``worked``: which had their effect, shape (k,).
    ``longer``: those beyond the limit work; else those within it do. None where no try is
    within it.
    """
    inside = worked != longer
    if not inside.any():
        return None
    low = float(np.max(wait[inside]))
    beyond = wait[~inside]
    return low, float(np.min(beyond[beyond > low], initial=np.inf))


def _narrowed(parts: Sequence[Occurrences], *, longer: bool, unit: str) -> Occurrences:
    """Return the middle of what tries leave, with half its width as the resolution."""
    every = joined(parts)
    if not len(every.value):
        return every
    worked = every.given[WORKED] > 0.5
    between = bracket(every.value, worked, longer=longer)
    first = float(np.min(every.value))
    if between is None:
        why = "every try worked" if longer else "no try worked"
        return none(f"less than {plain(first)} {unit}: {why}")
    low, high = between
    if not np.isfinite(high):
        why = "worked" if longer else "failed"
        return none(f"more than {plain(low)} {unit}: nothing beyond that {why}")
    if high > _WIDE * low:  # their middle would be no number for anything
        return none(f"{plain(low)} to {plain(high)} {unit}, from {len(every.value)} tries")
    middle = replace(every.only(np.arange(len(every.value)) == 0), given={})
    return replace(
        middle,
        value=np.array([(low + high) / 2]),
        resolution=np.array([(high - low) / 2]),
        start=every.start.min(keepdims=True),
        end=every.end.max(keepdims=True),
        remark=f"{plain(low)} to {plain(high)} {unit}, from {len(every.value)} tries",
    )


def _combine(name: str, unit: str, *, longer: bool) -> Combine:
    return Combine(name=name, narrows=True, of=partial(_narrowed, longer=longer, unit=unit))


WINDOW = _combine("window", "s", longer=False)
"""Of tries that work up to a time, s."""

WINDOW_FRAMES = _combine("window", "frames", longer=False)
"""Of tries that work up to a number of frames."""

WAIT = _combine("wait", "s", longer=True)
"""Of tries that work from a time on, s."""

STICK_FROM = _combine("amount", "of the stick", longer=True)
"""Of amounts of a stick that work from one on."""
