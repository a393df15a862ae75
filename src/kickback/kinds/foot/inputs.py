"""What the player pressed: recorded inputs, or a reading of the motion where there are none."""

import numpy as np

from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.motion.tracks import Track
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["DEAD_ZONE", "FULL", "Inputs", "infer_move", "input_segments", "recorded_inputs"]

_CHANGES = 1e-4
"""Share of the highest speed below which a speed does not change."""

_BRIEF = 0.05
"""Seconds below which a change of what a motion does is noise."""

DEAD_ZONE = 0.1
"""Share of a stick below which it is not pressed: what sticks at rest give."""

FULL = 0.95
"""Share from which it is pressed all the way: what worn sticks reach."""


class Inputs(Record, frozen=True, kw_only=True):
    """Inputs as frames read them, shape (n,); None where the take has no such column.

    ``move`` is the sideways direction: 0, ±1 for a partial and ±2 for a full press.
    ``source`` is ``recorded``, ``inferred`` or ``none`` and tells where ``move`` is from.
    ``leg`` numbers the stretches along one line of the ground, None where there is one line only.
    """

    move: IntArray
    jump: BoolArray | None
    brake: BoolArray | None
    dash: BoolArray | None
    source: str
    leg: IntArray | None = None

    @property
    def lined(self) -> IntArray:
        """Return a code, shape (n,), of the side that is pressed and the line that it is on."""
        side = np.sign(self.move)
        return side if self.leg is None else side + 4 * self.leg


def recorded_inputs(take: Take) -> Inputs:
    """Return the inputs that the take carries."""
    n = len(take)
    jump = take.numbers("in_jump") > 0.5 if "in_jump" in take else None
    brake = take.numbers("in_brake") > 0.5 if "in_brake" in take else None
    dash = take.numbers("in_dash") > 0.5 if "in_dash" in take else None
    if "in_move_x" not in take:
        move = np.zeros(n, dtype=np.int64)
        return Inputs(move=move, jump=jump, brake=brake, dash=dash, source="none")
    amount = take.numbers("in_move_x")
    size = np.abs(amount)
    level = np.where(size >= FULL, 2, np.where(size > DEAD_ZONE, 1, 0))
    move = (np.sign(amount) * level).astype(np.int64)
    return Inputs(move=move, jump=jump, brake=brake, dash=dash, source="recorded")


def input_segments(inputs: Inputs) -> IntArray:
    """Return for each frame, shape (n,), the number of its stretch of equal input."""
    code = inputs.move * 8 if inputs.leg is None else inputs.move * 8 + 64 * inputs.leg
    for bit, button in ((1, inputs.jump), (2, inputs.brake), (4, inputs.dash)):
        if button is not None:
            code = code + bit * button
    return np.cumsum(np.concatenate(([0], code[1:] != code[:-1]))).astype(np.int64)


def infer_move(track: Track, t: FloatArray, rest_speed: float) -> IntArray:
    """Read the sideways direction off the motion, shape (n,), full presses only.

    Speeding up or holding speed reads as pressing that way; slowing down as letting go,
    unless the slowing goes through zero, which only a press the other way does. Fitted
    speeds are compared over windows that do not overlap, and what lasts less than a
    twentieth of a second is taken for noise.
    """
    v, n = track.v, len(track.v)
    index, lag = np.arange(n), track.window
    later, earlier = np.minimum(index + lag, n - 1), np.maximum(index - lag - 1, 0)
    change = v[later] - v[earlier]
    usual = float(np.max(np.abs(v), initial=0.0))
    slack = max(2 * track.noise, _CHANGES * usual)
    moving = (np.abs(v) > rest_speed) | (np.abs(v[earlier]) > rest_speed)
    grows = np.abs(v[later]) > np.abs(v[earlier])
    heading = np.where(grows, np.sign(v[later]), np.sign(v[earlier]))
    slowing = moving & (change * heading < -slack)
    if track.rounded:
        moving, slowing = _steadied(moving, t), _steadied(slowing, t)
        slowing = _until_rest(moving, slowing, speeding=change * heading > slack)
    move = np.where(moving & ~slowing, 2 * heading, 0).astype(np.int64)
    starts, stops = runs(slowing)
    for start, stop in zip(starts.tolist(), stops.tolist(), strict=True):
        if slowing[start] and stop < n and move[stop] * heading[start] < 0:
            move[start:stop] = move[stop]
    return move


def _until_rest(moving: BoolArray, slowing: BoolArray, *, speeding: BoolArray) -> BoolArray:
    """Return ``slowing`` carried on to the rest where nothing sped up again before it."""
    out = slowing.copy()
    for start, stop in zip(*(part.tolist() for part in runs(moving)), strict=True):
        last = np.flatnonzero(slowing[start:stop])
        if moving[start] and last.size and not speeding[start + int(last[-1]) + 1 : stop].any():
            out[start + int(last[-1]) : stop] = True
    return out


def _steadied(flag: BoolArray, t: FloatArray) -> BoolArray:
    """Return a flag, shape (n,), without gaps and bursts shorter than a twentieth of a second."""
    out = flag.copy()
    for value in (False, True):
        starts, stops = runs(out)
        brief = (t[stops - 1] - t[starts] < _BRIEF) & (starts > 0) & (stops < len(out))
        for start, stop in zip(starts[brief].tolist(), stops[brief].tolist(), strict=True):
            if out[start] == value:
                out[start:stop] = not value
    return out
