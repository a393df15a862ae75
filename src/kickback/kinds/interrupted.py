"""What interrupts a take, and which occurrences of a metric that leaves out."""

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences
from kickback.motion.interruptions import LEAP, Interruption
from kickback.motion.segments import BoolArray
from kickback.takes.computed_once import computed_once
from kickback.takes.record import replace

__all__ = ["interrupted_occurrences", "interruptions_of"]

Spans = list[tuple[float, float, Interruption]]


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
    touched = np.zeros(len(found.value), dtype=bool)
    by: list[Interruption | None] = [None] * len(found.value)
    for k, (start, end) in enumerate(zip(found.start.tolist(), found.end.tolist(), strict=True)):
        for low, high, one in spans:
            if (start < high and end > low) or (start == end and low <= start <= high):
                touched[k], by[k] = True, one
                break
    return touched, by


@computed_once
def _spans(analysis: AnyAnalysis, whole: bool) -> Spans:
    """Return when interruptions spoil what happens; with ``whole``, all of a flight."""
    flights = (
        [span for piece in analysis.pieces for span in analysis.kind.reading.flights(piece.motion)]
        if whole
        else []
    )
    spans = []
    for one in interruptions_of(analysis):
        low, high = one.begin, one.end
        for begin, end in flights:
            if begin <= high and end >= low:
                low, high = min(low, begin), max(high, end)
        spans.append((low, high, one))
    return spans
