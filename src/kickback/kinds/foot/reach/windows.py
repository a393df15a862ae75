"""How many takeoffs clear a gap: the flights' ways over the frames of a run-up.

A takeoff ``k`` frames before the last one on the ground is the same flight from ``k`` steps further
back. A flight clears a gap of ``G`` with a step up of ``S`` where it is no lower than ``S`` when it
comes over the far edge; where it comes there lower, the far wall stops it, and it gets on top if it
still rises above ``S`` and a press in the air moves it from rest.
"""

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


class _Spans(NamedTuple):
    """What plans clear at one step, shape (s,): distances above ``low``, up to ``high``.

    ``early`` is how early the plan may start, ``which`` what try it is: tries are told apart by the
    frame of the jump's press, from a stand by that of the direction's. They lie in their order.
    """

    low: FloatArray
    high: FloatArray
    early: FloatArray
    which: Counts

    def only(self, those: BoolArray) -> "_Spans":
        """Return some of them."""
        return _Spans(self.low[those], self.high[those], self.early[those], self.which[those])

    def hold(self, distance: FloatArray) -> BoolArray:
        """Return which spans hold which distances, of shape (g,): shape (s, g)."""
        return (distance > self.low[:, None]) & (distance <= self.high[:, None])


def reached(flights: Flights, body: Body, across: FloatArray, up: FloatArray) -> Reached:
    """Return the takeoffs that clear each gap and step."""
    shape = (len(up), len(across))
    surely, best, late = (np.zeros(shape, dtype=np.int64) for _ in range(3))
    farthest = np.full(len(up), np.nan)
    early = _early(flights)
    count = _from_run if body.step else _from_stand
    for row, step in enumerate(up.tolist()):
        spans = _spans(flights, body, step, early)
        counts = np.array([count(spans, body, across, one) for one in _phases(spans, body)])
        totals = counts.sum(axis=1)
        surely[row], best[row] = totals.min(axis=0), totals.max(axis=0)
        late[row] = counts[np.argmin(totals, axis=0), 1, np.arange(len(across))]
        farthest[row] = _farthest(spans, body)
    return Reached(surely=surely, at_best=best, late=late, farthest=farthest)


def _early(flights: Flights) -> FloatArray:
    """Return how far before the edge a plan may take off and not land short of it, shape (m,)."""
    down = (flights.y <= 0) & np.maximum.accumulate(flights.y > 0, axis=0)
    first = np.argmax(down, axis=0)
    there = np.take_along_axis(flights.x, first[None], axis=0)[0]
    return np.where(down.any(axis=0), there, np.inf)


def _spans(flights: Flights, body: Body, step: float, early: FloatArray) -> _Spans:
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
    rows = [(-np.inf, float(high[k]), k) for k in _foremost(high, early, which, plain)]
    for k in np.flatnonzero(some & ~plain).tolist():
        rows += [(*ends, k) for ends in _ends(flights, body, on[:, k], k)]
    if not rows:
        return _Spans(np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0, dtype=np.int64))
    low, far, plan = (np.array(column) for column in zip(*rows, strict=True))
    order = np.argsort(which[plan], kind="stable")
    plan = plan[order]
    return _Spans(low[order], far[order], early[plan], which[plan])


def _leave_out_landed(on: BoolArray, flights: Flights, step: float) -> None:
    """Clear the frames before a late press in plans that are down at the step before it.

    They end on the far side with no jump; ``on`` has shape (n, m).
    """
    press = flights.plans.press
    falls = flights.y[np.maximum(press - 1, 0), np.arange(len(press))]
    down = np.flatnonzero((press > 0) & (falls <= step))
    if len(down):
        on[:, down] &= np.arange(len(on))[:, None] >= press[down]


def _in_one(on: BoolArray) -> BoolArray:
    """Whether frames that are high enough follow on each other, shape (m,)."""
    begins = on & ~np.concatenate((np.zeros((1, on.shape[1]), dtype=bool), on[:-1]))
    return np.asarray(begins.sum(axis=0) == 1)


