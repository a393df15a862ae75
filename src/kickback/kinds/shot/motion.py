"""The motion of a projectile: where it is launched, flies, hits and bounces."""

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from kickback.kinds.shot.roles import ACROSS, ASIDE, SHOT_COLUMN, UP
from kickback.motion.clock import Clock, clock_of
from kickback.motion.grids import printed_grid
from kickback.motion.motion import Motion
from kickback.motion.options import Options
from kickback.motion.pieces import find_breaks
from kickback.motion.prints import Prints
from kickback.motion.segments import BoolArray, IntArray, stretches
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import flipped_columns, ground_axes, up_axis
from kickback.takes.header import Header
from kickback.takes.numeric import median
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take

__all__ = [
    "FEWEST",
    "PAUSED",
    "Arc",
    "Complexes",
    "ShotMotion",
    "join_motions",
    "place_in",
    "read_motion",
    "unread_leaps",
]

Complexes = npt.NDArray[np.complex128]

_AT_REST = 1e-3
"""Share of the highest speed below which it rests, where a project says nothing."""

_IN_NOISE = 0.75
"""Share of a fitted speed's noise bound that a resting projectile may show."""

_SUDDEN = 6.0
"""Times the usual change of the rise in a step from which something was hit."""

_BACK = 0.7
"""Cosine from which a way is straight back."""

_SELDOM = 0.4
"""Share of the frames in which that may be: one launch in two or three frames."""

_FURTHER, _NOWHERE = 2.5, 1e-9
"""Times its speed, and lengths, from which a way in a frame is none of the flight."""

PAUSED = 2.5
"""Usual steps from which the time before a shot's first row is a pause since the last."""

FEWEST = 4
"""Frames of a flight below which it tells nothing."""


class Arc(Record, frozen=True, kw_only=True):
    """A flight: frames ``[start, stop)``, of which the first moved by it, and what ends it.

    ``launched``: it is the first after a launch, not a bounce; ``rested``: it lay still in the
    frame before. ``hits``: something ends it, in frame ``stop``; ``ends``: its rows end with it
    while it falls, before another launch or at the end of a stretch.
    """

    start: int
    stop: int
    launched: bool
    rested: bool
    hits: bool
    ends: bool = False


class ShotMotion(Motion, frozen=True, kw_only=True):
    """What a projectile's frames show; arrays of shape (n,), units of the take.

    ``ground``: where it is over the ground, first axis + i·second; ``drift`` its velocity there.
    ``height`` and ``rise`` are 0 in a view from above. ``fire``: the button, None if unrecorded.
    ``begun``: the frames of all launches, also of those whose flight is too short for an arc.
    """

    ground: Complexes
    drift: Complexes
    height: FloatArray
    rise: FloatArray
    fire: BoolArray | None
    arcs: tuple[Arc, ...]
    begun: tuple[int, ...]

    @property
    def speed(self) -> FloatArray:
        """Return the speed, shape (n,)."""
        return np.asarray(np.hypot(np.abs(self.drift), self.rise))

    @property
    def muzzle(self) -> tuple[complex, float] | None:
        """Return where shots begin by the header, over the ground and its height; None untold."""
        return place_in(self.take.header, self.take.header.extra.get("muzzle"))

    @property
    def floor(self) -> float | None:
        """Return how high the ground lies, upward; None where neither header nor user says."""
        header = self.take.header
        own = self.options.ground
        given: object = header.extra.get("ground") if own is None else own
        if not isinstance(given, int | float) or isinstance(given, bool):
            return None
        return float(given) * (-1.0 if up_axis(header) in flipped_columns(header) else 1.0)

    @property
    def flies(self) -> bool:
        """Whether there is a height, so that gravity may act."""
        return UP.name in self.tracks

    @property
    def plain(self) -> Sequence[Track]:
        """Return the tracks of the places, the ground's first."""
        return [self.tracks[role.name] for role in (ACROSS, ASIDE, UP) if role.name in self.tracks]

    @property
    def quantum(self) -> float:
        """Return what places are rounded to at most."""
        return max((track.quantum for track in self.plain), default=0.0)


