"""What a driver pressed: throttle, steering and brake as the updates read them."""

import numpy as np

from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["DEAD_ZONE", "FULL", "Pedals", "read_pedals"]

DEAD_ZONE = 0.05
"""Share of a pedal or a wheel below which it is not pressed: what worn ones rest at."""

FULL = 0.95
"""Share from which it is pressed all the way."""


class Pedals(Record, frozen=True, kw_only=True):
    """Inputs as frames read them, shape (n,): amounts from −1 to 1, 0 within the dead zone.

    None where the take has no such column.
    """

    throttle: FloatArray | None
    steer: FloatArray | None
    brake: BoolArray | None

    @property
    def straight(self) -> BoolArray | None:
        """Return where nothing is steered; None where that was not recorded."""
        return None if self.steer is None else np.asarray(self.steer == 0)

    def segments(self, n: int) -> IntArray:
        """Return for each of ``n`` frames the number of its stretch of equal input."""
        code = np.zeros(n)
        for amount, weight in ((self.throttle, 1e3), (self.steer, 1.0)):
            if amount is not None:
                code = code + weight * np.round(amount, 2)
        if self.brake is not None:
            code = code + 1e6 * self.brake
        return np.cumsum(np.concatenate(([0], code[1:] != code[:-1]))).astype(np.int64)


def read_pedals(take: Take) -> Pedals:
    """Return the inputs that the take carries."""
    brake = take.numbers("in_brake") > 0.5 if "in_brake" in take else None
    return Pedals(
        throttle=_amount(take, "in_throttle"), steer=_amount(take, "in_steer"), brake=brake
    )


def _amount(take: Take, name: str) -> FloatArray | None:
    if name not in take:
        return None
    amount = take.numbers(name)
    return np.where(np.abs(amount) > DEAD_ZONE, amount, 0.0)
