"""How far a metric's samples lie apart, played alike, and what bounds that."""

from typing import NamedTuple

import numpy as np

from kickback.judging.matching import adjusted, matched
from kickback.judging.noise import Interval, interval, prediction
from kickback.judging.samples import Cell, Sample, grid
from kickback.metrics.metric import Metric
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["Distance", "Held", "distance_of", "located_of"]

_EVENLY = 1.5
"""Times what nine of ten frames are off the usual that one is, and the one beside it."""

_MANY = 3
"""Takes a side from which a regression brings plays to one."""


class Held(NamedTuple):
    """A metric in a pair of cells."""

    metric: Metric
    base: Cell
    candidate: Cell

    @property
    def shown(self) -> bool:
        """Whether either side shows the metric."""
        name = self.metric.name
        known = name in self.base.samples and name in self.candidate.samples
        return known and any(one.readings for one in self.samples)

    @property
    def both(self) -> bool:
        """Whether both sides show it."""
        return all(one.readings for one in self.samples)

    @property
    def samples(self) -> tuple[Sample, Sample]:
        """Return the metric's samples of both."""
        return self.base.samples[self.metric.name], self.candidate.samples[self.metric.name]

    @property
    def exact(self) -> bool:
        """Whether both were fed the same, so that the game alone differs.

        Each take something else, or all of them one thing of which the game made the same.
        """
        ours, theirs = (sorted(cell.inputs) for cell in (self.base, self.candidate))
        if not all(ours):
            return False
        if len(set(ours)) == 1 and set(ours) == set(theirs):
            return all(len({one.value for one in side.readings}) == 1 for side in self.samples)
        return ours == theirs and len(set(ours)) == len(ours)

    @property
    def promised(self) -> bool:
        """Whether what one shows the other would show too: equal inputs, or a drill's every take.

        What only some takes of a drill show is the hand's, and says nothing of the game.
        """
        sides = zip((self.base, self.candidate), self.samples, strict=True)
        always = any(len(cell.inputs) == len(found.readings) for cell, found in sides)
        return self.exact or (self.one_drill and always)

    @property
    def one_machine(self) -> bool:
        """Whether both are known to have run on one machine."""
        return bool(self.base.machine) and self.base.machine == self.candidate.machine

    @property
    def one_drill(self) -> bool:
        """Whether both played one drill: then hands differ by no more than noise."""
        own = self.base.exercise.drill
        return bool(own) and own == self.candidate.exercise.drill


class Distance(NamedTuple):
    """How far two samples lie apart; ``found`` where takes were tested."""

    base: float
    candidate: float
    low: float
    high: float
    how: str = ""
    unknown: str = ""
    found: Interval | None = None
    takes: int = 1


def distance_of(item: Held, metrics: int) -> Distance:
    """Return how far a metric's samples lie apart, for one of so many metrics."""
    before, after = item.samples
    a, b = before.value or 0.0, after.value or 0.0
    if item.exact:
        half = grid(a, before.resolution) if item.base.kept else 0.0
        return Distance(a, b, b - a - half, b - a + half)
    fewest = min(len(one.readings) for one in (before, after))
    if item.metric.depends:
        return _likewise(item, metrics, many=fewest >= _MANY)
    if fewest > 1:
        values = [np.array([r.value for r in one.readings]) for one in (before, after)]
        return _tested(item, values[0], values[1], metrics, "")
    half = located_of(item)
    return Distance(a, b, b - a - half, b - a + half)


def _likewise(item: Held, metrics: int, *, many: bool) -> Distance:
    """Return how far they lie apart once they are played alike; ``many`` takes a side or one."""
    before, after = item.samples
    depends = item.metric.depends
    if many:
        brought, why = adjusted(depends, before, after)
        if brought is not None:
            return _tested(item, brought.base, brought.candidate, metrics, brought.how)
        if item.one_drill:
            values = [np.array([r.value for r in one.readings]) for one in (before, after)]
            return _tested(item, values[0], values[1], metrics, "takes of one drill, as played")
        return _guess(item, why)
    alike, why = matched(depends, before, after)
    if alike is None:
        return _guess(item, why)
    half = alike.half + located_of(item)
    change = alike.candidate - alike.base
    return Distance(alike.base, alike.candidate, change - half, change + half, alike.how)


def _tested(
    item: Held, base: FloatArray, candidate: FloatArray, metrics: int, how: str
) -> Distance:
    before, after = item.samples
    located = float(
        np.hypot(before.resolution / len(base) ** 0.5, after.resolution / len(candidate) ** 0.5)
    )
    found = interval(base, candidate, metrics, located)
    middle = median(base)
    return Distance(
        middle,
        middle + found.change,
        found.low,
        found.high,
        how,
        "",
        found,
        min(len(base), len(candidate)),
    )


def _guess(item: Held, why: str) -> Distance:
    """Return two samples that were played in no like way: alike where they hardly differ."""
    before, after = item.samples
    a, b = before.value or 0.0, after.value or 0.0
    half = located_of(item)
    if abs(b - a) <= half:
        return Distance(a, b, b - a - half, b - a + half)
    return Distance(a, b, -np.inf, np.inf, "", why)


def _of_frames(item: Held) -> float:
    """Return what uneven frames make of a change: all of one where it ends with a frame."""
    before, after = item.samples
    sides = ((item.base, before), (item.candidate, after))
    half = sum(_EVENLY * cell.uneven * one.frame_shift for cell, one in sides)
    if item.metric.whole_frames and any(cell.uneven for cell, _ in sides):
        half += max(before.frame_shift, after.frame_shift)
    return half


def located_of(item: Held) -> float:
    """Return what a change of a single take is known within.

    The resolutions, what uneven frames make of one frame more or less, and the noise of the
    metric where it is known: from the project, or from the side that has several takes.
    """
    before, after = item.samples
    sides = ((item.base, before), (item.candidate, after))
    half = sum(one.resolution for one in (before, after)) + _of_frames(item)
    known = [cell.noise[item.metric.name] for cell, _ in sides if item.metric.name in cell.noise]
    known += [
        prediction(np.array([r.value for r in one.readings]))
        for one in (before, after)
        if len(one.readings) >= _MANY
    ]
    rounded = grid(before.value or 0.0, before.resolution) if item.base.kept else 0.0
    return max([half, *known]) + rounded
