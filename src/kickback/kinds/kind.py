"""What a kind of subject is: everything that is particular to it, behind one shape."""

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any

from kickback.causes.cause import CauseKind
from kickback.causes.constants import ConstantRow
from kickback.findings.finding import Finding, FindingKind
from kickback.kinds.foretold import Foretold
from kickback.kinds.model import Model
from kickback.kinds.moves import Move
from kickback.kinds.picture import Now, Picture, plain_now, plain_picture
from kickback.laws.families.family import Family
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law, Laws
from kickback.laws.residuals import Residuals
from kickback.metrics.metric import Metric
from kickback.motion.analysis import Analysis, Prints
from kickback.motion.clock import Clock
from kickback.motion.interruptions import LEAP, Interruption, InterruptionKind
from kickback.motion.motion import Event, Phase
from kickback.motion.options import Options
from kickback.takes.record import Record, replace
from kickback.takes.roles import Role
from kickback.takes.take import Take

__all__ = ["Kind", "incomplete"]


def _as_it_is(motion: Any, _like: Any = None) -> Any:
    return motion


def _nothing(*_: Any) -> tuple[Any, ...]:
    return ()


def _leap(_: Any) -> InterruptionKind:
    return LEAP


def _unsaid(*_: Any) -> str:
    return ""


class Kind(Record, frozen=True, kw_only=True):
    """One kind of subject. A motion is of a class of its own, a ``Motion`` with more in it.

    ``applies`` tells it from a take's header and columns. ``read`` works out the motion of a
    stretch without leaps, ``join`` lays several end to end. ``scene`` is what its metrics
    look at, made of a motion; ``like`` it another scene of the same frames. ``doubts`` are
    what makes a motion's metrics less certain, ``exact`` the motion without them. ``laws``
    reads the update rules of one motion, ``across`` those that show over several of a take;
    ``interruptions`` are those that only the kind knows, ``leap`` says what one is that ends a
    motion (None where it is none), ``together`` the times, s, of what an interruption of its part
    spoils as a whole along the vertical, ``residuals`` what they leave of its steps.
    ``checks`` look for what a conclusion could trip over; ``findings`` are the kinds of what
    they may say. ``moved`` says which metrics a law's constant moves, ``by_order`` which the
    order of integration does, ``order_advice`` what to say beside its cure. ``picture`` is what
    is drawn of a motion, ``now`` what is told of its last frame and the seconds before it,
    ``headlines`` the metrics that matter most, the first first. ``foretold`` are metrics in closed
    form of laws' constants, ``groups_of`` says what a constant of a phase moves beside these,
    ``means`` of which phases words in parameters' names are,
    ``moves`` are those that two sides are laid over each other in.
    ``model`` is what plays it without a game. ``families`` and ``causes`` are those of its own,
    beside the general ones.
    """

    name: str
    about: str
    roles: tuple[Role, ...]
    applies: Callable[[Take], bool]
    read: Callable[[Take, Clock, Prints, Options], Any]
    join: Callable[[Take, Sequence[tuple[int, Any]], Options], Any]
    phases: Callable[[Any], Sequence[Phase]]
    events: Callable[[Any], Sequence[Event]]
    metrics: tuple[Metric, ...]
    laws: Callable[[Any], Laws]
    interruptions: Callable[[Any], Sequence[Interruption]] = _nothing
    leap: Callable[[Any], InterruptionKind | None] = _leap
    together: Callable[[Any], Sequence[tuple[float, float]]] = _nothing
    across: Callable[[Analysis[Any]], Sequence[Law]] = _nothing
    residuals: Callable[[Any, Laws], Sequence[Residuals]] = _nothing
    scene: Callable[[Any, Any], Any] = _as_it_is
    doubts: Callable[[Any], tuple[str, ...]] = _nothing
    exact: Callable[[Any], Any] = _as_it_is
    checks: tuple[Callable[[Any], Sequence[Finding]], ...] = ()
    findings: tuple[FindingKind, ...] = ()
    moved: Callable[[ConstantRow, Collection[PhaseKey]], Collection[str]] = _nothing
    by_order: Callable[[bool], Collection[str]] = _nothing
    order_advice: Callable[[Sequence[ConstantRow], float, float], str] = _unsaid
    picture: Callable[[Any, Sequence[Event]], Picture] = plain_picture
    now: Callable[[Any, float], Now] = plain_now
    headlines: tuple[str, ...] = ()
    foretold: tuple[Foretold, ...] = ()
    means: Mapping[str, str] = {}
    moves: tuple[Move, ...] = ()
    groups_of: Callable[[str], Collection[str]] = _nothing
    model: Model | None = None
    families: tuple[Family, ...] = ()
    causes: tuple[CauseKind, ...] = ()

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        reason = incomplete(self)
        if reason:
            raise TypeError(f"the kind '{self.name}' is incomplete: {reason}")

    def told(self, analysis: Analysis[Any]) -> list[Laws]:
        """Return the laws of each piece of a take, read once."""
        return analysis.once("laws", lambda: self._told(analysis))

    def _told(self, analysis: Analysis[Any]) -> list[Laws]:
        first, *others = [self.laws(one) for one in analysis.motions]
        whole = self.across(analysis)
        return [replace(first, rows=[*first.rows, *whole]) if whole else first, *others]


def incomplete(kind: Kind) -> str:
    """Return what a kind lacks, or nothing."""
    names = [metric.name for metric in kind.metrics]
    doubled = [name for name in names if names.count(name) > 1]
    needed = {role.name for metric in kind.metrics for role in metric.needs}
    unknown = needed - {role.name for role in kind.roles}
    strange = set(kind.headlines) - set(names)
    lacks = (
        (not kind.name or not kind.about, "it needs a name and a word on what it is about"),
        (not kind.roles, "it has no roles"),
        (not names, "it has no metrics"),
        (bool(doubled), f"'{', '.join(doubled[:1])}' is there twice"),
        (bool(unknown), f"metrics need roles that it lacks: {', '.join(sorted(unknown))}"),
        (bool(strange), f"its headlines '{', '.join(sorted(strange))}' are no metrics of it"),
    )
    return next((text for lacking, text in lacks if lacking), "")
