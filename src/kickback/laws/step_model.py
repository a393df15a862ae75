"""What one step of a game does to a speed, term by term.

A speed lies along one line, or is a complex number over a plane; resistances then act against it,
and a push goes ``toward`` a direction of its own, as gravity does. Terms act one after the other,
or all on the speed before the step. Each has constants, and a clock that says whose these are:
``second`` (they are multiplied by the time step), ``frame`` (they are not), ``square`` (twice),
or, of a rate, ``first-order`` (``1 − k·dt`` instead of ``exp(−k·dt)``).
"""

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from itertools import permutations, product
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "LINEAR",
    "PUSH",
    "QUADRATIC",
    "ROLLING",
    "TOWARD",
    "Affine",
    "Speeds",
    "StepModel",
    "Term",
    "models_of",
    "power_of",
    "resistance",
    "step_of",
    "toward",
]

Speeds = npt.NDArray[Any]
"""Speeds along a line, or complex ones over a plane."""

_POWERS = {"second": 1.0, "first-order": 1.0, "frame": 0.0, "square": 2.0}
"""The power of the time step that a constant goes with, by its clock."""

_TINY = 1e-6
"""A constant that is small beside any that matters."""


def step_of(clock: str, dt: FloatArray, usual: float, bend: float = 0.0) -> FloatArray:
    """Return the step that counts for a constant, s: ``usual·(dt/usual)^p``, shape of ``dt``.

    ``bend`` is added to the power that the clock says; where that makes 0 one step is all.
    """
    power = _POWERS[clock] + bend
    if power == 1:
        return dt
    if power == 0:
        return np.asarray(usual)
    scaled: FloatArray = usual * np.where(dt > 0, dt / usual, 1.0) ** power
    return scaled


class Term(Record, frozen=True, kw_only=True):
    """One thing that a step does: its ``constants`` by name, and the ``clocks`` that code gives it.

    ``act`` returns the speed after it, from the speed before, the constants (last axis), the step
    that counts, and the clock. ``share`` tells of a term that is linear in the speed what it keeps
    of it, from the rate, the step and the clock; ``add`` how much of its ``linear`` constants it
    adds, from the share kept and the step. Each of these multiplies what moves, by its name in
    ``inputs``, or nothing.
    """

    constants: tuple[str, ...]
    clocks: tuple[str, ...]
    act: Callable[[Speeds, FloatArray, FloatArray, str], Speeds]
    share: Callable[[float, FloatArray, str], FloatArray] | None = None
    add: Callable[[FloatArray, FloatArray], FloatArray] | None = None
    linear: tuple[str, ...] = ()
    inputs: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """Return the name of its first constant."""
        return self.constants[0]

    @property
    def affine(self) -> bool:
        """Whether it makes of a speed a share of it and something more."""
        return self.share is not None or self.add is not None

    @property
    def rate(self) -> str:
        """Return the name of the rate that its share goes by, or nothing."""
        return next((name for name in self.constants if name not in self.linear), "")


def _kept(rate: float, step: FloatArray, clock: str) -> FloatArray:
    return 1 - rate * step if clock == "first-order" else np.asarray(np.exp(-rate * step))


def _decay(v: Speeds, c: FloatArray, g: FloatArray, clock: str) -> Speeds:
    k = c[..., 0]
    return np.asarray(v + v * (-k * g if clock == "first-order" else np.expm1(-k * g)))


def _go_toward(v: Speeds, c: FloatArray, g: FloatArray, clock: str) -> Speeds:
    goal = c[..., 0]
    return goal + _decay(v - goal, c[..., 1:], g, clock)


def _push(v: Speeds, c: FloatArray, g: FloatArray, _: str) -> Speeds:
    return np.asarray(v + c[..., 0] * g)


