"""The rule by which one thing follows another: ``c1 = g − (g − c0)·f`` with ``g`` the leader.

A camera follows its subject, a body the slope under it, a turning the wheel. Of the offset
``w = c − g`` it is ``w1 = o + (w0 − o)·f``, toward an offset ``o``: a step that goes toward a goal,
which may move by its leader's speed.
"""

from collections.abc import Sequence

import msgspec
import numpy as np

from kickback.laws.exact import FEWEST
from kickback.laws.families.code import clock_reason
from kickback.laws.families.family import Family
from kickback.laws.followed import Followed
from kickback.laws.observations import Observations
from kickback.laws.record import Constant, Law
from kickback.laws.select import Choice, Selected, select
from kickback.laws.step_model import StepModel, toward
from kickback.motion.motion import Motion
from kickback.motion.segments import BoolArray
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import Dimension
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC, TELLS

__all__ = ["Rule", "following_laws", "rules_of"]

_ARITHMETIC = 1e-7
"""Share of the largest offset that arithmetic may leave of a step."""

_WITHIN = 3.0
"""Standard errors of rounding within which a rule explains its steps: a step has several."""

_MOVES = 1e-3
"""Share of the largest step below which a follower rests."""

_FASTEST = 20.0
"""A rate times the usual frame from which it is there at once."""

_ENOUGH = 5_000
"""Steps that tell a rule: of longer takes so many are looked at, spread over it."""

_PLAIN, _AHEAD = toward(("offset", "")), toward(("offset", ""), ("ahead", "pace"))
"""Toward the leader and an offset; and ahead of it by some seconds of its speed."""


class Rule(Record, frozen=True, kw_only=True):
    """What a follower's steps tell: ``offset``, length, ``rate``, 1/s, and ``ahead``, s.

    ``late``: it reads the leader's place before the update. ``side``: toward which end it holds,
    where it is of one only.
    """

    found: Selected
    late: bool = False
    side: str = ""

    @property
    def offset(self) -> float:
        """Return what it stays away from its leader."""
        return self.found.value("offset")

    @property
    def offset_error(self) -> float:
        """Return the standard error of that."""
        return self.found.stderr["offset"]


class _Steps(Record, frozen=True, kw_only=True):
    """Steps of a follower, arrays of shape (k,): offsets before and after, and which way it went.

    ``pace``: the leader's speed in each.
    """

    w0: FloatArray
    w1: FloatArray
    dt: FloatArray
    pace: FloatArray
    way: FloatArray

    def only(self, keep: BoolArray) -> "_Steps":
        """Return the steps that a mask of shape (k,) keeps."""
        return _Steps(
            w0=self.w0[keep],
            w1=self.w1[keep],
            dt=self.dt[keep],
            pace=self.pace[keep],
            way=self.way[keep],
        )


def _steps(motion: Motion, one: Followed, late: bool) -> _Steps:
    goal = one.leader[:-1] if late else one.leader[1:]
    gone = np.diff(one.follower)
    keep = np.abs(gone) > _MOVES * float(np.max(np.abs(gone), initial=0.0)) + 2 * one.grid
    if motion.clock.interrupted is not None:
        keep &= ~(motion.clock.interrupted[1:] | motion.clock.interrupted[:-1])
    speed = np.diff(one.leader) / motion.dt[1:] if one.pace is None else one.pace[1:]
    rows = np.flatnonzero(keep)
    if len(rows) > _ENOUGH:
        rows = rows[np.linspace(0, len(rows) - 1, _ENOUGH).astype(np.int64)]
    w0, w1 = one.follower[:-1] - goal, one.follower[1:] - goal
    return _Steps(
        w0=w0[rows], w1=w1[rows], dt=motion.dt[1:][rows], pace=speed[rows], way=np.sign(gone[rows])
    )


def _selected(
    steps: _Steps, one: Followed, usual: float, family: Family, *, ahead: bool
) -> Selected:
    """Return the rule of some steps, whose places were rounded twice in each."""
    arithmetic = _ARITHMETIC * float(np.max(np.abs(steps.w0), initial=0.0))
    noise = max(one.grid * 2**0.5 / ROOT_12, arithmetic)
    pace = np.stack((np.zeros(len(steps.pace)), steps.pace), axis=1)
    data = Observations.each(
        steps.w0, steps.w1, steps.dt, noise, usual, within=_WITHIN, inputs={"pace": pace}
    )
    term = _AHEAD if ahead else _PLAIN
    clocks = term.clocks[:1] if data.even else term.clocks
    models = tuple(StepModel(terms=(term,), clocks=(clock,)) for clock in clocks)
    found = select(data, [Choice(family=family, models=models, tier=0)])
    gone = found.value("rate") * usual > _FASTEST
    return Selected(reason="it is there at once") if gone else found


