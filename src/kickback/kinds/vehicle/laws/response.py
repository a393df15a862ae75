"""A turning that goes toward what the wheel asks for, read off rounded headings.

``ω1 = g·a + (ω0 − g·a)·f`` and ``h1 = h0 + ω1·dt``: headings are the places of a turning that goes
toward a goal which moves. A rounding then counts once, and not in every difference.
"""

from collections.abc import Mapping, Sequence

from kickback.laws.families.family import Family
from kickback.laws.observations import Observations, Stretch
from kickback.laws.select import Choice, Selected, select
from kickback.laws.step_model import StepModel, toward
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["select_response"]

_LONGEST, _MOST = 900, 6
"""Frames of a press, and presses, that settle a response."""


def select_response(
    presses: Sequence[Stretch],
    asked: Mapping[str, Sequence[FloatArray]],
    sigma: float,
    usual: float,
    family: Family,
) -> tuple[str, Selected] | None:
    """Return what a turning goes with, and its response; None where none explains headings.

    ``presses``: turnings and headings around each press; ``asked``: what it may go with in each of
    these, by the name of the gain; ``sigma``: the standard error of a heading, degrees.
    """
    best: tuple[str, Selected] | None = None
    longest = sorted(range(len(presses)), key=lambda k: -len(presses[k].dt))[:_MOST]
    for name, columns in asked.items():
        data = Observations.of(
            [_cut(replace(presses[k], inputs={"asked": columns[k]})) for k in longest], sigma, usual
        )
        term = toward((name, "asked"))
        clocks = term.clocks[:1] if data.even else term.clocks
        models = tuple(StepModel(terms=(term,), clocks=(clock,)) for clock in clocks)
        found = select(data, [Choice(family=family, models=models, tier=0)])
        better = best is None or found.misfit < best[1].misfit
        if found.family is not None and better:
            best = name, found
    return best


def _cut(press: Stretch) -> Stretch:
    """Return the first part of a long press."""
    return Stretch(
        v=press.v[:_LONGEST],
        dt=press.dt[:_LONGEST],
        p=None if press.p is None else press.p[:_LONGEST],
        inputs={name: one[:_LONGEST] for name, one in press.inputs.items()},
    )
