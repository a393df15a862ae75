"""Smoothing: ``v1 = g + (v0 − g)·f``, toward a speed."""

import numpy as np

from kickback.laws.families.code import factor, speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Consequence, Constant, Law
from kickback.laws.step_model import TOWARD, StepModel
from kickback.takes.numerals import plain
from kickback.takes.quantities import PER_TIME, RATIO, SPEED, TIME

__all__ = ["SMOOTHING"]


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return when nine tenths of the way are made: ``ln 10/k``."""
    rate = law.constant("rate")
    time = float(np.log(10)) / rate.value
    return (
        Consequence(
            phase=str(law.phase),
            what="nine tenths of the way",
            value=time,
            unit=TIME.within(rate.unit.length),
        ),
    )


def _push(law: Law) -> tuple[Constant, ...]:
    """Return the acceleration of the drive that a smoothing may be: ``g·(1 − f)/(f·h)``."""
    goal, rate, factor_of = law.constant("goal"), law.constant("rate"), law.value("factor")
    push = goal.value * (1 - factor_of) / factor_of / law.frame
    share = (goal.stderr or 0.0) / abs(goal.value) if goal.value else 0.0
    share += (rate.stderr or 0.0) / rate.value
    return (Constant(name="push", value=push, unit=goal.unit / TIME, stderr=abs(push) * share),)


def _code(law: Law) -> str:
    word = speed_word(law.role)
    return f"{word} += ({plain(law.value('goal'))} − {word})·(1 − {factor(law)})"


SMOOTHING = Family(
    name="smoothing",
    words="smoothing toward a speed",
    constants={"goal": SPEED, "rate": PER_TIME, "factor": RATIO, "exponent": RATIO},
    scaling=("goal", "rate"),
    code=_code,
    models=tuple(StepModel(terms=(TOWARD,), clocks=(clock,)) for clock in TOWARD.clocks),
    tier=2,
    follows=_follows,
    other_reading=_push,
    twins={"goal": "push"},
    stepped=True,
)
