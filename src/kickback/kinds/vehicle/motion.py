"""The motion of a vehicle: speeds in its own frame, how it turns and tilts, and its pedals."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from kickback.kinds.vehicle.pedals import Pedals, read_pedals
from kickback.kinds.vehicle.roles import FORWARD, PITCH, SIDEWAYS, UP, YAW
from kickback.motion.clock import Clock, clock_of
from kickback.motion.grids import printed_grid, shared
from kickback.motion.motion import Motion
from kickback.motion.options import Options
from kickback.motion.prints import Prints
from kickback.motion.segments import BoolArray
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take

__all__ = ["Complexes", "Surface", "VehicleMotion", "join_motions", "read_motion"]

Complexes = npt.NDArray[np.complex128]

_AT_REST = 1e-3
"""Share of the highest speed below which a vehicle rests, where a project says nothing."""

_IN_NOISE = 0.75
"""Share of a fitted speed's noise bound that a resting vehicle may show."""

_MOVES = 4.0
"""Grids that a step must be long for its direction to be that of the vehicle."""

_SURFACES = 4
"""Surfaces that are told apart: those that it drives on most."""

_LEVEL = 0.5
"""Degrees of slope up to which ground is level."""


class Surface(Record, frozen=True, kw_only=True):
    """A word of the column ``surface``, and the frames, shape (n,), on it and on it before."""

    word: str
    on: BoolArray

    @property
    def medium(self) -> str:
        """Return what it is called in the name of a law."""
        return f"on {self.word}"


class VehicleMotion(Motion, frozen=True, kw_only=True):
    """What a vehicle's frames show; arrays of shape (n,), units of the take.

    ``heading``: degrees, without jumps at a full turn, from the column or, where there is none,
    from the path. ``velocity`` over the ground, first axis + i·second, at the frames' ends.
    ``level``: the ground does not slope. ``contact_source`` says where ``grounded`` is from.
    ``surfaces``: what it drives on, the usual one first; none where that is not told or one.
    """

    pedals: Pedals
    heading: FloatArray
    heading_source: str
    place: Complexes
    velocity: Complexes
    grounded: BoolArray
    contact_source: str
    level: BoolArray
    surfaces: tuple[Surface, ...]

    @property
    def sources(self) -> str:
        """Return in words what is recorded of the motion and what is worked out."""
        return (
            f"speed {self.forward.source}, heading {self.heading_source},"
            f" ground contact {self.contact_source}"
        )

    @property
    def forward(self) -> Track:
        """Return the motion along the heading."""
        return self.tracks[FORWARD.name]

    @property
    def sideways(self) -> Track | None:
        """Return the motion across the heading, plus toward growing headings; None if unknown."""
        return self.tracks.get(SIDEWAYS.name)

    @property
    def yaw(self) -> Track | None:
        """Return how the heading changes, degrees; None where it was not recorded."""
        return self.tracks.get(YAW.name)

    @property
    def usual(self) -> BoolArray:
        """Return the frames, shape (n,), on the surface that it drives on most."""
        return self.surfaces[0].on if self.surfaces else np.ones(len(self.t), dtype=bool)

    @property
    def media(self) -> list[tuple[str, BoolArray]]:
        """Return the surfaces by what laws on them are called; one of no name where it is one."""
        found = [(one.medium, one.on) for one in self.surfaces]
        return found or [("", np.ones(len(self.t), dtype=bool))]

    @property
    def driven(self) -> BoolArray:
        """Return the frames, shape (n,), that lie on level ground and on the ground before too."""
        good = self.grounded & self.level
        return np.asarray(good & np.concatenate((good[:1], good[:-1])))


