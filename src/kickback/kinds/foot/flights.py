"""Stretches in the air: where each begins, tops out and ends."""

import numpy as np

from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["Flights", "find_flights"]

_RISES = 1e-3
"""Share of a flight's reach that its top lies above its takeoff, for a jump and no ledge."""


class Flights(Record, frozen=True, kw_only=True):
    """Flights of a take, arrays of shape (k,).

    Frames ``[start, stop)`` are airborne; ``start`` is the takeoff's frame, ``stop`` the
    landing's (the number of frames where the take ends in the air). ``top`` is the
    highest frame. ``jump`` says whether it began with a throw upward (else a ledge);
    ``whole`` whether both its ends are in the take.
    """

    start: IntArray
    stop: IntArray
    top: IntArray
    jump: BoolArray
    whole: BoolArray

    def __len__(self) -> int:
        """Return the number of flights."""
        return len(self.start)


def find_flights(grounded: BoolArray, y: FloatArray) -> Flights:
    """Find the flights in ground contact ``grounded`` and heights ``y``, shape (n,)."""
    starts, stops = runs(grounded)
    air = ~grounded[starts] if len(starts) else np.zeros(0, dtype=bool)
    start, stop = starts[air], stops[air]
    n = len(y)
    top = np.array(
        [a + int(np.argmax(y[a:b])) for a, b in zip(start.tolist(), stop.tolist(), strict=True)],
        dtype=np.int64,
    )
    level = y[np.maximum(start - 1, 0)]
    drop_first = y[start] - level if len(start) else np.zeros(0)
    highest, lowest = np.maximum.reduceat(y, starts), np.minimum.reduceat(y, starts)
    reach = np.maximum(highest[air], level) - np.minimum(lowest[air], level)
    jump = (start > 0) & (drop_first > ARITHMETIC * reach) & (y[top] - level > _RISES * reach)
    return Flights(start=start, stop=stop, top=top, jump=jump, whole=(start > 0) & (stop < n))
