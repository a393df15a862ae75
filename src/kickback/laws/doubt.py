"""What a fit leaves open: a bend that noise may hide, a limit, and the power of the time step."""

import numpy as np

from kickback.laws.fitter import Fitter, ModelFit
from kickback.laws.least_squares import linear
from kickback.laws.observations import Observations
from kickback.laws.projection import Path
from kickback.laws.step_model import power_of, step_of
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import TELLS

__all__ = ["BENT", "VAGUE", "exponent_of", "hidden_by_noise", "is_straight", "path_of"]

BENT = 12.0
"""Chi squared by which a further constant, or bend, must better a fit, to be believed."""

_HIDDEN, _HIDDEN_CHANGE = 0.25, 0.04
"""Share of a push, or of a speed, that a bend may have unseen for a rule to be told; and of a
steady speed that its change may have."""

VAGUE = 0.3
"""Error of a constant, as a share of it, beyond which it is not told."""

_NUDGE = 1e-5
"""Change of a power that shows what it does."""


def path_of(data: Observations, fit: ModelFit) -> Path:
    """Return what a fitted model leaves of data, and what that goes with."""
    at = Fitter(data, fit.model).at(fit.c)
    if at is None:
        raise ValueError("a model was fitted with constants that it cannot have")
    return at


def _bend(data: Observations, fit: ModelFit) -> tuple[Path, FloatArray] | None:
    """Return the column, less what the model has, by which a path would bend further.

    Of a steady speed a push, of a push its change, of a decay toward rest another goal.
    """
    model = fit.model
    plain = len(model.terms) < 2 and model.affine and data.begins
    if not plain or (model.rates and model.terms[0].add is not None):
        return None
    at = path_of(data, fit)
    if model.rates:
        kept = Fitter(data, model).share_kept(fit.c)
        if kept is None:
            return None
        column = 1 - kept
    else:
        clock = model.clocks[0] if model.terms else "second"
        step = np.where(data.dt > 0, step_of(clock, data.dt, data.usual), 0.0)
        column = np.cumsum(step, axis=1) ** (1 + len(model.terms))
    off = at.off(data.seen_as(column))
    for line in at.lines.values():
        power = float(np.sum(at.weight * line**2))
        off = off - line * (float(np.sum(at.weight * line * off)) / power)
    return at, off


def is_straight(data: Observations, fit: ModelFit) -> bool:
    """Whether nothing speaks for a rule with more constants: chi squared falls by little."""
    if len(fit.model.terms) > 1 or (fit.model.rates and len(fit.c) > 1):
        return False
    found = _bend(data, fit)
    if found is None:
        return True
    at, column = found
    power = float(np.sum(at.weight * column**2))
    return not power or float(np.sum(at.weight * column * at.left)) ** 2 / power < BENT


def hidden_by_noise(data: Observations, fit: ModelFit) -> str:
    """Return what the noise hides, in words, or nothing."""
    model = fit.model
    if any(name == "rate" for name in model.constants):
        at = model.constants.index("rate")
        if fit.stderr[at] > VAGUE * fit.c[at]:
            return "the noise hides how quickly it decays"
    share = _hidden_share(data, fit)
    if share > (_HIDDEN if model.terms else _HIDDEN_CHANGE):
        if model.rates:
            return "the noise hides toward which speed it goes"
        if model.terms:
            return "the noise hides whether the change itself changes"
        return "the noise hides whether the speed changes"
    if data.ends_level and "goal" in model.constants and _ramp_explains(data, fit):
        return "a smoothing and a push up to a limit explain it equally well"
    return ""


def _hidden_share(data: Observations, fit: ModelFit) -> float:
    """Return the share of the speed, the push, or the first speed, that a bend may have.

    As much as what is left looks like it, or as noise leaves it unseen.
    """
    found = _bend(data, fit)
    if found is None:
        return 0.0
    at, column = found
    power = float(np.sum(at.weight * column**2))
    size = fit.first
    if not fit.model.rates:
        size = (abs(float(fit.c[0])) / 2 if len(fit.c) else size) / data.span
    if not size or not power:
        return float("inf")
    bend = abs(float(np.sum(at.weight * column * at.left))) / power
    return max(bend, float(power**-0.5)) / size


def exponent_of(data: Observations, fit: ModelFit) -> tuple[float, float] | None:
    """Return the power of the step that a constant goes with, and its standard error."""
    power = power_of(fit.model)
    if data.even or power is None or not fit.model.affine:
        return None
    fitting, at = Fitter(data, fit.model), path_of(data, fit)
    plus, minus = (fitting.values(at, fit.c, way * _NUDGE) for way in (1, -1))
    if plus is None or minus is None:
        return None
    columns = np.stack([at.off((plus - minus) / (2 * _NUDGE)), *fitting.directions(at)])
    normal = np.einsum("isr,jsr,sr->ij", columns, columns, at.weight)
    right = np.einsum("isr,sr,sr->i", columns, at.left, at.weight)
    try:
        spread = np.linalg.inv(normal)
    except np.linalg.LinAlgError:
        return None
    found = power + float(spread[0] @ right)
    return found, float(np.sqrt(max(spread[0, 0], 0.0))) * fit.size


def _ramp_explains(data: Observations, fit: ModelFit) -> bool:
    """Whether a push up to a limit explains stretches as well as a way toward a speed."""
    left = 0.0
    for row, on in enumerate(data.seen):
        t = np.cumsum(data.dt[row])[on]
        left += _ramp_rss((t - t[0]) / (t[-1] - t[0]), data.y[row, on], placed=data.placed)
    return left / data.noise**2 - fit.chi2 <= TELLS


def _ramp_rss(s: FloatArray, y: FloatArray, *, placed: bool) -> float:
    """Return what a constant acceleration up to a limit leaves of one stretch, at its best.

    The speed is ``v0 + a·min(s, τ)`` at times ``s`` from 0 to 1; for each τ the rest is linear.
    """
    best = np.inf
    for tau in s[2:]:
        path = np.where(s < tau, s * s / 2, tau * (s - tau / 2))
        columns = (s, path) if placed else (np.minimum(s, tau),)
        x = np.stack([np.ones(len(s)), *columns], axis=1)
        best = min(best, float(np.sum((y - x @ linear(x, y)) ** 2)))
    return best
