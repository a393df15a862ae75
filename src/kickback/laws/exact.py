"""Steps whose speeds are exact, each explained by itself."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.family import Family
from kickback.laws.families.table import changing, choices_of
from kickback.laws.observations import Observations
from kickback.laws.select import Selected, select
from kickback.laws.steps import Steps

__all__ = ["FEWEST", "fit_steps", "split_by_speed"]

FEWEST = 4
"""Steps below which no law is told: two constants, and as many again to hold them to."""


def fit_steps(steps: Steps, noise: float, families: Sequence[Family] | None = None) -> Selected:
    """Return the simplest rule that leaves no more than ``noise``, length/s, of the steps.

    Constants that belong to the frame are given for the steps' usual frame. None with
    a reason where no rule does, or there are fewer than four steps.
    """
    if len(steps) < FEWEST:
        return Selected(reason=f"fewer than {FEWEST} frames away from limits")
    data = Observations.exact(steps, noise)
    return select(data, choices_of(changing() if families is None else families, data))


def split_by_speed(steps: Steps, noise: float) -> tuple[Selected, Selected, float, int, int] | None:
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
    near, far = (
        fit_steps(steps.only(part), noise, [CONSTANT_ACCELERATION]) for part in (slow, ~slow)
    )
    if near.family is None or far.family is None:
        return None
    if abs(far.values["acceleration"]) < abs(near.values["acceleration"]):
        return None  # lighter while quick: a rise that is sustained for a time
    return far, near, float(size[at - 1] + size[at]) / 2, int((~slow).sum()), int(slow.sum())