def place_in(header: Header, given: object) -> tuple[complex, float] | None:
    """Return a place given in the order of the log's axes, over the ground and its height; or None.

    Where the log's axis goes down its sign is turned, as that of positions is.
    """
    axes, up = ground_axes(header), up_axis(header)
    names = list(axes) if header.view == "top" else sorted({*axes, up})
    if not isinstance(given, list | tuple) or len(given) != len(names):
        return None
    if not all(isinstance(one, int | float) for one in given):
        return None
    place = dict(zip(names, (float(one) for one in given), strict=True))
    place[up] *= -1.0 if up in flipped_columns(header) else 1.0
    ground = complex(place[axes[0]], place[axes[1]] if len(axes) > 1 else 0.0)
    return ground, 0.0 if header.view == "top" else place[up]


def unread_leaps(take: Take) -> IntArray:
    """Return the frames, shape (k,), that part stretches: leaps, and shots that are other ones.

    None where the log has all speeds: these tell a launch from a flight.
    """
    axes = [axis for axis in ("x", "y", "z") if axis in take]
    if all(f"v{axis}" in take for axis in axes):
        return np.zeros(0, dtype=np.int64)
    return np.union1d(find_breaks(take), np.flatnonzero(_other_shot(take)))


def _other_shot(take: Take) -> BoolArray:
    """Return the frames, shape (n,), that are of another shot than the one before."""
    if SHOT_COLUMN not in take.columns:
        return np.zeros(len(take), dtype=bool)
    shot = take.columns[SHOT_COLUMN]
    return np.concatenate(([False], shot[1:] != shot[:-1]))


def read_motion(take: Take, clock: Clock, prints: Prints, options: Options) -> ShotMotion:
    """Read the motion of a stretch without leaps; roles that no column fills have no track."""
    n = len(take)
    alike = np.zeros(n, dtype=np.int64)
    names = [*zip((ACROSS, ASIDE), ground_axes(take.header), strict=False)]
    if take.header.view != "top":
        names.append((UP, up_axis(take.header)))
    tracks = {
        role.name: _track(take, clock, prints, axis, alike) for role, axis in names if axis in take
    }
    ground, drift = np.zeros(n, dtype=np.complex128), np.zeros(n, dtype=np.complex128)
    for role, unit in ((ACROSS, 1.0), (ASIDE, 1j)):
        if role.name in tracks:
            ground += unit * tracks[role.name].p
            drift += unit * tracks[role.name].v
    up = tracks.get(UP.name)
    height, rise = (np.zeros(n), np.zeros(n)) if up is None else (up.p, up.v)
    speed = np.hypot(np.abs(drift), rise)
    rest = _rest_speed(speed, list(tracks.values()), options.rest_speed)
    touch = take.numbers("touch_ground") > 0.5 if "touch_ground" in take else None
    again = _again(list(tracks.values()), rest, n) | _far(ground, drift, height, rise, clock)
    again |= _other_shot(take)
    arcs, begun = _arcs(_Path(speed, rise, touch, again), rest, flies=up is not None)
    return ShotMotion(
        take=take,
        clock=clock,
        options=options,
        tracks=tracks,
        rest_speed=rest,
        ground=ground,
        drift=drift,
        height=height,
        rise=rise,
        fire=take.numbers("in_fire") > 0.5 if "in_fire" in take else None,
        arcs=arcs,
        begun=begun,
    )


def _track(take: Take, clock: Clock, prints: Prints, axis: str, alike: IntArray) -> Track:
    v = take.numbers(f"v{axis}") if f"v{axis}" in take else None
    column = Column(
        axis=axis,
        p=take.numbers(axis),
        grid=printed_grid(prints, axis),
        logged=v,
        logged_grid=0.0 if v is None else printed_grid(prints, f"v{axis}"),
    )
    return axis_track(column, clock, alike)


def _rest_speed(speed: FloatArray, tracks: Sequence[Track], wanted: float | None) -> float:
    usual = _AT_REST * float(np.max(speed, initial=0.0))
    noise = max((track.noise for track in tracks), default=0.0)
    return max(usual if wanted is None else wanted, _IN_NOISE * noise)


class _Path(NamedTuple):
    """Where it goes, arrays of shape (n,): speed, rise, and whether it lies on the ground.

    ``again``: whether it leaps back, or further than its speed brings it: another launch.
    """

    speed: FloatArray
    rise: FloatArray
    touch: BoolArray | None
    again: BoolArray


