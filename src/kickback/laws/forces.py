"""Forms of a speed that is pushed and resisted: what a step makes of it, term by term.

A speed is along one line, or a complex number over a plane: then resistances act against it, and
the push goes ``toward`` a direction of its own, as gravity does. The terms act one after the
other, or all on the speed before the step: ``push`` adds ``a·g``, ``rolling`` takes ``c·g`` off,
``linear`` keeps ``exp(−k·g)`` or ``1 − k·g``, ``quadratic`` takes ``q·v²·g`` off; ``g`` is the time
step, or the usual one in each frame.
"""

from itertools import permutations, product
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["LINEAR", "PUSH", "QUADRATIC", "ROLLING", "TERMS", "Form", "Speeds", "forms_of"]

Speeds = npt.NDArray[Any]
"""Speeds along a line, or complex ones over a plane."""

PUSH, ROLLING, LINEAR, QUADRATIC = "acceleration", "rolling", "rate", "quadratic"
TERMS = (PUSH, LINEAR, QUADRATIC, ROLLING)
"""The terms of a rule, in the order in which they usually act."""

_CLOCKS = {
    PUSH: ("second", "frame", "square"),
    ROLLING: ("second", "frame"),
    LINEAR: ("second", "frame", "first-order"),
    QUADRATIC: ("second", "frame"),
}
"""What the constant of each term may belong to; what is the second's comes first."""


class Form(Record, frozen=True, kw_only=True):
    """The terms of a rule in the order in which they act, and what their constants belong to.

    ``at_once``: all act on the speed before the step. ``toward``: the push's direction.
    """

    terms: tuple[str, ...]
    clocks: tuple[str, ...]
    at_once: bool = False
    toward: complex = 1.0

    def clock(self, term: str) -> str:
        """Return what the constant of a term belongs to; ``second`` without the term."""
        known = dict(zip(self.terms, self.clocks, strict=True))
        return known.get(term, "second")

    def ahead(self, v: Speeds, dt: FloatArray, usual: float, c: FloatArray) -> Speeds:
        """Return the speeds after a step from ``v``; constants ``c`` go along the last axis."""
        out = v
        for at, (term, clock) in enumerate(zip(self.terms, self.clocks, strict=True)):
            old = v if self.at_once else out
            change = _change(term, clock, old, c[..., at], _step(clock, dt, usual))
            change = change * self.toward if term == PUSH and self.toward != 1 else change
            out = np.asarray(out + change)
        return out

    def slopes(self, v: Speeds, dt: FloatArray, usual: float) -> Speeds:
        """Return what a step goes with each constant by where constants are small, last axis."""
        zero = np.zeros(len(self.terms))
        base = self.ahead(v, dt, usual, zero)
        columns = [
            (self.ahead(v, dt, usual, one) - base) / _TINY
            for one in np.eye(len(self.terms)) * _TINY
        ]
        return np.stack(columns, axis=-1)


_TINY = 1e-6
"""A constant that is small beside any that matters."""


def _step(clock: str, dt: FloatArray, usual: float) -> FloatArray:
    """Return the step that counts for a constant."""
    if clock == "frame":
        return np.asarray(usual)
    return np.asarray(dt * dt / usual) if clock == "square" else dt


def _change(term: str, clock: str, v: Speeds, c: FloatArray, g: FloatArray) -> Speeds:
    """Return what a term adds to a speed in a step."""
    if term == PUSH:
        return np.asarray(c * g)
    if term == ROLLING:  # it never turns a motion round
        return np.asarray(-np.sign(v) * np.minimum(c * g, np.abs(v)))
    if term == LINEAR:
        return np.asarray(v * (-c * g if clock == "first-order" else np.expm1(-c * g)))
    return np.asarray(-c * v * np.abs(v) * g)


def forms_of(terms: tuple[str, ...], *, even: bool, toward: complex = 1.0) -> list[Form]:
    """Return the forms that some terms may have; even steps tell no clock from another.

    One constant may belong to the frame, or all; the push is first or last, and all may be at once.
    """
    terms = tuple(term for term in TERMS if term in terms)
    clocks = [("second",) if even else _CLOCKS[term] for term in terms]
    found: list[Form] = []
    for own in product(*clocks):
        if not _likely(own):
            continue
        named = dict(zip(terms, own, strict=True))
        found += [
            Form(terms=order, clocks=tuple(named[term] for term in order), toward=toward)
            for order in _orders(terms)
        ]
        form = _at_once(named, even=even, toward=toward)
        if form is not None and form not in found:
            found.append(form)
    return found


def _likely(clocks: tuple[str, ...]) -> bool:
    """Whether code would have such clocks: one constant is not of the second, or none is."""
    odd = [clock for clock in clocks if clock in {"frame", "square"}]
    return len(odd) < 2 or (len(odd) == len(clocks) and "square" not in odd)


def _at_once(named: dict[str, str], *, even: bool, toward: complex) -> Form | None:
    """Return the form in which all terms act on the speed before; None where that is another."""
    terms = tuple(named)
    if even and LINEAR in terms and QUADRATIC not in terms:
        return None  # it is then the push after the decay, its rate in the first order
    if len(terms) < 2 or named.get(LINEAR) == "frame":
        return None
    first = {**named, LINEAR: "first-order"} if LINEAR in named else named
    clocks = tuple(first[term] for term in terms)
    return Form(terms=terms, clocks=clocks, at_once=True, toward=toward)


def _orders(terms: tuple[str, ...]) -> list[tuple[str, ...]]:
    """Return the orders that terms may act in: the usual one, and with some turned round."""
    if len(terms) < 3:
        return list(permutations(terms))
    a, b, c = terms
    return [(a, b, c), (b, c, a), (c, a, b), (a, c, b)]
