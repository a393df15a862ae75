"""A law made of what a fit of steps found."""

import numpy as np

from kickback.laws.families.code import CLOCKS, clock_reason
from kickback.laws.families.table import family_named
from kickback.laws.fit import Fit
from kickback.laws.record import Constant, Law
from kickback.takes.record import replace

__all__ = ["law_of_fit", "with_time_error"]

_TIMED = {"acceleration", "rate"}
"""Constants whose unit is by the second once more than a speed's, or than nothing's."""


def _clock_reason(fit: Fit) -> str | None:
    """Say what constants belong to where that is not the second, and a drive's order."""
    if fit.law != "drive":
        return clock_reason(fit.clock)
    parts = []
    if fit.gain == "square":
        parts.append("the acceleration is multiplied by the time step twice")
    if fit.gain == "frame":
        parts.append("the acceleration belongs to the frame")
    if fit.clock == "frame":
        parts.append("the friction belongs to the frame")
    elif fit.clock == "first-order":
        parts.append(CLOCKS["first-order"])
    if fit.friction_first:
        parts.append("the friction acts before the acceleration")
    return "; ".join(parts) or None


def law_of_fit(base: Law, fit: Fit, unit: str, frames: int) -> Law:
    """Return a law with the constants that a fit of steps found; ``frames`` were used."""
    dimensions = family_named(fit.law).constants
    values = {name: (value, fit.stderr[name]) for name, value in fit.values.items()}
    if fit.exponent is not None:
        values["exponent"] = fit.exponent
    constants = [
        Constant(name=name, value=value, unit=dimensions[name].within(unit), stderr=error)
        for name, (value, error) in values.items()
    ]
    return replace(
        base,
        family=family_named(fit.law),
        constants=tuple(constants),
        reason=_clock_reason(fit),
        clock=fit.clock,
        gain=fit.gain,
        friction_first=fit.friction_first,
        frames=frames,
        misfit=fit.misfit,
    )


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
