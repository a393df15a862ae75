"""What goes beside any kind of subject: a camera that follows it, say, with all that is its own."""

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import chain
from typing import TYPE_CHECKING, TypeAlias

from kickback.kinds.kind import AnyKind, Measuring, Reading, Rules, Showing
from kickback.motion.clock import Clock
from kickback.motion.motion import Event, Motion, Phase
from kickback.motion.options import Options
from kickback.motion.prints import Prints
from kickback.motion.tracks import Track
from kickback.takes.record import Record, replace
from kickback.takes.roles import Role
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.causes.constants import ConstantRow
    from kickback.findings.finding import Finding, FindingKind
    from kickback.kinds.picture import Curve, Picture
    from kickback.laws.families.family import Family
    from kickback.laws.keys import PhaseKey
    from kickback.laws.record import Law, Laws
    from kickback.metrics.metric import Metric

__all__ = ["Aspect", "Made", "Measured", "Ruled", "with_aspects"]


def _nothing(*_: object) -> tuple[()]:
    return ()


def _no_tracks(*_: object) -> "Mapping[str, Made]":
    return {}


Made: TypeAlias = Callable[[], Track]
"""Works out a track when something asks for it: most of what is measured needs none of these."""


class _Tracks(Mapping[str, Track]):
    """A motion's own tracks, and those of aspects, each worked out when it is first asked for."""

    def __init__(self, own: Mapping[str, Track], added: Mapping[str, Made]) -> None:
        self._known, self._added = dict(own), added

    def __getitem__(self, name: str) -> Track:
        """Return a track by its role."""
        if name not in self._known and name in self._added:
            self._known[name] = self._added[name]()
        return self._known[name]

    def __iter__(self) -> Iterator[str]:
        """Iterate over the roles."""
        return iter({**self._known, **self._added})

    def __len__(self) -> int:
        """Return how many there are."""
        return len({**self._known, **self._added})


class Measured(Record, frozen=True, kw_only=True):
    """What is measured of an aspect, and looked for.

    Its ``metrics`` are given a motion, or what their ``display`` says.
    """

    metrics: "tuple[Metric, ...]"
    checks: "tuple[Callable[[Motion], Sequence[Finding]], ...]" = ()
    findings: "tuple[FindingKind, ...]" = ()


class Ruled(Record, frozen=True, kw_only=True):
    """The laws of an aspect, their families, and which metrics a constant of them moves."""

    laws: "Callable[[Motion], Sequence[Law]]" = _nothing
    moved: "Callable[[ConstantRow], tuple[str, ...]]" = _nothing
    families: "tuple[Family, ...]" = ()


class Aspect(Record, frozen=True, kw_only=True, dict=True):
    """Something that a take of any kind may show beside its subject.

    ``tracks`` are those that it adds to a motion, by the names of its ``roles``. ``phases`` and
    ``curves`` are drawn beside those of the subject. What is measured and its rules are loaded
    when they are first asked for.
    """

    name: str
    roles: tuple[Role, ...] = ()
    tracks: Callable[[Take, Clock, Prints], Mapping[str, Made]] = _no_tracks
    phases: Callable[[Motion], Sequence[Phase]] = _nothing
    curves: "Callable[[Motion], Sequence[Curve]]" = _nothing
    load_measured: Callable[[], Measured]
    load_rules: Callable[[], Ruled] = Ruled

    @cached_property
    def measured(self) -> Measured:
        """Return what is measured of it."""
        return self.load_measured()

    @cached_property
    def rules(self) -> Ruled:
        """Return its laws."""
        return self.load_rules()


def with_aspects(kind: AnyKind, aspects: Sequence[Aspect]) -> AnyKind:
    """Return a kind with aspects beside it: its own metrics, laws and checks come first."""
    beside = _Beside(kind, aspects)
    return replace(
        kind,
        roles=(*kind.roles, *chain.from_iterable(one.roles for one in aspects)),
        load_reading=beside.reading,
        load_measuring=beside.measuring,
        load_rules=beside.rules,
        load_showing=beside.showing,
    )


class _Beside:
    """What a kind does, with what its aspects add."""

    def __init__(self, kind: AnyKind, aspects: Sequence[Aspect]) -> None:
        self._kind, self._aspects = kind, aspects
        self._own = {role.name: aspect for aspect in aspects for role in aspect.roles}

    def reading(self) -> "Reading[Motion]":
        return replace(self._kind.reading, read=self._read, phases=self._phases)

    def measuring(self) -> "Measuring[Motion, object]":
        own, beside = self._kind.measuring, [one.measured for one in self._aspects]
        every = chain.from_iterable
        return replace(
            own,
            metrics=(*own.metrics, *every(one.metrics for one in beside)),
            checks=(*own.checks, *every(one.checks for one in beside)),
            findings=(*own.findings, *every(one.findings for one in beside)),
        )

    def rules(self) -> "Rules[Motion]":
        own = self._kind.rules
        families = chain.from_iterable(one.rules.families for one in self._aspects)
        return replace(own, laws=self._laws, moved=self._moved, families=(*own.families, *families))

    def showing(self) -> "Showing[Motion]":
        return replace(self._kind.showing, picture=self._picture)

    def _read(self, take: Take, clock: Clock, prints: Prints, options: Options) -> Motion:
        motion: Motion = self._kind.reading.read(take, clock, prints, options)
        added: dict[str, Made] = {}
        for aspect in self._aspects:
            added |= aspect.tracks(take, clock, prints)
        return replace(motion, tracks=_Tracks(motion.tracks, added)) if added else motion

    def _laws(self, motion: Motion) -> "Laws":
        found = self._kind.rules.laws(motion)
        rows = [law for aspect in self._aspects for law in aspect.rules.laws(motion)]
        return replace(found, rows=[*found.rows, *rows]) if rows else found

    def _moved(self, row: "ConstantRow", steady: "Collection[PhaseKey]") -> Collection[str]:
        aspect = self._own.get(row.role.name)
        return self._kind.rules.moved(row, steady) if aspect is None else aspect.rules.moved(row)

    def _phases(self, motion: Motion) -> list[Phase]:
        own = self._kind.reading.phases(motion)
        return [*own, *(one for aspect in self._aspects for one in aspect.phases(motion))]

    def _picture(self, motion: Motion, events: Sequence[Event]) -> "Picture":
        drawn = self._kind.showing.picture(motion, events)
        curves = [one for aspect in self._aspects for one in aspect.curves(motion)]
        return replace(drawn, curves=[*drawn.curves, *curves]) if curves else drawn
