"""Impulses that the time step multiplies."""

from kickback.causes.cause import Cause, CauseKind
from kickback.causes.cures import Bench, number, unchanged
from kickback.causes.evidence import Evidence, told
from kickback.laws.families.moments import IMPULSE

__all__ = ["IMPULSE_TIMES_DT"]


def _tell(evidence: Evidence) -> Cause | None:
    terms = evidence.terms([("impulse", -1)])
    return told(IMPULSE_TIMES_DT, terms) if terms else None


def _cure(cause: Cause, bench: Bench) -> str:
    set_to = ", ".join(
        f"{number(bench.values[term.row.name])} ({term.row.of})" for term in cause.terms
    )
    return f"set the speed without the time step: {set_to}; {unchanged(bench)}"


IMPULSE_TIMES_DT = CauseKind(
    name="impulse-times-dt",
    about="an impulse is multiplied by the time step",
    tell=_tell,
    suspect=lambda laws: [law for law in laws if law.family is IMPULSE and law.clock == "step"],
    cure=_cure,
)
