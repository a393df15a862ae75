"""What a kind of subject is: everything that is particular to it, behind one shape."""

from collections.abc import Callable, Collection, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, TypeAlias, TypeVar

from kickback.kinds.picture import Now, Picture, plain_now, plain_picture
from kickback.motion.clock import Clock
from kickback.motion.interruptions import LEAP, Interruption, InterruptionKind
from kickback.motion.motion import Event, Motion, Phase
from kickback.motion.options import Options
from kickback.motion.pieces import find_breaks
from kickback.motion.prints import Prints
from kickback.motion.segments import IntArray
from kickback.takes.computed_once import computed_once
from kickback.takes.record import Record, replace
from kickback.takes.roles import Role
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.causes.cause import CauseKind
    from kickback.causes.constants import ConstantRow
    from kickback.findings.finding import Finding, FindingKind
    from kickback.kinds.analysis import Analysis
    from kickback.kinds.foretold import Foretold
    from kickback.kinds.model import Model
    from kickback.kinds.moves import Move
    from kickback.laws.families.family import Family
    from kickback.laws.keys import PhaseKey
    from kickback.laws.record import Law, Laws
    from kickback.laws.residuals import Residuals
    from kickback.metrics.metric import Metric

__all__ = [
    "AnyKind",
    "Kind",
    "Measuring",
    "Reading",
    "Rules",
    "Showing",
    "itself",
    "piece_laws",
]


M = TypeVar("M", bound=Motion)
S = TypeVar("S")
T = TypeVar("T")


def itself(motion: T, _like: object = None) -> T:
    """Return a motion as it is: the scene of a kind that needs no other."""
    return motion


def _nothing(*_: object) -> tuple[()]:
    return ()


def _none() -> None:
    return None


def _leap(_: object) -> InterruptionKind:
    return LEAP


def _unsaid(*_: object) -> str:
    return ""


class Reading(Record, Generic[M], frozen=True, kw_only=True):
    """How a kind's motion is read off a take.

    ``breaks`` are the frames, shape (k,), in which positions leap; ``read`` works out the motion
    of a stretch without such leaps, ``join`` lays several end to end.
    ``phases`` and ``events`` tell what happens in one. ``interruptions`` are those that only the
    kind knows, ``begins`` gives the frames before which a log may pause, ``leap`` says what one is
    that ends a motion (None where it is none), ``flights`` the times, s, that an interruption of
    its part spoils as a whole along the vertical.
    """

    read: Callable[[Take, Clock, Prints, Options], M]
    breaks: Callable[[Take], IntArray] = find_breaks
    join: Callable[[Take, Sequence[tuple[int, M]], Options], M]
    phases: Callable[[M], Sequence[Phase]]
    events: Callable[[M], Sequence[Event]]
    interruptions: Callable[[M], Sequence[Interruption]] = _nothing
    begins: Callable[[M], Sequence[int]] = _nothing
    leap: Callable[[M], InterruptionKind | None] = _leap
    flights: Callable[[M], Sequence[tuple[float, float]]] = _nothing


class Measuring(Record, Generic[M, S], frozen=True, kw_only=True, dict=True):
    """What is measured of a kind, and looked for.

    ``scene`` is what its metrics look at, made of a motion and, where there is one, another scene
    of the same frames. ``doubts`` are what makes a motion's metrics less certain, ``exact`` the
    motion without them. ``headlines``: the metrics that matter most, the first first. ``checks``
    look for what could mislead a reader; ``findings`` are the kinds of what they may say.
    """

    metrics: "tuple[Metric, ...]"
    scene: Callable[[M, S | None], S]
    headlines: tuple[str, ...] = ()
    doubts: Callable[[M], tuple[str, ...]] = _nothing
    exact: Callable[[M], M] = itself
    checks: "tuple[Callable[[M], Sequence[Finding]], ...]" = ()
    findings: "tuple[FindingKind, ...]" = ()

    @cached_property
    def by_name(self) -> "Mapping[str, Metric]":
        """Return its metrics by their names."""
        return {metric.name: metric for metric in self.metrics}