def _arcs(path: _Path, rest: float, *, flies: bool) -> tuple[tuple[Arc, ...], tuple[int, ...]]:
    """Return the flights of a stretch, and the frames of all launches."""
    moving, touch = path.speed > rest, path.touch
    hits = _hits(path.rise, moving, flies=flies) & ~path.again
    if touch is not None:
        hits |= touch & ~np.concatenate((touch[:1], touch[:-1]))
    found: list[Arc] = []
    begun: list[int] = []
    for a, b in stretches(moving, 1):
        begins = {a, *(np.flatnonzero(path.again[a + 1 : b]) + a + 1).tolist()}
        begun += sorted(begins)
        edges = sorted({*begins, *(np.flatnonzero(hits[a + 1 : b]) + a + 1).tolist(), b})
        for start, stop in itertools.pairwise(edges):
            rolls = touch is not None and bool(touch[start:stop].mean() > 0.5)
            if stop - start >= FEWEST and not rolls:
                launched = start in begins
                ended = stop < len(moving) and stop not in begins
                falls = flies and bool(path.rise[stop - 1] < 0)
                found.append(
                    Arc(
                        start=int(start),
                        stop=int(stop),
                        launched=launched,
                        rested=start == a and a > 0 and not path.again[a],
                        hits=ended,
                        ends=falls and not ended,
                    )
                )
    return tuple(found), tuple(begun)


def _far(
    ground: Complexes, drift: Complexes, height: FloatArray, rise: FloatArray, clock: Clock
) -> BoolArray:
    """Return the frames, shape (n,), to which no speed beside brings it: another launch's.

    Before one there may be a pause, in which nothing flies.
    """

    def mean(v: Complexes | FloatArray) -> Complexes:
        return np.asarray((v + np.concatenate((v[:1], v[:-1]))) / 2 * clock.step)

    off = np.hypot(
        np.abs(np.diff(ground, prepend=ground[0]) - mean(drift)),
        np.abs(np.diff(height, prepend=height[0]) - mean(rise)),
    )
    speed = np.hypot(np.abs(drift), rise)
    fastest = np.maximum(speed, np.concatenate((speed[:1], speed[:-1])))
    far = off > _FURTHER * fastest * np.minimum(clock.step, _FURTHER * clock.usual) + _NOWHERE
    return np.asarray(far & (np.arange(len(off)) > 0))


def _again(tracks: Sequence[Track], rest: float, n: int) -> BoolArray:
    """Return the frames, shape (n,), in which a flight leaps back: another launch.

    None where no speeds were logged, or where they go against the places all the time.
    """
    logged = [(np.diff(one.p), one.logged) for one in tracks if one.logged is not None]
    none = np.zeros(n, dtype=bool)
    if len(logged) < len(tracks) or not tracks:
        return none
    size = np.sqrt(sum(way**2 for way, _ in logged))

    def back(at: slice) -> BoolArray:
        along = sum(way * v[at] for way, v in logged)
        pace = np.sqrt(sum(v[at] ** 2 for _, v in logged))
        return np.asarray((pace > rest) & (along < -_BACK * size * pace))

    found = np.concatenate(([False], back(slice(None, -1)) & back(slice(1, None))))
    return found if np.count_nonzero(found) <= _SELDOM * len(size) else none


def _hits(rise: FloatArray, moving: BoolArray, *, flies: bool) -> BoolArray:
    """Return the frames in which a fall turns round, or ends, all of a sudden, shape (n,)."""
    none = np.zeros(len(rise), dtype=bool)
    if not flies or np.count_nonzero(moving) < FEWEST:
        return none
    change = np.diff(rise, prepend=rise[0])
    usual = median(np.abs(change[moving])) if moving.any() else 0.0
    before = np.concatenate((rise[:1], rise[:-1]))
    return (change > _SUDDEN * max(usual, 1e-12)) & (before < 0)


def join_motions(
    take: Take, parts: Sequence[tuple[int, ShotMotion]], options: Options
) -> ShotMotion:
    """Lay the motions of stretches end to end, for whoever draws all frames."""
    prints = Prints(take)
    whole = read_motion(take, clock_of(take, prints["t"], prints["dt"]), prints, options)
    arcs = tuple(
        replace(arc, start=arc.start + start, stop=arc.stop + start)
        for start, one in parts
        for arc in one.arcs
    )
    rest = max(one.rest_speed for _, one in parts)
    tracks = dict(whole.tracks)
    for name, track in whole.tracks.items():
        v = track.v.copy()
        for start, one in parts:
            if name in one.tracks:
                v[start : start + len(one.t)] = one.tracks[name].v
        tracks[name] = replace(track, v=v)
    begun = tuple(row + start for start, one in parts for row in one.begun)
    return replace(whole, arcs=arcs, begun=begun, rest_speed=rest, tracks=tracks)
