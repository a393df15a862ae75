"""Fitting a rule to steps whose speeds are exact: regressions of the speed after on that before.

The rules of section 5 of the design: ``v1 = (1 − k)·v0 + a`` and its special cases, each
with its constant belonging to the frame or to the second where frame times vary.
"""

from collections.abc import Callable, Mapping
from functools import partial

import numpy as np

from kickback.laws.linear import least_squares, unscaled
from kickback.laws.steps import Steps
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = ["Fit", "fit_steps", "split_by_speed"]

FEWEST = 4
"""Steps below which no law is told."""

_EVEN = 1e-6
_EXACT = 1e-9
_ROUNDS = 12


class Fit(Record, frozen=True, kw_only=True):
    """A rule's outcome: ``law`` with values and standard errors by name, or ``none``.

    ``clock`` says what its constants belong to, as in a Law, with ``gain`` and
    ``friction_first`` for a drive. ``misfit``: root mean
    square of what is left, length/s.
    """

    law: str
    values: Mapping[str, float] = {}
    stderr: Mapping[str, float] = {}
    clock: str = "even"
    gain: str = "second"
    friction_first: bool = False
    misfit: float = 0.0
    reason: str = ""
    exponent: tuple[float, float] | None = None


def fit_steps(steps: Steps, noise: float) -> Fit:
    """Return the simplest rule that leaves no more than ``noise``, length/s, of the steps.

    Constants that belong to the frame are given for the steps' usual frame. ``none`` with
    a reason where no rule does, or there are fewer than four steps.
    """
    if len(steps) < FEWEST:
        return Fit(law="none", reason=f"fewer than {FEWEST} frames away from limits")
    scale = float(np.max(np.abs(steps.v1)))
    allowed = 2 * noise + _EXACT * scale
    even = float(np.ptp(steps.dt)) <= _EVEN * steps.usual
    for rules in _EVEN_RULES if even else _UNEVEN_RULES:
        fits = [rule(steps) for rule in rules]
        fits = [fit for fit in fits if fit.misfit <= allowed]
        if fits:
            best = min(fits, key=lambda fit: fit.misfit)
            return _with_exponent(best, steps) if not even else best
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
    near, far = fit_steps(steps.only(slow), noise), fit_steps(steps.only(~slow), noise)
    if {near.law, far.law} != {"constant-acceleration"}:
        return None
    if abs(far.values["acceleration"]) < abs(near.values["acceleration"]):
        return None  # lighter while quick: a rise that is sustained for a time
    return far, near, float(size[at - 1] + size[at]) / 2, int((~slow).sum()), int(slow.sum())


def _regress(columns: list[FloatArray], y: FloatArray) -> tuple[FloatArray, FloatArray, float]:
    """Return coefficients, their standard errors, and the root mean square of the residuals.

    Ordinary least squares: ``cov = s²·(XᵀX)⁻¹`` with ``s² = RSS/(n − p)``.
    """
    if len(columns) == 1:  # the common case, in closed form
        (one,) = columns
        power = max(float(one @ one), np.finfo(np.float64).tiny)
        found, spread = np.array([float(one @ y) / power]), np.array([[1 / power]])
        left = y - one * found[0]
    else:
        x = np.stack(columns, axis=1)
        found, spread = least_squares(x, y), unscaled(x)
        left = y - x @ found
    free = max(1, len(y) - len(columns))
    s2 = float(left @ left) / free
    stderr: FloatArray = np.sqrt(np.maximum(np.diag(spread) * s2, 0.0))
    return found, stderr, float(np.sqrt(np.mean(left * left)))


def _acceleration(steps: Steps, power: int, clock: str) -> Fit:
    """Fit ``v1 − v0 = a·dt^power / h^(power − 1)``; ``h`` is the usual step."""
    h = steps.usual
    (a,), (error,), misfit = _regress([steps.dt**power / h ** (power - 1)], steps.v1 - steps.v0)
    return Fit(
        law="constant-acceleration",
        values={"acceleration": float(a)},
        stderr={"acceleration": float(error)},
        clock=clock,
        misfit=misfit,
    )


def _friction_even(steps: Steps) -> Fit:
    """Fit ``v1 = f·v0``."""
    h = steps.usual
    (f,), (error,), misfit = _regress([steps.v0], steps.v1)
    return _decay("friction", float(f), float(error), h, misfit, "even", {})


