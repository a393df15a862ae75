"""Which of several models explains observations: the simplest that does, and what else would.

Families with more constants are believed where they are better by far. What a constant belongs to
is told where the other readings do worse; else it is ``even``. What the noise hides is no law.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from kickback.laws.doubt import BENT, VAGUE, exponent_of, hidden_by_noise, is_straight, path_of
from kickback.laws.fitter import Fitter, ModelFit
from kickback.laws.observations import Observations
from kickback.laws.step_model import Speeds, StepModel, Term
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC, SURE, TELLS

if TYPE_CHECKING:
    from kickback.laws.families.family import Family

__all__ = ["LAWLESS", "Choice", "Selected", "select"]

LAWLESS = "no rule of the known kinds explains these frames"
"""Why there is no law where the noise hides none."""

_NEAR = 1.0
"""Chi squared by which readings may differ and be as likely: one standard error."""

_OWN = 2.0
"""How many times its rounding a noise is that is one of its own."""

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


class Choice(Record, frozen=True, kw_only=True):
    """A family that may explain observations, by its models: the usual one first."""

    family: "Family"
    models: tuple[StepModel, ...]
    tier: int

    @property
    def affine(self) -> bool:
        """Whether all of its models are."""
        return all(model.affine for model in self.models)


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


class _Tier(Record, frozen=True, kw_only=True):
    """Families with equally many constants: all fits, and those that are ``good``, best first."""

    found: Sequence[_Candidate]
    good: Sequence[_Candidate]

    @property
    def rivals(self) -> list[_Candidate]:
        """Return the candidates of other families that do as well as the best."""
        best = self.good[0]
        others = (one for one in self.good if one.choice is not best.choice)
        return [one for one in others if one.fit.score < best.fit.score + TELLS]

    def settles(self, data: Observations) -> bool:
        """Whether nothing speaks for a rule with more constants, or it would not help."""
        return bool(self.rivals) or is_straight(data, self.good[0].fit)


def select(data: Observations, choices: Sequence[Choice], *, resisting: bool = False) -> Selected:
    """Return the simplest family that explains observations within their noise.

    Where two of one tier do equally well, or a bend that matters could hide, there is none. Of
    forces that are ``resisting`` the usual one is told, with what does as well; each must be one,
    and shown.
    """
    if not all(choice.affine for choice in choices):
        data = data.limited()
    near: float | None = None
    best = _Tier(found=[], good=[])
    for tier in _tiers(choices):
        found = _of_tier(data, tier, near)
        near = _near(data, found) or near
        now = _Tier(found=found, good=_good(data, found, resisting=resisting))
        if best.good and not _better(now.good, best.good):
            break
        best = now if now.good else best
        if best.good and (resisting or best.settles(data)):
            break
    return _answer(data, best, resisting=resisting)


def _tiers(choices: Sequence[Choice]) -> list[list[Choice]]:
    """Return what may explain data by how simple it is, the simplest first."""
    tiers = sorted({choice.tier for choice in choices})
    return [[choice for choice in choices if choice.tier == tier] for tier in tiers]


def _good(data: Observations, found: Sequence[_Candidate], *, resisting: bool) -> list[_Candidate]:
    """Return the fits that leave no more than the noise, the likeliest first."""
    good = (one for one in found if _sound(data, one.fit, resisting=resisting))
    return sorted(good, key=lambda one: one.fit.score)


def _of_tier(data: Observations, choices: Sequence[Choice], near: float | None) -> list[_Candidate]:
    """Return the fits of all families of a tier."""
    return [
        _Candidate(choice=choice, fit=fit)
        for choice in choices
        for fit in (_affine if choice.affine else _followed)(data, choice, near)
    ]


def _near(data: Observations, found: Sequence[_Candidate]) -> float | None:
    """Return the first rate of a decay among fits, near which others are looked for."""
    rates = (_rate(one.fit) for one in found if one.fit.model.rates)
    return next((rate for rate in rates if rate * data.span > _FLATTEST), None)


def _better(good: Sequence[_Candidate], best: Sequence[_Candidate]) -> bool:
    """Whether fits with more constants are better by far."""
    return bool(good) and good[0].fit.score < best[0].fit.score - BENT


def _rate(fit: ModelFit) -> float:
    """Return the first rate of a fit."""
    return float(fit.c[fit.model.rates[0]])


def _followed(data: Observations, choice: Choice, _: float | None) -> list[ModelFit]:
    """Return the fits of a family whose models are followed step by step."""
    return _there(Fitter(data, model).fit() for model in _shortlist(data, choice.models))


def _affine(data: Observations, choice: Choice, near: float | None) -> list[ModelFit]:
    """Return the fits of a family's models; only what may be the best is looked at closely."""
    usual, *others = choice.models
    first = _fitted(data, usual, near) or _fitted(data, usual, None)
    if first is None or _is_other(data, first):
        return [] if first is None else [first]
    rough = _there(_glance(data, model, first) for model in others)
    least = min(fit.score for fit in (first, *rough))
    near_best = (one for one in rough if one.score < least + _FAR)
    return [first, *_there(Fitter(data, one.model).fit(one.c) for one in near_best)]