def _foremost(high: FloatArray, early: FloatArray, which: Counts, among: BoolArray) -> list[int]:
    """Return plans of each try that no other outdoes in how far and in how early they go."""
    members = np.flatnonzero(among)
    order = members[np.lexsort((-early[members], -high[members], which[members]))]
    out: list[int] = []
    last, best = -1, -np.inf
    tries = zip(order.tolist(), which[order].tolist(), early[order].tolist(), strict=True)
    for k, one, begins in tries:
        if one != last:
            last, best = one, -np.inf
        if begins > best:
            out.append(k)
            best = begins
    return out


def _ends(flights: Flights, body: Body, on: BoolArray, k: int) -> list[tuple[float, float]]:
    """Return the distances that a plan clears at a step that it is over in some frames."""
    x = flights.x[:, k]
    edges = np.flatnonzero(np.diff(np.concatenate(([0], on.astype(np.int8), [0]))))
    out = []
    for first, end in edges.reshape(-1, 2).tolist():
        low = float(x[first - 1]) if first else -np.inf
        if body.gains and (end - first > 1 or not body.later):
            low = _pressed_before(flights, body, first, k)
        out.append((low, float(x[end - 1])))
    return out


def _pressed_before(flights: Flights, body: Body, first: int, k: int) -> float:
    """Return the distance beyond which no press comes at the far wall, where those count apart."""
    if not body.walls:
        return -np.inf
    presses = (int(flights.plans.press[k]) if body.step else 0, int(flights.plans.again[k]))
    frames = [one for one in presses if 0 < one <= first]
    return float(flights.x[max(frames) - 1, k]) if frames else -np.inf


def _phases(spans: _Spans, body: Body) -> FloatArray:
    """Return where the last frame on the ground may lie: both ends suffice for whole spans."""
    if not body.step:
        return np.zeros(1)
    return np.array([0.0, _LAST]) if np.all(spans.low == -np.inf) else _PHASES


def _from_stand(
    spans: _Spans, body: Body, across: FloatArray, phase: float
) -> tuple[Counts, Counts]:
    """Return in how many frames the direction may be pressed for each gap, shape (g,)."""
    del body, phase
    return _tries(spans, across), np.zeros(len(across), dtype=np.int64)


def _from_run(spans: _Spans, body: Body, across: FloatArray, phase: float) -> tuple[Counts, Counts]:
    """Return how many takeoffs on the ground, and after the edge, clear each gap, shape (g,)."""
    # without a gap a run ends at the step, wherever its frames fall, and has no edge to be late at
    edge = across > 0
    shift = np.where(edge, phase * body.step, 0.0)
    ground = spans.only(spans.which == 0)
    most = float(np.max(ground.high, initial=-1.0))
    back = shift + body.step * np.arange(max(0, int(most / body.step) + 1))[:, None]
    clear = np.zeros(back.shape, dtype=bool)
    for low, high, early, _ in zip(*ground, strict=True):
        # one that comes down at the very edge lands short of it
        far = across + back
        clear |= (far > low) & (far <= high) & (back < early - _TOUCH * body.step)
    after = _tries(spans.only(spans.which != 0), across + shift)
    return clear.sum(axis=0), after * edge


def _tries(spans: _Spans, distance: FloatArray) -> Counts:
    """Return how many tries clear distances, shape (g,)."""
    if not len(spans.which):
        return np.zeros(len(distance), dtype=np.int64)
    begins = np.flatnonzero(np.diff(spans.which, prepend=spans.which[0] - 1))
    each = np.logical_or.reduceat(spans.hold(distance), begins, axis=0)
    return np.asarray(each.sum(axis=0), dtype=np.int64)


def _farthest(spans: _Spans, body: Body) -> float:
    """Return the widest gap that some takeoff clears wherever the run-up's frames fall."""
    runs = (spans.which != 0) | (spans.early >= body.step)
    most = float(np.max(spans.high[runs] - body.step, initial=0.0))
    return most if most > 0 else float("nan")
