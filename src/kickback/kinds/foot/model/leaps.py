"""Jumps of the model: squat, takeoff, in the air, off a wall, and the cut of an early release."""

import numpy as np

from kickback.kinds.foot.model.ground import Ground
from kickback.kinds.foot.model.state import Read, State
from kickback.kinds.foot.model.values import OVER, Steps
from kickback.kinds.playing.parameters import BoolArray, Values

__all__ = ["Leaps"]


class Leaps:
    """When each set's subject leaves the ground, and how fast."""

    def __init__(self, p: Values, steps: Steps, ground: Ground) -> None:
        self._p, self._steps, self._ground = p, steps, ground
        self._anywhere = p.mistake("jump-in-air")
        self._squats = bool(np.any(p.squat_time > 0))
        self._off_walls = bool(np.any(p.wall_jump_speed > 0))
        self._most_left = np.where(p.release_speed > 0, p.release_speed, np.inf)

    def jump(self, s: State, read: Read, dashing: BoolArray) -> None:
        """Apply timers, takeoff, a jump in the air or off a wall, and the early-release cut."""
        p, tick = self._p, self._steps.timer
        pressed = bool(np.any(read.pressed))
        if pressed:
            s.buffer = np.where(read.pressed, np.maximum(p.jump_buffer, 1e-9), s.buffer)
        able = s.grounded | (s.coyote > OVER) | self._anywhere
        takeoff = (s.buffer > OVER) & able & ~dashing & (s.lag <= OVER)
        if self._squats:
            takeoff = self._after_squat(s, takeoff)
        s.air_jumps = np.where(s.grounded, p.air_jumps, s.air_jumps)
        again = off_wall = np.zeros_like(takeoff)
        if pressed:
            free = ~takeoff & ~s.grounded & ~dashing & read.pressed
            off_wall = free & (s.wall != 0) & (p.wall_jump_speed > 0)
            again = free & ~off_wall & (s.air_jumps > 0.5)
            s.air_jumps = s.air_jumps - again
        speed = np.where(again, p.air_jump_speed, p.jump_speed)
        speed = np.where(off_wall, p.wall_jump_speed, speed) * self._steps.impulse
        thrown = takeoff | again | off_wall
        s.vy = np.where(thrown, speed, s.vy)
        self._ground.leave(s, takeoff)
        if self._off_walls:
            away = -s.wall * p.wall_jump_away * self._steps.impulse
            s.own = np.where(off_wall, s.own - np.real(s.own) + away, s.own)
            s.away = np.where(off_wall, p.wall_jump_lockout, s.away)
        s.jumped = (s.jumped | takeoff) & ~s.grounded
        # timers run on after the check: a press in the frame that left the ledge comes at 0 s
        s.buffer = np.where(thrown | s.squats, 0.0, np.maximum(0.0, s.buffer - tick))
        s.coyote = np.where(takeoff | s.grounded, 0.0, np.maximum(0.0, s.coyote - tick))
        s.hold = np.where(takeoff, p.hold_time, s.hold)
        s.rising_jump = (s.rising_jump | thrown) & (s.vy > 0)
        if not np.all(read.jump):
            free = np.logical_not(read.jump)
            left = np.minimum(s.vy * p.release_cut, self._most_left)
            s.vy = np.where(s.rising_jump & free, left, s.vy)
            s.rising_jump = s.rising_jump & ~free
            s.hold = np.where(free, 0.0, s.hold)

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
