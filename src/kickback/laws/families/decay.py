"""What friction, smoothing and drive share: a factor a frame, and the rate that it is."""

from collections.abc import Mapping

import numpy as np

from kickback.laws.evidence import PathEvidence
from kickback.laws.fit import NO_FIT, Fit
from kickback.laws.least_squares import curved, solved
from kickback.laws.path_fit import PathFit
from kickback.laws.record import Law
from kickback.laws.recurrence import Recurrence, decays_by, falls_by
from kickback.laws.steps import Steps
from kickback.takes.take import FloatArray

__all__ = [
    "DECAYS",
    "VAGUE",
    "exponential",
    "kept_share",
    "rate_told",
    "smoothing_even",
    "step_size",
    "vague",
    "with_factor",
    "with_rate",
]

VAGUE = 0.3
"""Error of a rate, as a share of it, beyond which it is not told."""

_NEAR_GOAL = 1e-3
"""Share of the largest distance from the goal within which a step shows no factor."""


DECAYS = (
    Recurrence(clock="second", kept=decays_by),
    Recurrence(clock="frame", kept=decays_by, power=0),
    Recurrence(clock="first-order", kept=falls_by),
)
"""The ways in which a speed decays: by the second, by the frame, and nearly by the second."""


def with_factor(
    law: str,
    factor: float,
    error: float,
    h: float,
    misfit: float,
    values: Mapping[str, float],
    stderr: Mapping[str, float],
    clock: str = "even",
) -> Fit:
    """Return a fit whose factor a frame also is a rate, ``−ln f/h``."""
    if not 0 < factor < 1:
        return NO_FIT
    return Fit(
        law=law,
        values={**values, "rate": -float(np.log(factor)) / h, "factor": factor},
        stderr={**stderr, "rate": error / factor / h, "factor": error},
        clock=clock,
        misfit=misfit,
    )


def with_rate(
    law: str,
    rate: float,
    error: float,
    h: float,
    misfit: float,
    clock: str,
    values: Mapping[str, float],
    stderr: Mapping[str, float],
) -> Fit:
    """Return a fit whose rate also is a factor of the usual frame."""
    if not rate > 0:
        return NO_FIT
    factor = 1 - rate * h if clock == "first-order" else float(np.exp(-rate * h))
    return Fit(
        law=law,
        values={**values, "rate": rate, "factor": factor},
        stderr={**stderr, "rate": error, "factor": error * h * abs(factor)},
        clock=clock,
        misfit=misfit,
    )


def smoothing_even(steps: Steps) -> Fit:
    """Fit ``v1 = f·v0 + c``, of which ``c/(1 − f)`` is the goal."""
    middle = float(np.mean(steps.v0))
    x = np.stack((steps.v0 - middle, np.ones(len(steps))), axis=1)
    done = solved(x, steps.v1)
    f, c = (float(one) for one in done.found)
    f_error, c_error = (float(one) for one in done.stderr)
    if abs(1 - f) < 1e-12:
        return NO_FIT
    goal = (c - f * middle) / (1 - f)
    # goal = middle + (c − middle)/(1 − f): the mean and the slope are uncorrelated
    error = float(np.hypot(c_error / (1 - f), (c - middle) * f_error / (1 - f) ** 2))
    return with_factor(
        "smoothing", f, f_error, steps.usual, done.misfit, {"goal": goal}, {"goal": error}
    )


def exponential(steps: Steps, start: Fit, law: str) -> Fit:
    """Fit ``v1 = g + (v0 − g)·exp(−k·dt)`` from a start; without a goal in it ``g`` is 0."""
    if start.law == "none":
        return NO_FIT
    dt, v0 = steps.dt, steps.v0
    with_goal = "goal" in start.values

    def model(p: FloatArray) -> FloatArray:
        g = p[0] if with_goal else 0.0
        return np.asarray(g + (v0 - g) * np.exp(-p[-1] * dt))

    def slopes(p: FloatArray) -> FloatArray:
        g, f = p[0] if with_goal else 0.0, np.exp(-p[-1] * dt)
        columns = [1 - f] if with_goal else []
        return np.stack([*columns, -dt * (v0 - g) * f], axis=1)

    first = [start.values["goal"]] if with_goal else []
    done = curved(model, slopes, np.array([*first, start.values["rate"]]), steps.v1)
    k = float(done.found[-1])
    if not done.settled or k <= 0:
        return NO_FIT
    errors = done.stderr
    values = {"goal": float(done.found[0])} if with_goal else {}
    stderr = {"goal": float(errors[0])} if with_goal else {}
    return with_rate(law, k, float(errors[-1]), steps.usual, done.misfit, "second", values, stderr)


def kept_share(law: Law, steps: Steps) -> FloatArray:
    """Return the share of its distance from the goal that a speed keeps in each step."""
    rate = law.value("rate")
    step = np.full(len(steps), law.frame) if law.clock == "frame" else steps.dt
    return 1 - rate * step if law.clock == "first-order" else np.exp(-rate * step)


def step_size(fit: Fit, steps: Steps) -> FloatArray:
    """Return of each step what goes with its length: ``1 − f`` or ``−ln f``; NaN near the goal."""
    goal = fit.values.get("goal", 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        kept = (steps.v1 - goal) / (steps.v0 - goal)
        size = 1 - kept if fit.clock == "first-order" else -np.log(kept)
    far = np.abs(steps.v0 - goal) > _NEAR_GOAL * float(np.max(np.abs(steps.v0 - goal)))
    return np.where(far, size, np.nan)


def rate_told(path: PathEvidence, toward: bool) -> bool:
    """Whether the noise of a path shows the rate of its decay, or of the way to a speed."""
    one = path.goes if toward else path.decays
    return path.rate_error(one) <= VAGUE * one.k


def vague(what: str) -> PathFit:
    """Return that the noise hides something."""
    return PathFit(law="none", reason=f"the noise hides {what}")
