"""Which of several models explains observations: the simplest that does, and what else would.

Families with more constants are believed where they are better by far. What a constant belongs to
is told where the other readings do worse; else it is ``even``. What the noise hides is no law.
"""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from kickback.laws.fitting import Fitting, ModelFit, Path
from kickback.laws.least_squares import linear
from kickback.laws.observations import Observations
from kickback.laws.step_model import Speeds, StepModel, Term, power_of, step_of
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

if TYPE_CHECKING:
    from kickback.laws.families.family import Family

__all__ = ["LAWLESS", "Choice", "Selected", "select"]

LAWLESS = "no rule of the known kinds explains these frames"
"""Why there is no law where the noise hides none."""

_TELLS = 9.0
"""Chi squared by which one reading must be better than another: three standard errors."""

_NEAR = 1.0
"""Chi squared by which readings may differ and be as likely: one standard error."""

_BENT = 12.0
"""Chi squared by which a further constant must better a fit, to be believed."""

_SURE = 3.0
"""Standard errors within which what is left is noise."""

_OWN = 2.0
"""How many times its rounding a noise is that is one of its own."""

_MATERIAL = 1e-9
"""Share of the largest value below which what is left is that of the arithmetic."""

_HIDDEN, _HIDDEN_CHANGE = 0.25, 0.04
"""Share of a push, or of a speed, that a bend may have unseen for a rule to be told; and of a
steady speed that its change may have."""

_VAGUE = 0.3
"""Error of a constant, as a share of it, beyond which it is not told."""

_FLATTEST, _AT_ONCE = 0.02, 4.0
"""A rate times the longest stretch below which a decay is a line, and times the usual frame from
which it is over at once."""

_GLANCE, _FAR = 2, 100.0
"""Rounds of a search that show how good a reading can be, and chi squared beyond which such a
glance settles that it is not the best."""

_LEAST_FREE = 3
"""Degrees of freedom below which a fit of stretches says nothing."""

_SHORTLIST = 6
"""Models of the same terms that are followed along whole stretches: those that leave least of
single steps."""

_NEVER = 3.0
"""Times its noise that a step may miss, beyond which whole stretches need not be asked."""

_NUDGE = 1e-5
"""Change of a power that shows what it does."""


class Choice(Record, frozen=True, kw_only=True):
    """A family that may explain observations, by its models: the usual one first."""

    family: "Family"
    models: tuple[StepModel, ...]
    tier: int


class Selected(Record, frozen=True, kw_only=True):
    """What observations tell: a family with its constants and standard errors by name, or None.

    Then ``reason`` says why; ``lawless``: that no family explains them, not that they are too poor
    to tell which does. ``clocks``: whose each constant is, by its name; ``even`` where that cannot
    be told. ``model``: as it was fitted, with its constants ``c``. ``alike``: other families that
    do as well, in words. ``exponent``: the power of the step that a constant goes with, and its
    error. ``misfit``: root mean square of what is left, in the unit of the data.
    """

    family: "Family | None" = None
    model: StepModel | None = None
    c: FloatArray | None = None
    values: Mapping[str, float] = {}
    stderr: Mapping[str, float] = {}
    clocks: Mapping[str, str] = {}
    exponent: tuple[float, float] | None = None
    alike: tuple[str, ...] = ()
    reason: str = ""
    lawless: bool = False
    misfit: float = 0.0
    frames: int = 0

    @property
    def law(self) -> str:
        """Return the name of the family, or ``none``."""
        return "none" if self.family is None else self.family.name

    def value(self, name: str) -> float:
        """Return a constant; 0 where the rule has none of that name."""
        return self.values.get(name, 0.0)

    def after(self, v: Speeds, dt: FloatArray, usual: float) -> Speeds:
        """Return the speeds after steps from ``v``, shape (k,), by the model as it was fitted."""
        if self.model is None or self.c is None:
            raise ValueError("no rule was told")
        return self.model.after(v, dt, usual, self.c)


