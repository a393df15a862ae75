"""A character on foot, for any number of parameter sets at once.

Over a plane its place and speed over the ground are complex numbers: first axis + i·second.

All state is arrays of shape (m,), one entry a parameter set, so that a sweep of
thousands of sets costs little more than one.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.kinds.foot.model.dash import Dash
from kickback.kinds.foot.model.drills import Drill
from kickback.kinds.foot.model.parameters import FAULTS, mistakes_of
from kickback.takes.header import Value
from kickback.takes.take import FloatArray

__all__ = ["run_foot"]

BoolArray = npt.NDArray[np.bool_]
Over = npt.NDArray[Any]
"""A quantity over the ground: along its one axis, or over its plane."""

_OVER = 1e-12
"""What is left of a timer that has run out, s."""


class _Values:
    """The parameters as arrays of shape (m,), and which mistakes each set makes."""

    def __init__(self, sets: Sequence[Mapping[str, Value]]) -> None:
        self._sets = sets
        self._mistakes = [mistakes_of(values, "parameters") for values in sets]
        first = sets[0]
        self._numbers = {
            name: np.array([float(values[name]) for values in sets])
            for name, value in first.items()
            if not isinstance(value, str)
        }

    def __getattr__(self, name: str) -> FloatArray:
        return self._numbers[name]

    def word(self, name: str, word: str) -> BoolArray:
        return np.array([values[name] == word for values in self._sets])

    def mistake(self, name: str) -> BoolArray:
        return np.array([name in mistakes for mistakes in self._mistakes])


@dataclass(slots=True)
class _State:
    """Where each set's subject is; all arrays of shape (m,)."""

    x: Over
    y: FloatArray
    vx: Over
    vy: FloatArray
    grounded: BoolArray
    side: BoolArray
    rising_jump: BoolArray
    coyote: FloatArray
    buffer: FloatArray
    jumped: BoolArray
    in_air: FloatArray
    hold: FloatArray
    air_jumps: FloatArray


@dataclass(slots=True)
class _Read:
    """What an update reads: amounts and buttons; ``pressed`` and ``dash`` are new presses."""

    move: complex
    jump: bool
    pressed: bool
    brake: bool
    dash: bool


class _Steps:
    """The time step that each term uses in a frame of ``dt`` seconds: mistakes live here."""

    def __init__(self, p: _Values) -> None:
        self.p = p
        self.reference = 1.0 / p.reference_rate
        self.in_frames = p.mistake("all-in-frames")
        self.clamped = p.mistake("dt-clamped")
        self.acceleration_free = p.mistake("acceleration-per-frame")
        self.twice = p.mistake("dt-twice")
        self.gravity_free = p.mistake("gravity-per-frame")
        self.position_free = p.mistake("position-per-frame")
        self.timer_free = p.mistake("timer-in-frames")
        self.impulse_scaled = p.mistake("impulse-times-dt")
        self.factor_free = p.mistake("factor-per-frame")
        self.factor_first_order = p.mistake("first-order-factor")
        self._last = 0.0
        self.take(1.0 / 60.0)

    def take(self, dt: float) -> None:
        """Set every term's step for a frame of ``dt`` seconds."""
        if dt == self._last:
            return
        self._last, h0 = dt, self.reference
        h = np.where(self.clamped, np.minimum(dt, self.p.largest_step), dt)
        self.used = h
        h = np.where(self.in_frames, h0, h)
        self.speed = np.where(self.acceleration_free, h0, np.where(self.twice, h * h / h0, h))
        self.gravity = np.where(self.gravity_free, h0, h)
        self.position = np.where(self.position_free, h0, h)
        self.timer = np.where(self.timer_free, h0, h)
        self.impulse = np.where(self.impulse_scaled, h / h0, 1.0)
        decaying = np.where(self.factor_free, h0, h)
        self.kept_pressing = self._kept(self.p.smoothing_rate, decaying)
        self.kept_letting_go = self._kept(self.p.stop_rate, decaying)
        self.kept_rubbing = self._kept(self.p.friction_rate, decaying)

    def _kept(self, rate: FloatArray, h: FloatArray) -> FloatArray:
        """Return the factor that remains of a decaying speed after a step of ``h``."""
        return np.where(self.factor_first_order, np.maximum(0.0, 1.0 - rate * h), np.exp(-rate * h))


