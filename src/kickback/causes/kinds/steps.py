"""A time step that is missing, or is there twice."""

from collections.abc import Sequence

from kickback.causes.cause import Cause, CauseKind
from kickback.causes.cures import Bench, number, unchanged
from kickback.causes.evidence import Evidence, told
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.code import speed_word
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.resistance import RESISTANCE
from kickback.laws.record import Law
from kickback.laws.step_model import LINEAR, PUSH

__all__ = ["ACCELERATION_PER_FRAME", "DT_TWICE", "GRAVITY_PER_FRAME"]


def _gain_clock(law: Law) -> str | None:
    """Return what the acceleration of a law belongs to, None where it has none of its own.

    With a friction of the frame one of the frame is a smoothing, and none of its own.
    """
    if law.family is CONSTANT_ACCELERATION:
        return law.clock
    if law.family is DRIVE and law.gain == law.clock == "frame":
        return None
    return law.gain if law.family in {DRIVE, RESISTANCE} else None


def _with_gain(laws: Sequence[Law], clock: str, *, gravity: bool | None = None) -> list[Law]:
    """Return the laws with a force of a clock: gravity, others than that, or any."""
    forces = ((law, _forces(law, clock)) for law in laws)
    return [law for law, found in forces if found and gravity in {None, *found}]


def _forces(law: Law, clock: str) -> set[bool]:
    """Return of a law's forces that belong to a clock whether they are gravity."""
    if law.family is RESISTANCE and law.clocks:
        own = {name for name, whose in law.clocks.items() if whose == clock} - {LINEAR.name}
        return {law.role.gravity and name == PUSH.name for name in own}
    return {law.role.gravity} if _gain_clock(law) == clock else set()


def _cure(cause: Cause, bench: Bench) -> str:
    lines = []
    for term in cause.terms:
        if term.row.name not in bench.values:
            continue
        value = bench.values[term.row.name]
        taken = value < 0 or term.row.constant in term.row.family.against
        word = speed_word(term.row.role)
        square = f"·{word}·|{word}|" if term.row.sort == "resistance" else ""
        sign = "−" if taken else "+"
        lines.append(f"{word} {sign}= {number(abs(value))}{square}·dt ({term.row.of})")
    gains = ", ".join(dict.fromkeys(lines))
    return f"multiply by the time step, once: {gains}; {unchanged(bench)}"


def _acceleration(evidence: Evidence) -> Cause | None:
    terms = evidence.terms([("acceleration", 1), ("resistance", 1)])
    return told(ACCELERATION_PER_FRAME, terms) if terms else None


def _gravity(evidence: Evidence) -> Cause | None:
    terms = evidence.terms([("gravity", 1)])
    return told(GRAVITY_PER_FRAME, terms) if terms else None


def _twice(evidence: Evidence) -> Cause | None:
    sorts = ("acceleration", "gravity", "resistance", "scale")
    terms = evidence.terms([(sort, -1) for sort in sorts])
    return told(DT_TWICE, terms) if terms else None


ACCELERATION_PER_FRAME = CauseKind(
    name="acceleration-per-frame",
    about="acceleration is added once per frame, without the time step",
    tell=_acceleration,
    suspect=lambda laws: _with_gain(laws, "frame", gravity=False),
    cure=_cure,
)
GRAVITY_PER_FRAME = CauseKind(
    name="gravity-per-frame",
    about="gravity is added once per frame, without the time step",
    tell=_gravity,
    suspect=lambda laws: _with_gain(laws, "frame", gravity=True),
    cure=_cure,
)
DT_TWICE = CauseKind(
    name="dt-twice",
    about="the time step is multiplied in twice",
    tell=_twice,
    suspect=lambda laws: _with_gain(laws, "square"),
    cure=_cure,
)