def read_motion(take: Take, clock: Clock, prints: Prints, options: Options) -> VehicleMotion:
    """Read the motion of a stretch without leaps; roles that no column fills have no track."""
    pedals, n = read_pedals(take), len(take)
    found = [axis for axis in ground_axes(take.header) if axis in take]
    place = _complex([take.numbers(axis) for axis in found], n)
    grid = _grid(prints, found)
    own = _Logged.of(take, prints, found, n)
    heading, source = _heading(take, place, grid, pedals)
    along = np.exp(1j * np.deg2rad(heading))
    moved, speed = np.diff(place) * np.conj(along[1:]), own.turned(along)
    segment = pedals.segments(n)

    def track(name: str, way: FloatArray, v: FloatArray | None) -> Track:
        p = np.concatenate(([0.0], np.cumsum(way)))
        column = Column(axis=name, p=p, grid=grid, logged=v, logged_grid=own.grid)
        return axis_track(column, clock, segment)

    forward = track("forward", moved.real, None if speed is None else speed.real)
    tracks = {FORWARD.name: forward}
    if source == "recorded":
        aside = track("sideways", moved.imag, None if speed is None else speed.imag)
        if speed is not None and forward.source == "reported" and aside.source != "reported":
            aside = replace(
                aside, v=speed.imag, tv=clock.t, source="reported", window=0, noise=own.grid / 2
            )
        turned = Column(axis="heading", p=heading, grid=printed_grid(prints, "heading"))
        tracks[YAW.name] = axis_track(turned, clock, segment)
        pace = float(np.max(np.abs(forward.v), initial=0.0))
        off = pace * float(np.deg2rad(turned.grid)) / 2  # what a rounded heading shows as a slide
        tracks[SIDEWAYS.name] = replace(aside, noise=float(np.hypot(aside.noise, off)))
    tracks |= _others(take, clock, prints)
    grounded, contact = _contact(take)
    return VehicleMotion(
        take=take,
        clock=clock,
        options=options,
        tracks=tracks,
        rest_speed=_rest_speed(forward, options.rest_speed),
        pedals=pedals,
        heading=heading,
        heading_source=source,
        place=place,
        velocity=_velocity(tracks, along),
        grounded=grounded,
        contact_source=contact,
        level=_is_level(take, prints),
        surfaces=_surfaces(take),
    )


def _surfaces(take: Take) -> tuple[Surface, ...]:
    """Return the surfaces that the column ``surface`` names, the usual one first."""
    if "surface" not in take:
        return ()
    words = np.asarray(take.columns["surface"]).astype(str)
    named, counts = np.unique(words[words != ""], return_counts=True)
    if len(named) < 2:
        return ()
    found = []
    for word in named[np.argsort(-counts, kind="stable")][:_SURFACES].tolist():
        on = words == word
        found.append(Surface(word=word, on=on & np.concatenate((on[:1], on[:-1]))))
    return tuple(found)


class _Logged(Record, frozen=True, kw_only=True):
    """The game's own velocity over the ground, shape (n,), or None, and what it was rounded to."""

    v: Complexes | None
    grid: float = 0.0

    @classmethod
    def of(cls, take: Take, prints: Prints, axes: Sequence[str], n: int) -> "_Logged":
        names = [f"v{axis}" for axis in axes]
        if not names or any(name not in take for name in names):
            return cls(v=None)
        return cls(v=_complex([take.numbers(name) for name in names], n), grid=_grid(prints, names))

    def turned(self, along: Complexes) -> Complexes | None:
        """Return the velocity in the frame of directions ``along``, shape (n,)."""
        return None if self.v is None else self.v * np.conj(along)


def _complex(parts: Sequence[FloatArray], n: int) -> Complexes:
    out = np.zeros(n, dtype=np.complex128)
    for part, unit in zip(parts, (1, 1j), strict=False):
        out += part * unit
    return out


def _grid(prints: Prints, names: Sequence[str]) -> float:
    """Return the coarsest of what some columns were rounded to."""
    grids = shared({name: prints[name] for name in names})
    return max((max(grids[name], printed_grid(prints, name)) for name in names), default=0.0)


