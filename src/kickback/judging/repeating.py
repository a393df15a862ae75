"""One parameter set again and again: is the game deterministic, and how wide is the noise."""

from collections.abc import Sequence
from itertools import combinations

import numpy as np

from kickback.judging.differing import FirstDifference, first_difference
from kickback.judging.noise import prediction
from kickback.judging.pairing import label
from kickback.judging.samples import Cell
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import Unit
from kickback.takes.record import Record

__all__ = ["Noise", "Repeats", "repeats_of"]


class Noise(Record, frozen=True, kw_only=True):
    """How far one more take of a metric may lie off, in 95 % of cases: ``width``, in its unit."""

    metric: str
    unit: Unit
    value: float
    width: float
    takes: int

    @property
    def share(self) -> float | None:
        """Return the width as a share of the value."""
        return self.width / abs(self.value) if self.value else None


class Repeats(Record, frozen=True, kw_only=True):
    """The repeats of one exercise.

    ``alike`` pairs of takes were fed the same, ``equal`` of these are one motion; ``first`` is
    where the first pair that is not parts.
    """

    exercise: str
    takes: int
    alike: int
    equal: int
    first: FirstDifference | None
    noise: Sequence[Noise]

    @property
    def deterministic(self) -> bool | None:
        """Whether the game made the same of the same, None where nothing was fed the same."""
        return None if not self.alike else self.equal == self.alike

    def to_records(self) -> list[PlainDict]:
        """Return a flat record for each metric."""
        return [
            {
                "exercise": self.exercise,
                "metric": one.metric,
                "unit": str(one.unit),
                "value": one.value,
                "noise": one.width,
                "noise_relative": one.share,
                "takes": one.takes,
                "deterministic": self.deterministic,
            }
            for one in self.noise
        ]


def repeats_of(cell: Cell) -> Repeats:
    """Return what the takes of a cell, two or more, say of the game's noise."""
    pairs = [
        (a, b)
        for (a, fed), (b, other) in combinations(zip(cell.analyses, cell.inputs, strict=True), 2)
        if fed and fed == other
    ]
    found = [first_difference(a, b) for a, b in pairs]
    noise = [
        Noise(
            metric=name,
            unit=sample.unit,
            value=sample.value or 0.0,
            width=max(prediction(np.array([r.value for r in sample.readings])), 0.0),
            takes=len(sample.readings),
        )
        for name, sample in cell.samples.items()
        if len(sample.readings) > 1
    ]
    return Repeats(
        exercise=label(cell),
        takes=len(cell.names),
        alike=len(pairs),
        equal=sum(one is None for one in found),
        first=next((one for one in found if one is not None), None),
        noise=noise,
    )
