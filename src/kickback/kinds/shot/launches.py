"""When shots are launched, and under which press: over a whole take."""

import itertools
from typing import Any, NamedTuple

import numpy as np

from kickback.kinds.shot.motion import ShotMotion
from kickback.motion.analysis import Analysis
from kickback.motion.segments import BoolArray
from kickback.takes.take import FloatArray

__all__ = ["Launches", "launches_of"]

_WORDS = ("fire", "fired", "shot", "shoot", "launch", "launched")
"""Words in the column ``event`` that mean a launch."""


class Launches(NamedTuple):
    """Launches in order, arrays of shape (k,): times, s, and the step of their frames.

    ``pressed``: when the press before each began, NaN where another launch came since; None where
    no button was recorded. ``held``, shape (k − 1,): whether the button stayed down until the next.
    """

    time: FloatArray
    step: FloatArray
    pressed: FloatArray | None
    held: BoolArray


def launches_of(analysis: Analysis[Any]) -> Launches:
    """Return the launches of a take: those that it notes, else the beginnings of its flights."""
    take = analysis.take
    t, dt = take.numbers("t"), take.numbers("dt")
    begin = np.concatenate((t[:1] - dt[:1], t[:-1]))
    rows = _noted(take.columns.get("event"))
    if not len(rows):
        rows = np.array(
            [
                piece.start + arc.start
                for piece in analysis.pieces
                for arc in _arcs(piece.motion)
                if arc.launched and (piece.start + arc.start > 0)
            ],
            dtype=np.int64,
        )
    fire = take.numbers("in_fire") > 0.5 if "in_fire" in take else None
    pressed, held = None, np.ones(max(len(rows) - 1, 0), dtype=bool)
    if fire is not None:
        starts = np.flatnonzero(fire & ~np.concatenate(([False], fire[:-1])))
        at = np.searchsorted(starts, rows, side="right") - 1
        pressed = np.where(at >= 0, begin[starts[np.maximum(at, 0)]] if len(starts) else 0, np.nan)
        again = np.concatenate(([False], at[1:] == at[:-1])) if len(rows) else np.zeros(0, bool)
        pressed = np.where(again, np.nan, pressed)
        held = np.array(
            [bool(fire[a : b + 1].all()) for a, b in itertools.pairwise(rows)],
            dtype=bool,
        )
    return Launches(begin[rows], t[rows] - begin[rows], pressed, held)


def _arcs(motion: ShotMotion) -> tuple[Any, ...]:
    return motion.arcs


def _noted(events: Any) -> Any:
    """Return the frames whose event is the word for a launch."""
    if events is None:
        return np.zeros(0, dtype=np.int64)
    words = np.char.lower(np.asarray(events).astype(str))
    return np.flatnonzero(np.isin(words, _WORDS))
