"""What goes beside any kind of subject: a camera that follows it, say, with all that is its own."""

from collections.abc import Callable, Iterable, Sequence
from itertools import chain
from typing import Any

from kickback.causes.constants import ConstantRow
from kickback.findings.finding import Finding, FindingKind
from kickback.kinds.kind import Kind
from kickback.kinds.picture import Curve, Picture
from kickback.laws.families.family import Family
from kickback.laws.record import Law, Laws
from kickback.metrics.metric import Metric
from kickback.motion.analysis import Prints
from kickback.motion.clock import Clock
from kickback.motion.motion import Event, Motion, Phase
from kickback.motion.options import Options
from kickback.motion.tracks import Track
from kickback.takes.record import Record, replace
from kickback.takes.roles import Role
from kickback.takes.take import Take

__all__ = ["Aspect", "with_aspects"]


def _nothing(*_: Any) -> tuple[Any, ...]:
    return ()


def _no_tracks(*_: Any) -> dict[str, Track]:
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
    laws: Callable[[Any], Sequence[Law]] = _nothing
    moved: Callable[[ConstantRow], tuple[str, ...]] = _nothing
    checks: tuple[Callable[[Any], Sequence[Finding]], ...] = ()
    findings: tuple[FindingKind, ...] = ()
    families: tuple[Family, ...] = ()
    phases: Callable[[Any], Sequence[Phase]] = _nothing
    curves: Callable[[Any], Sequence[Curve]] = _nothing


def with_aspects(kind: Kind, aspects: Sequence[Aspect]) -> Kind:
    """Return a kind with aspects beside it: its own metrics, laws and checks come first."""
    beside = _Beside(kind, aspects)
    hooks = {name: getattr(beside, name) for name in ("read", "laws", "moved", "phases", "picture")}
    added = {
        name: (*getattr(kind, name), *_all(getattr(aspect, name) for aspect in aspects))
        for name in ("roles", "metrics", "checks", "findings", "families")
    }
    return replace(kind, **hooks, **added)


class _Beside:
    """What a kind does, with what its aspects add."""

    def __init__(self, kind: Kind, aspects: Sequence[Aspect]) -> None:
        self._kind, self._aspects = kind, aspects
        self._own = {role.name: aspect for aspect in aspects for role in aspect.roles}

    def read(self, take: Take, clock: Clock, prints: Prints, options: Options) -> Motion:
        motion: Motion = self._kind.read(take, clock, prints, options)
        added: dict[str, Track] = {}
        for aspect in self._aspects:
            added |= aspect.tracks(take, clock, prints)
        return replace(motion, tracks={**motion.tracks, **added}) if added else motion

    def laws(self, motion: Motion) -> Laws:
        found = self._kind.laws(motion)
        rows = _all(aspect.laws(motion) for aspect in self._aspects)
        return replace(found, rows=[*found.rows, *rows]) if rows else found

    def moved(self, row: ConstantRow, steady: Any) -> Any:
        aspect = self._own.get(row.role.name)
        return self._kind.moved(row, steady) if aspect is None else aspect.moved(row)

    def phases(self, motion: Any) -> list[Phase]:
        own = self._kind.phases(motion)
        return [*own, *_all(aspect.phases(motion) for aspect in self._aspects)]

    def picture(self, motion: Any, events: Sequence[Event]) -> Picture:
        drawn = self._kind.picture(motion, events)
        curves = _all(aspect.curves(motion) for aspect in self._aspects)
        return replace(drawn, curves=[*drawn.curves, *curves]) if curves else drawn


def _all(parts: Iterable[Iterable[Any]]) -> tuple[Any, ...]:
    return tuple(chain.from_iterable(parts))
