"""Occurrences out of rows: for metrics that are read off one stretch after the other."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from kickback.metrics.record import Occurrences, none
from kickback.motion.motion import Motion
from kickback.takes.take import FloatArray

__all__ = ["Row", "occurrences_of", "row_of"]


class Row(NamedTuple):
    """One occurrence: its value, when it began and ended, how well the value is known.

    ``frame_shift`` is how much it would move if everything happened a frame later.
    """

    value: float
    start: float
    end: float
    resolution: float
    frame_shift: float = 0.0


def row_of(motion: Motion, value: float, frames: tuple[int, int], sure: float) -> Row:
    """Return an occurrence over frames ``[start, stop)``."""
    start, stop = frames
    return Row(value, float(motion.begin[start]), float(motion.t[stop - 1]), sure)


def occurrences_of(
    rows: Sequence[Row],
    reason: str,
    *,
    remark: str = "",
    given: Mapping[str, FloatArray] | None = None,
) -> Occurrences:
    """Return rows as occurrences, those that are no number left out; none with the ``reason``."""
    table = np.array(rows, dtype=np.float64).reshape(-1, 5)
    found = Occurrences(
        value=table[:, 0],
        start=table[:, 1],
        end=table[:, 2],
        resolution=table[:, 3],
        frame_shift=table[:, 4],
        remark=remark,
        given=given or {},
    )
    known = np.isfinite(table[:, 0])
    return found.only(known) if known.any() else none(reason)
