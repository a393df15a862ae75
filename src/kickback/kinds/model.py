"""What a kind brings to be played without a game: a model, its parameters, and drills."""

from collections.abc import Callable, Mapping, Sequence

from kickback.kinds.clearing import Reaching
from kickback.kinds.fitting import Fitting
from kickback.kinds.playing.drills import Drill
from kickback.kinds.playing.parameters import Parameter
from kickback.kinds.wishing import Wishing
from kickback.takes.plain import PlainMap
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["DrillPart", "Model"]


class DrillPart(Record, frozen=True, kw_only=True):
    """A part that a drill may ask for: the metric that shows it, what it is, and how to do it."""

    metric: str
    what: str
    advice: str


class Model(Record, frozen=True, kw_only=True):
    """A built-in model: ``parameters`` by name, ``simulate`` plays a drill with some of them.

    ``simulate_many`` does so with many sets at once.
    ``drills`` are those that it ships with, by name, the usual one first; ``drill`` builds one of
    a drill file's content, ``inputs`` are what it may hold. ``parts``: what a coach looks for in
    a take of one. ``fitting``: how games become its parameters, where they can;
    ``wishing``: what can be wished of it; ``reaching``: which gaps it clears.
    """

    parameters: Mapping[str, Parameter]
    simulate: Callable[..., Take]
    simulate_many: Callable[..., list[Take]]
    drills: Mapping[str, Callable[[], Drill]]
    drill: Callable[[PlainMap, str], Drill]
    inputs: Sequence[str]
    parts: Sequence[DrillPart]
    fitting: Fitting | None = None
    wishing: Wishing | None = None
    reaching: Reaching | None = None

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        if not self.parameters or not self.drills:
            raise TypeError("a model is incomplete: it needs parameters and a drill")