def _resist(v: Speeds, c: FloatArray, g: FloatArray, _: str, *, power: float) -> Speeds:
    """Take off an amount that goes with a power of the speed; it never turns a motion round."""
    size = np.abs(v)
    way = np.sign(v)
    if np.iscomplexobj(v):
        way = np.divide(v, size, out=np.zeros_like(v), where=size > 0)
    amount = c[..., 0] * g
    if power == 2:
        amount = amount * (size * size)
    elif power:
        amount = amount * size**power
    return np.asarray(v - way * np.minimum(amount, size))


def resistance(name: str, power: float) -> Term:
    """Return a resistance that goes with a power of the speed: ``|v| −= c·|v|^power·dt``."""
    act = partial(_resist, power=power)
    return Term(constants=(name,), clocks=("second", "frame"), act=act)


PUSH = Term(
    constants=("acceleration",),
    clocks=("second", "frame", "square"),
    act=_push,
    add=lambda _, g: g,
    linear=("acceleration",),
    inputs=("",),
)
ROLLING = resistance("rolling", 0.0)
LINEAR = Term(
    constants=("rate",), clocks=("second", "frame", "first-order"), act=_decay, share=_kept
)
QUADRATIC = resistance("quadratic", 2.0)


def toward(*goals: tuple[str, str]) -> Term:
    """Return a decay toward a goal that moves: a sum of constants, each times an input, or 1.

    ``goals``: the name of each constant and of its input, or nothing: ``v1 = g + (v0 − g)·f``.
    """
    names = tuple(name for name, _ in goals)
    return Term(
        constants=(*names, "rate"),
        clocks=LINEAR.clocks,
        act=_go_toward,
        share=_kept,
        add=lambda kept, _: 1 - kept,
        linear=names,
        inputs=tuple(of for _, of in goals),
    )


TOWARD = toward(("goal", ""))


class Affine(Record, frozen=True, kw_only=True):
    """A step as ``v1 = kept·v0 + Σ constant·added``, arrays of the shape of the steps.

    ``added``: by the place of the constant among those of the model.
    """

    kept: FloatArray
    added: dict[int, Speeds]


class StepModel(Record, frozen=True, kw_only=True):
    """Terms in the order in which they act, and their ``clocks``.

    ``at_once``: all act on the speed before the step. ``toward``: the direction of a push.
    """

    terms: tuple[Term, ...]
    clocks: tuple[str, ...]
    at_once: bool = False
    toward: complex = 1.0

    @property
    def constants(self) -> tuple[str, ...]:
        """Return the names of all constants, in the order of the terms."""
        return tuple(name for term in self.terms for name in term.constants)

    @property
    def rates(self) -> tuple[int, ...]:
        """Return the places of the constants that a step does not go with linearly."""
        linear = {name for term in self.terms for name in term.linear}
        return tuple(k for k, name in enumerate(self.constants) if name not in linear)

    @property
    def affine(self) -> bool:
        """Whether a step makes of a speed a share of it and something more."""
        return all(term.affine for term in self.terms)

    @property
    def clock_of(self) -> dict[Term, str]:
        """Return the clock of each term."""
        return dict(zip(self.terms, self.clocks, strict=True))

    def after(
        self, v: Speeds, dt: FloatArray, usual: float, c: FloatArray, bend: float = 0.0
    ) -> Speeds:
        """Return the speeds after a step from ``v``; constants ``c`` go along the last axis.

        ``usual``: the take's usual step, s; ``bend`` is added to the power of the step.
        """
        out, place = v, 0
        for term, clock in zip(self.terms, self.clocks, strict=True):
            own = c[..., place : place + len(term.constants)]
            place += len(term.constants)
            turns = term is PUSH and self.toward != 1
            old = v if self.at_once else out
            after = term.act(old, own, step_of(clock, dt, usual, bend), clock)
            if self.at_once or turns:
                change = after - old
                after = np.asarray(out + (change * self.toward if turns else change))
            out = after
        return out

    def as_affine(
        self,
        dt: FloatArray,
        usual: float,
        c: FloatArray,
        inputs: Mapping[str, FloatArray],
        bend: float = 0.0,
    ) -> Affine:
        """Return what a step keeps and adds, for the rates in ``c``; only where it is affine.

        ``inputs``: what moves, by name, each of the shape of ``dt``.
        """
        kept, place = np.ones_like(dt), 0
        added: dict[int, Speeds] = {}
        for term, clock in zip(self.terms, self.clocks, strict=True):
            names, g = term.constants, step_of(clock, dt, usual, bend)
            rate = float(c[place + names.index(term.rate)]) if term.rate else 0.0
            share = np.ones_like(dt) if term.share is None else term.share(rate, g, clock)
            if self.at_once:
                kept = kept + (share - 1)
            else:
                kept = kept * share
                added = {k: one * share for k, one in added.items()}
            for name, of in zip(term.linear, term.inputs, strict=True):
                more = np.ones_like(dt) if term.add is None else term.add(share, g)
                more = more * inputs[of] if of else more
                added[place + names.index(name)] = more * (self.toward if term is PUSH else 1.0)
            place += len(names)
        return Affine(kept=kept, added=added)

    def slopes(self, v: Speeds, dt: FloatArray, usual: float) -> Speeds:
        """Return what a step goes with each constant by where constants are small, last axis."""
        many = len(self.constants)
        base = self.after(v, dt, usual, np.zeros(many))
        columns = [(self.after(v, dt, usual, one) - base) / _TINY for one in np.eye(many) * _TINY]
        return np.stack(columns, axis=-1)


