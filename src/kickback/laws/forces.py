"""Which forces a speed shows: constant, linear and quadratic resistances beside a push."""

from collections.abc import Sequence

from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.resistance import RESISTANCE
from kickback.laws.observations import Observations, Stretch
from kickback.laws.select import Choice, Selected, select
from kickback.laws.step_model import LINEAR, PUSH, ROLLING, Term, models_of
from kickback.takes.record import replace

__all__ = ["select_forces"]

_FAMILIES = {
    (PUSH,): CONSTANT_ACCELERATION,
    (ROLLING,): CONSTANT_ACCELERATION,
    (LINEAR,): FRICTION,
    (PUSH, LINEAR): DRIVE,
}
"""Sets of terms that a general family is of."""


def select_forces(
    stretches: Sequence[Stretch],
    noise: float,
    usual: float,
    tiers: Sequence[Sequence[tuple[Term, ...]]],
    toward: complex = 1.0,
    *,
    singly: bool = False,
) -> Selected | None:
    """Return the simplest of some sets of terms that explains stretches; None where none does.

    ``noise``: the standard error of a speed, or of a place where stretches have these; 0 where
    they are exact. ``tiers``: sets of terms, the simplest first. ``toward``: where a push goes.
    ``singly``: each step is explained by itself, as what turns its speeds is known for it alone.
    """
    data = Observations.of(stretches, noise, usual, rounding=noise, toward=toward).limited()
    data = data.by_steps if singly or not noise else data
    choices = [
        Choice(
            family=_FAMILIES.get(terms, RESISTANCE),
            models=models_of(terms, even=data.even, toward=toward),
            tier=tier,
        )
        for tier, sets in enumerate(tiers)
        for terms in sets
    ]
    found = select(data, choices, resisting=True)
    if found.family is None:
        return None
    return replace(found, exponent=None)
