"""The law of forces that were found: of a general family where their terms are of one."""

from collections.abc import Mapping

import numpy as np

from kickback.laws.families.code import clock_reason
from kickback.laws.families.family import Family
from kickback.laws.forces import LINEAR, Form
from kickback.laws.record import Constant, Law
from kickback.laws.resisted import Resisted
from kickback.takes.record import replace

__all__ = ["Given", "given_of", "hidden", "law_of_resisted"]

Given = dict[str, tuple[float, float]]
"""Constants by name, each with its standard error."""


def given_of(found: Resisted, frame: float) -> Given:
    """Return the constants of forces, and the factor of a usual frame where one is a decay."""
    form = found.form
    given = {
        term: (float(value), float(error))
        for term, value, error in zip(form.terms, found.values, found.stderr, strict=True)
    }
    if LINEAR in given:
        rate, error = given[LINEAR]
        kept = float(np.exp(-rate * frame))
        given["factor"] = (kept, kept * frame * error)
    return given


def hidden(found: Resisted) -> str | None:
    """Say which other terms explain the speeds as well."""
    if not found.alike:
        return None
    return f"or {' or '.join(found.alike)}: what is rounded hides which"


def law_of_resisted(
    base: Law,
    found: Resisted,
    given: Mapping[str, tuple[float, float]],
    family: Family,
    length: str,
    *,
    even: bool,
) -> Law:
    """Return a law of a family with the constants ``given``, and what those belong to.

    ``length``: the word for the unit of length; ``even`` steps leave open what a constant is of.
    """
    form = found.form
    others = {form.clock(term) for term in form.terms if term != LINEAR}
    gain = next((clock for clock in ("frame", "square") if clock in others), "second")
    clock = form.clock(LINEAR) if LINEAR in form.terms else gain
    constants = [
        Constant(name=name, value=value, unit=family.constants[name].within(length), stderr=error)
        for name, (value, error) in given.items()
    ]
    return replace(
        base,
        family=family,
        constants=tuple(constants),
        reason="; ".join(text for text in (*_reasons(form), hidden(found)) if text) or None,
        clock="even" if even else clock,
        gain=gain,
        frames=found.steps,
        misfit=found.misfit,
        lawless=False,
        unlike=False,
    )


def _reasons(form: Form) -> list[str]:
    """Return what the constants belong to that are not of the second, in words."""
    pairs = zip(form.terms, form.clocks, strict=True)
    return [f"{term} {text}" for term, own in pairs if (text := clock_reason(own))]
