"""What an entry of the catalogue is: a metric, what it applies to, how occurrences combine."""

from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np

from kickback.errors import UsageError, nearest
from kickback.metrics.dependence import Dependence
from kickback.metrics.record import Occurrences, joined, none
from kickback.takes.quantities import Dimension, Unit
from kickback.takes.record import Record
from kickback.takes.roles import Role

__all__ = [
    "LARGEST",
    "MEDIAN",
    "SUM",
    "Combine",
    "Metric",
    "in_groups",
    "names_in",
    "select_metrics",
]


class Combine(Record, frozen=True, kw_only=True):
    """How the occurrences of a take's pieces become one number: ``of`` gives those that count.

    ``narrows`` says that those of several takes together are known better than of each,
    ``one_each`` that subjects which have one each are taken together too.
    """

    name: str
    narrows: bool = False
    one_each: bool = False
    of: Callable[[Sequence[Occurrences]], Occurrences]


def _largest(parts: Sequence[Occurrences]) -> Occurrences:
    every = joined(parts)
    if len(every.value) < 2:
        return every
    keep = np.zeros(len(every.value), dtype=bool)
    keep[int(np.argmax(every.value))] = True
    return every.only(keep)


def _sum(parts: Sequence[Occurrences]) -> Occurrences:
    every = joined(parts)
    if len(every.value) < 2:
        return every
    return Occurrences(
        value=every.value.sum(keepdims=True),
        start=every.start.min(keepdims=True),
        end=every.end.max(keepdims=True),
        resolution=every.resolution.sum(keepdims=True),
        frame_shift=every.frame_shift.sum(keepdims=True),
        remark=every.remark,
    )


MEDIAN = Combine(name="median", of=joined)
LARGEST = Combine(name="largest", of=_largest)
SUM = Combine(name="sum", of=_sum)


class Metric(Record, frozen=True, kw_only=True):
    """One entry of the catalogue, called ``group.part``.

    ``needs`` are the roles without which it cannot be had. ``measure`` turns the scene of one
    piece of a take into occurrences, and ``combine`` says how those of all pieces become one
    number. ``milli`` says that it counts thousandths of its dimension's unit. ``depends`` is what
    it goes with of how it was played; occurrences give each of these. ``by`` is the key of the
    speed by which unlike occurrences are held apart: those from nearly the highest count.
    ``phrases`` say in words that it is more, less, and what stays as before. ``detail``: text
    leaves it out unless it is asked for. ``framed``: it is of one frame, so that it goes with the
    frame rate in the best of code. ``whole_frames``: what it measures ends with a frame, so that
    uneven ones make it up to a frame longer. ``display``: it is of the frames that were shown, not
    of the motion behind them: ``measure`` is given a take's analysis.
    """

    group: str
    part: str
    dimension: Dimension
    title: str
    definition: str
    formula: str
    measure: Callable[[Any], Occurrences]
    needs: tuple[Role, ...] = ()
    combine: Combine = MEDIAN
    milli: bool = False
    source: str = ""
    depends: tuple[Dependence, ...] = ()
    by: str = ""
    phrases: tuple[str, ...] = ()
    detail: bool = False
    framed: bool = False
    whole_frames: bool = False
    display: bool = False

    @property
    def name(self) -> str:
        """Return the metric's whole name."""
        return f"{self.group}.{self.part}"

    def unit(self, length_unit: str) -> Unit:
        """Return the unit, given the take's length unit."""
        return Unit(self.dimension, length_unit, self.milli)

    def missing(self, roles: Iterable[str]) -> Occurrences | None:
        """Return no occurrences, with the reason, where a take lacks a role; else None."""
        have = set(roles)
        reasons = [role.missing for role in self.needs if role.name not in have]
        return none(reasons[0]) if reasons else None


def in_groups(metrics: Sequence[Metric]) -> tuple[Metric, ...]:
    """Return metrics with those of a group together, groups in the order of their first."""
    groups = list(dict.fromkeys(metric.group for metric in metrics))
    return tuple(sorted(metrics, key=lambda metric: groups.index(metric.group)))


def names_in(names: Iterable[str]) -> set[str]:
    """Return single names out of one string or several, each with commas or without."""
    every = [names] if isinstance(names, str) else list(names)
    for name in every:
        if not isinstance(name, str):
            raise TypeError(f"expected names of metrics or groups, not {type(name).__name__}")
    return {part.strip() for name in every for part in name.split(",")} - {""}


def select_metrics(catalogue: Sequence[Metric], names: Iterable[str]) -> tuple[Metric, ...]:
    """Return the metrics that names and groups (``jump``, ``jump.air_time``) choose.

    One string is one or more names. All where there are none; raises UsageError for one that
    fits nothing, TypeError for what is no name.
    """
    wanted = names_in(names)
    if not wanted:
        return tuple(catalogue)
    known = dict.fromkeys([*sorted({one.group for one in catalogue}), *(o.name for o in catalogue)])
    for name in sorted(wanted):
        if name not in known:
            raise UsageError(f"no metric or group '{name}'{nearest(name, known)}")
    return tuple(one for one in catalogue if {one.name, one.group} & wanted)
