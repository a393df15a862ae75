"""Drive: an acceleration and a friction that act in turns, where the two can be told apart."""

from itertools import product

from kickback.laws.families.code import factor, gain, speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Consequence, Constant, Law
from kickback.laws.step_model import LINEAR, PUSH, StepModel
from kickback.takes.quantities import ACCELERATION, PER_TIME, RATIO, TIME

__all__ = ["DRIVE"]


def _balance(law: Law) -> tuple[Constant, ...]:
    """Return where the two balance, over a usual frame: ``a·h/(1 − f)``, times f if f is last.

    It is the goal of the smoothing that the two are where both belong to the frame.
    """
    push, rate, kept = law.constant("acceleration"), law.constant("rate"), law.value("factor")
    at = push.value * law.frame / (1 - kept) * (1.0 if law.friction_first else kept)
    share = (rate.stderr or 0.0) / rate.value
    share += (push.stderr or 0.0) / abs(push.value) if push.value else 0.0
    return (Constant(name="balance", value=at, unit=push.unit * TIME, stderr=abs(at) * share),)


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return where the two balance."""
    at = _balance(law)[0]
    return (
        Consequence(phase=str(law.phase), what="settles at about", value=at.value, unit=at.unit),
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
    other_reading=_balance,
    twins={"balance": "acceleration"},
    stepped=True,
)