def _glance(data: Observations, model: StepModel, first: ModelFit) -> ModelFit | None:
    """Return how good a model can be about, its rate near that of the usual one's fit.

    But where that is poor: then its rate may lead astray, or not.
    """
    if not first.model.rates or not model.rates:
        return Fitter(data, model).fit(rounds=_GLANCE)
    if _fine(data, first):
        return _fitted(data, model, _rate(first), _GLANCE)
    fitter = Fitter(data, model)
    return fitter.fit(fitter.begin(_rate(first)), _GLANCE)


def _there(fits: Iterable[ModelFit | None]) -> list[ModelFit]:
    return [one for one in fits if one is not None]


def _is_other(data: Observations, fit: ModelFit) -> bool:
    """Whether a fit leaves more than whose its constants are could make of it.

    At even steps that makes nothing of it: other models are then other orders of the terms.
    """
    if data.even:
        return False
    acts = _rate(fit) * data.usual * data.size if fit.model.rates else 0.0
    return fit.misfit > data.uneven * max(data.change, acts)


def _fitted(
    data: Observations, model: StepModel, near: float | None, rounds: int | None = None
) -> ModelFit | None:
    """Return the fit of a model, its rate looked for from ``near`` on."""
    start = None
    if near is not None and model.rates:
        start = np.zeros(len(model.constants))
        start[list(model.rates)] = near
    fitting = Fitter(data, model)
    return fitting.fit(start) if rounds is None else fitting.fit(start, rounds)


def _shortlist(data: Observations, models: Sequence[StepModel]) -> list[StepModel]:
    """Return the models worth following along whole stretches: those that may be the best."""
    if not data.begins:
        return list(models)
    steps = data.by_steps
    fits = [one for model in models if (one := Fitter(steps, model).fit()) is not None]
    fits.sort(key=lambda one: one.misfit)  # equal ones stay in the order of the models
    most = _SHORTLIST * (3 if data.placed else 1)  # differences of places rank them badly
    return [one.model for one in fits[:most] if data.placed or one.misfit <= _NEVER * steps.noise]


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
    if resisting and (np.any(fit.c <= 0) or np.any(fit.stderr > VAGUE * fit.c)):
        return False  # a push that brakes, or a resistance that drives
    return _fine(data, fit)


def _fine(data: Observations, fit: ModelFit) -> bool:
    """Whether what is left is no more than the noise: chi squared within three sigmas.

    Nor may residuals wander, where the noise is no rounding (their autocorrelation is 0 ± 1/√n for
    noise that does not).
    """
    own = data.begins and data.noise > _OWN * data.rounding
    if own and fit.misfit > ARITHMETIC * data.reach and fit.echo > SURE / fit.frames**0.5:
        return False
    return fit.chi2 <= data.within**2 * (fit.free + SURE * float(np.sqrt(2 * fit.free)))


def _answer(data: Observations, tier: _Tier, *, resisting: bool) -> Selected:
    """Return what the likeliest fits of a tier tell."""
    if not tier.good:
        return Selected(reason=LAWLESS, lawless=True)
    if resisting:
        return _of_forces(data, tier)
    if tier.rivals:
        return Selected(reason="a line and a decay explain it equally well")
    best = tier.good[0]
    own = [one.fit for one in tier.found if one.choice is best.choice]
    told, alike = _reading(best, best.fit.score, own)
    hidden = hidden_by_noise(data, told)
    if hidden:
        return Selected(reason=hidden)
    same = [one for one in alike if one.model.clock_of == told.model.clock_of]
    return _selected(data, best.choice, told, same, alike)


def _of_forces(data: Observations, tier: _Tier) -> Selected:
    """Return the forces that are told of those that do as well: the usual ones."""
    alike = [tier.good[0], *tier.rivals]
    first = min(alike, key=tier.found.index)
    own = [one.fit for one in tier.good if one.choice is first.choice]
    told, readings = _reading(first, tier.good[0].fit.score, own)
    same = [one for one in readings if _by_frame(one.model) == _by_frame(told.model)]
    found = _selected(data, first.choice, told, same, readings)
    others = [one for one in alike if one.choice is not first.choice and data.begins]
    return replace(found, alike=_words(others))