class _Candidate(Record, frozen=True, kw_only=True):
    choice: Choice
    fit: ModelFit


def select(
    data: Observations, choices: Sequence[Choice], *, resisting: bool = False
) -> Selected:
    """Return the simplest family that explains observations within their noise.

    Where two of one tier do equally well, or a bend that matters could hide, there is none. Of
    forces that are ``resisting`` the usual one is told, with what does as well; each must be one,
    and shown.
    """
    if any(not model.affine for choice in choices for model in choice.models):
        data = data.limited()
    near: float | None = None
    best: list[_Candidate] = []
    known: list[_Candidate] = []
    for tier in sorted({choice.tier for choice in choices}):
        found = [
            _Candidate(choice=choice, fit=fit)
            for choice in choices
            if choice.tier == tier
            for fit in _fits(data, choice, near)
        ]
        rates = (_rate(one.fit) for one in found if one.fit.model.rates)
        near = next((rate for rate in rates if rate * data.span > _FLATTEST), near)
        sound = [one for one in found if _sound(data, one.fit, resisting=resisting)]
        good = sorted(sound, key=lambda one: one.fit.score)
        if not good and best:
            break
        if not good:
            continue
        if best and good[0].fit.score >= best[0].fit.score - _BENT:
            break
        best, known = good, found
        if _rivals(best) or resisting or _straight(data, best[0].fit):
            break
    return _answer(data, best, known, resisting=resisting)


def _rate(fit: ModelFit) -> float:
    """Return the first rate of a fit."""
    return float(fit.c[fit.model.rates[0]])


def _fits(data: Observations, choice: Choice, near: float | None) -> list[ModelFit]:
    """Return the fits of a family's models; only what may be the best is looked at closely.

    Whose constants are makes no more of a step than steps differ: what leaves more is another rule.
    """
    if not all(model.affine for model in choice.models):
        found = [Fitting(data, model).fit() for model in _shortlist(data, choice.models)]
        return [one for one in found if one is not None]
    usual, *others = choice.models
    first = _fitted(data, usual, near) or _fitted(data, usual, None)
    if first is None:
        return []
    acts = _rate(first) * data.usual * data.size if usual.rates else 0.0
    if first.misfit > data.uneven * max(data.change, acts):
        return [first]
    start = _rate(first) if usual.rates else None
    glances = [_fitted(data, model, start, _GLANCE) for model in others]
    rough = [one for one in glances if one is not None]
    least = min(fit.score for fit in (first, *rough))
    closely = [
        Fitting(data, one.model).fit(one.c) for one in rough if one.score < least + _FAR
    ]
    return [first, *(one for one in closely if one is not None)]


def _fitted(
    data: Observations, model: StepModel, near: float | None, rounds: int | None = None
) -> ModelFit | None:
    """Return the fit of a model, its rate looked for from ``near`` on."""
    start = None
    if near is not None and model.rates:
        start = np.zeros(len(model.constants))
        start[list(model.rates)] = near
    fitting = Fitting(data, model)
    return fitting.fit(start) if rounds is None else fitting.fit(start, rounds)


def _shortlist(data: Observations, models: Sequence[StepModel]) -> list[StepModel]:
    """Return the models worth following along whole stretches: those that may be the best."""
    if not data.begins:
        return list(models)
    steps = data.by_steps
    fits = [one for model in models if (one := Fitting(steps, model).fit()) is not None]
    fits.sort(key=lambda one: one.misfit)  # equal ones stay in the order of the models
    most = _SHORTLIST * (3 if data.placed else 1)  # differences of places rank them badly
    return [
        one.model for one in fits[:most] if data.placed or one.misfit <= _NEVER * steps.noise
    ]


