"""What goes beside any kind of subject: a camera that follows it, say, with all that is its own."""

from collections.abc import Callable, Collection, Sequence
from itertools import chain

from kickback.causes.constants import ConstantRow
from kickback.findings.finding import Finding, FindingKind
from kickback.kinds.kind import AnyKind
from kickback.kinds.picture import Curve, Picture
from kickback.laws.families.family import Family
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law, Laws
from kickback.metrics.metric import Metric
from kickback.motion.clock import Clock
from kickback.motion.motion import Event, Motion, Phase
from kickback.motion.options import Options
from kickback.motion.prints import Prints
from kickback.motion.tracks import Track
from kickback.takes.record import Record, replace
from kickback.takes.roles import Role
from kickback.takes.take import Take

__all__ = ["Aspect", "with_aspects"]


def _nothing(*_: object) -> tuple[()]:
    return ()


def _no_tracks(*_: object) -> dict[str, Track]:
    return {}


class Aspect(Record, frozen=True, kw_only=True):
    """Something that a take of any kind may show beside its subject.

    ``tracks`` are those that it adds to a motion, by the names of its ``roles``. Its ``metrics``
    are given a motion, or what their ``display`` says. ``laws`` reads its rules, ``moved`` says
    what a constant of them moves; ``checks`` look for what a conclusion could trip over.
    ``phases`` and ``curves`` are drawn beside those of the subject.
    """

    name: str
    metrics: tuple[Metric, ...]
    roles: tuple[Role, ...] = ()
    tracks: Callable[[Take, Clock, Prints], dict[str, Track]] = _no_tracks
    laws: Callable[[Motion], Sequence[Law]] = _nothing
    moved: Callable[[ConstantRow], tuple[str, ...]] = _nothing
    checks: tuple[Callable[[Motion], Sequence[Finding]], ...] = ()
    findings: tuple[FindingKind, ...] = ()
    families: tuple[Family, ...] = ()
    phases: Callable[[Motion], Sequence[Phase]] = _nothing
    curves: Callable[[Motion], Sequence[Curve]] = _nothing


def with_aspects(kind: AnyKind, aspects: Sequence[Aspect]) -> AnyKind:
    """Return a kind with aspects beside it: its own metrics, laws and checks come first."""
    beside = _Beside(kind, aspects)
    measuring, rules = kind.measuring, kind.rules
    every = chain.from_iterable
    return replace(
        kind,
        roles=(*kind.roles, *every(one.roles for one in aspects)),
        reading=replace(kind.reading, read=beside.read, phases=beside.phases),
        measuring=replace(
            measuring,
            metrics=(*measuring.metrics, *every(one.metrics for one in aspects)),
            checks=(*measuring.checks, *every(one.checks for one in aspects)),
            findings=(*measuring.findings, *every(one.findings for one in aspects)),
        ),
        rules=replace(
            rules,
            laws=beside.laws,
            moved=beside.moved,
            families=(*rules.families, *every(one.families for one in aspects)),
        ),
        showing=replace(kind.showing, picture=beside.picture),
    )


class _Beside:
    """What a kind does, with what its aspects add."""

    def __init__(self, kind: AnyKind, aspects: Sequence[Aspect]) -> None:
        self._kind, self._aspects = kind, aspects
        self._own = {role.name: aspect for aspect in aspects for role in aspect.roles}

    def read(self, take: Take, clock: Clock, prints: Prints, options: Options) -> Motion:
        motion: Motion = self._kind.reading.read(take, clock, prints, options)
        added: dict[str, Track] = {}
        for aspect in self._aspects:
            added |= aspect.tracks(take, clock, prints)
        return replace(motion, tracks={**motion.tracks, **added}) if added else motion

    def laws(self, motion: Motion) -> Laws:
        found = self._kind.rules.laws(motion)
        rows = [law for aspect in self._aspects for law in aspect.laws(motion)]
        return replace(found, rows=[*found.rows, *rows]) if rows else found

    def moved(self, row: ConstantRow, steady: Collection[PhaseKey]) -> Collection[str]:
        aspect = self._own.get(row.role.name)
        return self._kind.rules.moved(row, steady) if aspect is None else aspect.moved(row)

    def phases(self, motion: Motion) -> list[Phase]:
        own = self._kind.reading.phases(motion)
        return [*own, *(one for aspect in self._aspects for one in aspect.phases(motion))]

    def picture(self, motion: Motion, events: Sequence[Event]) -> Picture:
        drawn = self._kind.showing.picture(motion, events)
        curves = [one for aspect in self._aspects for one in aspect.curves(motion)]
        return replace(drawn, curves=[*drawn.curves, *curves]) if curves else drawn
