"""What a kind's model lets people wish for: metrics, and the parameters that they are had by."""

from collections.abc import Callable, Mapping, Sequence

from kickback.kinds.playing.drills import Drill
from kickback.takes.header import ParameterSet, Value
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["Wishable", "Wishing"]


class Wishable(Record, frozen=True, kw_only=True):
    """A metric that can be wished for.

    ``knobs`` are the parameters that it is had by, the first one first; ``drill`` makes what shows
    it, and it alone, in a take.
    """

    metric: str
    knobs: tuple[str, ...]
    drill: Callable[[], Drill]


class Wishing(Record, frozen=True, kw_only=True):
    """All that can be wished of a kind's model, and how it is played.

    ``works`` says whether a parameter does anything for a metric beside others, ``ties`` which one
    goes with which while both are equal, ``limits`` is the most that some may be, ``checked`` fills
    in defaults. ``play`` plays a drill with many sets.
    """

    wishes: Sequence[Wishable]
    works: Callable[[str, str, Mapping[str, Value]], bool]
    ties: Mapping[str, str]
    limits: Mapping[str, float]
    checked: Callable[[Mapping[str, Value], str], dict[str, Value]]
    play: Callable[[Sequence[ParameterSet], Drill, float], Sequence[Take]]