def _sound(data: Observations, fit: ModelFit, *, resisting: bool) -> bool:
    """Whether a fit leaves no more than the noise, and its constants are some."""
    rates = fit.c[list(fit.model.rates)]
    decays = [k for k, name in enumerate(fit.model.constants) if name == "rate"]
    if np.any(rates <= 0):
        return False
    if data.begins:
        k = fit.c[decays]
        over = (k * data.span <= _FLATTEST) | (k * data.usual >= _AT_ONCE)
        if fit.free < _LEAST_FREE or np.any(over):
            return False
    if resisting and (np.any(fit.c <= 0) or np.any(fit.stderr > _VAGUE * fit.c)):
        return False  # a push that brakes, or a resistance that drives
    return _fine(data, fit)


def _fine(data: Observations, fit: ModelFit) -> bool:
    """Whether what is left is no more than the noise: chi squared within three sigmas.

    Nor may residuals wander, where the noise is no rounding (their autocorrelation is 0 ± 1/√n for
    noise that does not).
    """
    own = data.begins and data.noise > _OWN * data.rounding
    if own and fit.misfit > _MATERIAL * data.reach and fit.echo > _SURE / fit.frames**0.5:
        return False
    return fit.chi2 <= data.within**2 * (fit.free + _SURE * float(np.sqrt(2 * fit.free)))


def _rivals(good: Sequence[_Candidate]) -> list[_Candidate]:
    """Return the candidates of other families that do as well as the best, which comes first."""
    return [
        one
        for one in good
        if one.choice is not good[0].choice and one.fit.score < good[0].fit.score + _TELLS
    ]


def _answer(
    data: Observations,
    best: Sequence[_Candidate],
    known: Sequence[_Candidate],
    *,
    resisting: bool,
) -> Selected:
    """Return what the likeliest fits tell, of all of their tier, ``known``."""
    if not best:
        return Selected(reason=LAWLESS, lawless=True)
    rivals = _rivals(best)
    if rivals and not resisting:
        return Selected(reason="a line and a decay explain it equally well")
    first = best[0]
    if rivals:  # of those the one that comes first in the order of the tier
        alike = [first, *rivals]
        first = min(alike, key=lambda one: known.index(one))
        rivals = [one for one in alike if one.choice is not first.choice]
    own = [one.fit for one in (best if resisting else known) if one.choice is first.choice]
    told, same = _reading(data, first, best[0].fit.score, own)
    hidden = "" if resisting else _hidden(data, told)
    if hidden:
        return Selected(reason=hidden)
    others = {" and ".join(sorted(one.choice.models[0].constants)) for one in rivals}
    hides = tuple(sorted(others)) if data.begins else ()
    return _told(data, first.choice, told, same, hides, resisting=resisting)


def _reading(
    data: Observations, first: _Candidate, score: float, own: Sequence[ModelFit]
) -> tuple[ModelFit, list[ModelFit]]:
    """Return the fit that is told of a family's, and all that do as well.

    It is one whose constants belong to the second; of those that are as likely, in the usual order.
    """
    order = first.choice.models[0].terms
    alike = [one for one in own if one.score < score + _TELLS] or [first.fit]

    def unusual(one: ModelFit) -> list[bool]:
        odd = _by_frame(one.model)
        return [term in odd for term in order]

    def turned(one: ModelFit) -> tuple[object, ...]:
        places = [-1] if one.model.at_once else [order.index(term) for term in one.model.terms]
        return places, [one.model.clock_of[term] != "second" for term in order], one.score

    usual = min(unusual(one) for one in alike)
    same = [one for one in alike if unusual(one) == usual]
    least = min(one.score for one in same)
    return min((one for one in same if one.score <= least + _NEAR), key=turned), alike