def _smoothing_even(steps: Steps) -> Fit:
    """Fit ``v1 = f·v0 + c``, of which ``c/(1 − f)`` is the goal."""
    h = steps.usual
    middle = float(np.mean(steps.v0))
    (f, c), (f_error, c_error), misfit = _regress(
        [steps.v0 - middle, np.ones(len(steps))], steps.v1
    )
    f = float(f)
    if abs(1 - f) < 1e-12:
        return Fit(law="none", misfit=np.inf)
    goal = (float(c) - f * middle) / (1 - f)
    # goal = middle + (c − middle)/(1 − f): the mean and the slope are uncorrelated
    error = float(np.hypot(c_error / (1 - f), (c - middle) * f_error / (1 - f) ** 2))
    return _decay(
        "smoothing", f, float(f_error), h, misfit, "even", {"goal": goal}, {"goal": error}
    )


def _decay(
    law: str,
    factor: float,
    error: float,
    h: float,
    misfit: float,
    clock: str,
    values: Mapping[str, float],
    stderr: Mapping[str, float] | None = None,
) -> Fit:
    """Return a fit whose factor a frame also is a rate, ``−ln f/h``."""
    if not 0 < factor < 1:
        return Fit(law="none", misfit=np.inf)
    return Fit(
        law=law,
        values={**values, "rate": -float(np.log(factor)) / h, "factor": factor},
        stderr={**(stderr or {}), "rate": error / factor / h, "factor": error},
        clock=clock,
        misfit=misfit,
    )


def _friction_uneven(steps: Steps, clock: str) -> Fit:
    """Fit ``v1 = v0·f(dt)``: a factor a frame, ``exp(−k·dt)`` or ``1 − k·dt``."""
    h = steps.usual
    if clock == "frame":
        fit = _friction_even(steps)
        return fit if fit.law == "none" else replace(fit, clock=clock)
    if clock == "first-order":
        (k,), (error,), misfit = _regress([-steps.v0 * steps.dt], steps.v1 - steps.v0)
        return _rated("friction", float(k), float(error), h, misfit, clock, {}, {})
    return _newton(steps, clock, with_goal=False)


def _smoothing_uneven(steps: Steps, clock: str) -> Fit:
    """Fit ``v1 = g + (v0 − g)·f(dt)`` with the same kinds of factor."""
    h = steps.usual
    if clock == "frame":
        fit = _smoothing_even(steps)
        return fit if fit.law == "none" else replace(fit, clock=clock)
    if clock == "first-order":
        (kg, k), (kg_error, error), misfit = _regress(
            [steps.dt, -steps.v0 * steps.dt], steps.v1 - steps.v0
        )
        k = float(k)
        if k <= 0:
            return Fit(law="none", misfit=np.inf)
        goal, goal_error = float(kg) / k, float(kg_error) / k
        return _rated(
            "smoothing", k, float(error), h, misfit, clock, {"goal": goal}, {"goal": goal_error}
        )
    return _newton(steps, clock, with_goal=True)


def _newton(steps: Steps, clock: str, *, with_goal: bool) -> Fit:
    """Fit ``v1 = g + (v0 − g)·exp(−k·dt)`` by Gauss and Newton, from the even fit."""
    none = Fit(law="none", misfit=np.inf)
    start = _smoothing_even(steps) if with_goal else _friction_even(steps)
    if start.law == "none":
        return none
    h = steps.usual
    g, k = start.values.get("goal", 0.0), start.values["rate"]
    jacobian = np.zeros((len(steps), 2))
    left = np.zeros(len(steps))
    for _ in range(_ROUNDS):
        f = np.exp(-k * steps.dt)
        left = steps.v1 - (g + (steps.v0 - g) * f)
        jacobian = np.stack((1 - f, -steps.dt * (steps.v0 - g) * f), axis=1)
        if not with_goal:
            jacobian = jacobian[:, 1:]
        change = least_squares(jacobian, left)
        g, k = (
            (g + float(change[0]), k + float(change[1])) if with_goal else (g, k + float(change[0]))
        )
        if not np.isfinite(k) or k <= 0:
            return none
        if abs(float(change[-1])) <= 1e-14 * k:
            break
    s2 = float(left @ left) / max(1, len(left) - jacobian.shape[1])
    errors = np.sqrt(np.maximum(np.diag(unscaled(jacobian)) * s2, 0.0))
    misfit = float(np.sqrt(np.mean(left * left)))
    values, stderr = ({"goal": g}, {"goal": float(errors[0])}) if with_goal else ({}, {})
    law = "smoothing" if with_goal else "friction"
    return _rated(law, k, float(errors[-1]), h, misfit, clock, values, stderr)


