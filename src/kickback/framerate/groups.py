"""Which takes belong together: one subject, parameter set and drill, at several rates."""

import re
from collections.abc import Sequence

from kickback.kinds.analysis import AnyAnalysis
from kickback.takes.rates import same_rate
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["Group", "by_rate", "group_takes"]

_RATE_AT_END = re.compile(
    r"[-_. ]*(?:at[-_. ]*)?(\d+(?:\.\d+)?)(?:hz|fps)?(?:[-_](?:r?\d+))?$", re.IGNORECASE
)


class Group(Record, frozen=True, kw_only=True):
    """Takes of one exercise; ``name`` is the parameter set's, or the file names' stem."""

    name: str
    analyses: Sequence[AnyAnalysis]

    @property
    def takes(self) -> Sequence[Take]:
        """Return the takes of the group."""
        return [one.take for one in self.analyses]


def group_takes(takes: Sequence[AnyAnalysis]) -> tuple[list[Group], list[str]]:
    """Group takes by subject, parameter values and drill; by file name without a header.

    Returns the groups in order of appearance, and sentences about what was odd: one name
    with different values.
    """
    groups: dict[tuple[object, ...], list[AnyAnalysis]] = {}
    for one in takes:
        groups.setdefault(_key(one.take), []).append(one)
    named = [
        Group(name=_name(members[0].take), analyses=tuple(members)) for members in groups.values()
    ]
    names = [group.name for group in named]
    said = [
        f"'{name}' stands for {names.count(name)} different exercises: its takes differ in"
        " subject, drill or parameter values and are kept apart"
        for name in dict.fromkeys(names)
        if names.count(name) > 1
    ]
    return named, said


def _key(take: Take) -> tuple[object, ...]:
    header = take.header
    if header.parameters is None:
        return (header.subject, header.kind, header.drill, _stem(take.name))
    values = tuple(sorted((key, repr(value)) for key, value in header.parameters.values.items()))
    own = values or header.parameters.name
    return (header.subject, header.kind, header.drill, own)


def _stem(name: str) -> str:
    return _RATE_AT_END.sub("", name) or name


def _name(take: Take) -> str:
    return take.header.parameters_name or _stem(take.name)


def by_rate(takes: Sequence[AnyAnalysis]) -> dict[float, list[AnyAnalysis]]:
    """Return takes by nominal rate, slowest first; rates within 2 % are one."""
    found: dict[float, list[AnyAnalysis]] = {}
    for one in sorted(takes, key=lambda one: one.take.frame_rate):
        rate = one.take.frame_rate
        near = next((known for known in found if same_rate(known, rate)), rate)
        found.setdefault(near, []).append(one)
    return found
