"""The table of families, and which of them may explain which data."""

from collections.abc import Sequence

from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.family import Family
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.level import CLAMP, CONSTANT_SPEED, INSTANT
from kickback.laws.families.moments import CUT, IMPULSE, ORDER, POSITION_RULE, TIMER
from kickback.laws.families.resistance import RESISTANCE
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.observations import Observations
from kickback.laws.select import Choice

__all__ = ["FAMILIES", "changing", "choices_of", "simple"]

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


def changing() -> list[Family]:
    """Return the families of speeds that change."""
    return [family for family in FAMILIES if family.models and family is not CONSTANT_SPEED]


def simple() -> list[Family]:
    """Return those of them that are quick to hold against data: few models each."""
    return [family for family in changing() if family.tier < DRIVE.tier]


def choices_of(families: Sequence[Family], data: Observations) -> list[Choice]:
    """Return what may explain data; even steps tell no clock and no order from another."""
    return [
        Choice(family=one, models=one.models[:1] if data.even else one.models, tier=one.tier)
        for one in families
        if one.models
    ]
