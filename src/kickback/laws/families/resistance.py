"""Resistance: a push against what rolls, drags, or grows with the square of the speed."""

import numpy as np

from kickback.laws.families.code import gain, speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Consequence, Law
from kickback.laws.step_model import LINEAR, PUSH, QUADRATIC, ROLLING
from kickback.takes.numerals import plain
from kickback.takes.quantities import ACCELERATION, LENGTH, PER_TIME, RATIO, SPEED

__all__ = ["NET", "PER_LENGTH", "RESISTANCE", "balance"]

PER_LENGTH = RATIO / LENGTH

NET = "net"
"""A push less what rolls, where the frames show that alone: other frames tell what rolls."""


def _value(law: Law, name: str) -> float:
    return next((one.value for one in law.constants if one.name == name), 0.0)


def balance(push: float, rolling: float, linear: float, quadratic: float) -> float:
    """Return the speed at which a push and resistances balance; infinite where none holds it.

    The root of ``a − c − k·v − q·v² = 0``.
    """
    left = push - rolling
    if quadratic > 0:
        root = np.sqrt(linear**2 + 4 * quadratic * max(left, 0.0))
        return float((root - linear) / (2 * quadratic))
    return left / linear if linear > 0 else float("inf")


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return the speed at which the push and the resistances balance, if they do at any."""
    push = _value(law, PUSH.name)
    speed = balance(
        abs(push), _value(law, ROLLING.name), _value(law, LINEAR.name), _value(law, QUADRATIC.name)
    )
    brakes = push < 0 and any(one.name == NET for one in law.constants)
    if not push or brakes or not np.isfinite(speed):
        return ()
    unit = SPEED.within(law.constant(PUSH.name).unit.length)
    return (Consequence(phase=str(law.phase), what="settles at about", value=speed, unit=unit),)


def _code(law: Law) -> str:
    word, parts = speed_word(law.role), []
    size_of = "velocity" if law.role.gravity else word  # a flight's drag is of all its speed
    for one in law.constants:
        clock = law.clock_of(one.name)
        if one.name == PUSH.name:
            sign = "−" if one.value < 0 else "+"
            parts.append(f"{sign} {gain(one.value, clock, law.frame)}")
        elif one.name == ROLLING.name:
            parts.append(f"− {gain(one.value, clock, law.frame)}")
        elif one.name == LINEAR.name:
            parts.append(f"− {plain(one.value)}·{word}·dt")
        elif one.name == QUADRATIC.name:
            each = clock == "frame"
            size, step = one.value * (law.frame if each else 1.0), "" if each else "·dt"
            parts.append(f"− {plain(size)}·{word}·|{size_of}|{step}")
    return f"{word} = {word} {' '.join(parts)}"


RESISTANCE = Family(
    name="resistance",
    words="a push against resistances",
    constants={
        PUSH.name: ACCELERATION,
        ROLLING.name: ACCELERATION,
        LINEAR.name: PER_TIME,
        QUADRATIC.name: PER_LENGTH,
        "factor": RATIO,
        "balance": SPEED,
        NET: ACCELERATION,
    },
    scaling=(*(term.name for term in (PUSH, ROLLING, LINEAR, QUADRATIC)), "balance", NET),
    twins={"balance": PUSH.name, NET: PUSH.name},
    against=(ROLLING.name, QUADRATIC.name),
    code=_code,
    follows=_follows,
    stepped=True,
)
