"""Causes of frame-rate dependence that only a projectile has."""

import numpy as np

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.cures import Bench, number
from kickback.causes.evidence import Evidence, told
from kickback.kinds.shot.laws import CADENCE

__all__ = ["CADENCE_ROUNDED"]

_WHOLE = 0.05
"""Frames by which a number of them may miss a whole one."""


def _tell(evidence: Evidence) -> Cause | None:
    """Find a cadence that is a whole number of frames at each rate, the next above one time."""
    for row in evidence.rows:
        if row.phase != CADENCE or row.name in evidence.powers or row.sort != "time":
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
    cure=_cure,
)
