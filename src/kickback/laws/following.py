"""The rule by which one thing follows another: ``c1 = g − (g − c0)·f`` with ``g`` the leader.

A camera follows its subject, a body the slope under it, a turning the wheel. Of the offset
``w = c − g`` it is ``w1 = o + (w0 − o)·f``, toward an offset ``o``: the map of any smoothing, with
``f = exp(−k·dt)``, a constant, or ``1 − k·dt``.
"""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import msgspec
import numpy as np

from kickback.laws.families.code import clock_reason
from kickback.laws.families.family import Family
from kickback.laws.exact import FEWEST
from kickback.laws.least_squares import Solution, solved
from kickback.laws.record import Constant, Law
from kickback.motion.clock import EVEN, uneven_share
from kickback.motion.motion import Motion
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import PER_TIME, RATIO, TIME, Dimension
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = ["Followed", "Rule", "following_laws", "rules_of"]

_NONE = 1e-9
"""Offset below which there is none, and share of a rate: what arithmetic leaves."""

_EXACT = 1e-7
"""Share of the largest offset that arithmetic may leave of a step."""

_WITHIN = 3.0
"""Standard errors of rounding within which a rule explains its steps."""

_TELLS = 9.0
"""Chi squared by which one clock must be better than another."""

_MOVES = 1e-3
"""Share of the largest step below which a camera rests."""

_FASTEST, _SLOWEST = 40.0, 1e-6
"""What a factor's rate times the usual frame lies between: at once, and hardly at all."""

_NUDGE = 1e-6
"""Share of a rate by which it is moved to see what that changes."""

_ENOUGH = 5_000
"""Steps that tell a rule: of longer takes so many are looked at, spread over it."""

_PLACES = 60
"""Rates that a search begins from."""


class Followed(Record, frozen=True, kw_only=True):
    """A thing and what it follows: their places, shape (n,), and what these round to.

    ``ends`` name the ways toward plus and toward minus; ``ahead``: it may look ahead, by the
    leader's own speed ``pace``, shape (n,), or by that of its displacement.
    """

    follower: FloatArray
    leader: FloatArray
    grid: float
    ends: tuple[str, str] = ("rising", "falling")
    ahead: bool = False
    pace: FloatArray | None = None


class Rule(NamedTuple):
    """A fit: rate, 1/s, offset, length, and what the rate belongs to; errors are standard ones.

    ``ahead``: seconds of its subject's speed that it looks ahead. ``misfit``: root mean square of
    what is left, length. ``late``: it reads the subject's place before the update. ``side``: toward
    which end it holds, where it is of one only.
    """

    rate: float
    rate_error: float
    offset: float
    offset_error: float
    ahead: float
    ahead_error: float
    clock: str
    misfit: float
    steps: int
    late: bool = False
    side: str = ""


def _kept_second(k: float, dt: FloatArray, _: float) -> FloatArray:
    return np.asarray(np.exp(-k * dt))


def _kept_frame(k: float, dt: FloatArray, usual: float) -> FloatArray:
    return np.full(len(dt), np.exp(-k * usual))


def _kept_first(k: float, dt: FloatArray, _: float) -> FloatArray:
    return np.asarray(np.maximum(1 - k * dt, 0.0))


_CLOCKS: dict[str, Callable[[float, FloatArray, float], FloatArray]] = {
    "second": _kept_second,
    "frame": _kept_frame,
    "first-order": _kept_first,
}


class _Moves(NamedTuple):
    """Steps of a camera after its subject: offsets before and after, and which way it went.

    ``v``: the subject's speed in each; all arrays of shape (k,).
    """

    w0: FloatArray
    w1: FloatArray
    dt: FloatArray
    v: FloatArray
    way: FloatArray


def _linear(kept: FloatArray, moves: _Moves, *, ahead: bool) -> Solution:
    """Fit what is linear under a factor: the offset, and the seconds that it looks ahead."""
    gone = 1 - kept
    x = np.stack((gone, gone * moves.v), axis=1) if ahead else gone[:, None]
    return solved(x, moves.w1 - moves.w0 * kept)


def _fit(moves: _Moves, usual: float, clock: str, *, ahead: bool) -> Rule:
    """Return the rule of one clock that leaves the least, by a search over its one rate."""
    from scipy.optimize import minimize_scalar

    kept = _CLOCKS[clock]

    def rss(log_rate: float) -> float:
        return _linear(kept(float(np.exp(log_rate)), moves.dt, usual), moves, ahead=ahead).rss

    starts = np.linspace(np.log(_SLOWEST / usual), np.log(_FASTEST / usual), _PLACES)
    best = int(np.argmin([rss(float(one)) for one in starts]))
    low, high = starts[max(best - 1, 0)], starts[min(best + 1, _PLACES - 1)]
    found = minimize_scalar(rss, bounds=(low, high), method="bounded", options={"xatol": 1e-12})
    rate = float(np.exp(found.x))
    now = kept(rate, moves.dt, usual)
    done = _linear(now, moves, ahead=ahead)
    goal = done.found[0] + (done.found[1] * moves.v if ahead else 0.0)
    slope = (kept(rate * (1 + _NUDGE), moves.dt, usual) - now) / (_NUDGE * rate)
    power = float(np.sum((slope * (moves.w0 - goal)) ** 2))
    noise = done.rss / max(1, len(moves.w0) - 2 - ahead)
    return Rule(
        rate=rate,
        rate_error=float(np.sqrt(noise / power)) if power > 0 else np.inf,
        offset=float(done.found[0]),
        offset_error=float(done.stderr[0]),
        ahead=float(done.found[1]) if ahead else 0.0,
        ahead_error=float(done.stderr[1]) if ahead else 0.0,
        clock=clock,
        misfit=done.misfit,
        steps=len(moves.w0),
    )


