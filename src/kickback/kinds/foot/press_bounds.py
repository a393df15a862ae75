"""Presses that worked and presses that did not: what a window or a wait lies between."""

from collections.abc import Sequence

import numpy as np

from kickback.metrics.windows import bracket
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["PressBounds", "press_bounds_of"]


class PressBounds(Record, frozen=True, kw_only=True):
    """Presses, arrays of shape (k,): their frames, how long they were from something.

    That is ``wait``, in s, and ``frames``. ``worked`` says which had their effect, ``redeemed``
    which of the others had it later.
    """

    press: IntArray
    wait: FloatArray
    frames: IntArray
    worked: BoolArray
    redeemed: BoolArray

    def __len__(self) -> int:
        """Return the number of presses."""
        return len(self.press)

    def between(self, *, longer: bool) -> tuple[float, float] | None:
        """Return what the limit lies between, s; ``longer``: longer waits work. None if unshown."""
        return bracket(self.wait, self.worked, longer=longer)


def press_bounds_of(
    rows: Sequence[tuple[int, float, int, bool]], redeemed: Sequence[bool] = ()
) -> PressBounds:
    """Return presses from frames, waits in s and in frames, and whether each worked.

    ``redeemed``: which had their effect later, none where it is not given.
    """
    press, wait, frames, worked = zip(*rows, strict=True) if rows else ((),) * 4
    return PressBounds(
        press=np.array(press, dtype=np.int64),
        wait=np.array(wait, dtype=np.float64),
        frames=np.array(frames, dtype=np.int64),
        worked=np.array(worked, dtype=bool),
        redeemed=np.array(redeemed or [False] * len(rows), dtype=bool),
    )
