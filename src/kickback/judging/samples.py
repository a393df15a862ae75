"""What a side of a comparison is: its takes by exercise, measured."""

import hashlib
from collections.abc import Mapping, Sequence
from math import floor, log10
from typing import NamedTuple

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.measuring import measure
from kickback.metrics.metric import Metric
from kickback.metrics.record import Measurement
from kickback.takes.header import Value
from kickback.takes.numeric import median
from kickback.takes.quantities import Unit
from kickback.takes.rates import same_rate
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = [
    "Cell",
    "Exercise",
    "Reading",
    "Sample",
    "Told",
    "cells_of",
    "fingerprint",
    "grid",
    "sample_of",
    "unevenness",
]


_FINER = 10.0
"""Parts of a resolution that kept numbers are rounded to."""

_DIGITS = 8
"""Significant digits of them at most."""


def grid(value: float, resolution: float) -> float:
    """Return what a kept number is rounded to: a tenth of what is known, at most eight digits."""
    step = max(resolution / _FINER, abs(value) * 10.0**-_DIGITS, 1e-300)
    return float(10.0 ** floor(log10(step)))


class Exercise(NamedTuple):
    """What was done: by whom, which drill, with which parameter set, at which nominal rate."""

    subject: str
    drill: str
    parameters: str
    rate: float


class Told(NamedTuple):
    """A constant as a law gives it, with its standard error, and the law's family."""

    value: float
    stderr: float
    unit: str
    law: str = ""


class Reading(Record, frozen=True, kw_only=True):
    """What one take says of a metric: its median, and its occurrences where they count.

    ``values`` and each array of ``given`` are of shape (k,).
    """

    value: float
    resolution: float
    frame_shift: float
    values: FloatArray
    given: Mapping[str, FloatArray]


class Sample(Record, frozen=True, kw_only=True):
    """A metric in the takes of one exercise; takes that do not show it have no reading."""

    metric: str
    unit: Unit
    readings: Sequence[Reading]
    reason: str | None = None

    @property
    def value(self) -> float | None:
        """Return the median over the takes, None where none shows it."""
        known = [one.value for one in self.readings]
        return median(known) if known else None

    @property
    def resolution(self) -> float:
        """Return the usual resolution of a take."""
        return median([one.resolution for one in self.readings] or [0.0])

    @property
    def frame_shift(self) -> float:
        """Return how much a value moves where all happens a frame later."""
        return max((one.frame_shift for one in self.readings), default=0.0)


class Cell(Record, frozen=True, kw_only=True):
    """The takes of one exercise.

    ``names`` are the takes', ``inputs`` fingerprints of what each was fed, empty where nobody
    knows, ``uneven`` the share by which their frames last unequally long, ``loose`` that by which
    these leave a take's rate uncertain, ``values`` those of the parameters, ``noise`` how far a
    single take of a metric may lie off, where that is known. ``constants`` are those of the laws,
    where they were kept; ``analyses`` the takes', where there are any. ``machine`` is the one that
    all of them ran on, empty where nobody says. ``kept``: its numbers were
    read from a baseline, where they are rounded.
    """

    exercise: Exercise
    names: Sequence[str]
    samples: Mapping[str, Sample]
    inputs: Sequence[str]
    uneven: float
    values: Mapping[str, Value]
    loose: float = 0.0
    noise: Mapping[str, float] = {}
    constants: Mapping[str, Told] = {}
    analyses: Sequence[AnyAnalysis] = ()
    machine: str = ""
    kept: bool = False


def fingerprint(take: Take) -> str:
    """Return what tells whether two takes were fed the same: frame times and inputs.

    Nothing where no input was recorded that ever changes: then nobody knows.
    """
    columns = {n: c for n, c in sorted(take.columns.items()) if c.dtype.kind == "f"}
    inputs = {name: column for name, column in columns.items() if name.startswith("in_")}
    if not any(np.any(np.diff(column)) for column in inputs.values()):
        return ""
    told = hashlib.sha256()
    for name, column in {"dt": take.numbers("dt"), **inputs}.items():
        told.update(name.encode())
        told.update(np.round(column, 9).tobytes())
    return told.hexdigest()[:16]


def unevenness(take: Take) -> float:
    """Return the share by which a take's frames last unequally long, nine of ten of them."""
    steps = take.numbers("dt")
    low, middle, high = np.percentile(steps, (5, 50, 95))
    return float((high - low) / (2 * middle)) if middle > 0 else 0.0


def cells_of(takes: Sequence[AnyAnalysis], metrics: Sequence[Metric]) -> list[Cell]:
    """Return the takes of a side by exercise, in order of appearance, with their readings.

    Rates within 2 % are one. Raises InputError for a take that cannot be measured.
    """
    groups: dict[Exercise, list[AnyAnalysis]] = {}
    for one in takes:
        exercise, loose = _exercise(one.take), _loose(one.take)
        near = next((known for known in groups if _alike(known, exercise, loose)), exercise)
        groups.setdefault(near, []).append(one)
    return [_cell(exercise, members, metrics) for exercise, members in groups.items()]


def _exercise(take: Take) -> Exercise:
    header = take.header
    name = header.parameters_name or ""
    if header.parameters is not None and not name:
        name = repr(sorted(header.parameters.values.items()))
    return Exercise(header.subject, header.drill or "", name, take.frame_rate)


def _loose(take: Take) -> float:
    """Return the share by which uneven frames leave a take's rate uncertain: 3 standard errors."""
    steps = take.numbers("dt")
    return float(3 * np.std(steps) / (np.mean(steps) * len(steps) ** 0.5))


def _alike(one: Exercise, other: Exercise, loose: float) -> bool:
    return one[:3] == other[:3] and same_rate(one.rate, other.rate, 2 * loose)


def _cell(exercise: Exercise, members: Sequence[AnyAnalysis], metrics: Sequence[Metric]) -> Cell:
    names = [metric.name for metric in metrics]
    measured = [measure(one, names).by_metric() for one in members]
    first = members[0].take.header.parameters
    return Cell(
        exercise=exercise,
        names=[one.take.name for one in members],
        samples={
            metric.name: sample_of(metric, [found[metric.name] for found in measured])
            for metric in metrics
            if metric.name in measured[0]
        },
        inputs=[fingerprint(one.take) for one in members],
        uneven=max(unevenness(one.take) for one in members),
        loose=max(_loose(one.take) for one in members),
        values=dict(first.values) if first is not None else {},
        analyses=members,
        machine=_machine([one.take.header.machine for one in members]),
    )


def _machine(names: Sequence[str | None]) -> str:
    """Return the machine that all takes ran on, or nothing."""
    return (names[0] or "") if len(set(names)) == 1 else ""


def sample_of(metric: Metric, items: Sequence[Measurement]) -> Sample:
    """Return what some takes say of a metric."""
    known = [item for item in items if item.value is not None]
    return Sample(
        metric=metric.name,
        unit=items[0].unit,
        readings=[_reading(metric, item) for item in known],
        reason=(known or items)[0].reason,
    )


def _reading(metric: Metric, item: Measurement) -> Reading:
    names = [name for one in metric.depends for name in (one.name, one.instead)]
    given = item.occurrences.given
    return Reading(
        value=item.value or 0.0,
        resolution=item.resolution or 0.0,
        frame_shift=item.frame_shift,
        values=item.occurrences.value if metric.depends else np.zeros(0),
        given={name: given[name] for name in names if name in given},
    )
