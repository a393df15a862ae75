"""Whether two takes are one motion, and the first frame where they are not."""

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["FirstDifference", "first_difference"]

_CLOCK = ("t", "dt", "tick")
"""Columns that say when, rather than what happened."""

_LATER = (1, 10, 60)
"""Frames after the first difference at which its growth is told."""


class FirstDifference(Record, frozen=True, kw_only=True):
    """The first frame in which two takes differ.

    ``frame`` and ``time``, s, are the base's; ``columns`` differ there, ``base`` and
    ``candidate`` are the first's values. ``phase`` is the ground phase of that frame. ``growth``
    holds how far the positions lie apart so many frames later: pairs of frames and lengths.
    ``inputs`` says that inputs or frame times differ there or before, so that the game need not.
    """

    frame: int
    time: float
    columns: tuple[str, ...]
    base: float
    candidate: float
    phase: str
    growth: tuple[tuple[int, float], ...]
    unit: str
    inputs: bool


def first_difference(base: AnyAnalysis, candidate: AnyAnalysis) -> FirstDifference | None:
    """Return where two takes differ first, column by column; None where they are equal.

    Columns that only one take has are left out; frames beyond the shorter take are not compared.
    """
    one, other = base.take, candidate.take
    n = min(len(one), len(other))
    first = {
        name: at for name in _shared(one, other) if (at := _first(one, other, name, n)) is not None
    }
    if not first:
        return None
    frame = min(first.values())
    columns = tuple(name for name, at in first.items() if at == frame)
    told = min(columns, key=lambda name: name in _CLOCK)
    fed = [at for name, at in first.items() if name in _CLOCK or name.startswith("in_")]
    return FirstDifference(
        frame=frame,
        time=float(one.numbers("t")[frame]),
        columns=columns,
        base=float(one.columns[told][frame]),
        candidate=float(other.columns[told][frame]),
        phase=_phase(base, frame),
        growth=_growth(one, other, frame, n),
        unit=one.header.length_unit,
        inputs=min(fed, default=n) <= frame,
    )


def _shared(one: Take, other: Take) -> list[str]:
    """Return the columns of numbers that both takes have."""
    kinds = [{n: c.dtype.kind for n, c in take.columns.items()} for take in (one, other)]
    return [name for name, kind in kinds[0].items() if kind == kinds[1].get(name) == "f"]


def _first(one: Take, other: Take, name: str, n: int) -> int | None:
    a, b = one.columns[name][:n], other.columns[name][:n]
    apart = (a != b) & ~(np.isnan(a) & np.isnan(b))
    return int(np.argmax(apart)) if apart.any() else None


def _phase(analysis: AnyAnalysis, frame: int) -> str:
    return next((one.name for one in analysis.phases if one.start <= frame < one.stop), "no phase")


def _growth(one: Take, other: Take, frame: int, n: int) -> tuple[tuple[int, float], ...]:
    axes = [axis for axis in ("x", "y", "z") if axis in one and axis in other]
    if not axes:
        return ()
    squares: list[FloatArray] = [(one.numbers(a)[:n] - other.numbers(a)[:n]) ** 2 for a in axes]
    apart = np.sqrt(np.sum(squares, axis=0))
    return tuple((k, float(apart[frame + k])) for k in (0, *_LATER) if frame + k < n)
