"""Speeds that stay: at a constant one, at a limit, or there at once."""

from kickback.laws.evidence import PathEvidence
from kickback.laws.families.code import speed_word
from kickback.laws.families.family import Family
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Law
from kickback.takes.numerals import plain
from kickback.takes.quantities import SPEED

__all__ = ["CLAMP", "CONSTANT_SPEED", "INSTANT"]

_BENDS = 0.04
"""Share of a speed by which it might change over a stretch unseen, for it to be constant."""


def _on_path(path: PathEvidence) -> PathFit | None:
    """Return a constant speed, where one explains the stretch."""
    if not path.fine(path.line):
        return None
    last = len(path.line.found) - 1
    if path.hidden_bend() > _BENDS * abs(float(path.line.found[last])):
        return PathFit(law="none", reason="the noise hides whether the speed changes")
    scale = 1 / path.span if path.position else 1.0
    return path.told("constant-speed", path.line, ("speed", last, scale))


def _clamped(law: Law) -> str:
    value, word = plain(law.value("speed")), speed_word(law.role)
    return f"{word} = {'max' if law.role.gravity else 'min'}({word}, {value})"


CONSTANT_SPEED = Family(
    name="constant-speed",
    words="constant speed",
    constants={"speed": SPEED},
    scaling=("speed",),
    code=lambda law: f"{speed_word(law.role)} = {plain(law.value('speed'))}",
    on_path=_on_path,
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
