"""Rules for a velocity over a plane: by the length of the vector, or by each axis on its own."""

from kickback.laws.families.code import factor, gain
from kickback.laws.families.family import Family
from kickback.laws.record import Law
from kickback.takes.numerals import plain
from kickback.takes.quantities import ACCELERATION, ANGLE, PER_TIME, RATIO, SPEED, TIME

__all__ = [
    "ADD_AND_CAP",
    "BY_AXIS",
    "BY_LENGTH",
    "LIMIT_BY_AXIS",
    "LIMIT_BY_LENGTH",
    "TURN_RATE",
    "VECTOR",
    "VECTOR_SMOOTHING",
]


def _gain(law: Law) -> str:
    return gain(law.value("acceleration"), law.clock, law.frame)


BY_LENGTH = Family(
    name="toward-by-length",
    words="toward the pressed velocity, by the length of the difference",
    constants={"acceleration": ACCELERATION},
    scaling=("acceleration",),
    code=lambda law: f"velocity += toward(pressed − velocity), of length {_gain(law)} at most",
)
BY_AXIS = Family(
    name="toward-by-axis",
    words="toward the pressed velocity, each axis on its own",
    constants={"acceleration": ACCELERATION},
    scaling=("acceleration",),
    code=lambda law: f"velocity.axis += toward(pressed.axis − velocity.axis), {_gain(law)} at most",
)
VECTOR_SMOOTHING = Family(
    name="vector-smoothing",
    words="a share of the way to the pressed velocity",
    constants={"rate": PER_TIME, "factor": RATIO},
    scaling=("rate",),
    code=lambda law: f"velocity = pressed + (velocity − pressed)·{factor(law)}",
)
ADD_AND_CAP = Family(
    name="add-and-cap",
    words="pushed the way that is pressed, then cut to a length",
    constants={"acceleration": ACCELERATION, "speed": SPEED},
    scaling=("acceleration", "speed"),
    code=lambda law: (
        f"velocity += pressed·{_gain(law)}, of length {plain(law.value('speed'))} at most"
    ),
)
TURN_RATE = Family(
    name="turn-rate",
    words="the direction turns at a rate, the speed stays",
    constants={"rate": ANGLE / TIME},
    scaling=("rate",),
    code=lambda law: f"direction += toward(pressed), {plain(law.value('rate'))}°·dt at most",
)
LIMIT_BY_LENGTH = Family(
    name="limit-by-length",
    words="one limit whichever way it goes",
    constants={"speed": SPEED, "ratio": RATIO},
    scaling=("speed",),
    code=lambda law: f"length of velocity = min(it, {plain(law.value('speed'))})",
)
LIMIT_BY_AXIS = Family(
    name="limit-by-axis",
    words="each axis has its own limit, or the input is not shortened on diagonals",
    constants={"speed": SPEED, "ratio": RATIO},
    scaling=("speed",),
    code=lambda law: f"velocity.axis = min(velocity.axis, {plain(law.value('speed'))}), each",
)

VECTOR = (
    BY_LENGTH,
    BY_AXIS,
    VECTOR_SMOOTHING,
    ADD_AND_CAP,
    TURN_RATE,
    LIMIT_BY_LENGTH,
    LIMIT_BY_AXIS,
)
"""The families of rules over a plane."""
