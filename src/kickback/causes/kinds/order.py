"""The order of integration: a note, as most games and physics libraries move so."""

from collections.abc import Iterator

import numpy as np

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.cures import Bench
from kickback.causes.evidence import Evidence
from kickback.laws.families.drive import DRIVE
from kickback.takes.numeric import median
from kickback.takes.record import replace

__all__ = ["INTEGRATION_ORDER"]

_THETA = 0.02
"""How far θ may be from ½, or differ between rates, and be it: orders leave ½ apart."""


def _tell(evidence: Evidence) -> Cause | None:
    """Find the note on the order of integration.

    It is in the position rule where θ is not ½ at all rates, and in a push against friction,
    where the two act in turns: their constants stay, the speed where they balance does not.
    """
    theta, parts = None, []
    for row in evidence.rows:
        mean = median(row.value) if row.sort == "theta" else 0.5
        if abs(mean - 0.5) > _THETA and float(np.max(np.abs(row.value - mean))) <= _THETA:
            theta, end = mean, "after" if mean > 0.5 else "before"
            parts = [f"the position moves with the speed {end} its update (theta {abs(mean):.3g})"]
    turns = tuple(
        Term(row=row, power=0)
        for row in evidence.rows
        if row.twin in evidence.powers and row.name not in evidence.powers
    )
    turns += tuple(_balances(evidence))
    if turns:
        parts.append("acceleration and friction act in turns")
    if not parts:
        return None
    return Cause(
        kind=INTEGRATION_ORDER,
        verdict=INTEGRATION_ORDER.verdict,
        terms=turns,
        evidence="; ".join(parts),
        theta=theta,
    )


def _balances(evidence: Evidence) -> Iterator[Term]:
    """Yield the speeds at which a push and a friction balance that uneven takes tell apart.

    Either order shifts them by half a step of the friction: a/k·(1 ± k·dt/2).
    """
    rates = {row.phase: row for row in evidence.rows if row.sort == "rate"}
    for row in evidence.rows:
        rate = rates.get(row.phase)
        drives = row.family is DRIVE and row.clock and row.sort == "acceleration"
        if not drives or rate is None or evidence.powers.get(row.name) != 0:
            continue
        if np.array_equal(row.rate, rate.rate):
            balance = row.value / rate.value * (1 - rate.value * row.frame / 2)
            yield Term(row=replace(row, value=balance), power=0)


def _cure(cause: Cause, bench: Bench) -> str:
    turns = "speed = a/k + (speed − a/k)·exp(−k·dt) for a push a against a friction k"
    if cause.theta is None:
        return turns
    text = "position += (old speed + new speed)/2·dt"
    text = f"{turns}; {text}" if cause.terms else text
    text += bench.advice(bench.rows, cause.theta, bench.keep)
    return f"{text}; where a library moves the body, step it at a fixed rate"


INTEGRATION_ORDER = CauseKind(
    name="integration-order",
    about="what a step does, it does in turns: a matter of the order",
    verdict="note",
    tell=_tell,
    cure=_cure,
    by_order=True,
)
