"""Smoothing: ``v1 = g + (v0 − g)·f``, toward a speed."""

import numpy as np

from kickback.laws.evidence import PathEvidence
from kickback.laws.families.code import factor, speed_word
from kickback.laws.families.decay import (
    DECAYS,
    exponential,
    kept_share,
    rate_told,
    smoothing_even,
    step_size,
    vague,
    with_rate,
)
from kickback.laws.families.family import Family
from kickback.laws.fit import NO_FIT, Fit
from kickback.laws.least_squares import solved
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Consequence, Constant, Law
from kickback.laws.steps import Steps
from kickback.takes.numerals import plain
from kickback.takes.quantities import PER_TIME, RATIO, SPEED, TIME
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["SMOOTHING"]


def _per_frame(steps: Steps) -> Fit:
    fit = smoothing_even(steps)
    return fit if fit.law == "none" else replace(fit, clock="frame")


def _first_order(steps: Steps) -> Fit:
    """Fit ``v1 − v0 = k·(g − v0)·dt``."""
    x = np.stack((steps.dt, -steps.v0 * steps.dt), axis=1)
    done = solved(x, steps.v1 - steps.v0)
    kg, k = (float(one) for one in done.found)
    kg_error, error = (float(one) for one in done.stderr)
    if k <= 0:
        return NO_FIT
    return with_rate(
        "smoothing", k, error, steps.usual, done.misfit, "first-order",
        {"goal": kg / k}, {"goal": kg_error / k},
    )  # fmt: skip


def _per_second(steps: Steps) -> Fit:
    return exponential(steps, smoothing_even(steps), "smoothing")


def _on_path(path: PathEvidence) -> PathFit | None:
    """Return a smoothing toward a speed, where one explains the stretch and nothing else does."""
    if not path.fine(path.goes):
        return None
    if not rate_told(path, toward=True):
        return vague("how quickly it goes there")
    if path.ramp_explains():
        reason = "a smoothing and a push up to a limit explain it equally well"
        return PathFit(law="none", reason=reason)
    last, scale = len(path.goes.found) - 1, 1 / path.span
    goal = ("goal", last, scale if path.position else 1.0)
    return path.told("smoothing", path.goes, ("rate", last + 1, scale), goal)


def _ahead(law: Law, steps: Steps) -> FloatArray:
    goal = law.value("goal")
    after: FloatArray = goal + (steps.v0 - goal) * kept_share(law, steps)
    return after


def _follows(law: Law) -> tuple[Consequence, ...]:
    """Return when nine tenths of the way are made: ``ln 10/k``."""
    rate = law.constant("rate")
    time = float(np.log(10)) / rate.value
    return (
        Consequence(
            phase=str(law.phase), what="nine tenths of the way", value=time,
            unit=TIME.within(rate.unit.length),
        ),
    )  # fmt: skip


def _push(law: Law) -> tuple[Constant, ...]:
    """Return the acceleration of the drive that a smoothing may be: ``g·(1 − f)/(f·h)``."""
    goal, rate, factor_of = law.constant("goal"), law.constant("rate"), law.value("factor")
    push = goal.value * (1 - factor_of) / factor_of / law.frame
    share = (goal.stderr or 0.0) / abs(goal.value) if goal.value else 0.0
    share += (rate.stderr or 0.0) / rate.value
    return (Constant(name="push", value=push, unit=goal.unit / TIME, stderr=abs(push) * share),)


def _nearer(kept: FloatArray, _: FloatArray) -> FloatArray:
    return 1 - kept


def _code(law: Law) -> str:
    word = speed_word(law.role)
    return f"{word} += ({plain(law.value('goal'))} − {word})·(1 − {factor(law)})"


SMOOTHING = Family(
    name="smoothing",
    words="smoothing toward a speed",
    constants={"goal": SPEED, "rate": PER_TIME, "factor": RATIO, "exponent": RATIO},
    scaling=("goal", "rate"),
    code=_code,
    rules=(smoothing_even,),
    uneven_rules=(_per_second, _per_frame, _first_order),
    recurrences=tuple(replace(one, push=_nearer, constant="goal") for one in DECAYS),
    tier=1,
    on_path=_on_path,
    step_size=step_size,
    ahead=_ahead,
    follows=_follows,
    other_reading=_push,
    twins={"goal": "push"},
    stepped=True,
)
