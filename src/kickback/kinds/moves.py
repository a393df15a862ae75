"""Moves of a kind that are laid over each other, from the moment of the press."""

from collections.abc import Callable
from typing import Any, NamedTuple

from kickback.takes.quantities import Dimension
from kickback.takes.take import FloatArray

__all__ = ["Move"]


class Move(NamedTuple):
    """A move: the ``metric`` whose occurrences begin and end it, and what is drawn of it.

    ``drawn`` is its label, of ``dimension``; ``of`` gives it of a motion, shape (n,), for an
    occurrence that begins in a frame. ``across``: the metric is along the time axis, not the
    other.
    """

    name: str
    metric: str
    drawn: str
    dimension: Dimension
    of: Callable[[Any, int], FloatArray | None]
    across: bool = True
