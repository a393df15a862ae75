"""Jumps of the model: squat, takeoff, in the air, off a wall, and the cut of an early release."""

import numpy as np

from kickback.kinds.foot.model.ground import Ground
from kickback.kinds.foot.model.state import Read, State
from kickback.kinds.foot.model.values import OVER, Steps
from kickback.kinds.playing.parameters import BoolArray, Values, some

__all__ = ["Leaps"]


class Leaps:
    """When each set's subject leaves the ground, and how fast."""

    def __init__(self, p: Values, steps: Steps, ground: Ground) -> None:
        self._p, self._steps, self._ground = p, steps, ground
        self._anywhere = p.mistake("jump-in-air")
        self._squats = bool(np.any(p.squat_time > 0))
        self._lags = bool(np.any(p.landing_lag > 0))
        self._holds = bool(np.any(p.hold_time > 0))
        self._in_air = bool(np.any(p.air_jumps > 0))
        self._off_walls = bool(np.any(p.wall_jump_speed > 0))
        self._most_left = np.where(p.release_speed > 0, p.release_speed, np.inf)

    def jump(self, s: State, read: Read, dashing: BoolArray) -> None:
        """Apply timers, takeoff, a jump in the air or off a wall, and the early-release cut."""
        p, tick = self._p, self._steps.timer
        if some(read.pressed):
            s.buffer = np.where(read.pressed, np.maximum(p.jump_buffer, 1e-9), s.buffer)
        takeoff = self._takeoff(s, dashing)
        thrown = takeoff | self._again(s, read, takeoff | dashing)
        if some(thrown):
            s.vy = np.where(takeoff, p.jump_speed * self._steps.impulse, s.vy)
            self._ground.leave(s, takeoff)
            if self._holds:
                s.hold = np.where(takeoff, p.hold_time, s.hold)
        s.jumped = (s.jumped | takeoff) & ~s.grounded
        # timers run on after the check: a press in the frame that left the ledge comes at 0 s
        if some(s.buffer):
            s.buffer = np.where(thrown | s.squats, 0.0, np.maximum(0.0, s.buffer - tick))
        if some(s.coyote):
            s.coyote = np.where(takeoff | s.grounded, 0.0, np.maximum(0.0, s.coyote - tick))
        s.rising_jump = (s.rising_jump | thrown) & (s.vy > 0)
        if some(s.rising_jump) and not np.all(read.jump):
            free = np.logical_not(read.jump)
            left = np.minimum(s.vy * p.release_cut, self._most_left)
            s.vy = np.where(s.rising_jump & free, left, s.vy)
            s.rising_jump = s.rising_jump & ~free
        if self._holds:
            s.hold = np.where(read.jump, s.hold, 0.0)

    def _takeoff(self, s: State, dashing: BoolArray) -> BoolArray:
        """Return who takes off from the ground, or just after it."""
        asked = s.buffer > OVER
        if not (self._squats or some(asked)):
            return asked
        asked &= (s.grounded | (s.coyote > OVER) | self._anywhere) & ~dashing
        if self._lags:
            asked &= s.lag <= OVER
        return self._after_squat(s, asked) if self._squats else asked

    def _again(self, s: State, read: Read, busy: BoolArray) -> BoolArray:
        """Throw those that jump in the air or off a wall, and return who does."""
        p = self._p
        if self._in_air:
            s.air_jumps = np.where(s.grounded, p.air_jumps, s.air_jumps)
        if not ((self._in_air or self._off_walls) and some(read.pressed)):
            return np.zeros_like(busy)
        free = ~busy & ~s.grounded & read.pressed
        off_wall = free & (s.wall != 0) & (p.wall_jump_speed > 0)
        again = free & ~off_wall & (s.air_jumps > 0.5)
        s.air_jumps = s.air_jumps - again
        speed = np.where(off_wall, p.wall_jump_speed, p.air_jump_speed) * self._steps.impulse
        s.vy = np.where(again | off_wall, speed, s.vy)
        away = -s.wall * p.wall_jump_away * self._steps.impulse
        s.own = np.where(off_wall, s.own - np.real(s.own) + away, s.own)
        s.away = np.where(off_wall, p.wall_jump_lockout, s.away)
        return np.asarray(again | off_wall)

    def _after_squat(self, s: State, asked: BoolArray) -> BoolArray:
        """Return who takes off: those whose squat is over; others that asked begin theirs."""
        p = self._p
        squats = (p.squat_time > 0) & s.grounded
        s.squats = s.squats & s.grounded
        begins = asked & squats & ~s.squats
        s.squat = np.where(begins, p.squat_time, s.squat)
        over = s.squats & (s.squat <= OVER)
        s.squats = (s.squats | begins) & ~over
        return np.where(squats, over, asked)
