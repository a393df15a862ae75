"""Causes of frame-rate dependence that only a projectile has."""

import numpy as np

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.cures import Bench, number
from kickback.causes.evidence import Evidence, told
from kickback.kinds.shot.launches import ROUNDED
from kickback.kinds.shot.laws import CADENCE
from kickback.laws.families.moments import TIMER

__all__ = ["CADENCE_ROUNDED"]

_WHOLE = 0.05
"""Frames by which a number of them may miss a whole one."""


def _tell(evidence: Evidence) -> Cause | None:
    """Find a cadence that begins anew, or that is at each rate the next whole frame of one time."""
    for row in evidence.rows:
        if row.phase != CADENCE or row.sort != "time":
            continue
        if row.clock == ROUNDED:
            how = f"each wait of {row.name} is rounded up to a frame, of uneven ones"
            return told(CADENCE_ROUNDED, [Term(row=row, power=0)], how)
        if row.name in evidence.powers:
            continue
        frames = row.value * row.rate
        if np.any(np.abs(frames - np.round(frames)) > _WHOLE):
            continue
        low, high = float(np.max((frames - 1) / row.rate)), float(np.min(row.value))
        if low < high:
            times = ", ".join(f"{value:.4g}" for value in row.value)
            how = f"{row.name} is {times} s: the next whole frame after {low:.4g} to {high:.4g} s"
            return told(CADENCE_ROUNDED, [Term(row=row, power=0)], how)
    return None


def _cure(cause: Cause, _: Bench) -> str:
    shortest = min(float(np.min(term.row.value)) for term in cause.terms)
    return (
        "keep what the timer overshoots: timer += cadence when it fires, not timer = cadence"
        f" (cadence: at most {number(shortest)} s)"
    )


CADENCE_ROUNDED = CauseKind(
    name="cadence-rounded",
    about="the time between shots is rounded up to whole frames",
    verdict="drifts",
    tell=_tell,
    suspect=lambda laws: [law for law in laws if law.family is TIMER and law.clock == ROUNDED],
    cure=_cure,
)