def _words(others: Sequence[_Candidate]) -> tuple[str, ...]:
    """Return what families are called that do as well: by their constants."""
    return tuple(sorted({" and ".join(sorted(one.choice.models[0].constants)) for one in others}))


def _reading(
    first: _Candidate, score: float, own: Sequence[ModelFit]
) -> tuple[ModelFit, list[ModelFit]]:
    """Return the fit that is told of a family's, and all that do as well.

    It is one whose constants belong to the second; of those that are as likely, in the usual order.
    """
    order = first.choice.models[0].terms
    alike = [one for one in own if one.score < score + TELLS] or [first.fit]
    usual = min(_odd_terms(one, order) for one in alike)
    same = [one for one in alike if _odd_terms(one, order) == usual]
    least = min(one.score for one in same)
    likely = (one for one in same if one.score <= least + _NEAR)
    return min(likely, key=lambda one: _turned(one, order)), alike


def _odd_terms(fit: ModelFit, order: Sequence[Term]) -> list[bool]:
    """Return which terms have constants that do not belong to the second, in the usual order."""
    odd = _by_frame(fit.model)
    return [term in odd for term in order]


def _turned(fit: ModelFit, order: Sequence[Term]) -> tuple[list[int], list[bool], float]:
    """Return how far from the usual the order of a model's terms and their clocks are."""
    model = fit.model
    places = [-1] if model.at_once else [order.index(term) for term in model.terms]
    return places, [model.clock_of[term] != "second" for term in order], fit.score


def _selected(
    data: Observations,
    choice: Choice,
    told: ModelFit,
    same: Sequence[ModelFit],
    alike: Sequence[ModelFit],
) -> Selected:
    """Return a family with the constants of a fit, and whose they are, of all that do as well.

    Constants that the ``same`` terms have in another order are within its errors.
    """
    values = {name: told.value(name) for name in choice.models[0].constants}
    stderr = {name: _error(data, name, told, same) for name in values}
    if not told.model.terms:  # a steady speed is the start of each stretch
        values, stderr = _steady(data, told)
    if "rate" in values:
        values["factor"], stderr["factor"] = _factor(data, told, stderr["rate"])
    return Selected(
        family=choice.family,
        model=told.model,
        c=told.c,
        values=values,
        stderr=stderr,
        clocks={
            name: _clock(data, told.model, term, alike)
            for term in told.model.clock_of
            for name in term.constants
        },
        exponent=exponent_of(data, told),
        misfit=told.misfit,
        frames=told.frames,
    )


def _error(data: Observations, name: str, told: ModelFit, same: Sequence[ModelFit]) -> float:
    """Return the standard error of a constant: its own, and what others make of it."""
    own = float(told.stderr[told.model.constants.index(name)])
    apart = max((abs(one.value(name) - told.value(name)) for one in same), default=0.0)
    return max(float(np.hypot(own, apart)), data.steadiest if name == "goal" else 0.0)


def _factor(data: Observations, told: ModelFit, error: float) -> tuple[float, float]:
    """Return what a usual frame keeps of a speed, and its standard error."""
    h, rate = data.usual, told.value("rate")
    clock = next(c for term, c in told.model.clock_of.items() if "rate" in term.constants)
    kept = 1 - rate * h if clock == "first-order" else float(np.exp(-rate * h))
    return kept, error * h * abs(kept)


def _by_frame(model: StepModel) -> set[Term]:
    """Return the terms whose constants belong to the frame, or to the step twice."""
    return {term for term, clock in model.clock_of.items() if clock in {"frame", "square"}}


def _clock(data: Observations, model: StepModel, term: Term, alike: Sequence[ModelFit]) -> str:
    """Return the clock of a term; ``even`` where another does as well.

    Beside what belongs to the frame, ``1 − k·dt`` differs from an exponential by less than the
    rounding of steps makes of either, unless these differ by far more.
    """
    clock = model.clock_of[term]
    others = {one.model.clock_of[term] for one in alike}
    if clock == "first-order" and "frame" in model.clocks and not data.timed_finely:
        return "even"
    return "even" if data.even or not others <= {clock, "first-order"} else clock


def _steady(data: Observations, fit: ModelFit) -> tuple[dict[str, float], dict[str, float]]:
    """Return a steady speed that all stretches have, weighted together, and its standard error."""
    at = path_of(data, fit)
    alone = at.basis[-1]  # a start's own line, less the place that its path begins at, of size one
    size = np.sum(at.weight * alone * at.own[0], axis=1)
    power = float(np.sum(size**2))
    speed = float(np.sum(size**2 * np.asarray(at.starts, dtype=np.float64))) / power
    return {"speed": speed}, {"speed": max(fit.size / power**0.5, data.steadiest)}