def _told(
    data: Observations,
    choice: Choice,
    told: ModelFit,
    alike: Sequence[ModelFit],
    others: tuple[str, ...],
    *,
    resisting: bool,
) -> Selected:
    """Return a family with the constants of a fit, and what they may be as well.

    Constants that another order of the terms has are within its errors.
    """
    model = told.model
    clocks = model.clock_of
    same = [one for one in alike if one.model.clock_of == clocks or (
        resisting and _by_frame(one.model) == _by_frame(model))]  # fmt: skip
    names = choice.models[0].constants
    errors = dict(zip(model.constants, told.stderr.tolist(), strict=True))
    values = {name: told.value(name) for name in names}
    floor = {"goal": data.steadiest, "speed": data.steadiest}
    stderr = {
        name: max(
            float(np.hypot(errors[name], max(abs(one.value(name) - values[name]) for one in same))),
            floor.get(name, 0.0),
        )
        for name in names
    }
    if not model.terms:  # a steady speed is the start of each stretch
        values, stderr = _steady(data, told)
    if "rate" in values:
        h, rate = data.usual, values["rate"]
        by = next(c for term, c in clocks.items() if "rate" in term.constants)
        kept = 1 - rate * h if by == "first-order" else float(np.exp(-rate * h))
        values["factor"], stderr["factor"] = kept, stderr["rate"] * h * abs(kept)
    return Selected(
        family=choice.family,
        model=model,
        c=told.c,
        values=values,
        stderr=stderr,
        clocks={
            name: _clock(data, term, clock, alike)
            for term, clock in clocks.items()
            for name in term.constants
        },
        exponent=_exponent(data, told),
        alike=others,
        misfit=told.misfit,
        frames=told.frames,
    )


def _by_frame(model: StepModel) -> set[Term]:
    """Return the terms whose constants belong to the frame, or to the step twice."""
    return {term for term, clock in model.clock_of.items() if clock in {"frame", "square"}}


def _clock(data: Observations, term: Term, clock: str, alike: Sequence[ModelFit]) -> str:
    """Return the clock of a term; ``even`` where another does as well."""
    others = {one.model.clock_of[term] for one in alike}
    return "even" if data.even or not others <= {clock, "first-order"} else clock


def _steady(data: Observations, fit: ModelFit) -> tuple[dict[str, float], dict[str, float]]:
    """Return a steady speed that all stretches have, weighted together, and its standard error."""
    at = _path(data, fit)
    alone = at.basis[-1]  # a start's own line, less the place that its path begins at, of size one
    size = np.sum(at.weight * alone * at.own[0], axis=1)
    power = float(np.sum(size**2))
    speed = float(np.sum(size**2 * np.asarray(at.starts, dtype=np.float64))) / power
    return {"speed": speed}, {"speed": max(fit.size / power**0.5, data.steadiest)}


# what the noise hides


def _path(data: Observations, fit: ModelFit) -> Path:
    at = Fitting(data, fit.model).at(fit.c)
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
    at = _path(data, fit)
    if model.rates:
        kept = Fitting(data, model).share_kept(fit.c)
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


def _straight(data: Observations, fit: ModelFit) -> bool:
    """Whether nothing speaks for a rule with more constants: chi squared falls by little."""
    if len(fit.model.terms) > 1 or (fit.model.rates and len(fit.c) > 1):
        return False
    found = _bend(data, fit)
    if found is None:
        return True
    at, column = found
    power = float(np.sum(at.weight * column**2))
    return not power or float(np.sum(at.weight * column * at.left)) ** 2 / power < _BENT


def _hidden(data: Observations, fit: ModelFit) -> str:
    """Return what the noise hides, in words, or nothing."""
    model = fit.model
    if any(name == "rate" for name in model.constants):
        at = model.constants.index("rate")
        if fit.stderr[at] > _VAGUE * fit.c[at]:
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
    return max(bend, power**-0.5) / size


def _exponent(data: Observations, fit: ModelFit) -> tuple[float, float] | None:
    """Return the power of the step that a constant goes with, and its standard error."""
    power = power_of(fit.model)
    if data.even or power is None or not fit.model.affine:
        return None
    fitting, at = Fitting(data, fit.model), _path(data, fit)
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
    return left / data.noise**2 - fit.chi2 <= _TELLS


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
