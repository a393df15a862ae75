"""Friction: ``v1 = v0·f``, toward rest."""

import numpy as np

from kickback.laws.evidence import PathEvidence
from kickback.laws.families.code import factor, speed_word
from kickback.laws.families.decay import (
    DECAYS,
    exponential,
    kept_share,
    rate_told,
    step_size,
    vague,
    with_factor,
    with_rate,
)
from kickback.laws.families.family import Family
from kickback.laws.fit import Fit
from kickback.laws.least_squares import solved
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Consequence, Law
from kickback.laws.steps import Steps
from kickback.takes.quantities import PER_TIME, RATIO, TIME

__all__ = ["FRICTION"]

_CURVES = 0.25
"""Error of the speed that a decay goes toward, as a share of its first, for it to be rest."""

_SURE = 3.0
"""Standard errors by which that speed may differ from rest."""


def _even(steps: Steps, clock: str = "even") -> Fit:
    """Fit ``v1 = f·v0``."""
    done = solved(steps.v0[:, None], steps.v1)
    return with_factor(
        "friction", float(done.found[0]), float(done.stderr[0]), steps.usual, done.misfit,
        {}, {}, clock,
    )  # fmt: skip


def _per_frame(steps: Steps) -> Fit:
    return _even(steps, "frame")


def _first_order(steps: Steps) -> Fit:
    """Fit ``v1 = v0·(1 − k·dt)``."""
    done = solved((-steps.v0 * steps.dt)[:, None], steps.v1 - steps.v0)
    k, error = float(done.found[0]), float(done.stderr[0])
    return with_rate("friction", k, error, steps.usual, done.misfit, "first-order", {}, {})


def _per_second(steps: Steps) -> Fit:
    """Fit ``v1 = v0·exp(−k·dt)``."""
    return exponential(steps, _even(steps), "friction")


def _on_path(path: PathEvidence) -> PathFit | None:
    """Return a friction, where the noise shows its rate and that it goes toward rest."""
    if not path.fine(path.decays):
        return None
    if not rate_told(path, toward=False):
        return vague("how quickly it decays")
    goal, error = path.goal()
    if error > _CURVES:
        return vague("toward which speed it goes")
    if abs(goal) > _SURE * error:
        return None
    return path.told("friction", path.decays, ("rate", len(path.decays.found), 1 / path.span))


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return when half of the speed is gone: ``ln 2/k``."""
    rate = law.constant("rate")
    half = float(np.log(2)) / rate.value
    return (
        Consequence(
            phase=str(law.phase), what="half-life of the speed", value=half,
            unit=TIME.within(rate.unit.length),
        ),
    )  # fmt: skip


FRICTION = Family(
    name="friction",
    words="friction",
    constants={"rate": PER_TIME, "factor": RATIO, "exponent": RATIO},
    scaling=("rate",),
    code=lambda law: f"{speed_word(law.role)} *= {factor(law)}",
    rules=(_even,),
    uneven_rules=(_per_second, _per_frame, _first_order),
    recurrences=DECAYS,
    tier=0,
    on_path=_on_path,
    step_size=step_size,
    ahead=lambda law, steps: steps.v0 * kept_share(law, steps),
    follows=_follows,
    stepped=True,
)
