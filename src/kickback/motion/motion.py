"""A motion: the tracks of a stretch of frames on its clock; phases and events along it."""

from collections.abc import Mapping
from typing import Protocol, TypeAlias

from kickback.motion.clock import Clock
from kickback.motion.options import Options
from kickback.motion.tracks import Track
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["Event", "Motion", "OfMotion", "Phase", "Scene", "motion_in"]


class Phase(Record, frozen=True, kw_only=True):
    """A stretch of frames ``[start, stop)`` in which the subject does one thing on a track."""

    track: str
    name: str
    start: int
    stop: int
    inferred: bool


class Event(Record, frozen=True, kw_only=True):
    """One instant: ``time`` in s, ``frame`` the first that shows it."""

    name: str
    time: float
    frame: int
    inferred: bool


class Motion(Record, frozen=True, kw_only=True, weakref=True):
    """What a stretch of frames shows, for any kind of subject; units of the take.

    ``tracks`` are by role; a role that the columns do not fill is not among them.
    ``rest_speed``, length/s: below it the subject rests.
    """

    take: Take
    clock: Clock
    options: Options
    tracks: Mapping[str, Track]
    rest_speed: float

    @property
    def sources(self) -> str:
        """Return in words what is recorded of the motion and what is worked out."""
        found = [f"{name} {track.source}" for name, track in self.tracks.items()]
        return ", ".join(found) or "nothing"

    @property
    def t(self) -> FloatArray:
        """Return the end of each frame on the wall clock, shape (n,), s."""
        return self.clock.t

    @property
    def begin(self) -> FloatArray:
        """Return the start of each frame's update, where its input was read, shape (n,), s."""
        return self.clock.begin

    @property
    def step(self) -> FloatArray:
        """Return how long each frame lasts on the wall clock, shape (n,), s."""
        return self.clock.step

    @property
    def dt(self) -> FloatArray:
        """Return the step that the game used, shape (n,), s."""
        return self.clock.dt

    @property
    def time_grid(self) -> float:
        """Return what times are rounded to, s, or 0."""
        return self.clock.grid


class OfMotion(Protocol):
    """A scene of a kind that is made of a motion."""

    @property
    def motion(self) -> Motion:
        """Return the motion that it is of."""


Scene: TypeAlias = Motion | OfMotion
"""What metrics of any kind look at."""


def motion_in(scene: Scene) -> Motion:
    """Return the motion that a scene of any kind is of."""
    return scene if isinstance(scene, Motion) else scene.motion
