"""What is drawn of a motion, for any kind of subject; how it looks is not said here."""

from collections.abc import Sequence

from kickback.motion.motion import Event, Motion
from kickback.takes.quantities import Unit
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "Arrow",
    "Curve",
    "Gauge",
    "Ground",
    "Marks",
    "Now",
    "Path",
    "Paths",
    "Picture",
    "Points",
    "Strip",
    "plain_now",
    "plain_picture",
]


class Marks(Record, frozen=True, kw_only=True):
    """Where events of one name lie on a curve: times, s, and values, arrays of shape (k,)."""

    name: str
    t: FloatArray
    y: FloatArray


class Curve(Record, frozen=True, kw_only=True):
    """A quantity over time, arrays of shape (n,); the phases of ``role`` go with it.

    ``beside`` is what it is held against, drawn with it; ``names`` say which of both is which.
    A ``strip`` is drawn low.
    """

    label: str
    role: str
    t: FloatArray
    y: FloatArray
    unit: Unit | None = None
    marks: Sequence[Marks] = ()
    beside: FloatArray | None = None
    names: tuple[str, str] = ("", "")
    strip: bool = False


class Strip(Record, frozen=True, kw_only=True):
    """An input over the frames, shape (n,): from −1 to 1."""

    name: str
    values: FloatArray


class Path(Record, frozen=True, kw_only=True):
    """One movement from where it begins, arrays of shape (k,): times, s, and two lengths.

    ``top`` is the index of the point that stands out.
    """

    t: FloatArray
    x: FloatArray
    y: FloatArray
    top: int


class Paths(Record, frozen=True, kw_only=True):
    """The movements that are laid over each other, and the words that go with them.

    ``one`` names one of them, ``many`` all; ``begin`` the event that they begin with, ``top``
    that of the point that stands out. ``limit``: what none of them can go beyond, two lengths,
    shape (k,) each; ``aim``: a place that they are meant for.
    """

    one: str
    many: str
    begin: str
    top: str
    x: str
    y: str
    items: Sequence[Path]
    limit: tuple[FloatArray, FloatArray] | None = None
    aim: tuple[float, float] | None = None


class Arrow(Record, frozen=True, kw_only=True):
    """A direction that was pressed at a place; of size 1 for a full press."""

    x: float
    y: float
    dx: float
    dy: float


class Ground(Record, frozen=True, kw_only=True):
    """The way over the ground, arrays of shape (n,): two lengths, and the speed along it.

    ``across`` and ``along`` name the axes; ``arrows`` are directions at places of it, such as
    what was pressed, in ``words``.
    """

    x: FloatArray
    y: FloatArray
    speed: FloatArray
    unit: Unit
    across: str
    along: str
    arrows: Sequence[Arrow] = ()
    words: str = "presses as arrows"


class Points(Record, frozen=True, kw_only=True):
    """One quantity over another, arrays of shape (k,): a point an occurrence, in order of ``x``.

    A ``line`` is drawn as it comes, without points, and parts where a number is NaN.
    """

    title: str
    x_label: str
    y_label: str
    x: FloatArray
    y: FloatArray
    line: bool = False


class Picture(Record, frozen=True, kw_only=True):
    """What is drawn of a motion: curves, the one that tells most first, inputs, and movements.

    ``ground`` is the way over a plane, ``turns`` are movements over it, ``points`` a quantity over
    another. ``still`` are the phases in which nothing happens; ``stands_on`` says what the motion
    was worked out from.
    """

    curves: Sequence[Curve]
    inputs: Sequence[Strip] = ()
    paths: Paths | None = None
    ground: Ground | None = None
    turns: Paths | None = None
    points: Points | None = None
    still: frozenset[str] = frozenset()
    stands_on: str = ""


def plain_picture(motion: Motion, _events: Sequence[Event]) -> Picture:
    """Return what can be drawn of any motion: the positions of its tracks."""
    return Picture(
        curves=[
            Curve(label=role, role=role, t=motion.t, y=track.p)
            for role, track in motion.tracks.items()
        ]
    )


class Gauge(Record, frozen=True, kw_only=True):
    """A value at the last frame, and what it is of."""

    label: str
    value: float
    unit: Unit | None = None


class Now(Record, frozen=True, kw_only=True):
    """A subject at its last frame; ``trail``: where it was of late, oldest first, two lengths."""

    gauges: Sequence[Gauge]
    trail: Sequence[tuple[float, float]] = ()


def plain_now(motion: Motion, _seconds: float) -> Now:
    """Return what can be told of any motion's last frame: the positions of its tracks."""
    return Now(
        gauges=[
            Gauge(label=role, value=float(track.p[-1])) for role, track in motion.tracks.items()
        ]
    )
