"""Which rule printed speeds follow: the simplest that they allow, and what it belongs to."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.decay import VAGUE
from kickback.laws.families.family import Family
from kickback.laws.families.table import FAMILIES
from kickback.laws.fit import Fit
from kickback.laws.path_fit import LAWLESS
from kickback.laws.printed import PrintedFit, PrintedPaths
from kickback.takes.record import Record

__all__ = ["Chosen", "choose"]

_TELLS = 9.0
"""Chi squared by which one reading must be better than another: three standard errors."""

_BENT = 12.0
"""Chi squared by which a further constant must better a fit, to be believed."""

_HIDDEN = 0.25
"""Share of a push, or of a speed, that a bend may have unseen, for a rule to be told."""

_FLAT, _OVER = 0.02, 80.0
"""Rates, over the longest stretch, between which a decay is no line and not over at once."""

_GLANCE = 2
"""Rounds of a search that show how good a reading can be."""

_FAR = 100.0
"""Chi squared beyond which a glance settles that a reading is not the best."""

_FEWEST = 3
"""Degrees of freedom below which a fit says nothing."""


class Chosen(Record, frozen=True, kw_only=True):
    """What printed speeds tell: a ``fit`` of a family; ``none`` with a reason where nothing.

    ``lawless``: no rule of the known kinds explains them.
    """

    fit: Fit
    lawless: bool = False


class _Candidate(Record, frozen=True, kw_only=True):
    family: Family
    fit: PrintedFit


def choose(paths: PrintedPaths, families: Sequence[Family] = FAMILIES) -> Chosen:
    """Return the simplest family that explains stretches within their printing.

    A family with more constants is believed where it is better by far. Where two of one tier
    do equally well, or a bend that matters could hide, the answer is ``none``. What its
    constants belong to is told where the other readings do worse; else it is ``even``.
    """
    near: float | None = None
    best: _Candidate | None = None
    known: list[_Candidate] = []
    for tier in sorted({family.tier for family in families if family.recurrences}):
        level = [one for one in families if one.recurrences and one.tier == tier]
        found = _of_tier(paths, level, near)
        near = next((one.fit.rate for one in found if one.fit.rule.kept is not None), near)
        fine = sorted((one for one in found if _sound(one.fit)), key=lambda one: one.fit.score)
        if best is not None and not (fine and fine[0].fit.score < best.fit.score - _BENT):
            break
        if fine:
            best, known = fine[0], found
            rivals = [one for one in fine if one.family is not best.family]
            if rivals and rivals[0].fit.score - best.fit.score < _TELLS:
                return _none("a line and a decay explain it equally well")
            if _straight(paths, best):
                break
    if best is None:
        return Chosen(fit=Fit(law="none", reason=LAWLESS), lawless=True)
    return _told(paths, best, [one.fit for one in known if one.family is best.family])


def _of_tier(
    paths: PrintedPaths, families: Sequence[Family], near: float | None
) -> list[_Candidate]:
    """Return the fits of the rules of one tier: those by the second alone at an even rate."""
    found: list[_Candidate] = []
    for family in families:
        rules = family.recurrences[:1] if paths.even else family.recurrences
        first = paths.fit(rules[0], near) or paths.fit(rules[0])
        if first is None:
            continue
        start = None if rules[0].kept is None else first.rate
        rough = [fit for rule in rules[1:] if (fit := paths.fit(rule, start, _GLANCE)) is not None]
        least = min((fit.score for fit in (first, *rough)), default=0.0)
        found.append(_Candidate(family=family, fit=first))
        for fit in rough:  # only what may be the best is looked at closely
            if fit.score < least + _FAR and (fit := paths.fit(fit.rule, fit.rate)) is not None:
                found.append(_Candidate(family=family, fit=fit))
    return found


def _sound(fit: PrintedFit) -> bool:
    over = fit.rate * fit.span
    decays = fit.rule.kept is None or _FLAT < over < _OVER
    return fit.free >= _FEWEST and decays and fit.fine


def _straight(paths: PrintedPaths, best: _Candidate) -> bool:
    """Whether nothing speaks for a rule with more constants."""
    return best.family.tier == 0 and paths.bends(best.fit) < _BENT


def _told(paths: PrintedPaths, best: _Candidate, readings: Sequence[PrintedFit]) -> Chosen:
    family = best.family
    fit, clock, gain = _reading(paths, best.fit, readings)
    if family.tier == 0 and paths.hidden_bend(fit) > _HIDDEN:
        what = "toward which speed it goes" if fit.rule.kept else "whether the change itself changes"
        return _none(f"the noise hides {what}")
    if fit.rule.kept is not None and fit.errors[1] > VAGUE * fit.rate:
        return _none("the noise hides how quickly it decays")
    c_error, rate_error = fit.errors
    values, stderr = {}, {}
    if fit.rule.constant:
        values[fit.rule.constant], stderr[fit.rule.constant] = fit.c, c_error
    if fit.rule.kept is not None:
        first_order = fit.rule.clock == "first-order"
        factor = 1 - fit.rate * paths.usual if first_order else np.exp(-fit.rate * paths.usual)
        values |= {"rate": fit.rate, "factor": float(factor)}
        stderr |= {"rate": rate_error, "factor": rate_error * paths.usual * float(abs(factor))}
    exponent = paths.exponent(fit)
    return Chosen(
        fit=Fit(
            law=family.name, values=values, stderr=stderr, clock=clock, gain=gain,
            friction_first=fit.rule.friction_first, misfit=fit.misfit, exponent=exponent,
        )
    )  # fmt: skip


def _reading(
    paths: PrintedPaths, best: PrintedFit, readings: Sequence[PrintedFit]
) -> tuple[PrintedFit, str, str]:
    """Return the reading that is told, and what its constants belong to.

    Of those that do as well as the best, the one by the second; ``even`` where the frame may
    be as right.
    """
    if paths.even:
        return best, "even", "second"
    alike = [one for one in readings if one.score < best.score + _TELLS]
    clocks = {one.rule.clock for one in alike}
    gains = {one.rule.gain for one in alike}
    alike.sort(key=lambda one: (one.rule.clock != "second", one.rule.gain != "second", one.score))
    told = alike[0]
    clock = told.rule.clock if clocks <= {told.rule.clock, "first-order"} else "even"
    return told, clock, told.rule.gain if len(gains) == 1 else "second"


def _none(reason: str) -> Chosen:
    return Chosen(fit=Fit(law="none", reason=reason))
