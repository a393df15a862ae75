"""Positions that move by a speed without the time step."""

from collections.abc import Sequence

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.cures import Bench, number, unchanged
from kickback.causes.evidence import Evidence, told
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.record import Law

__all__ = ["POSITION_PER_FRAME"]


def _tell(evidence: Evidence) -> Cause | None:
    """Find it in the position rules; without a velocity column, in all speeds."""
    terms = evidence.terms([("scale", 1)])
    if evidence.shift:
        speeds = [row for row in evidence.rows if row.sort == "speed"]
        terms = tuple(
            Term(row=row, power=1) for row in speeds if evidence.powers.get(row.name) == 0
        )
    return told(POSITION_PER_FRAME, terms) if terms else None


def _suspect(laws: Sequence[Law]) -> list[Law]:
    return [law for law in laws if law.family is POSITION_RULE and law.clock == "frame"]


def _cure(_: Cause, bench: Bench) -> str:
    if bench.scale == 1:
        return f"position += speed·dt; {unchanged(bench)}"
    return (
        f"position += speed·dt, with all speeds and accelerations times {number(bench.scale)};"
        f" {unchanged(bench)}"
    )


POSITION_PER_FRAME = CauseKind(
    name="position-per-frame",
    about="the position moves once per frame by a speed without the time step",
    tell=_tell,
    suspect=_suspect,
    cure=_cure,
    everything=True,
)
