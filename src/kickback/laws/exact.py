"""Fitting a rule to steps whose speeds are exact: regressions of the speed after on that before.

The simplest family that leaves nothing is told, with its constants belonging to the frame or
to the second where frame times vary.
"""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.family import Family
from kickback.laws.families.table import FAMILIES, family_named
from kickback.laws.fit import FEWEST, Fit
from kickback.laws.least_squares import solved
from kickback.laws.steps import Steps
from kickback.takes.record import replace

__all__ = ["fit_steps", "split_by_speed"]

_EXACT = 1e-9
"""Share of the highest speed that arithmetic may leave of a step."""


def fit_steps(steps: Steps, noise: float, families: Sequence[Family] = FAMILIES) -> Fit:
    """Return the simplest rule that leaves no more than ``noise``, length/s, of the steps.

    Constants that belong to the frame are given for the steps' usual frame. ``none`` with
    a reason where no rule does, or there are fewer than four steps.
    """
    if len(steps) < FEWEST:
        return Fit(law="none", reason=f"fewer than {FEWEST} frames away from limits")
    scale = float(np.max(np.abs(steps.v1)))
    allowed = 2 * noise + _EXACT * scale
    even = steps.even
    for tier in sorted({family.tier for family in families}):
        rules = [
            rule
            for family in families
            if family.tier == tier
            for rule in (family.rules if even else family.uneven_rules)
        ]
        fits = [fit for rule in rules if (fit := rule(steps)).misfit <= allowed]
        if fits:
            best = min(fits, key=lambda fit: fit.misfit)
            return best if even else _with_exponent(best, steps)
    return Fit(law="none", reason="no rule of the known kinds explains these frames")


def split_by_speed(steps: Steps, noise: float) -> tuple[Fit, Fit, float, int, int] | None:
    """Return two constant accelerations, above and below some speed, where they explain all.

    The fit of the quicker steps, that of the slower ones, the speed between, and how many
    steps each has; None where no such speed leaves both without a misfit.
    """
    if len(steps) < 2 * FEWEST:
        return None
    order = np.argsort(np.abs(steps.v0), kind="stable")
    size = np.abs(steps.v0)[order]
    gain = ((steps.v1 - steps.v0) / steps.dt)[order]
    jump = np.abs(np.diff(gain))
    jump[: FEWEST - 1] = jump[len(jump) - FEWEST + 1 :] = 0.0
    at = int(np.argmax(jump)) + 1
    slow = np.zeros(len(steps), dtype=bool)
    slow[order[:at]] = True
    constant = [family_named("constant-acceleration")]
    near, far = (fit_steps(steps.only(part), noise, constant) for part in (slow, ~slow))
    if "none" in {near.law, far.law}:
        return None
    if abs(far.values["acceleration"]) < abs(near.values["acceleration"]):
        return None  # lighter while quick: a rise that is sustained for a time
    return far, near, float(size[at - 1] + size[at]) / 2, int((~slow).sum()), int(slow.sum())


def _with_exponent(fit: Fit, steps: Steps) -> Fit:
    """Add the exponent of the step in ``constant ∝ dt^p``, with its standard error.

    1 for a constant that belongs to the second, 0 for one that belongs to the frame.
    """
    size_of = family_named(fit.law).step_size
    if size_of is None:
        return fit
    size = size_of(fit, steps)
    known = np.isfinite(size) & (size > 0)
    if np.count_nonzero(known) < FEWEST:
        return fit
    x = np.log(steps.dt[known])
    design = np.stack((x - x.mean(), np.ones(len(x))), axis=1)
    done = solved(design, np.log(size[known]))
    return replace(fit, exponent=(float(done.found[0]), float(done.stderr[0])))