def run_foot(sets: Sequence[Mapping[str, Value]], drill: Drill, dt: FloatArray) -> dict[str, Over]:
    """Play a drill with m full parameter sets over the steps ``dt``, shape (n,), s.

    Returns columns of shape (n, m): ``dt x y vx vy touch_ground touch_side``, over a plane
    ``x`` and ``vx`` as complex numbers; inputs are the drill's own. Update order in a frame:
    input, timers, ground or air speed, dash, jump, cut, gravity, move, collide.
    """
    p = _Values(sets)
    steps = _Steps(p)
    begins = np.concatenate(([0.0], np.cumsum(dt)[:-1]))
    inputs = drill.read(begins)
    zeros = np.zeros(len(dt))
    move: Over = inputs.get("in_move_x", zeros)
    if plane := drill.view != "side":
        move = move + 1j * inputs.get("in_move_y", zeros)
    jump = inputs.get("in_jump", zeros) > 0.5
    brake = inputs.get("in_brake", zeros) > 0.5
    dash = inputs.get("in_dash", zeros) > 0.5
    pressed = jump & ~np.concatenate(([False], jump[:-1]))
    dash_pressed = dash & ~np.concatenate(([False], dash[:-1]))
    motion = _Motion(p, steps, drill)
    state = motion.start(len(sets))
    names = ("dt", "x", "y", "vx", "vy", "touch_ground", "touch_side")
    over = np.complex128 if plane else np.float64
    out: dict[str, Over] = {
        name: np.empty((len(dt), len(sets)), dtype=over if name in {"x", "vx"} else np.float64)
        for name in names
    }
    for n, step in enumerate(dt):
        steps.take(float(step))
        read = _Read(
            move=complex(move[n]) if plane else float(move[n]),
            jump=bool(jump[n]),
            pressed=bool(pressed[n]),
            brake=bool(brake[n]),
            dash=bool(dash_pressed[n]),
        )
        motion.advance(state, read)
        out["dt"][n] = steps.used
        for name in ("x", "y", "vx", "vy"):
            out[name][n] = getattr(state, name)
        out["touch_ground"][n] = state.grounded
        out["touch_side"][n] = state.side
    return out


