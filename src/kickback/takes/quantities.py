"""Dimensions and units as things with arithmetic: ``SPEED / TIME`` is an acceleration."""

import msgspec

__all__ = [
    "ACCELERATION",
    "ANGLE",
    "FRAMES",
    "LENGTH",
    "PER_TIME",
    "RATIO",
    "SPEED",
    "TIME",
    "Dimension",
    "Unit",
]

_ONE = {"frames": "frame"}
"""Words of units that are of one where they are divided by."""

_POWERS = {1: "", 2: "²", 3: "³"}


class Dimension(msgspec.Struct, frozen=True):
    """The powers of length, time, angle and frames that a quantity is made of."""

    length: int = 0
    time: int = 0
    angle: int = 0
    frames: int = 0

    def __mul__(self, other: "Dimension") -> "Dimension":
        """Return the dimension of a product."""
        return Dimension(
            self.length + other.length,
            self.time + other.time,
            self.angle + other.angle,
            self.frames + other.frames,
        )

    def __pow__(self, power: int) -> "Dimension":
        """Return the dimension of a power."""
        return Dimension(
            self.length * power, self.time * power, self.angle * power, self.frames * power
        )

    def __truediv__(self, other: "Dimension") -> "Dimension":
        """Return the dimension of a quotient."""
        return self * other**-1

    def within(self, length: str) -> "Unit":
        """Return the unit of this dimension where lengths are in ``length``."""
        return Unit(self, length)


RATIO = Dimension()
LENGTH = Dimension(length=1)
TIME = Dimension(time=1)
ANGLE = Dimension(angle=1)
FRAMES = Dimension(frames=1)
PER_TIME = RATIO / TIME
SPEED = LENGTH / TIME
ACCELERATION = SPEED / TIME


class Unit(msgspec.Struct, frozen=True):
    """The unit of a number: its dimension, the word for lengths, and thousandths or not.

    Times are in seconds, angles in degrees. ``milli`` says that the number counts thousandths.
    """

    dimension: Dimension
    length: str = "unit"
    milli: bool = False

    def __mul__(self, other: Dimension) -> "Unit":
        """Return the unit of a product with something of another dimension."""
        return Unit(self.dimension * other, self.length, self.milli)

    def __truediv__(self, other: Dimension) -> "Unit":
        """Return the unit of a quotient by something of another dimension."""
        return Unit(self.dimension / other, self.length, self.milli)

    def __str__(self) -> str:
        """Return the unit in words: ``m/s²``, ``1/s``, ``ms``, nothing for a ratio."""
        one = self.dimension
        words = (
            (self.length, one.length),
            ("s", one.time),
            ("deg", one.angle),
            ("frames", one.frames),
        )
        over = "·".join(word + _POWERS[power] for word, power in words if power > 0)
        under = "·".join(
            _ONE.get(word, word) + _POWERS[-power] for word, power in words if power < 0
        )
        over = ("m" if self.milli else "") + over
        return f"{over or '1'}/{under}" if under else over
