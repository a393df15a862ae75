"""Speeds that stay: at a constant one, at a limit, or there at once."""

from kickback.laws.families.code import speed_word
from kickback.laws.families.family import Family
from kickback.laws.record import Law
from kickback.laws.step_model import StepModel
from kickback.takes.numerals import plain
from kickback.takes.quantities import SPEED

__all__ = ["CLAMP", "CONSTANT_SPEED", "INSTANT"]


def _clamped(law: Law) -> str:
    value, word = plain(law.value("speed")), speed_word(law.role)
    return f"{word} = {'max' if law.role.gravity else 'min'}({word}, {value})"


CONSTANT_SPEED = Family(
    name="constant-speed",
    words="constant speed",
    constants={"speed": SPEED},
    scaling=("speed",),
    code=lambda law: f"{speed_word(law.role)} = {plain(law.value('speed'))}",
    models=(StepModel(terms=(), clocks=()),),
    tier=0,
)
INSTANT = Family(
    name="instant",
    words="instant",
    constants={"speed": SPEED},
    scaling=("speed",),
    code=lambda law: f"{speed_word(law.role)} = {plain(law.value('speed'))}   at once",
)
CLAMP = Family(
    name="clamp",
    words="held at a limit",
    constants={"speed": SPEED},
    scaling=("speed",),
    code=_clamped,
)