def _read(
    motion: Motion, one: Followed, way: float | None, family: Family, *, ahead: bool
) -> Rule | None:
    """Return the rule of an axis, of all steps or those one ``way``; None if none explains them.

    The leader's place is that after the update, or before it, whichever leaves clearly less.
    """
    best: Rule | None = None
    for late in (False, True):
        steps = _steps(motion, one, late)
        if way is not None:
            steps = steps.only(steps.way == way)
        if len(steps.w0) < 2 * FEWEST:
            continue
        found = _selected(steps, one, motion.clock.usual, family, ahead=ahead)
        if found.family is None:
            continue
        sigma = max(one.grid * 2**0.5 / ROOT_12, _ARITHMETIC * float(np.max(np.abs(steps.w1))))
        gain = 0.0 if best is None else best.found.misfit**2 - found.misfit**2
        if best is None or found.frames * gain > TELLS * sigma**2:
            best = Rule(found=found, late=late)
    return best


@computed_once
def rules_of(motion: Motion, one: Followed, family: Family) -> list[Rule]:
    """Return the rule by which one follows, or one each way; none where no rule explains it."""
    if one.ahead and one.pace is not None:  # the displacement's where its own does not explain it
        own = _rules(motion, one, family)
        return own or _rules(motion, replace(one, pace=None), family)
    return _rules(motion, one, family)


def _rules(motion: Motion, one: Followed, family: Family) -> list[Rule]:
    for ahead in (False, True) if one.ahead else (False,):
        both = _read(motion, one, None, family, ahead=ahead)
        if both is not None:
            return [both]
        sides = [
            replace(rule, side=side)
            for way, side in zip((1.0, -1.0), one.ends, strict=True)
            if (rule := _read(motion, one, way, family, ahead=ahead)) is not None
        ]
        if sides:
            return sides
    return []


def following_laws(
    motion: Motion, one: Followed, base: Law, family: Family, offset: Dimension
) -> Sequence[Law]:
    """Return the rule by which one follows as laws like ``base``, or why none is told.

    ``offset`` is the dimension of its places. Nothing where it does not move.
    """
    moved = np.diff(one.follower)
    if not np.any(np.abs(moved) > 2 * one.grid):
        return ()
    apart = one.follower - one.leader
    if np.ptp(apart) <= 2 * one.grid + _ARITHMETIC * float(np.ptp(one.leader)):
        return (replace(base, reason="it goes with what it follows: nothing is smoothed"),)
    rules = rules_of(motion, one, family)
    if not rules:
        return (replace(base, reason="no smoothing toward what it follows explains its path"),)
    return [_law(motion, base, rule, family, offset) for rule in rules]


def _law(motion: Motion, base: Law, rule: Rule, family: Family, offset: Dimension) -> Law:
    unit, found = motion.take.header.length_unit, rule.found
    dimensions = {**family.constants, "offset": offset}
    constants = tuple(
        Constant(
            name=name,
            value=found.values[name],
            unit=dimensions[name].within(unit),
            stderr=_error(found, name),
        )
        for name in ("offset", "rate", "factor", "ahead")
        if found.value(name) or name == "offset"
    )
    clock = found.clocks["rate"]
    late = "it reads what it follows of the frame before" if rule.late else None
    reasons = [text for text in (clock_reason(clock), late) if text]
    return replace(
        base,
        phase=msgspec.structs.replace(base.phase, side=rule.side),
        family=family,
        constants=constants,
        reason="; ".join(reasons) or None,
        frames=found.frames,
        misfit=found.misfit,
        clock=clock,
    )


def _error(found: Selected, name: str) -> float:
    """Return the standard error of a constant; of a rate no less than arithmetic makes it."""
    least = ARITHMETIC * found.values[name] if name == "rate" else 0.0
    return max(found.stderr[name], least)
