"""What measuring gives: occurrences of a metric, and the flat record made of them."""

from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from kickback.motion.segments import BoolArray
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import Unit
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

if TYPE_CHECKING:
    from pandas import DataFrame

__all__ = ["Measurement", "Measurements", "Occurrences", "joined", "none"]

_FIELDS = (
    "take",
    "subject",
    "parameters",
    "frame_rate",
    "metric",
    "value",
    "unit",
    "resolution",
    "n",
    "reason",
)


class Occurrences(Record, frozen=True, kw_only=True):
    """A metric's occurrences in one take, arrays of shape (k,).

    ``start`` and ``end`` are times, s. ``resolution`` is how well each value is located;
    ``frame_shift`` how much it would move if everything happened a frame later. ``reason``
    says why there are none; ``remark`` what to know about those there are; ``why`` of each that
    is left out of the median what interrupts it. ``given`` holds, of each occurrence, what the
    metric depends on, by name.
    """

    value: FloatArray
    start: FloatArray
    end: FloatArray
    resolution: FloatArray
    frame_shift: FloatArray
    reason: str = ""
    remark: str = ""
    why: tuple[str, ...] = ()
    given: Mapping[str, FloatArray] = {}

    def only(self, keep: BoolArray, remark: str = "") -> "Occurrences":
        """Return the occurrences that a mask of shape (k,) keeps."""
        return Occurrences(
            value=self.value[keep],
            start=self.start[keep],
            end=self.end[keep],
            resolution=self.resolution[keep],
            frame_shift=self.frame_shift[keep],
            reason=self.reason,
            remark=remark or self.remark,
            given={name: array[keep] for name, array in self.given.items()},
        )


def none(reason: str) -> Occurrences:
    """Return no occurrence, with the reason."""
    empty = np.zeros(0)
    return Occurrences(
        value=empty, start=empty, end=empty, resolution=empty, frame_shift=empty, reason=reason
    )


def joined(parts: Sequence[Occurrences]) -> Occurrences:
    """Return the occurrences of a take's pieces as one."""
    if len(parts) == 1:
        return parts[0]
    first = next((part for part in parts if len(part.value)), parts[0])
    return Occurrences(
        value=np.concatenate([part.value for part in parts]),
        start=np.concatenate([part.start for part in parts]),
        end=np.concatenate([part.end for part in parts]),
        resolution=np.concatenate([part.resolution for part in parts]),
        frame_shift=np.concatenate([part.frame_shift for part in parts]),
        reason=first.reason,
        remark=first.remark,
        given=_given(parts, first) if len(first.value) else {},
    )


def _given(parts: Sequence[Occurrences], first: Occurrences) -> dict[str, FloatArray]:
    """Return what is given with the occurrences of several pieces, of which ``first`` has some."""
    having = [part for part in parts if len(part.value)]
    return {name: np.concatenate([part.given[name] for part in having]) for name in first.given}


def _each(shown: Occurrences, n: int, by: str) -> list[PlainDict]:
    """Return what is particular to the record of each occurrence; ``n``: whether it counts."""
    speeds = shown.given.get(by)
    return [
        {
            "value": float(shown.value[k]),
            "resolution": float(shown.resolution[k]),
            "n": n,
            "start": float(shown.start[k]),
            "end": float(shown.end[k]),
            "at_speed": None if speeds is None else float(speeds[k]),
        }
        for k in range(len(shown.value))
    ]


class Measurement(Record, frozen=True, kw_only=True):
    """One metric of one take: the median over its occurrences, or None with a reason.

    ``spread`` is largest less smallest occurrence; ``frame_shift`` what one frame more or
    less would change. Where there is a value, ``reason`` may still hold a remark.
    ``ideal_resolution`` is what ``resolution`` would be without the ``doubts``: what is
    rounded or missing in the log; None where they do not widen it. ``left_out`` are the
    occurrences that something interrupts: they are none of the ``n``. ``tries`` are those on
    either side of a window, which several takes narrow together. ``detail``: text leaves it out
    unless it is asked for. ``clock``: whose time
    durations are in, ``wall`` or ``game``. ``by``: the key of the speed that its occurrences go
    with, among what is given with them.
    """

    take: str
    subject: str
    parameters: str | None
    frame_rate: float
    group: str
    metric: str
    value: float | None
    unit: Unit
    resolution: float | None
    n: int
    reason: str | None
    spread: float = 0.0
    frame_shift: float = 0.0
    ideal_resolution: float | None = None
    doubts: tuple[str, ...] = ()
    occurrences: Occurrences
    left_out: Occurrences = none("")
    tries: Occurrences | None = None
    detail: bool = False
    clock: str = "wall"
    by: str = ""

    def to_record(self) -> PlainDict:
        """Return the flat record that other tools read; its reason says what widens it."""
        record = {key: getattr(self, key) for key in _FIELDS}
        record["unit"] = str(self.unit)
        if self.ideal_resolution is not None:
            wide = f"resolution wider than {self.ideal_resolution:.3g} {self.unit}: "
            parts = [self.reason] if self.reason else []
            record["reason"] = "; ".join([*parts, wide + ", ".join(self.doubts)])
        return record

    def to_each(self) -> list[PlainDict]:
        """Return a record for each occurrence, with its times and the speed it was played at."""
        base = self.to_record()
        rows = [{**base, **row} for row in _each(self.occurrences, 1, self.by)]
        rows += [
            {**base, **row, "reason": f"left out: {why}"}
            for row, why in zip(_each(self.left_out, 0, self.by), self.left_out.why, strict=True)
        ]
        return rows or [{**base, "start": None, "end": None, "at_speed": None}]


class Measurements(Record, frozen=True, kw_only=True):
    """The measurements of one or more takes, in the catalogue's order."""

    rows: Sequence[Measurement]

    def __iter__(self) -> Iterator[Measurement]:
        """Iterate over the measurements."""
        return iter(self.rows)

    def __len__(self) -> int:
        """Return the number of measurements."""
        return len(self.rows)

    def __getitem__(self, metric: str) -> Measurement:
        """Return the first take's measurement of a metric; KeyError where there is none."""
        for row in self.rows:
            if row.metric == metric:
                return row
        raise KeyError(metric)

    def by_metric(self) -> Mapping[str, Measurement]:
        """Return metric → measurement, for the measurements of one take."""
        return {row.metric: row for row in self.rows}

    def to_records(self, *, each: bool = False) -> list[PlainDict]:
        """Return flat records: one a metric and take, or one an occurrence."""
        if each:
            return [record for row in self.rows for record in row.to_each()]
        return [row.to_record() for row in self.rows]

    def to_frame(self, *, each: bool = False) -> "DataFrame":
        """Return the records as a pandas table."""
        from kickback.takes.frames import data_frame

        return data_frame(self.to_records(each=each))
