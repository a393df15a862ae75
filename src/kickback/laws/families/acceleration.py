"""Constant acceleration: ``v1 = v0 + a·dt``."""

from kickback.laws.families.code import gain, speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Law
from kickback.laws.step_model import PUSH, StepModel
from kickback.takes.numerals import plain
from kickback.takes.quantities import ACCELERATION, RATIO, SPEED

__all__ = ["CONSTANT_ACCELERATION"]


def _code(law: Law) -> str:
    near = next((item.value for item in law.constants if item.name == "below"), None)
    limit = "" if near is None else f"   while |{speed_word(law.role)}| < {plain(near)}"
    clock = "frame" if law.by_frame else law.clock
    limit = "   each frame" + limit if clock == "frame" else limit
    value = law.value("acceleration")
    sign = "-" if value < 0 else "+"
    return f"{speed_word(law.role)} {sign}= {gain(value, clock, law.frame)}{limit}"


CONSTANT_ACCELERATION = Family(
    name="constant-acceleration",
    words="constant acceleration",
    constants={"acceleration": ACCELERATION, "below": SPEED, "exponent": RATIO},
    scaling=("acceleration",),
    code=_code,
    models=tuple(StepModel(terms=(PUSH,), clocks=(clock,)) for clock in PUSH.clocks),
    tier=1,
    stepped=True,
)
