"""The motion of a character on foot: speeds, contact, inputs, flights and dashes."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.foot.contact import cleaned_contact, inferred_contact
from kickback.kinds.foot.dashes import Dashes, find_dashes
from kickback.kinds.foot.flights import Flights, find_flights
from kickback.kinds.foot.footing import Footing, read_footing
from kickback.kinds.foot.inputs import Inputs, infer_move, input_segments, recorded_inputs
from kickback.kinds.foot.plane import (
    Plane,
    along_track,
    aside_track,
    held_codes,
    moves_along,
    read_plane,
    stick_of,
)
from kickback.kinds.foot.roles import ACROSS, ASIDE, UP
from kickback.kinds.foot.steering import Complexes
from kickback.motion.clock import Clock
from kickback.motion.grids import printed_grid, shared
from kickback.motion.motion import Motion
from kickback.motion.options import Options
from kickback.motion.prints import Prints
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.record import replace
from kickback.takes.take import FloatArray, Take

__all__ = ["FootMotion", "read_motion"]


_AT_REST = 1e-3
"""Share of the highest speed below which a subject rests, where a project says nothing."""

_IN_NOISE = 0.75
"""Share of a fitted speed's noise bound that a resting subject may show."""


class FootMotion(Motion, frozen=True, kw_only=True):
    """What a character's frames show; arrays of shape (n,), units of the take.

    ``plane`` is the ground of two axes, None where it has one: then there is but one line.
    ``contact_source`` says where ``grounded`` is from: ``recorded``, ``inferred`` or ``none``.
    """

    inputs: Inputs
    grounded: BoolArray
    contact_source: str
    flights: Flights
    dashes: Dashes
    footing: Footing
    plane: Plane | None = None

    @property
    def sources(self) -> str:
        """Return in words what is recorded of the motion and what is worked out."""
        speed = self.across.source if self.across is not None else "none"
        known = f"speed {speed}, ground contact {self.contact_source}, inputs {self.inputs.source}"
        return known if self.plane is None else f"{known}; {self.plane.axes.words}"

    @property
    def before(self) -> FloatArray:
        """Return the speed before each frame along that frame's line, shape (n,)."""
        if self.plane is not None:
            return self.plane.before
        track = self.across
        v = np.zeros_like(self.t) if track is None else track.v
        return np.concatenate((v[:1], v[:-1]))

    @property
    def straight(self) -> BoolArray:
        """Return which frames begin and end along their line, shape (n,)."""
        return self.plane.straight if self.plane is not None else np.ones(len(self.t), dtype=bool)

    @property
    def entered(self) -> BoolArray:
        """Return which frames are entered along their line, shape (n,)."""
        return self.plane.entered if self.plane is not None else np.ones(len(self.t), dtype=bool)

    @property
    def size(self) -> FloatArray:
        """Return the speed over the ground whichever way it goes, shape (n,)."""
        if self.plane is not None:
            return self.plane.size
        return np.zeros_like(self.t) if self.across is None else np.abs(self.across.v)

    @property
    def over_ground(self) -> Sequence[Track]:
        """Return the motion along each axis of the ground."""
        return _over(self.across, self.plane)

    @property
    def by_column(self) -> Sequence[Track]:
        """Return the motion along each axis that has a column of its own."""
        return (*self.over_ground, *(() if self.up is None else (self.up,)))

    @property
    def velocity(self) -> Complexes:
        """Return the velocity over the ground, shape (n,): first axis + i·second."""
        if self.plane is not None:
            return self.plane.velocity
        v = np.zeros_like(self.t) if self.across is None else self.across.v
        return np.asarray(v + 0j, dtype=np.complex128)

    @property
    def place(self) -> Complexes:
        """Return where it is on the ground, shape (n,): first axis + i·second."""
        axes = [track.p for track in self.over_ground] or [np.zeros_like(self.t)]
        return np.asarray(axes[0] + 1j * axes[1] if len(axes) > 1 else axes[0] + 0j)

    @property
    def wanted(self) -> Complexes:
        """Return the direction on the ground that the input points in, shape (n,), 0 for none."""
        if self.plane is not None and self.inputs.source == "recorded":
            return self.plane.wanted
        line = 1.0 if self.plane is None else self.plane.line
        return np.asarray(np.sign(self.inputs.move) * line + 0j)

    @property
    def amount(self) -> FloatArray:
        """Return how far a recorded stick is pressed, 0 to 1, shape (n,)."""
        if self.plane is not None:
            return np.minimum(np.abs(self.plane.wanted), 1.0)
        return np.abs(self.take.numbers("in_move_x"))

    def toward(self, rows: IntArray, way: FloatArray) -> IntArray:
        """Return a number for each direction, ``way`` ±1 along the lines of frames, shape (k,)."""
        if self.plane is not None:
            return self.plane.sector(rows, way)
        return np.sign(way).astype(np.int64)

    @property
    def across(self) -> Track | None:
        """Return the sideways motion, None where the take has no sideways position."""
        return self.tracks.get(ACROSS.name)

    @property
    def up(self) -> Track | None:
        """Return the vertical motion, None where the take has no height."""
        return self.tracks.get(UP.name)

    @property
    def touches_side(self) -> BoolArray:
        """Return which frames touch a wall, shape (n,): none where no column tells."""
        if "touch_side" not in self.take:
            return np.zeros(len(self.t), dtype=bool)
        touches: BoolArray = self.take.numbers("touch_side") > 0.5
        return touches

    @property
    def dashing(self) -> BoolArray:
        """Return which frames a dash moves, shape (n,)."""
        return self.dashes.mask(len(self.t))