class _Motion:
    """The update rule."""

    def __init__(self, p: _Values, steps: _Steps, drill: Drill) -> None:
        self.p, self.steps, self.drill = p, steps, drill
        self.smoothing = p.word("ground_movement", "smoothing")
        self.friction = p.word("ground_movement", "friction")
        wrong_order = p.mistake("integration-order")
        explicit = p.word("integrator", "explicit") | wrong_order
        trapezoid = p.word("integrator", "trapezoid") & ~wrong_order
        self.theta = np.where(explicit, 0.0, np.where(trapezoid, 0.5, 1.0))
        self.faults = {name: p.mistake(name) for name in FAULTS}
        self.faulty = any(bool(mask.any()) for mask in self.faults.values())
        self.reverse = np.where(p.reverse_speed > 0, p.reverse_speed, p.run_speed)
        self.holds = bool(np.any(p.hold_time > 0))
        self.dashes = "in_dash" in drill.columns
        self.nobody = np.zeros(len(p.run_speed), dtype=bool)
        self.plane = drill.view != "side"
        self.by_axis = p.word("plane_movement", "axis")
        self.dash = Dash(
            p.dash_speed, p.dash_time, p.dash_lockout, p.dash_cooldown, plane=self.plane
        )

    def start(self, count: int) -> _State:
        """Return the state before the first frame: at rest on the floor."""
        x = np.full(count, self.drill.start)
        over = np.complex128 if self.plane else np.float64
        return _State(
            x=x.astype(over),
            y=self.drill.floor.height(x).astype(np.float64),
            vx=np.zeros(count, dtype=over),
            vy=np.zeros(count),
            grounded=np.ones(count, dtype=bool),
            side=np.zeros(count, dtype=bool),
            rising_jump=np.zeros(count, dtype=bool),
            coyote=np.zeros(count),
            buffer=np.zeros(count),
            jumped=np.zeros(count, dtype=bool),
            in_air=np.zeros(count),
            hold=np.zeros(count),
            air_jumps=np.zeros(count),
        )

    def advance(self, s: _State, read: _Read) -> None:
        """Carry the state through one frame."""
        vx = self._horizontal(s, read.move, read.brake)
        dashing, speed = self.nobody, vx
        if self.dashes:
            dashing, locked, speed = self.dash.step(
                read.move, read.dash, self.steps.timer, self.steps.impulse
            )
            vx = np.where(locked, self._horizontal(s, 0.0, read.brake), vx)
        self._jump(s, read, dashing)
        before = s.vy
        gravity = np.where(before > 0, self.p.gravity_rise, self.p.gravity_fall)
        if self.holds:
            light = (before > 0) & (s.hold > _OVER)
            gravity = np.where(light, gravity * self.p.hold_gravity, gravity)
            s.hold = np.maximum(0.0, s.hold - self.steps.timer)
        fallen = np.maximum(before - gravity * self.steps.gravity, -self.p.terminal_speed)
        vy = np.where(s.grounded, 0.0, fallen)
        if self.faulty:
            vy = self._faulty(s, vy, gravity, read.jump)
        if self.dashes:  # a dash goes level
            vx, vy = np.where(dashing, speed, vx), np.where(dashing, 0.0, vy)
            before = np.where(dashing, 0.0, before)
        h = self.steps.position
        x = s.x + h * ((1 - self.theta) * s.vx + self.theta * vx)
        y = s.y + h * ((1 - self.theta) * before + self.theta * vy) * ~s.grounded
        s.vx, s.vy = vx, vy
        self._collide(s, x, y)

    def _faulty(self, s: _State, vy: FloatArray, gravity: FloatArray, jump: bool) -> FloatArray:
        """Return the vertical speed as code with faults makes it."""
        p, faults, h = self.p, self.faults, self.steps.gravity
        air = ~s.grounded
        s.in_air = np.where(air, s.in_air + self.steps.used, 0.0)
        if jump:
            vy = np.where(faults["rise-while-held"] & s.rising_jump, s.vy, vy)
        vy = np.where(faults["no-fall"] & air & ~s.jumped, 0.0, vy)
        vy = np.where(faults["constant-fall"] & air & (vy < 0), -0.5 * p.jump_speed, vy)
        up = s.in_air < p.jump_speed / gravity
        straight = np.where(up, 0.5, -0.5) * p.jump_speed
        vy = np.where(faults["straight-jump"] & air & s.jumped, straight, vy)
        pressed = np.maximum(s.vy - gravity * h, -p.terminal_speed)
        return np.where(faults["speed-on-ground"] & s.grounded, pressed, vy)

    def _horizontal(self, s: _State, move: complex, brake: bool) -> Over:
        """Return the new speed over the ground."""
        p, v = self.p, s.vx
        goal = self._goal(move) * (not brake)
        in_air = self._toward(v, goal, p.air_acceleration * self.steps.speed * (move != 0))
        return np.where(s.grounded, self._on_ground(v, move, brake, goal), in_air)

    def _goal(self, move: complex) -> Over:
        """Return the speed that an input asks for."""
        if not self.plane:
            return move.real * (self.p.run_speed if move.real >= 0 else self.reverse)
        shortened = move / max(1.0, abs(move))
        return np.where(self.faults["diagonal-faster"], move, shortened) * self.p.run_speed

    def _toward(self, v: Over, goal: Over, most: FloatArray) -> Over:
        """Return ``v`` moved toward ``goal`` by ``most``: by length, or on each axis by itself."""
        if not self.plane:
            return _toward(v.real, goal.real, most)
        by_axis = _toward(v.real, goal.real, most) + 1j * _toward(v.imag, goal.imag, most)
        gap = goal - v
        left = np.abs(gap)
        by_length = v + gap * np.minimum(1.0, most / np.where(left > 0, left, np.inf))
        by_length = np.where(left <= most, goal, by_length)
        return np.where(self.by_axis, by_axis, by_length)

    def _on_ground(self, v: Over, move: complex, brake: bool, goal: Over) -> Over:
        """Return the new speed on the ground, by each set's kind of movement."""
        p, h = self.p, self.steps.speed
        against = (v * np.conj(move)).real < 0
        if brake:
            against = v != 0
        slowing = (move == 0) | (np.abs(v) > np.abs(goal))
        rate = np.where(slowing, p.coast_deceleration, p.ground_acceleration)
        new = self._toward(v, goal, np.where(against, p.brake_deceleration, rate) * h)
        if self.smoothing.any():
            kept = self.steps.kept_letting_go if move == 0 else self.steps.kept_pressing
            new = np.where(self.smoothing, goal + (v - goal) * kept, new)
        if self.friction.any():
            way = move / max(1.0, abs(move)) if self.plane else move
            driven = v + way * p.ground_acceleration * h
            new = np.where(self.friction, driven * self.steps.kept_rubbing, new)
        return new

    def _jump(self, s: _State, read: _Read, dashing: BoolArray) -> None:
        """Apply timers, takeoff, a jump in the air and the early-release cut."""
        p, tick = self.p, self.steps.timer
        if read.pressed:
            s.buffer = np.maximum(p.jump_buffer, 1e-9)
        able = s.grounded | (s.coyote > _OVER) | self.faults["jump-in-air"]
        takeoff = (s.buffer > _OVER) & able & ~dashing
        s.air_jumps = np.where(s.grounded, p.air_jumps, s.air_jumps)
        again = np.zeros_like(takeoff)
        if read.pressed:
            again = ~takeoff & ~s.grounded & (s.air_jumps > 0.5) & ~dashing
            s.air_jumps = s.air_jumps - again
        speed = np.where(again, p.air_jump_speed, p.jump_speed) * self.steps.impulse
        s.vy = np.where(takeoff | again, speed, s.vy)
        s.grounded = s.grounded & ~takeoff
        s.jumped = (s.jumped | takeoff) & ~s.grounded
        # timers run on after the check: a press in the frame that left the ledge comes at 0 s
        s.buffer = np.where(takeoff | again, 0.0, np.maximum(0.0, s.buffer - tick))
        s.coyote = np.where(takeoff | s.grounded, 0.0, np.maximum(0.0, s.coyote - tick))
        s.hold = np.where(takeoff, p.hold_time, s.hold)
        s.rising_jump = (s.rising_jump | takeoff | again) & (s.vy > 0)
        if not read.jump:
            s.vy = np.where(s.rising_jump, s.vy * p.release_cut, s.vy)
            s.rising_jump = np.zeros_like(s.rising_jump)
            s.hold = np.zeros_like(s.hold)

    def _collide(self, s: _State, x: Over, y: FloatArray) -> None:
        """Land on, leave, or bump into the floor's steps."""
        level = self.drill.floor.height(x.real)
        was = self.drill.floor.height(s.x.real)
        s.side = (level > was + 1e-9) & (np.minimum(y, s.y) < level - 1e-9)
        x = np.where(s.side, s.x, x)
        s.vx = np.where(s.side, 0.0, s.vx)
        level = np.where(s.side, was, level)
        landed = ~s.grounded & (y <= level) & (s.vy <= 0)
        landed &= ~self.faults["fell-through"] | (y > level - 0.01)
        left = s.grounded & (y > level + 1e-9)
        s.x = x
        s.y = np.where(landed, level, y)
        s.vy = np.where(landed & ~self.faults["speed-on-ground"], 0.0, s.vy)
        s.grounded = (s.grounded | landed) & ~left
        s.coyote = np.where(left, self.p.coyote_time, s.coyote)


def _toward(v: FloatArray, goal: FloatArray, most: FloatArray) -> FloatArray:
    """Return ``v`` moved toward ``goal`` by ``most``, and no further than the goal."""
    return v + np.maximum(-most, np.minimum(most, goal - v))