def power_of(model: StepModel) -> float | None:
    """Return the power of the step that a model's one constant goes with; None of several terms."""
    return _POWERS[model.clocks[0]] if len(model.terms) == 1 else None


def models_of(terms: Sequence[Term], *, even: bool, toward: complex = 1.0) -> tuple[StepModel, ...]:
    """Return the models that some terms may make; even steps tell no clock from another.

    One constant may belong to the frame, or all; the first term comes first or last, and all may
    act at once.
    """
    clocks = [("second",) if even else term.clocks for term in terms]
    found: list[StepModel] = []
    for own in product(*clocks):
        if not _likely(own):
            continue
        pairs = list(zip(terms, own, strict=True))
        for order in _orders(pairs):
            of, which = zip(*order, strict=True)
            found.append(StepModel(terms=of, clocks=which, toward=toward))
        model = _at_once(pairs, even=even, toward=toward)
        if model is not None and model not in found:
            found.append(model)
    return tuple(found)


def _likely(clocks: tuple[str, ...]) -> bool:
    """Whether code would have such clocks: one constant is not of the second, or none is."""
    odd = [clock for clock in clocks if clock in {"frame", "square"}]
    return len(odd) < 2 or (len(odd) == len(clocks) and "square" not in odd)


def _at_once(pairs: Sequence[tuple[Term, str]], *, even: bool, toward: complex) -> StepModel | None:
    """Return the model in which all terms act on the speed before; None where that is another."""
    terms = tuple(term for term, _ in pairs)
    if even and LINEAR in terms and all(term.affine or term is ROLLING for term in terms):
        return None  # it is then the push after the decay, its rate in the first order
    if len(terms) < 2 or (LINEAR, "frame") in pairs:
        return None
    clocks = tuple("first-order" if term is LINEAR else clock for term, clock in pairs)
    return StepModel(terms=terms, clocks=clocks, at_once=True, toward=toward)


def _orders(pairs: Sequence[tuple[Term, str]]) -> list[tuple[tuple[Term, str], ...]]:
    """Return the orders that terms may act in: the usual one, and with some turned round."""
    if len(pairs) < 3:
        return list(permutations(pairs))
    a, b, *rest = pairs
    others = tuple(rest)
    return [(a, b, *others), (b, *others, a), (*others, a, b), (a, *others, b)]
