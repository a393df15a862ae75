"""Drive: an acceleration and a friction that act in turns, where the two can be told apart."""

from itertools import product

from kickback.laws.families.code import factor, gain, speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Consequence, Law
from kickback.laws.step_model import LINEAR, PUSH, StepModel
from kickback.takes.quantities import ACCELERATION, PER_TIME, RATIO, TIME

__all__ = ["DRIVE"]


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return where the two balance, over a usual frame: ``a·h/(1 − f)``, times f if f is last."""
    push, kept = law.constant("acceleration"), law.value("factor")
    gained = push.value * law.frame / (1 - kept)
    return (
        Consequence(
            phase=str(law.phase),
            what="settles at about",
            value=gained if law.friction_first else gained * kept,
            unit=push.unit * TIME,
        ),
    )


def _code(law: Law) -> str:
    word, a = speed_word(law.role), law.value("acceleration")
    step = gain(a, law.gain, law.frame)
    sign = "−" if a < 0 else "+"
    if law.friction_first:
        return f"{word} = {word}·{factor(law)} {sign} {step}"
    return f"{word} = ({word} {sign} {step})·{factor(law)}"


DRIVE = Family(
    name="drive",
    words="acceleration and friction",
    constants={"acceleration": ACCELERATION, "rate": PER_TIME, "factor": RATIO, "exponent": RATIO},
    scaling=("acceleration", "rate"),
    code=_code,
    models=tuple(
        StepModel(terms=(LINEAR, PUSH), clocks=(decay, push))
        if last
        else StepModel(terms=(PUSH, LINEAR), clocks=(push, decay))
        for decay, push, last in product(LINEAR.clocks, PUSH.clocks, (False, True))
    ),
    tier=3,
    follows=_follows,
    stepped=True,
)
