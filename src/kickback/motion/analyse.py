"""The motion of a take, worked out once: speeds, contact, inputs, phases and events."""

import numpy as np

from kickback.errors import InputError
from kickback.motion.contact import cleaned_contact, inferred_contact
from kickback.motion.dashes import Dashes, find_dashes
from kickback.motion.flights import Flights, find_flights
from kickback.motion.inputs import Inputs, infer_move, input_segments, recorded_inputs
from kickback.motion.kinematics import Track, axis_track, shared_quantum
from kickback.motion.phases import TRAVEL, Phase, phases_of, travel_codes, vertical_codes
from kickback.motion.segments import BoolArray
from kickback.motion.thresholds import Thresholds
from kickback.motion.timing import timing_of
from kickback.takes.axes import ground_axis, up_axis
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take

__all__ = ["Motion", "analyse"]


class Motion(Record, frozen=True, kw_only=True):
    """What a take's frames show; arrays of shape (n,), units of the take.

    ``across`` and ``up`` are None where the take lacks that axis. ``begin`` is the start
    of each frame's update (the previous frame's ``t``), where its input was read;
    ``step`` is how long each frame lasts on the wall clock, ``dt`` the step that the game
    used. ``time_grid`` is what times
    are rounded to, or 0.
    """

    take: Take
    t: FloatArray
    begin: FloatArray
    step: FloatArray
    dt: FloatArray
    time_grid: float
    across: Track | None
    up: Track | None
    inputs: Inputs
    grounded: BoolArray
    contact_source: str
    flights: Flights
    dashes: Dashes
    rest_speed: float
    thresholds: Thresholds = Thresholds()

    @property
    def dashing(self) -> BoolArray:
        """Return which frames a dash moves, shape (n,)."""
        return self.dashes.mask(len(self.t))

    @property
    def phases(self) -> list[Phase]:
        """Return the phases of both tracks, travel first; worked out at each call."""
        found: list[Phase] = []
        if self.across is not None:
            travel = travel_codes(self.across, self.inputs, self.grounded, self.rest_speed)
            travel[self.dashing] = TRAVEL.index("dash")
            found += phases_of(travel, "travel", self.inputs.source != "recorded")
        if self.up is not None:
            vertical = vertical_codes(self.grounded, self.flights)
            found += phases_of(vertical, "vertical", self.contact_source != "recorded")
        return found


def analyse(take: Take, thresholds: Thresholds | None = None) -> Motion:
    """Work out the motion of a side-view take.

    Raises InputError for other views: their travel is not one axis.
    """
    if take.header.view != "side":
        raise InputError(
            f"a take in a '{take.header.view}' view cannot be measured yet; only 'side' can",
            take.source or take.name,
        )
    thresholds = thresholds or Thresholds()
    timing = timing_of(take)
    t = timing.t
    inputs = recorded_inputs(take)
    segment = input_segments(inputs)
    horizontal, vertical = ground_axis(take.header), up_axis(take.header)
    grids = shared_quantum(take, [axis for axis in (horizontal, vertical) if axis in take])
    across = up = None
    if horizontal in take:
        across = axis_track(take, horizontal, timing, segment, grids[horizontal])
    if vertical in take:
        up = axis_track(take, vertical, timing, np.zeros_like(segment), grids[vertical])
    rest_speed = _rest_speed(across, thresholds.rest_speed)
    if across is not None and inputs.source == "none":
        inputs = replace(inputs, move=infer_move(across, t, rest_speed), source="inferred")
        if across.rounded:  # windows must not span the changes that were just found
            across = axis_track(take, horizontal, timing, input_segments(inputs), grids[horizontal])
    grounded, contact_source = _contact(take, up, t)
    y = up.p if up is not None else np.zeros_like(t)
    flights = find_flights(grounded, y)
    return Motion(
        take=take,
        t=t,
        begin=timing.begin,
        step=timing.step,
        dt=timing.dt,
        time_grid=timing.grid,
        across=across,
        up=up,
        inputs=inputs,
        grounded=grounded,
        contact_source=contact_source,
        flights=flights,
        dashes=find_dashes(across, inputs),
        rest_speed=rest_speed,
        thresholds=thresholds,
    )


def _rest_speed(across: Track | None, wanted: float | None) -> float:
    """Return the speed below which the subject rests: 0.1 % of its highest, or the noise."""
    if across is None:
        return 0.0
    usual = 1e-3 * float(np.max(np.abs(across.v), initial=0.0))
    return max(usual if wanted is None else wanted, 0.75 * across.noise)


def _contact(take: Take, up: Track | None, t: FloatArray) -> tuple[BoolArray, str]:
    if "touch_ground" in take:
        touch = take.numbers("touch_ground") > 0.5
        return (cleaned_contact(touch, up.p, t) if up is not None else touch), "recorded"
    if up is None:
        return np.ones(len(take), dtype=bool), "none"
    return inferred_contact(up.p, t, up.quantum), "inferred"
