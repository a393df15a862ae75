"""The table of families. A path is held against them in this order, the simplest first."""

from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.family import Family
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.level import CLAMP, CONSTANT_SPEED, INSTANT
from kickback.laws.families.moments import CUT, IMPULSE, ORDER, POSITION_RULE, TIMER
from kickback.laws.families.resistance import RESISTANCE
from kickback.laws.families.smoothing import SMOOTHING

__all__ = ["FAMILIES", "family_named"]

FAMILIES: list[Family] = [
    CONSTANT_SPEED,
    CONSTANT_ACCELERATION,
    FRICTION,
    SMOOTHING,
    DRIVE,
    INSTANT,
    CLAMP,
    IMPULSE,
    CUT,
    TIMER,
    POSITION_RULE,
    ORDER,
    RESISTANCE,
]


def family_named(name: str, own: tuple[Family, ...] = ()) -> Family:
    """Return a family, of the general ones or a kind's ``own``; KeyError where there is none."""
    for family in (*FAMILIES, *own):
        if family.name == name:
            return family
    raise KeyError(name)
