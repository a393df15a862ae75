"""A take's labels: their stretches, the speeds beside them, and the thresholds that they follow."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from kickback.motion.clock import Clock
from kickback.motion.motion import Motion
from kickback.motion.prints import Prints
from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import ground_axes
from kickback.takes.record import Record
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray, Take
from kickback.takes.tolerances import ARITHMETIC

__all__ = [
    "STATE",
    "Labels",
    "Stretch",
    "Threshold",
    "after_contact",
    "labels_of",
    "state_tracks",
    "thresholds_of",
]

STATE = Role(name="state", missing="no state was recorded")

_FEWEST = 2
"""Changes between two labels that tell a threshold."""

_SEVERAL = 3
"""Changes between them that all follow a contact by as many frames, and not by chance."""

_LATEST = 6
"""Frames by which labels may follow a speed."""

_UNLIKE = 0.5
"""Share by which the paces of changes must differ to tell a late label."""


class Stretch(NamedTuple):
    """Frames ``[start, stop)`` under one label."""

    name: str
    start: int
    stop: int


class Labels(Record, frozen=True, kw_only=True):
    """Labels by frame, as text, shape (n,), their stretches, and the speed beside them."""

    names: "npt.NDArray[np.str_]"
    stretches: tuple[Stretch, ...]
    speed: FloatArray
    grid: float

    @property
    def known(self) -> list[str]:
        """Return the labels that occur, in the order in which they do first."""
        return list(dict.fromkeys(one.name for one in self.stretches))


class Threshold(Record, frozen=True, kw_only=True):
    """The speed at which one label gives way to another: it lies between ``low`` and ``high``.

    ``late``: by how many frames the label follows; ``rising``: it is reached from below. ``alike``:
    all changes came about the same way, so that a late label cannot be told from another speed.
    """

    slow: str
    fast: str
    rising: bool
    low: float
    high: float
    late: int
    changes: int
    alike: bool = False

    @property
    def value(self) -> float:
        """Return the middle of what it lies between."""
        return (self.low + self.high) / 2


def state_tracks(take: Take, clock: Clock, prints: Prints) -> dict[str, Callable[[], Track]]:
    """Return the labels as a track of numbers, where a take has labels."""
    del prints

    def numbered() -> Track:
        _, codes = np.unique(np.asarray(take.columns["state"]).astype(str), return_inverse=True)
        column = Column(axis="state", p=codes.astype(np.float64), grid=0.0)
        return axis_track(column, clock, np.zeros(len(take), dtype=np.int64))

    return {STATE.name: numbered} if "state" in take else {}


def labels_of(motion: Motion) -> Labels:
    """Return the labels of a motion's frames."""
    names = np.asarray(motion.take.columns["state"]).astype(str)
    starts, stops = runs(names)
    found = tuple(
        Stretch(str(names[a]), a, b) for a, b in zip(starts.tolist(), stops.tolist(), strict=True)
    )
    speed, grid = _speed(motion)
    return Labels(names=names, stretches=found, speed=speed, grid=grid)


def _speed(motion: Motion) -> tuple[FloatArray, float]:
    """Return the speed over the ground at the frames' ends, shape (n,), and what it rounds to."""
    ground = set(ground_axes(motion.take.header))
    # a track along the way over a plane is of both axes
    tracks = [track for track in motion.tracks.values() if set(track.axis) <= ground]
    if not tracks:
        tracks = [track for name, track in motion.tracks.items() if name == "forward"]
    if not tracks:
        return np.zeros(len(motion.t)), 0.0
    size = np.sqrt(sum((track.v * track.v for track in tracks), np.zeros(len(motion.t))))
    return np.asarray(size), max(track.noise for track in tracks)


def thresholds_of(labels: Labels) -> list[Threshold]:
    """Return the speeds that changes between pairs of labels follow, as far as they are told."""
    told = (_threshold(labels, *pair, rows) for pair, rows in _changes(labels).items())
    return [one for one in told if one is not None]


def _changes(labels: Labels) -> dict[tuple[str, str], IntArray]:
    """Return the frames in which one label gives way to another, shape (k,), by both."""
    pairs: dict[tuple[str, str], list[int]] = {}
    for one, other in zip(labels.stretches, labels.stretches[1:], strict=False):
        pairs.setdefault((one.name, other.name), []).append(other.start)
    return {pair: np.array(rows) for pair, rows in pairs.items()}


def after_contact(labels: Labels, ground: BoolArray) -> dict[tuple[str, str], int]:
    """Return by how many frames labels follow the ground contact, shape (n,), by pairs of them.

    Of those that do so alike after every takeoff, or every landing, that they come with; a label
    that gives way to a second one, as that of a landing, was in time by the first.
    """
    began = {one.stop: one.start for one in labels.stretches}
    turns = np.diff(ground.astype(np.int64), prepend=int(ground[0]))
    found = {}
    for pair, rows in _changes(labels).items():
        for way in (-1, 1):
            at = np.flatnonzero(turns == way)
            last = np.searchsorted(at, rows, side="right") - 1
            if len(rows) < _SEVERAL or np.any(last < 0):
                continue
            if any(began[row] >= at[k] for row, k in zip(rows.tolist(), last, strict=True)):
                continue
            late = rows - at[last]
            if np.ptp(late) == 0 and late[0] <= _LATEST:
                found[pair] = int(late[0])
    return found


def _threshold(labels: Labels, one: str, other: str, rows: IntArray) -> Threshold | None:
    """Return the speed at which a label gives way to another, with how late it does."""
    speed = labels.speed
    slack = 2 * labels.grid + ARITHMETIC * float(np.max(speed, initial=0.0))
    for late in range(_LATEST + 1):
        at = rows[rows - late >= 1] - late
        if len(at) < _FEWEST:
            return None
        before, after = speed[at - 1], speed[at]
        for rising in (True, False):
            low, high = (before, after) if rising else (after, before)
            if np.all(high > low) and float(np.max(low)) <= float(np.min(high)) + slack:
                slow, fast = (one, other) if rising else (other, one)
                ends = sorted((float(np.max(low)), float(np.min(high))))
                alike = not _varies(low, high)
                if alike and late:
                    return None
                return Threshold(
                    slow=slow,
                    fast=fast,
                    rising=rising,
                    low=ends[0],
                    high=ends[1],
                    late=late,
                    changes=len(at),
                    alike=alike,
                )
    return None


def _varies(low: FloatArray, high: FloatArray) -> bool:
    """Whether speeds changed at different paces: else any frame near a change would do as well."""
    pace = high - low
    return float(np.ptp(pace)) > _UNLIKE * float(np.max(pace))


def durations(labels: Labels, t: FloatArray, begin: FloatArray) -> Sequence[tuple[str, float]]:
    """Return each label with how long it was shown in all, s, the longest first."""
    total: dict[str, float] = {}
    for one in labels.stretches:
        lasted = float(t[one.stop - 1] - begin[one.start])
        total[one.name] = total.get(one.name, 0.0) + lasted
    return sorted(total.items(), key=lambda item: -item[1])
