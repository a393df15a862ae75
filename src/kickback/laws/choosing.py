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
    best: list[_Candidate] = []
    known: list[_Candidate] = []
    for level in _tiers(families):
        found = _of_tier(paths, level, near)
        near = _rate_of(found) or near
        fine = _fine(found)
        if not fine:
            if best:
                break
            continue
        if best and not _better(fine, best):
            break
        best, known = fine, found
        if _rivalled(best) or _straight(paths, best[0]):
            break
    return _answer(paths, best, known)


def _answer(paths: PrintedPaths, best: Sequence[_Candidate], known: Sequence[_Candidate]) -> Chosen:
    """Return what the likeliest fits tell, of all of their tier, ``known``."""
    if not best:
        return Chosen(fit=Fit(law="none", reason=LAWLESS), lawless=True)
    if _rivalled(best):
        return _none("a line and a decay explain it equally well")
    return _told(paths, best[0], [one.fit for one in known if one.family is best[0].family])


def _tiers(families: Sequence[Family]) -> list[list[Family]]:
    """Return the families that have recurrences, the simplest tier first."""
    able = [family for family in families if family.recurrences]
    tiers = sorted({family.tier for family in able})
    return [[family for family in able if family.tier == tier] for tier in tiers]


def _rate_of(found: Sequence[_Candidate]) -> float | None:
    """Return the first rate of a decay among fits, near which others are looked for."""
    return next((one.fit.rate for one in found if one.fit.rule.kept is not None), None)


def _fine(found: Sequence[_Candidate]) -> list[_Candidate]:
    """Return the fits that leave no more than the printing, the likeliest first."""
    return sorted((one for one in found if _sound(one.fit)), key=lambda one: one.fit.score)


def _better(fine: Sequence[_Candidate], best: Sequence[_Candidate]) -> bool:
    """Whether fits with more constants are better by far."""
    return fine[0].fit.score < best[0].fit.score - _BENT


def _rivalled(fine: Sequence[_Candidate]) -> bool:
    """Whether another family does as well as the best, which comes first."""
    others = [one for one in fine if one.family is not fine[0].family]
    return bool(others) and others[0].fit.score - fine[0].fit.score < _TELLS


def _of_tier(
    paths: PrintedPaths, families: Sequence[Family], near: float | None
) -> list[_Candidate]:
    """Return the fits of the rules of one tier: those by the second alone at an even rate."""
    return [
        _Candidate(family=family, fit=fit)
        for family in families
        for fit in _fits(paths, family, near)
    ]


def _fits(paths: PrintedPaths, family: Family, near: float | None) -> list[PrintedFit]:
    """Return the fits of a family's rules; only what may be the best is looked at closely."""
    rules = family.recurrences[:1] if paths.even else family.recurrences
    first = paths.fit(rules[0], near) or paths.fit(rules[0])
    if first is None:
        return []
    start = None if rules[0].kept is None else first.rate
    glances = (paths.fit(rule, start, _GLANCE) for rule in rules[1:])
    return [first, *_closely(paths, first, [fit for fit in glances if fit is not None])]


def _closely(
    paths: PrintedPaths, first: PrintedFit, rough: Sequence[PrintedFit]
) -> list[PrintedFit]:
    """Return those of some first looks that may be the best, looked at closely."""
    least = min(fit.score for fit in (first, *rough))
    closely = (paths.fit(fit.rule, fit.rate) for fit in rough if fit.score < least + _FAR)
    return [fit for fit in closely if fit is not None]


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
        what = (
            "toward which speed it goes" if fit.rule.kept else "whether the change itself changes"
        )
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
