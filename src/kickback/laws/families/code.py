"""Parts of lines of code that families share, and what their constants belong to, in words."""

from kickback.laws.record import Law
from kickback.takes.numerals import plain
from kickback.takes.roles import Role
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["CLOCKS", "beside", "clock_reason", "factor", "gain", "speed_word"]

CLOCKS = {
    "frame": "belongs to the frame: it is not multiplied by the time step",
    "square": "is multiplied by the time step twice",
    "first-order": "the factor is 1 − rate·dt, not exp(−rate·dt)",
}
"""What constants belong to where that is not the second."""


def clock_reason(clock: str) -> str | None:
    """Say what a law's constants belong to, where that is not the second."""
    return CLOCKS.get(clock)


def speed_word(role: Role) -> str:
    """Return what the speed along a track is called in code."""
    return "rise" if role.gravity else role.speed


def gain(acceleration: float, clock: str, frame: float) -> str:
    """Return what an acceleration adds in a frame, without its sign."""
    if clock == "frame":
        return plain(abs(acceleration) * frame)
    if clock == "square":
        return f"{plain(abs(acceleration) / frame)}·dt·dt"
    return f"{plain(abs(acceleration))}·dt"


def beside(offset: float) -> str:
    """Return what is added to what is followed, as code; nothing where that is nothing."""
    if abs(offset) < ARITHMETIC:
        return ""
    return f" {'+' if offset > 0 else '−'} {plain(abs(offset))}"


def factor(law: Law) -> str:
    """Return what a law multiplies by in a frame."""
    if law.clock == "frame":
        return plain(law.value("factor"))
    if law.clock == "first-order":
        return f"(1 − {plain(law.value('rate'))}·dt)"
    return f"exp(−{plain(law.value('rate'))}·dt)"
