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
    words="toward what is pressed, by length",
    constants={"acceleration": ACCELERATION},
    scaling=("acceleration",),
    code=lambda law: f"velocity += toward(pressed), at most {_gain(law)} long",
)
BY_AXIS = Family(
    name="toward-by-axis",
    words="toward what is pressed, by axis",
    constants={"acceleration": ACCELERATION},
    scaling=("acceleration",),
    code=lambda law: f"each axis += toward(pressed), at most {_gain(law)}",
)
VECTOR_SMOOTHING = Family(
    name="vector-smoothing",
    words="a share of the way to it",
    constants={"rate": PER_TIME, "factor": RATIO},
    scaling=("rate",),
    code=lambda law: f"velocity = pressed + (velocity − pressed)·{factor(law)}",
)
ADD_AND_CAP = Family(
    name="add-and-cap",
    words="pushed, then cut to a length",
    constants={"acceleration": ACCELERATION, "speed": SPEED},
    scaling=("acceleration", "speed"),
    code=lambda law: (
        f"velocity += pressed·{_gain(law)}, of length {plain(law.value('speed'))} at most"
    ),
)
TURN_RATE = Family(
    name="turn-rate",
    words="turned at a rate",
    constants={"rate": ANGLE / TIME},
    scaling=("rate",),
    code=lambda law: f"direction += toward(pressed), {plain(law.value('rate'))}°·dt at most",
)
LIMIT_BY_LENGTH = Family(
    name="limit-by-length",
    words="limited by length",
    constants={"speed": SPEED, "ratio": RATIO},
    scaling=("speed",),
    code=lambda law: f"velocity at most {plain(law.value('speed'))} long",
)
LIMIT_BY_AXIS = Family(
    name="limit-by-axis",
    words="limited by axis",
    constants={"speed": SPEED, "ratio": RATIO},
    scaling=("speed",),
    code=lambda law: f"each axis at most {plain(law.value('speed'))}",
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
