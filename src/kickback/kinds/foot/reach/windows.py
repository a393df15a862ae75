"""How many takeoffs clear a gap: the flights' ways over the frames of a run-up.

A takeoff ``k`` frames before the last one on the ground is the same flight from ``k`` steps further
back. A flight clears a gap of ``G`` with a step up of ``S`` where it is no lower than ``S`` when it
comes over the far edge; where it comes there lower, the far wall stops it, and it gets on top if it
still rises above ``S`` and a press in the air moves it from rest.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kickback.kinds.clearing import Counts, Reached
from kickback.kinds.foot.reach.flights import Flights
from kickback.kinds.playing.parameters import BoolArray
from kickback.takes.take import FloatArray

__all__ = ["Body", "reached"]

_TOUCH = 1e-9
"""Height by which a way may be too low and still go over an edge, as the model has it."""

_LAST = 1.0 - 1e-7
"""The farthest from the edge that the last frame on the ground lies, in steps."""

_PHASES = np.linspace(0.0, _LAST, 17)
"""Where it may lie."""


class Body(NamedTuple):
    """What decides how ways end at a wall, and how runs begin.

    ``step`` is the way of a frame at full run, 0 from a stand. ``gains``: a press moves it off a
    wall; ``later``: it does so a frame later, as the position moves by the speed before;
    ``walls``: presses at a wall are moves of their own.
    """

    step: float
    gains: bool
    later: bool
    walls: bool


class _Span(NamedTuple):
    """Distances over which a plan gets on top of a step: above ``low``, up to ``high``."""

    low: float
    high: float


class _Clear(NamedTuple):
    """A plan at one step: the spans that it clears, how early it may start, and which try it is.

    Tries are told apart by the frame of the jump's press, from a stand by that of the direction's.
    """

    spans: tuple[_Span, ...]
    early: float
    which: int


def reached(flights: Flights, body: Body, across: FloatArray, up: FloatArray) -> Reached:
    """Return the takeoffs that clear each gap and step."""
    shape = (len(up), len(across))
    surely, best, late = (np.zeros(shape, dtype=np.int64) for _ in range(3))
    farthest = np.full(len(up), np.nan)
    early = _early(flights)
    count = _from_run if body.step else _from_stand
    for row, step in enumerate(up.tolist()):
        clears = _clears(flights, body, step, early)
        counts = np.array([count(clears, body, across, one) for one in _phases(clears, body)])
        totals = counts.sum(axis=1)
        surely[row], best[row] = totals.min(axis=0), totals.max(axis=0)
        late[row] = counts[np.argmin(totals, axis=0), 1, np.arange(len(across))]
        farthest[row] = _farthest(clears, body)
    return Reached(surely=surely, at_best=best, late=late, farthest=farthest)


def _early(flights: Flights) -> FloatArray:
    """Return how far before the edge a plan may take off and not land short of it, shape (m,)."""
    down = (flights.y <= 0) & np.maximum.accumulate(flights.y > 0, axis=0)
    first = np.argmax(down, axis=0)
    there = np.take_along_axis(flights.x, first[None], axis=0)[0]
    return np.where(down.any(axis=0), there, np.inf)


def _clears(flights: Flights, body: Body, step: float, early: FloatArray) -> list[_Clear]:
    """Return what each plan clears at a step; of plans alike only those that are not outdone."""
    on = flights.low >= step - _TOUCH
    _leave_out_landed(on, flights, step)
    some = np.asarray(on.any(axis=0))
    last = len(on) - 1 - np.argmax(on[::-1], axis=0)
    high = np.take_along_axis(flights.x, last[None], axis=0)[0]
    which = flights.plans.press if body.step else flights.plans.push
    plain = some & (body.gains and not body.walls)
    if body.later:
        plain = plain & (on.sum(axis=0) > 1) & _in_one(on)
    whole = [
        _Clear((_Span(-np.inf, float(high[k])),), float(early[k]), int(which[k]))
        for k in _foremost(high, early, which, plain)
    ]
    others = [
        _Clear(_spans(flights, body, on[:, k], k), float(early[k]), int(which[k]))
        for k in np.flatnonzero(some & ~plain).tolist()
    ]
    return whole + others


def _leave_out_landed(on: BoolArray, flights: Flights, step: float) -> None:
    """Clear the frames before a late press in plans that are down at the step before it.

    They end on the far side with no jump; ``on`` has shape (n, m).
    """
    press = flights.plans.press
    falls = flights.y[np.maximum(press - 1, 0), np.arange(len(press))]
    for k in np.flatnonzero((press > 0) & (falls <= step)).tolist():
        on[: int(press[k]), k] = False


def _in_one(on: BoolArray) -> BoolArray:
    """Whether frames that are high enough follow on each other, shape (m,)."""
    begins = on & ~np.concatenate((np.zeros((1, on.shape[1]), dtype=bool), on[:-1]))
    return np.asarray(begins.sum(axis=0) == 1)


def _foremost(high: FloatArray, early: FloatArray, which: Counts, among: BoolArray) -> list[int]:
    """Return plans of each try that no other outdoes in how far and in how early they go."""
    out: list[int] = []
    for one in np.unique(which[among]):
        members = np.flatnonzero(among & (which == one))
        best = -np.inf
        for k in members[np.lexsort((-early[members], -high[members]))].tolist():
            if early[k] > best:
                out.append(k)
                best = float(early[k])
    return out


def _spans(flights: Flights, body: Body, on: BoolArray, k: int) -> tuple[_Span, ...]:
    """Return the distances that a plan clears at a step that it is over in some frames."""
    x = flights.x[:, k]
    edges = np.flatnonzero(np.diff(np.concatenate(([0], on.astype(np.int8), [0]))))
    out = []
    for first, end in edges.reshape(-1, 2).tolist():
        low = float(x[first - 1]) if first else -np.inf
        if body.gains and (end - first > 1 or not body.later):
            low = _pressed_before(flights, body, first, k)
        out.append(_Span(low, float(x[end - 1])))
    return tuple(out)


def _pressed_before(flights: Flights, body: Body, first: int, k: int) -> float:
    """Return the distance beyond which no press comes at the far wall, where those count apart."""
    if not body.walls:
        return -np.inf
    presses = (int(flights.plans.press[k]) if body.step else 0, int(flights.plans.again[k]))
    frames = [one for one in presses if 0 < one <= first]
    return float(flights.x[max(frames) - 1, k]) if frames else -np.inf


def _phases(clears: Sequence[_Clear], body: Body) -> FloatArray:
    """Return where the last frame on the ground may lie: both ends suffice for whole spans."""
    if not body.step:
        return np.zeros(1)
    whole = all(span.low == -np.inf for one in clears for span in one.spans)
    return np.array([0.0, _LAST]) if whole else _PHASES


def _from_stand(
    clears: Sequence[_Clear], body: Body, across: FloatArray, phase: float
) -> tuple[Counts, Counts]:
    """Return in how many frames the direction may be pressed for each gap, shape (g,)."""
    del body, phase
    return _tries(clears, across), np.zeros(len(across), dtype=np.int64)


def _from_run(
    clears: Sequence[_Clear], body: Body, across: FloatArray, phase: float
) -> tuple[Counts, Counts]:
    """Return how many takeoffs on the ground, and after the edge, clear each gap, shape (g,)."""
    # without a gap a run ends at the step, wherever its frames fall, and has no edge to be late at
    edge = across > 0
    shift = np.where(edge, phase * body.step, 0.0)
    ground = [one for one in clears if one.which == 0]
    most = max((span.high for one in ground for span in one.spans), default=-1.0)
    back = shift + body.step * np.arange(max(0, int(most / body.step) + 1))[:, None]
    clear = np.zeros(back.shape, dtype=bool)
    for one in ground:
        # one that comes down at the very edge lands short of it
        clear |= _inside(one, across + back) & (back < one.early - _TOUCH * body.step)
    after = _tries([one for one in clears if one.which], across + shift)
    return clear.sum(axis=0), after * edge


def _tries(clears: Sequence[_Clear], distance: FloatArray) -> Counts:
    """Return how many tries clear distances, shape (g,)."""
    count = np.zeros(len(distance), dtype=np.int64)
    for which in {one.which for one in clears}:
        count += np.any([_inside(one, distance) for one in clears if one.which == which], axis=0)
    return count


def _inside(one: _Clear, distance: FloatArray) -> BoolArray:
    inside = [(distance > span.low) & (distance <= span.high) for span in one.spans]
    return np.asarray(np.any(inside, axis=0))


def _farthest(clears: Sequence[_Clear], body: Body) -> float:
    """Return the widest gap that some takeoff clears wherever the run-up's frames fall."""
    found = [
        span.high - body.step
        for one in clears
        for span in one.spans
        if one.which or one.early >= body.step
    ]
    most = max(found, default=0.0)
    return float(most) if most > 0 else float("nan")