def _drive(steps: Steps, decay: str, gain: str, *, first: bool) -> Fit:
    """Fit ``v1 = (v0 + a·g)·f`` or, not ``first``, ``v0·f + a·g``, by Gauss and Newton.

    ``f`` is exp(−k·dt), or of the usual step in each frame (``decay`` is ``frame``), or
    1 − k·dt (``first-order``); ``g`` is dt, the usual step in each frame, or dt² over it.
    """
    none = Fit(law="none", misfit=np.inf)
    start = _smoothing_even(steps)
    if start.law == "none":
        return none
    h, k = steps.usual, start.values["rate"]
    a = start.values["goal"] * k
    g = {"second": steps.dt, "frame": np.full(len(steps), h), "square": steps.dt**2 / h}[gain]
    d = steps.dt if decay != "frame" else np.full(len(steps), h)
    jacobian, left = np.zeros((len(steps), 2)), np.zeros(len(steps))
    for _ in range(_ROUNDS):
        f = 1 - k * d if decay == "first-order" else np.exp(-k * d)
        slope = -d if decay == "first-order" else -d * f
        pushed = steps.v0 + a * g if first else steps.v0
        left = steps.v1 - (pushed * f + (0.0 if first else a * g))
        jacobian = np.stack((g * f if first else g, pushed * slope), axis=1)
        change = least_squares(jacobian, left)
        a, k = a + float(change[0]), k + float(change[1])
        if not np.isfinite(k) or k <= 0:
            return none
        if abs(float(change[1])) <= 1e-14 * k:
            break
    s2 = float(left @ left) / max(1, len(left) - 2)
    errors = np.sqrt(np.maximum(np.diag(unscaled(jacobian)) * s2, 0.0))
    misfit = float(np.sqrt(np.mean(left * left)))
    values, stderr = {"acceleration": a}, {"acceleration": float(errors[0])}
    fit = _rated("drive", k, float(errors[1]), h, misfit, decay, values, stderr)
    return replace(fit, gain=gain, friction_first=not first)


def _rated(
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
        return Fit(law="none", misfit=np.inf)
    factor = 1 - rate * h if clock == "first-order" else float(np.exp(-rate * h))
    return Fit(
        law=law,
        values={**values, "rate": rate, "factor": factor},
        stderr={**stderr, "rate": error, "factor": error * h * abs(factor)},
        clock=clock,
        misfit=misfit,
    )


def _with_exponent(fit: Fit, steps: Steps) -> Fit:
    """Add the exponent of the step in ``constant ∝ dt^p``, with its standard error.

    1 for a constant that belongs to the second, 0 for one that belongs to the frame.
    """
    if fit.law == "constant-acceleration":
        size = np.abs(steps.v1 - steps.v0)
    elif fit.law in {"friction", "smoothing"}:
        goal = fit.values.get("goal", 0.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            kept = (steps.v1 - goal) / (steps.v0 - goal)
            size = 1 - kept if fit.clock == "first-order" else -np.log(kept)
        far = np.abs(steps.v0 - goal) > 1e-3 * float(np.max(np.abs(steps.v0 - goal)))
        size = np.where(far, size, np.nan)
    else:
        return fit
    known = np.isfinite(size) & (size > 0)
    if np.count_nonzero(known) < FEWEST:
        return fit
    x = np.log(steps.dt[known])
    (p, _), (error, _), _ = _regress([x - x.mean(), np.ones(len(x))], np.log(size[known]))
    return replace(fit, exponent=(float(p), float(error)))


Rule = Callable[[Steps], Fit]
_EVEN_RULES: tuple[tuple[Rule, ...], ...] = (
    (lambda steps: _acceleration(steps, 1, "even"), _friction_even),
    (_smoothing_even,),
)
_UNEVEN_RULES: tuple[tuple[Rule, ...], ...] = (
    (
        lambda steps: _acceleration(steps, 1, "second"),
        lambda steps: _acceleration(steps, 0, "frame"),
        lambda steps: _acceleration(steps, 2, "square"),
        lambda steps: _friction_uneven(steps, "second"),
        lambda steps: _friction_uneven(steps, "frame"),
        lambda steps: _friction_uneven(steps, "first-order"),
    ),
    (
        lambda steps: _smoothing_uneven(steps, "second"),
        lambda steps: _smoothing_uneven(steps, "frame"),
        lambda steps: _smoothing_uneven(steps, "first-order"),
    ),
    tuple(
        partial(_drive, decay=decay, gain=gain, first=first)
        for decay in ("second", "frame", "first-order")
        for gain in ("second", "frame", "square")
        for first in (True, False)
    ),
)
