"""A law made of what was selected, or of what most of several stretches tell."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.laws.families.code import CLOCKS, clock_reason
from kickback.laws.record import Constant, Law
from kickback.laws.select import Selected
from kickback.laws.step_model import LINEAR, PUSH, StepModel
from kickback.takes.record import replace
from kickback.takes.tolerances import ARITHMETIC, SURE

__all__ = ["combined", "hidden", "law_of", "with_time_error"]

_TIMED = {"acceleration", "rate"}
"""Constants whose unit is by the second once more than a speed's, or than nothing's."""

_WORDS = {"rate": "friction", "rolling": "rolling resistance", "quadratic": "drag"}
"""What the terms of a rule are called, where not as their constants."""


def law_of(base: Law, found: Selected, length: str, frames: int | None = None) -> Law:
    """Return a law with the constants that were found, or none with the reason.

    ``length``: the word for the unit of length; ``frames``: the steps that were used.
    """
    frames = found.frames if frames is None else frames
    if found.family is None:
        return replace(base, reason=found.reason, lawless=found.lawless, frames=frames)
    dimensions = found.family.constants
    values = {name: (value, found.stderr[name]) for name, value in found.values.items()}
    if found.exponent is not None and "exponent" in dimensions:
        values["exponent"] = found.exponent
    constants = [
        Constant(name=name, value=value, unit=dimensions[name].within(length), stderr=error)
        for name, (value, error) in values.items()
    ]
    reasons = [*_clock_reasons(found), hidden(found)]
    return replace(
        base,
        family=found.family,
        constants=tuple(constants),
        model=found.model,
        reason="; ".join(text for text in reasons if text) or None,
        clock=_clock(found),
        gain=_gain(found),
        clocks=found.clocks if len(set(found.clocks.values())) > 1 else {},
        friction_first=_friction_first(found.model),
        frames=frames,
        misfit=found.misfit,
        lawless=False,
        unlike=False,
    )


def _clock(found: Selected) -> str:
    """Return whose a rate is, or else what changes the speed."""
    if "rate" in found.clocks:
        return found.clocks["rate"]
    clocks = list(found.clocks.values())
    return clocks[0] if len(set(clocks)) == 1 else _gain(found) if clocks else "even"


def _gain(found: Selected) -> str:
    """Return whose a push and the resistances beside a decay are."""
    others = {clock for name, clock in found.clocks.items() if name not in {"rate", "goal"}}
    return next((clock for clock in ("frame", "square") if clock in others), "second")


def _friction_first(model: StepModel | None) -> bool:
    """Whether a decay acts before the push beside it."""
    terms = () if model is None else model.terms
    return LINEAR in terms and PUSH in terms and terms.index(LINEAR) < terms.index(PUSH)


def _clock_reasons(found: Selected) -> list[str]:
    """Say what constants belong to where that is not the second, and the order of a friction."""
    if len(found.clocks) < 2 or "goal" in found.clocks:
        return [text for text in (clock_reason(_clock(found)),) if text]
    said = []
    for name, clock in found.clocks.items():
        if clock == "frame":
            said.append(f"the {_WORDS.get(name, name)} belongs to the frame")
        elif clock == "square":
            said.append(f"the {_WORDS.get(name, name)} is multiplied by the time step twice")
        elif clock == "first-order":
            said.append(CLOCKS["first-order"])
    if _friction_first(found.model) and set(found.clocks.values()) != {"even"}:
        said.append("the friction acts before the acceleration")
    return said


def hidden(found: Selected) -> str:
    """Say which other terms explain the speeds as well."""
    others = " or ".join(found.alike)
    return f"or {others}: what is rounded hides which" if others else ""


def with_time_error(law: Law, share: float) -> Law:
    """Return a law whose constants by the second also have the error of the time step.

    ``share``: the standard error of the step as a share of it; a constant's own adds to it.
    """
    if not share or law.family is None:
        return law
    constants = tuple(
        replace(one, stderr=float(np.hypot(one.stderr or 0.0, share * abs(one.value))))
        if one.name in _TIMED
        else one
        for one in law.constants
    )
    return replace(law, constants=constants)


def combined(base: Law, fits: Sequence[Selected], length: str, frames: int) -> Law:
    """Return the law that most of the told stretches have, its constants weighted together."""
    chosen, reason, lawless = _majority(fits)
    if not chosen:
        return replace(base, reason=reason, lawless=lawless, frames=frames)
    weighed = {name: _weighed(name, chosen) for name in chosen[0].values if name != "factor"}
    law = law_of(base, _together(chosen, weighed, base.frame), length, frames)
    unlike = [text for _, _, text in weighed.values() if text]
    return replace(law, reason=unlike[-1], unlike=True) if unlike else law


def _together(
    chosen: Sequence[Selected], weighed: Mapping[str, tuple[float, float, str]], frame: float
) -> Selected:
    """Return fits of one family as one, with constants that were weighted together."""
    first = chosen[0]
    values = {name: value for name, (value, _, _) in weighed.items()}
    stderr = {name: error for name, (_, error, _) in weighed.items()}
    if "rate" in weighed:
        values["factor"] = factor = float(np.exp(-values["rate"] * frame))
        stderr["factor"] = factor * frame * stderr["rate"]
    one_clock = len({tuple(fit.clocks.values()) for fit in chosen}) == 1
    return replace(
        first,
        values=values,
        stderr=stderr,
        clocks=first.clocks if one_clock else dict.fromkeys(first.clocks, "even"),
        exponent=None,
        misfit=float(np.sqrt(np.mean([fit.misfit**2 for fit in chosen]))),
    )


def _majority(fits: Sequence[Selected]) -> tuple[list[Selected], str, bool]:
    """Return the fits of the law that most of the told stretches have.

    None of them where there is no such law: then why, and whether they follow no known one.
    """
    told = [fit for fit in fits if fit.family is not None]
    if not fits:
        return [], "too few frames away from limits", False
    if not told:
        return [], fits[0].reason, fits[0].lawless
    names = [fit.law for fit in told]
    law = max(dict.fromkeys(names), key=names.count)
    chosen = [fit for fit in told if fit.law == law]
    if len(chosen) <= len(told) / 2:
        return [], "its phases read as different rules", False
    if sum(fit.lawless for fit in fits) >= len(chosen):
        return [], "most of its phases follow no known rule", False
    return chosen, "", False


def _weighed(name: str, fits: Sequence[Selected]) -> tuple[float, float, str]:
    """Return one constant of fits weighted by 1/σ², its error, and whether they disagree."""
    value = np.array([fit.values[name] for fit in fits])
    floor = ARITHMETIC * float(np.max(np.abs(value)))
    floor = max(floor, float(np.finfo(np.float64).tiny) ** 0.25)  # its square divides
    error = np.maximum(np.array([fit.stderr[name] for fit in fits]), floor)
    weight = 1 / error**2
    mean = float(np.sum(weight * value) / np.sum(weight))
    size = float(1 / np.sqrt(np.sum(weight)))
    if float(np.max(np.abs(value - mean) / error)) <= SURE + np.log(len(value)):
        return mean, size, ""
    text = f"its phases disagree: {name} {value.min():.4g} to {value.max():.4g}"
    return mean, max(size, float(np.std(value))), text