def read_motion(take: Take, clock: Clock, prints: Prints, options: Options) -> FootMotion:
    """Work out the motion of a stretch of frames without leaps."""
    inputs = recorded_inputs(take)
    vertical = up_axis(take.header) if take.header.view != "top" else ""
    grids = _grids(take, prints, (*ground_axes(take.header), *vertical))
    columns = {axis: _column(take, axis, grid, prints) for axis, grid in grids.items()}
    up = None
    if vertical in columns:
        up = axis_track(columns[vertical], clock, np.zeros(len(take), dtype=np.int64))
    ground = [columns[axis] for axis in ground_axes(take.header) if axis in columns]
    if len(ground_axes(take.header)) == 1:
        across, inputs = _on_a_line(ground, inputs, clock, options)
        plane = aside = None
    else:
        across, inputs, plane = _on_a_plane(take, ground, inputs, clock, options)
        aside = aside_track(plane, across)
    grounded, contact_source = _contact(take, up, clock.t)
    y = up.p if up is not None else np.zeros_like(clock.t)
    rest_speed = _rest_speed(across, options.rest_speed)
    return FootMotion(
        take=take,
        clock=clock,
        options=options,
        tracks={
            role.name: track
            for role, track in ((ACROSS, across), (ASIDE, aside), (UP, up))
            if track is not None
        },
        rest_speed=rest_speed,
        footing=read_footing(take, grounded, up, _over(across, plane), rest_speed),
        inputs=inputs,
        grounded=grounded,
        contact_source=contact_source,
        flights=find_flights(grounded, y),
        dashes=find_dashes(_whole_speed(across, plane), inputs),
        plane=plane,
    )


def _over(across: Track | None, plane: Plane | None) -> tuple[Track, ...]:
    """Return the motion along each axis of the ground."""
    if plane is not None:
        return (plane.first, plane.second)
    return () if across is None else (across,)


def _whole_speed(across: Track | None, plane: Plane | None) -> Track | None:
    """Return the sideways motion with the speed whichever way it goes."""
    if plane is None or across is None:
        return across
    return replace(across, v=np.abs(plane.velocity))


def _on_a_line(
    ground: Sequence[Column], inputs: Inputs, clock: Clock, options: Options
) -> tuple[Track | None, Inputs]:
    """Return the motion along a ground of one axis, if any, with the inputs along it."""
    if not ground:
        return None, inputs
    across = axis_track(ground[0], clock, input_segments(inputs))
    if inputs.source == "none":
        inputs = _inferred(inputs, across, clock, options)
        if across.rounded:  # windows must not span the changes that were just found
            across = axis_track(ground[0], clock, input_segments(inputs))
    return across, inputs


def _on_a_plane(
    take: Take, ground: Sequence[Column], inputs: Inputs, clock: Clock, options: Options
) -> tuple[Track, Inputs, Plane]:
    """Return the motion along the lines that inputs point out on a ground of two axes."""
    segment = input_segments(replace(inputs, leg=held_codes(take, clock.t)))
    first, second = (axis_track(column, clock, segment) for column in ground)
    rest = max(_rest_speed(track, options.rest_speed) for track in (first, second))
    plane = read_plane(take, clock, first, second, rest)
    across, stick = along_track(plane), stick_of(take)
    if stick is not None:
        move = moves_along(plane, stick)
        return across, replace(inputs, move=move, leg=plane.leg, source="recorded"), plane
    inputs = replace(inputs, leg=plane.leg)
    return across, _inferred(inputs, across, clock, options), plane


def _inferred(inputs: Inputs, across: Track, clock: Clock, options: Options) -> Inputs:
    """Return inputs with a sideways direction that is read off the motion."""
    rest = _rest_speed(across, options.rest_speed)
    return replace(inputs, move=infer_move(across, clock.t, rest), source="inferred")


def _grids(take: Take, prints: Prints, axes: Sequence[str]) -> dict[str, float]:
    """Return what the positions along axes were rounded to, 0 where they were not."""
    alike = shared({axis: prints[axis] for axis in axes if axis in take})
    return {axis: grid or printed_grid(prints, axis) for axis, grid in alike.items()}


def _column(take: Take, axis: str, grid: float, prints: Prints) -> Column:
    """Return one axis of a take, and how it was printed."""
    named = f"v{axis}"
    if named not in take:
        return Column(axis=axis, p=take.numbers(axis), grid=grid)
    return Column(
        axis=axis,
        p=take.numbers(axis),
        grid=grid,
        logged=take.numbers(named),
        logged_grid=printed_grid(prints, named),
    )


def _rest_speed(across: Track | None, wanted: float | None) -> float:
    """Return the speed below which the subject rests: a share of its highest, or the noise."""
    if across is None:
        return 0.0
    usual = _AT_REST * float(np.max(np.abs(across.v), initial=0.0))
    return max(usual if wanted is None else wanted, _IN_NOISE * across.noise)


def _contact(take: Take, up: Track | None, t: FloatArray) -> tuple[BoolArray, str]:
    if "touch_ground" in take:
        touch = take.numbers("touch_ground") > 0.5
        return _cleaned(touch, up, t), "recorded"
    if up is None:
        return np.ones(len(take), dtype=bool), "none"
    return inferred_contact(up.p, t, up.quantum), "inferred"


def _cleaned(touch: BoolArray, up: Track | None, t: FloatArray) -> BoolArray:
    if up is None:
        return touch
    vy = up.v if up.source == "reported" else None
    return cleaned_contact(touch, up.p, t, vy, up.quantum)
