"""Phases: what the subject does in each frame, on two tracks side by side."""

import numpy as np

from kickback.kinds.foot.flights import Flights
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.motion.motion import Phase
from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = ["TRAVEL", "VERTICAL", "foot_phases", "travel_codes", "vertical_codes"]

_AT_TOP = 0.99
"""Share of the top speed from which a reverse is a turn."""

_HELD = 1e-3
"""Share of a speed by which it may change in a frame and be held."""

TRAVEL = (
    "rest", "speed-up", "cruise", "coast", "brake", "reverse", "turn", "still", "dash", "veer",
)  # fmt: skip
"""Travel phases by code; ``still`` is no sideways motion while in the air, ``veer`` a push with
motion across the line that it points along."""

VERTICAL = ("grounded", "rise", "fall")

_REST, _SPEED_UP, _CRUISE, _COAST, _BRAKE, _REVERSE, _TURN, _STILL, _DASH, _VEER = range(10)


def travel_codes(motion: FootMotion, track: Track) -> IntArray:
    """Return the travel phase of each frame, shape (n,), as an index into ``TRAVEL``.

    ``track``: the sideways motion. A turn is a reverse entered at 99 % of its top speed.
    """
    v, inputs, before, size = track.v, motion.inputs, motion.before, motion.size
    top = float(np.max(size, initial=0.0))
    side = np.sign(inputs.move)
    quick = size > motion.rest_speed
    if track.rounded:
        quick = _until_last(quick, side)
    was_quick = np.concatenate((quick[:1], quick[:-1]))
    moving = quick | was_quick
    against = (side * before < 0) & was_quick
    steady = _steady(track, size, inputs.lined)
    code = np.full(len(v), _COAST, dtype=np.int8)
    code[~moving] = _STILL
    code[~moving & motion.grounded] = _REST
    pushed = (side != 0) & moving
    code[pushed] = _SPEED_UP
    code[pushed & steady] = _CRUISE
    code[pushed & ~motion.straight] = _VEER
    code[pushed & against & motion.entered] = _BRAKE
    if inputs.brake is not None:
        code[moving & inputs.brake] = _BRAKE
    held = size[(code == _CRUISE) & ~motion.dashing]  # a dash is no top speed
    top = float(np.max(held)) if held.size else top
    starts, stops = runs(inputs.lined)
    entered = (side[starts] != 0) & (starts > 0) & against[starts] & motion.entered[starts]
    for start, stop in zip(starts[entered].tolist(), stops[entered].tolist(), strict=True):
        over = np.flatnonzero(code[start:stop] == _SPEED_UP)
        if not over.size:
            continue  # stopped, but never went the other way
        settled = np.flatnonzero(code[start + over[0] : stop] == _CRUISE)
        end = start + int(over[0]) + int(settled[0]) if settled.size else stop
        code[start:end] = (
            _TURN if abs(before[start]) >= _AT_TOP * top - 2 * track.noise else _REVERSE
        )
    return code.astype(np.int64)


def _steady(track: Track, size: FloatArray, lined: IntArray) -> BoolArray:
    """Return which frames hold their speed ``size``, shape (n,), to 0.1 % a frame.

    A fitted speed wavers from frame to frame. There each stretch of equal input is steady
    from where it first comes as near to its final speed as the noise allows.
    """
    if not track.rounded:
        change = np.abs(size - np.concatenate((size[:1], size[:-1])))
        same: BoolArray = change <= _HELD * size + 2 * track.noise
        return same
    steady = np.zeros(len(size), dtype=bool)
    for a, b in zip(*(part.tolist() for part in runs(lined)), strict=True):
        end = max(a + 1, b - track.window - 1)  # windows cut off by a change are noisy
        late = size[(a + 2 * end) // 3 : end]
        final = median(late)
        if lined[a] % 4 and np.ptp(late) <= _HELD * final + 3 * track.noise:
            slowest = a + int(np.argmin(size[a:end]))  # where a reverse turns round
            near = np.flatnonzero(size[slowest:b] >= final - _HELD * final - track.noise)
            steady[slowest + (int(near[0]) if near.size else 0) : b] = True
    return steady


def _until_last(quick: BoolArray, side: IntArray) -> BoolArray:
    """Return ``quick`` without gaps in stretches of no input: rest begins after the last move."""
    whole = quick.copy()
    for a, b in zip(*(part.tolist() for part in runs(side)), strict=True):
        moved = np.flatnonzero(quick[a:b])
        if side[a] == 0 and moved.size and moved[0] <= 1:
            whole[a : a + int(moved[-1]) + 1] = True
    return whole


def vertical_codes(grounded: BoolArray, flights: Flights) -> IntArray:
    """Return the vertical phase of each frame, shape (n,), as an index into ``VERTICAL``."""
    code = np.zeros(len(grounded), dtype=np.int64)
    rows = zip(flights.start, flights.top, flights.stop, flights.jump, strict=True)
    for start, top, stop, jump in rows:
        split = top + 1 if jump or start == 0 else start
        code[start:split] = 1
        code[split:stop] = 2
    return code


def foot_phases(motion: FootMotion) -> list[Phase]:
    """Return the phases of both tracks, travel first."""
    found: list[Phase] = []
    if motion.across is not None:
        travel = travel_codes(motion, motion.across)
        travel[motion.dashing] = _DASH
        found += _stretches(travel, TRAVEL, ACROSS.name, motion.inputs.source != "recorded")
    if motion.up is not None:
        vertical = vertical_codes(motion.grounded, motion.flights)
        found += _stretches(vertical, VERTICAL, UP.name, motion.contact_source != "recorded")
    return found


def _stretches(codes: IntArray, names: tuple[str, ...], track: str, inferred: bool) -> list[Phase]:
    """Return the stretches of equal code as phases of a track."""
    starts, stops = runs(codes)
    return [
        Phase(track=track, name=names[codes[a]], start=int(a), stop=int(b), inferred=inferred)
        for a, b in zip(starts, stops, strict=True)
    ]