def _heading(take: Take, place: Complexes, grid: float, pedals: Pedals) -> tuple[FloatArray, str]:
    """Return the heading of each frame, degrees without jumps, and where it is from."""
    if take.header.view == "side":
        return np.zeros(len(take)), "along the axis"
    if "heading" in take:
        return np.unwrap(take.numbers("heading"), period=360.0), "recorded"
    step = np.concatenate((np.diff(place)[:1], np.diff(place)))
    moves = np.abs(step) > max(_MOVES * grid, _AT_REST * float(np.max(np.abs(step), initial=0.0)))
    if not moves.any():
        return np.zeros(len(take)), "unknown"
    rows = np.flatnonzero(moves)
    # a vehicle that backs up keeps its heading: directions count without their sign
    angle = np.unwrap(np.rad2deg(np.angle(step[rows])), period=180.0)
    heading = angle[np.clip(np.searchsorted(rows, np.arange(len(take)), "right") - 1, 0, None)]
    if pedals.throttle is not None:
        ahead = (np.diff(place) * np.exp(-1j * np.deg2rad(heading[1:]))).real
        if float(np.sum(ahead * pedals.throttle[1:])) < 0:
            heading = heading + 180.0
    return heading, "from the path"


def _others(take: Take, clock: Clock, prints: Prints) -> dict[str, Track]:
    """Return the tracks of the height and of the tilt, where there are columns for them."""
    alike = np.zeros(len(take), dtype=np.int64)
    up = up_axis(take.header)
    found = {}
    if take.header.view != "top" and up in take:
        v = take.numbers(f"v{up}") if f"v{up}" in take else None
        column = Column(
            axis=up,
            p=take.numbers(up),
            grid=printed_grid(prints, up),
            logged=v,
            logged_grid=0.0 if v is None else printed_grid(prints, f"v{up}"),
        )
        found[UP.name] = axis_track(column, clock, alike)
    if {"pitch", "ground_pitch"} <= set(take.columns):
        tilt = Column(axis="pitch", p=take.numbers("pitch"), grid=printed_grid(prints, "pitch"))
        found[PITCH.name] = axis_track(tilt, clock, alike)
    return found


def _velocity(tracks: dict[str, Track], along: Complexes) -> Complexes:
    """Return the velocity over the ground, shape (n,), of the tracks' speeds."""
    aside = tracks.get(SIDEWAYS.name)
    own = tracks[FORWARD.name].v + (0.0 if aside is None else 1j * aside.v)
    return np.asarray(own * along, dtype=np.complex128)


def _contact(take: Take) -> tuple[BoolArray, str]:
    if "touch_ground" in take:
        return take.numbers("touch_ground") > 0.5, "recorded"
    return np.ones(len(take), dtype=bool), "taken for granted"


def _is_level(take: Take, prints: Prints) -> BoolArray:
    """Return where the ground is level, shape (n,): by its slope, or by the height of a contact."""
    if "ground_pitch" in take:
        return np.asarray(np.abs(take.numbers("ground_pitch")) <= _LEVEL)
    up = up_axis(take.header)
    if take.header.view == "top" or up not in take:
        return np.ones(len(take), dtype=bool)
    height = take.numbers(up)
    ground = [take.numbers(axis) for axis in ground_axes(take.header) if axis in take]
    way = np.sqrt(sum(np.diff(one) ** 2 for one in ground))
    grid = 2 * printed_grid(prints, up)
    rises = np.abs(np.diff(height)) > np.tan(np.deg2rad(_LEVEL)) * way + grid
    return ~np.concatenate((rises[:1], rises))


def _rest_speed(track: Track, wanted: float | None) -> float:
    """Return the speed below which it rests: a share of its highest, or the noise."""
    usual = _AT_REST * float(np.max(np.abs(track.v), initial=0.0))
    return max(usual if wanted is None else wanted, _IN_NOISE * track.noise)


def join_motions(
    take: Take, parts: Sequence[tuple[int, VehicleMotion]], options: Options
) -> VehicleMotion:
    """Lay the motions of stretches end to end, for whoever draws all frames."""
    prints = Prints(take)
    clock = clock_of(take, prints["t"], prints["dt"])
    whole = read_motion(take, clock, prints, options)
    rest = max(one.rest_speed for _, one in parts)
    leaps = np.array([start for start, _ in parts if start], dtype=np.int64)

    def without(track: Track) -> Track:
        v = track.v.copy()
        v[leaps] = np.nan  # the step over a leap is no speed
        return replace(track, v=v)

    tracks = {name: without(track) for name, track in whole.tracks.items()}
    return replace(whole, tracks=tracks, rest_speed=rest)
