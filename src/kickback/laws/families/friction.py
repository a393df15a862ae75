"""Friction: ``v1 = v0·f``, toward rest."""

import numpy as np

from kickback.laws.families.code import factor, speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Consequence, Law
from kickback.laws.step_model import LINEAR, StepModel
from kickback.takes.quantities import PER_TIME, RATIO, TIME

__all__ = ["FRICTION"]


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return when half of the speed is gone: ``ln 2/k``."""
    rate = law.constant("rate")
    half = float(np.log(2)) / rate.value
    return (
        Consequence(
            phase=str(law.phase),
            what="half-life of the speed",
            value=half,
            unit=TIME.within(rate.unit.length),
        ),
    )


FRICTION = Family(
    name="friction",
    words="friction",
    constants={"rate": PER_TIME, "factor": RATIO, "exponent": RATIO},
    scaling=("rate",),
    code=lambda law: f"{speed_word(law.role)} *= {factor(law)}",
    models=tuple(StepModel(terms=(LINEAR,), clocks=(clock,)) for clock in LINEAR.clocks),
    tier=1,
    follows=_follows,
    stepped=True,
)