def _best(moves: _Moves, usual: float, sigma: float, *, ahead: bool) -> Rule:
    """Return the best rule of all clocks; ``even`` where none is told from another."""
    if uneven_share(moves.dt) <= EVEN:
        return _fit(moves, usual, "second", ahead=ahead)._replace(clock="even")
    every = [_fit(moves, usual, clock, ahead=ahead) for clock in _CLOCKS]
    first, second, *_ = sorted(every, key=lambda rule: rule.misfit)
    return first if _clearly(first, second, sigma) else first._replace(clock="even")


def _moves(motion: Motion, one: Followed, late: bool) -> _Moves:
    goal = one.leader[:-1] if late else one.leader[1:]
    w0, w1 = one.follower[:-1] - goal, one.follower[1:] - goal
    gone = np.diff(one.follower)
    keep = np.abs(gone) > _MOVES * float(np.max(np.abs(gone), initial=0.0)) + 2 * one.grid
    if motion.clock.apart is not None:
        keep &= ~(motion.clock.apart[1:] | motion.clock.apart[:-1])
    speed = np.diff(one.leader) / motion.dt[1:] if one.pace is None else one.pace[1:]
    rows = np.flatnonzero(keep)
    if len(rows) > _ENOUGH:
        rows = rows[np.linspace(0, len(rows) - 1, _ENOUGH).astype(np.int64)]
    return _Moves(w0[rows], w1[rows], motion.dt[1:][rows], speed[rows], np.sign(gone[rows]))


def _noise(one: Followed) -> float:
    """Return the standard error of what rounded places leave of a step."""
    return one.grid * 2**0.5 / ROOT_12


def _explains(rule: Rule, moves: _Moves, one: Followed) -> bool:
    size = float(np.max(np.abs(moves.w0), initial=0.0))
    return rule.misfit <= _WITHIN * _noise(one) + _EXACT * size


def _read(motion: Motion, one: Followed, way: float | None, *, ahead: bool) -> Rule | None:
    """Return the rule of an axis, of all steps or those one ``way``; None if none explains them.

    The subject's place is that after the update, or before it, whichever leaves less.
    """
    best: Rule | None = None
    for late in (False, True):
        moves = _moves(motion, one, late)
        if way is not None:
            moves = _Moves(*(column[moves.way == way] for column in moves))
        if len(moves.w0) < 2 * FEWEST:
            continue
        rule = _best(moves, motion.clock.usual, _sigma(moves, one), ahead=ahead)
        if not _explains(rule, moves, one) or rule.rate * motion.clock.usual > _FASTEST / 2:
            continue
        if best is None or _clearly(rule, best, _sigma(moves, one)):
            best = rule._replace(late=late)
    return best


def _sigma(moves: _Moves, one: Followed) -> float:
    """Return the standard error of a step: of rounding, or of arithmetic at least."""
    return max(_noise(one), _EXACT * float(np.max(np.abs(moves.w1), initial=0.0)))


def _clearly(rule: Rule, other: Rule, sigma: float) -> bool:
    """Whether a rule leaves less than another beyond doubt."""
    return rule.steps * (other.misfit**2 - rule.misfit**2) > _TELLS * sigma**2


def rules_of(motion: Motion, one: Followed) -> list[Rule]:
    """Return the rule by which one follows, or one each way; none where no rule explains it."""
    if one.ahead and one.pace is not None:  # the displacement's where its own does not explain it
        return _rules(motion, one) or _rules(motion, replace(one, pace=None))
    return _rules(motion, one)


def _rules(motion: Motion, one: Followed) -> list[Rule]:
    for ahead in (False, True) if one.ahead else (False,):
        both = _read(motion, one, None, ahead=ahead)
        if both is not None:
            return [both]
        sides = [
            rule._replace(side=side)
            for way, side in zip((1.0, -1.0), one.ends, strict=True)
            if (rule := _read(motion, one, way, ahead=ahead)) is not None
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
    if np.ptp(apart) <= 2 * one.grid + _EXACT * float(np.ptp(one.leader)):
        return (replace(base, reason="it goes with what it follows: nothing is smoothed"),)
    rules = rules_of(motion, one)
    if not rules:
        return (replace(base, reason="no smoothing toward what it follows explains its path"),)
    return [_law(motion, base, rule, family, offset) for rule in rules]


def _law(motion: Motion, base: Law, rule: Rule, family: Family, offset: Dimension) -> Law:
    unit, usual = motion.take.header.length_unit, motion.clock.usual
    kept = float(_CLOCKS.get(rule.clock, _kept_second)(rule.rate, np.array([usual]), usual)[0])
    ahead = Constant(name="ahead", value=rule.ahead, unit=TIME.within(unit),
                     stderr=rule.ahead_error)  # fmt: skip
    constants = (
        Constant(name="offset", value=rule.offset, unit=offset.within(unit),
                 stderr=rule.offset_error),
        Constant(name="rate", value=rule.rate, unit=PER_TIME.within(unit),
                 stderr=max(rule.rate_error, _NONE * rule.rate)),
        Constant(name="factor", value=kept, unit=RATIO.within(unit),
                 stderr=kept * usual * rule.rate_error),
        *((ahead,) if rule.ahead else ()),
    )  # fmt: skip
    late = "it reads what it follows of the frame before" if rule.late else None
    reasons = [text for text in (clock_reason(rule.clock), late) if text]
    return replace(
        base,
        phase=msgspec.structs.replace(base.phase, side=rule.side),
        family=family,
        constants=constants,
        reason="; ".join(reasons) or None,
        frames=rule.steps,
        misfit=rule.misfit,
        clock=rule.clock,
    )
