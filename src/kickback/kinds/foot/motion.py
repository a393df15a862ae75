"""The motion of a character on foot: speeds, contact, inputs, flights and dashes."""

from collections.abc import Sequence
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from kickback.kinds.foot.contact import cleaned_contact, inferred_contact
from kickback.kinds.foot.dashes import Dashes, find_dashes
from kickback.kinds.foot.flights import Flights, find_flights
from kickback.kinds.foot.inputs import Inputs, infer_move, input_segments, recorded_inputs
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.motion.analysis import Prints
from kickback.motion.clock import Clock, clock_of
from kickback.motion.grids import printed_grid, shared
from kickback.motion.motion import Motion
from kickback.motion.options import Options
from kickback.motion.segments import BoolArray
from kickback.motion.tracks import Column, Track, axis_track
from kickback.takes.axes import ground_axis, up_axis
from kickback.takes.record import replace
from kickback.takes.take import FloatArray, Take

__all__ = ["FootMotion", "join_motions", "read_motion"]

N = TypeVar("N", bound=np.generic)

_AT_REST = 1e-3
"""Share of the highest speed below which a subject rests, where a project says nothing."""

_IN_NOISE = 0.75
"""Share of a fitted speed's noise bound that a resting subject may show."""


class FootMotion(Motion, frozen=True, kw_only=True):
    """What a character's frames show; arrays of shape (n,), units of the take.

    ``contact_source`` says where ``grounded`` is from: ``recorded``, ``inferred`` or ``none``.
    """

    inputs: Inputs
    grounded: BoolArray
    contact_source: str
    flights: Flights
    dashes: Dashes

    @property
    def across(self) -> Track | None:
        """Return the sideways motion, None where the take has no sideways position."""
        return self.tracks.get(ACROSS.name)

    @property
    def up(self) -> Track | None:
        """Return the vertical motion, None where the take has no height."""
        return self.tracks.get(UP.name)

    @property
    def dashing(self) -> BoolArray:
        """Return which frames a dash moves, shape (n,)."""
        return self.dashes.mask(len(self.t))


def read_motion(take: Take, clock: Clock, prints: Prints, options: Options) -> FootMotion:
    """Work out the motion of a stretch of frames without leaps."""
    t = clock.t
    inputs = recorded_inputs(take)
    segment = input_segments(inputs)
    horizontal, vertical = ground_axis(take.header), up_axis(take.header)
    grids = _grids(take, prints, (horizontal, vertical))
    across = up = None
    if horizontal in take:
        column = _column(take, horizontal, grids[horizontal], prints)
        across = axis_track(column, clock, segment)
    if vertical in take:
        column = _column(take, vertical, grids[vertical], prints)
        up = axis_track(column, clock, np.zeros_like(segment))
    rest_speed = _rest_speed(across, options.rest_speed)
    if across is not None and inputs.source == "none":
        inputs = replace(inputs, move=infer_move(across, t, rest_speed), source="inferred")
        if across.rounded:  # windows must not span the changes that were just found
            column = _column(take, horizontal, grids[horizontal], prints)
            across = axis_track(column, clock, input_segments(inputs))
    grounded, contact_source = _contact(take, up, t)
    y = up.p if up is not None else np.zeros_like(t)
    return FootMotion(
        take=take,
        clock=clock,
        options=options,
        tracks={
            role.name: track for role, track in ((ACROSS, across), (UP, up)) if track is not None
        },
        rest_speed=rest_speed,
        inputs=inputs,
        grounded=grounded,
        contact_source=contact_source,
        flights=find_flights(grounded, y),
        dashes=find_dashes(across, inputs),
    )


def _grids(take: Take, prints: Prints, axes: tuple[str, str]) -> dict[str, float]:
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
        return (cleaned_contact(touch, up.p, t) if up is not None else touch), "recorded"
    if up is None:
        return np.ones(len(take), dtype=bool), "none"
    return inferred_contact(up.p, t, up.quantum), "inferred"


def join_motions(
    take: Take, parts: Sequence[tuple[int, FootMotion]], options: Options
) -> FootMotion:
    """Lay the motions of stretches end to end; frames of none have no speed and no contact.

    ``parts``: the frame that each stretch begins with, and its motion.
    """
    first = parts[0][1]
    n = len(take)
    prints = Prints(take)
    clock = clock_of(take, prints["t"], prints["dt"])
    inputs = recorded_inputs(take)
    if inputs.source == "none":
        move = _filled(n, [(start, one.inputs.move) for start, one in parts])
        inputs = replace(inputs, move=move, source=first.inputs.source)
    contact = _filled(n, [(start, one.grounded) for start, one in parts])
    return FootMotion(
        take=take,
        clock=clock,
        options=options,
        tracks={
            name: _joined_track(take, track, [(start, one.tracks[name]) for start, one in parts])
            for name, track in first.tracks.items()
        },
        rest_speed=max(one.rest_speed for _, one in parts),
        inputs=inputs,
        grounded=contact,
        contact_source=first.contact_source,
        flights=_joined_flights(parts),
        dashes=_joined_dashes(parts),
    )


def _filled(n: int, parts: Sequence[tuple[int, npt.NDArray[N]]]) -> npt.NDArray[N]:
    """Lay arrays end to end, each from its frame on; what none covers is 0."""
    out = np.zeros(n, dtype=parts[0][1].dtype)
    for start, values in parts:
        out[start : start + len(values)] = values
    return out


def _joined_track(take: Take, track: Track, parts: Sequence[tuple[int, Track]]) -> Track:
    """Return a track of all frames; what tells most about the noise is the worst of the parts."""
    t = take.numbers("t")
    v, tv = np.full(len(t), np.nan), t.copy()
    for start, one in parts:
        v[start : start + len(one.v)] = one.v
        tv[start : start + len(one.v)] = one.tv
    logged = take.numbers(f"v{track.axis}") if track.logged is not None else None
    worst = max((one for _, one in parts), key=lambda one: one.noise)
    return replace(worst, p=take.numbers(track.axis), v=v, tv=tv, logged=logged)


def _joined_flights(parts: Sequence[tuple[int, FootMotion]]) -> Flights:
    names = ("start", "stop", "top")
    moved = {
        name: np.concatenate([getattr(one.flights, name) + start for start, one in parts])
        for name in names
    }
    return Flights(
        **moved,
        jump=np.concatenate([one.flights.jump for _, one in parts]),
        whole=np.concatenate([one.flights.whole for _, one in parts]),
    )


def _joined_dashes(parts: Sequence[tuple[int, FootMotion]]) -> Dashes:
    moved = {
        name: np.concatenate([getattr(one.dashes, name) + start for start, one in parts])
        for name in ("press", "start", "stop", "presses")
    }
    return Dashes(
        **moved,
        speed=np.concatenate([one.dashes.speed for _, one in parts]),
        held=np.concatenate([one.dashes.held for _, one in parts]),
    )
