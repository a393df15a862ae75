"""Factors a frame: constant ones, and the first order of the right one."""

import numpy as np

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.constants import ConstantRow
from kickback.causes.cures import Bench, number, unchanged
from kickback.causes.evidence import (
    SLACK,
    Evidence,
    is_first_order,
    may_be_first_order,
    told,
)
from kickback.causes.kinds.steps import ACCELERATION_PER_FRAME
from kickback.takes.numeric import median

__all__ = ["FACTOR_PER_FRAME", "FIRST_ORDER_FACTOR"]

_SAME = 0.05
"""Share within which two phases are slowed by one rate, and so by one line of code."""


def _factor(evidence: Evidence) -> Cause | None:
    terms = evidence.terms([("rate", 1)])
    if not terms:
        return None
    pushes = [term for term in terms if _goal_of(term) in evidence.powers]
    alone = pushes and ACCELERATION_PER_FRAME.tell(evidence) is None
    other = (
        "or acceleration and friction both once per frame: the two are one and the same"
        if alone
        else ""
    )
    return told(FACTOR_PER_FRAME, terms, other=other)


def _goal_of(term: Term) -> str:
    """Return the name of the speed toward which a smoothing goes, of its rate's phase."""
    return f"{term.row.of}.goal"


def _first_order(evidence: Evidence) -> Cause | None:
    terms = [
        Term(row=row, power=0)
        for row in evidence.rows
        if row.sort == "rate" and is_first_order(row)
        if not any(_denies(other, row) for other in evidence.rows)
    ]
    if not terms:
        return None
    names = ", ".join(dict.fromkeys(term.row.name for term in terms))
    how = f"{names}: 1 − factor goes with the time step exactly, its rate does not stay"
    return told(FIRST_ORDER_FACTOR, terms, how)


def _denies(other: ConstantRow, row: ConstantRow) -> bool:
    """Whether another phase of the same motion tells the same rate, as a true exponential."""
    alike = other.role == row.role and other.sort == "rate" and other.clock == "second"
    exact = alike and other.fits(0, SLACK) and not may_be_first_order(other)
    return exact and abs(median(other.value) / median(row.value) - 1) < _SAME


def _as_rate(cause: Cause, bench: Bench) -> str:
    parts = []
    for term in cause.terms:
        rate = bench.values[term.row.name]
        parts.append(
            f"a factor of {number(float(np.exp(-rate / bench.keep)))} per frame at"
            f" {bench.keep:g} frames/s is a rate of {number(rate)} /s: multiply by"
            f" exp(−{number(rate)}·dt) ({term.row.of})"
        )
    return ", ".join(dict.fromkeys(parts))


def _exact(cause: Cause, bench: Bench) -> str:
    parts = []
    for term in cause.terms:
        rate = bench.values[term.row.name]
        linear = (1 - float(np.exp(-rate / bench.keep))) * bench.keep
        parts.append(f"exp(−{number(rate)}·dt) instead of 1 − {number(linear)}·dt ({term.row.of})")
    return f"multiply by {', '.join(dict.fromkeys(parts))}; {unchanged(bench)}"


FACTOR_PER_FRAME = CauseKind(
    name="factor-per-frame",
    about="the speed is multiplied by a constant factor each frame",
    tell=_factor,
    suspect=lambda laws: [
        law
        for law in laws
        if law.family is not None
        and law.family.stepped
        and any(one.name == "rate" for one in law.constants)
        and law.clock == "frame"
    ],
    cure=_as_rate,
)
FIRST_ORDER_FACTOR = CauseKind(
    name="first-order-factor",
    about="the factor is 1 − rate·dt, which is right for small steps only",
    verdict="drifts",
    tell=_first_order,
    suspect=lambda laws: [law for law in laws if law.clock == "first-order"],
    cure=_exact,
)