class Rules(Record, Generic[M], frozen=True, kw_only=True):
    """The laws of a kind, and what follows from them.

    ``laws`` reads the update rules of one motion, ``of_take`` those that show over several of a
    take, ``of_game`` completes those of several takes by what others of them tell;
    ``residuals`` are what they leave of its steps. ``families`` and ``causes`` are those of its
    own, beside the general ones. ``moved`` says which metrics a law's constant moves, ``by_order``
    which the order of integration does, ``order_advice`` what to say beside its cure. ``foretold``
    are metrics in closed form of laws' constants, ``groups_of`` says what a constant of a phase
    moves beside these, ``phases_of_words`` of which phases words in parameters' names are.
    """

    laws: "Callable[[M], Laws]"
    of_take: "Callable[[Analysis[M]], Sequence[Law]]" = _nothing
    of_game: "Callable[[Sequence[Laws]], Sequence[Laws]]" = itself
    residuals: "Callable[[M, Laws], Sequence[Residuals]]" = _nothing
    families: "tuple[Family, ...]" = ()
    causes: "tuple[CauseKind, ...]" = ()
    moved: "Callable[[ConstantRow, Collection[PhaseKey]], Collection[str]]" = _nothing
    by_order: Callable[[bool], Collection[str]] = _nothing
    order_advice: "Callable[[Sequence[ConstantRow], float, float], str]" = _unsaid
    foretold: "tuple[Foretold, ...]" = ()
    groups_of: Callable[[str], Collection[str]] = _nothing
    phases_of_words: Mapping[str, str] = {}


class Showing(Record, Generic[M], frozen=True, kw_only=True):
    """What is drawn of a kind.

    ``picture``: what of a motion; ``now``: what is told of its last frame and the seconds before
    it; ``moves``: those that two sides are laid over each other in.
    """

    picture: Callable[[M, Sequence[Event]], Picture] = plain_picture
    now: Callable[[M, float], Now] = plain_now
    moves: "tuple[Move, ...]" = ()


class Kind(Record, Generic[M, S], frozen=True, kw_only=True, dict=True):
    """One kind of subject. A motion is of a class of its own, a ``Motion`` with more in it.

    ``applies`` tells it from a take's header and columns. The others load a theme when it is
    first asked for, as most commands need one or two of one kind: ``model`` plays it without a
    game.
    """

    name: str
    about: str
    roles: tuple[Role, ...]
    applies: Callable[[Take], bool]
    load_reading: Callable[[], Reading[M]]
    load_measuring: Callable[[], Measuring[M, S]]
    load_rules: Callable[[], Rules[M]]
    load_showing: Callable[[], Showing[M]] = Showing
    load_model: "Callable[[], Model | None]" = _none

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        self._refuse(
            (not self.name or not self.about, "it needs a name and a word on what it is about"),
            (not self.roles, "it has no roles"),
        )

    @cached_property
    def reading(self) -> Reading[M]:
        """Return how its motion is read."""
        return self.load_reading()

    @cached_property
    def measuring(self) -> Measuring[M, S]:
        """Return what is measured of it; TypeError where that cannot work."""
        found = self.load_measuring()
        names = [metric.name for metric in found.metrics]
        doubled = [name for name in names if names.count(name) > 1]
        needed = {role.name for metric in found.metrics for role in metric.needs}
        unknown = needed - {role.name for role in self.roles}
        strange = set(found.headlines) - set(names)
        self._refuse(
            (not names, "it has no metrics"),
            (bool(doubled), f"'{', '.join(doubled[:1])}' is there twice"),
            (bool(unknown), f"metrics need roles that it lacks: {', '.join(sorted(unknown))}"),
            (bool(strange), f"its headlines '{', '.join(sorted(strange))}' are no metrics of it"),
        )
        return found

    @cached_property
    def rules(self) -> Rules[M]:
        """Return its laws, and what follows from them."""
        return self.load_rules()

    @cached_property
    def showing(self) -> Showing[M]:
        """Return what is drawn of it."""
        return self.load_showing()

    @cached_property
    def model(self) -> "Model | None":
        """Return what plays it without a game, where there is something."""
        return self.load_model()

    def _refuse(self, *lacks: tuple[bool, str]) -> None:
        reason = next((text for lacking, text in lacks if lacking), "")
        if reason:
            raise TypeError(f"the kind '{self.name}' is incomplete: {reason}")


AnyKind: TypeAlias = Kind[Any, Any]
"""A kind, whichever its motions are."""


@computed_once
def piece_laws(analysis: "Analysis[M]") -> "list[Laws]":
    """Return the laws of each piece of a take, read once."""
    rules = analysis.kind.rules
    first, *others = [rules.laws(one) for one in analysis.motions]
    whole = rules.of_take(analysis)
    return [replace(first, rows=[*first.rows, *whole]) if whole else first, *others]
