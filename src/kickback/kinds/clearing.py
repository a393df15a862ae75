"""What a kind's model tells of levels: which gaps it gets across, and how hard that is."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np
import numpy.typing as npt

from kickback.errors import UsageError
from kickback.takes.header import Value
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Clearing", "Counts", "Reached", "Reaching", "TooManyError", "Way"]

Counts = npt.NDArray[np.int64]


class Reached(Record, frozen=True, kw_only=True):
    """In how many frames a takeoff clears each gap, arrays of shape (s, g), by one way to jump.

    ``surely``: however the frames of the run-up fall; ``at_best``: where they fall best; ``late``:
    those of the former that come after the edge. ``farthest`` is the widest gap that is surely
    cleared at each step, shape (s,), NaN where there is none.
    """

    surely: Counts
    at_best: Counts
    late: Counts
    farthest: FloatArray


class TooManyError(UsageError):
    """A way has more presses to be tried than memory is taken for."""


Clearing = Callable[[FloatArray, FloatArray], Reached]
"""Tells what is cleared of every gap across, shape (g,), with every step up, shape (s,)."""


class Way(Record, frozen=True, kw_only=True):
    """A way to get across: what it is, and why a parameter set does not have it ('' if it does)."""

    name: str
    about: str
    missing: Callable[[Mapping[str, Value]], str]


class Reaching(Record, frozen=True, kw_only=True):
    """How a kind's model gets across gaps: its ``ways``, the humblest first.

    ``checked`` fills in defaults. ``play`` is for a full set at a frame rate, under a ceiling so
    high over the ground or None, down to the lowest step that will be asked for; what it returns
    plays a way.
    """

    ways: Sequence[Way]
    checked: Callable[[Mapping[str, Value], str], dict[str, Value]]
    play: Callable[[Mapping[str, Value], float, float | None, float], Callable[[str], Clearing]]
