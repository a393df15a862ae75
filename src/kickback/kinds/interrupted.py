"""What interrupts a take, and which occurrences of a metric that leaves out."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences
from kickback.motion.interruptions import LEAP, Interruption
from kickback.motion.segments import BoolArray
from kickback.takes.computed_once import computed_once
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray

__all__ = ["interrupted_occurrences", "interruptions_of"]


@computed_once
def interruptions_of(analysis: AnyAnalysis) -> list[Interruption]:
    """Return what interrupts a take, in the order of time: of its clock, and of its kind."""
    reading = analysis.kind.reading
    named = [_named(analysis, one) for one in analysis.interruptions]
    found = [one for one in named if one is not None]
    found += [
        replace(one, start=one.start + piece.start, stop=one.stop + piece.start)
        for piece in analysis.pieces
        for one in reading.interruptions(piece.motion)
    ]
    return sorted(found, key=lambda one: one.begin)


def _named(analysis: AnyAnalysis, one: Interruption) -> Interruption | None:
    """Return a leap as what the kind calls it; None where it is no interruption to it."""
    if one.kind is not LEAP:
        return one
    before = [piece for piece in analysis.pieces if piece.start + len(piece.take) == one.start]
    if not before:
        return one
    called = analysis.kind.reading.leap(before[0].motion)
    return None if called is None else replace(one, kind=called)


def interrupted_occurrences(
    analysis: AnyAnalysis, metric: Metric, found: Occurrences
) -> tuple[BoolArray, list[Interruption | None]]:
    """Return which occurrences, shape (k,), an interruption touches, and the first that does.

    What belongs to a flight is touched by all that interrupts it.
    """
    spans = _spans(analysis, any(role.gravity for role in metric.needs))
    if not spans.items:
        return np.zeros(len(found.value), dtype=bool), [None] * len(found.value)
    point = found.start == found.end
    first = np.where(
        point,
        np.searchsorted(spans.until, found.start, side="left"),
        np.searchsorted(spans.until, found.start, side="right"),
    )
    at = np.minimum(first, len(spans.items) - 1)
    begins = np.where(point, spans.low[at] <= found.start, spans.low[at] < found.end)
    touched = (first < len(spans.items)) & begins
    by = [spans.items[k] if hit else None for k, hit in zip(at.tolist(), touched, strict=True)]
    return touched, by


class _Spans(Record, frozen=True, kw_only=True):
    """When interruptions spoil what happens, in the order of their beginnings, shape (k,), s.

    ``until``: the latest end of a span and all before it: the first that ends after a moment is
    the first of which this does.
    """

    low: FloatArray
    until: FloatArray
    items: list[Interruption]


@computed_once
def _spans(analysis: AnyAnalysis, whole: bool) -> _Spans:
    """Return when interruptions spoil what happens; with ``whole``, all of a flight."""
    reading = analysis.kind.reading
    flights = [one for piece in analysis.pieces for one in reading.flights(piece.motion)]
    flights = sorted(flights) if whole else []
    ends = np.array([end for _, end in flights])
    items = interruptions_of(analysis)
    spans = [_with_flights((one.begin, one.end), flights, ends) for one in items]
    order = sorted(range(len(spans)), key=lambda k: spans[k][0])
    return _Spans(
        low=np.array([spans[k][0] for k in order]),
        until=np.maximum.accumulate([spans[k][1] for k in order]) if order else ends,
        items=[items[k] for k in order],
    )


def _with_flights(
    span: tuple[float, float], flights: Sequence[tuple[float, float]], ends: FloatArray
) -> tuple[float, float]:
    """Return a time with all of the flights, in the order of time, that it meets."""
    low, high = span
    at = int(np.searchsorted(ends, low, side="left"))
    while at < len(flights) and flights[at][0] <= high:
        low, high, at = min(low, flights[at][0]), max(high, flights[at][1]), at + 1
    return low, high
