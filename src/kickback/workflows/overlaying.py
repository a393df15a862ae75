"""What the figure of a comparison needs: the moves of both sides from the moment of the press."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kickback.judging.compare import MetricChange
from kickback.judging.samples import Cell
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.measuring import measure
from kickback.kinds.moves import Move
from kickback.takes.quantities import Unit
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["LaidOver", "Trace", "laid_over"]

_BEFORE = 0.05
"""Seconds shown before a press."""

_AFTER = 0.35
"""Share of a move shown after its end."""


class Trace(NamedTuple):
    """A move of one side: times since its press, s, and what is drawn, arrays of shape (k,)."""

    t: FloatArray
    y: FloatArray


class LaidOver(Record, frozen=True, kw_only=True):
    """One move of both sides, None where a side does not show it; ``row`` is its metric's."""

    move: Move
    unit: Unit
    base: Trace | None
    candidate: Trace | None
    row: MetricChange | None


def laid_over(base: Cell, candidate: Cell, rows: Sequence[MetricChange]) -> list[LaidOver]:
    """Return the moves that either side shows, each side's most usual occurrence."""
    kind = candidate.analyses[0].kind
    by_name = {row.metric: row for row in rows}
    found = []
    for move in kind.showing.moves:
        sides = [_trace(cell.analyses, move) for cell in (base, candidate)]
        if any(side is not None for side in sides):
            unit = move.dimension.within(candidate.analyses[0].take.header.length_unit)
            found.append(
                LaidOver(
                    move=move,
                    unit=unit,
                    base=sides[0],
                    candidate=sides[1],
                    row=by_name.get(move.metric),
                )
            )
    return found


def _trace(analyses: Sequence[AnyAnalysis], move: Move) -> Trace | None:
    """Return the occurrence nearest to the median, of the first take that has any."""
    for one in analyses:
        own = measure(one, move.metric)[move.metric]
        if own.value is None:
            continue
        seen = own.occurrences
        k = int(np.argmin(np.abs(seen.value - own.value)))
        start, end = float(seen.start[k]), float(seen.end[k])
        motion = one.whole
        drawn = move.of(motion, int(np.searchsorted(motion.t, start + 1e-9)))
        if drawn is None:
            return None
        keep = (motion.t >= start - _BEFORE) & (motion.t <= end + _AFTER * (end - start) + _BEFORE)
        return Trace(motion.t[keep] - start, drawn[keep])
    return None
