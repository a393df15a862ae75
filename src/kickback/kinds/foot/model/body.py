"""A character on foot, for any number of parameter sets at once.

Over a plane its place and speed over the ground are complex numbers: first axis + i·second.

All state is arrays of shape (m,), one entry a parameter set, so that a sweep of
thousands of sets costs little more than one.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.kinds.foot.model.camera import Camera
from kickback.kinds.foot.model.dash import Dash
from kickback.kinds.foot.model.drills import FootDrill
from kickback.kinds.foot.model.ground import Ground
from kickback.kinds.foot.model.labels import Labels
from kickback.kinds.foot.model.leaps import Leaps
from kickback.kinds.foot.model.parameters import FAULTS, MISTAKES, THETA
from kickback.kinds.foot.model.state import Over, Read, State, at_rest
from kickback.kinds.foot.model.stick import Stick
from kickback.kinds.foot.model.travel import Travel
from kickback.kinds.foot.model.values import OVER, Steps
from kickback.kinds.playing.parameters import BoolArray, Values, some
from kickback.takes.header import Value
from kickback.takes.take import FloatArray

__all__ = ["run_foot"]

_TIMERS = {
    "squat": "squat_time", "lag": "landing_lag", "hang": "ledge_hang",
    "stick": "wall_stick_time", "away": "wall_jump_lockout",
}  # fmt: skip
"""Timers that a frame uses up, and the parameters that set them."""

_DOWN = -0.5
"""Amount of the vertical stick from which it is held down, in a side view."""


def run_foot(
    sets: Sequence[Mapping[str, Value]],
    drill: FootDrill,
    dt: FloatArray,
    first: State | None = None,
    reads: Sequence[Read] | None = None,
) -> dict[str, Over]:
    """Play a drill with m full parameter sets over the steps ``dt``, shape (n,), s.

    Returns columns of shape (n, m): ``dt x y vx vy touch_ground touch_side``, where the floor
    moves ``platform_vx`` too, with a camera ``camera_x camera_y``, with labels ``state``; over a
    plane ``x``, ``vx`` and ``camera_x`` as complex numbers. Inputs are the drill's own, or
    ``reads``, one a frame. With ``first``, the state after the first frame, that one is not played.
    Update order in a frame: input, timers, ground or air speed, dash, jump, cut, gravity, move,
    collide; then the camera and the label.
    """
    p = Values(sets, MISTAKES | FAULTS)
    steps = Steps(p)
    reads = _reads(drill, dt) if reads is None else reads
    motion = _Motion(p, steps, drill, dashes=any(some(read.dash) for read in reads))
    state = motion.start(len(sets)) if first is None else first
    out = _empty(len(dt), state, motion.columns)
    camera, labels = Camera(p, steps, state), Labels(p, len(sets))
    out |= _shown(out, camera, labels)
    for n, step in enumerate(dt):
        steps.take(float(step))
        if n or first is None:
            motion.advance(state, reads[n])
        out["dt"][n] = steps.used
        for name in ("x", "y", "vx", "vy"):
            out[name][n] = getattr(state, name)
        if motion.ground.carries:
            out["platform_vx"][n] = motion.ground.belt(state)
        if camera.used:
            camera.follow(state)
            out["camera_x"][n], out["camera_y"][n] = camera.x, camera.y
        if labels.used:
            out["state"][n] = labels.read(state, float(step))
        out["touch_ground"][n] = state.grounded
        out["touch_side"][n] = state.wall != 0
    return out


def _shown(out: Mapping[str, Over], camera: Camera, labels: Labels) -> dict[str, Over]:
    """Return the columns of a camera and of labels to be filled, where there are any."""
    found: dict[str, Over] = {}
    if camera.used:
        found |= {"camera_x": np.empty_like(out["x"]), "camera_y": np.empty_like(out["y"])}
    if labels.used:
        found["state"] = np.empty(out["y"].shape, dtype="<U4")
    return found


def _empty(frames: int, state: State, moved: Sequence[str]) -> dict[str, Over]:
    """Return columns to be filled, shape (n, m); those over the ground of its kind of numbers."""
    over = {"x", "vx"}
    return {
        name: np.empty((frames, len(state.x)), dtype=state.x.dtype if name in over else np.float64)
        for name in ("dt", *moved, "touch_ground", "touch_side")
    }


def _reads(drill: FootDrill, dt: FloatArray) -> list[Read]:
    """Return what each update of a drill reads."""
    begins = np.concatenate(([0.0], np.cumsum(dt)[:-1]))
    inputs = drill.read(begins)
    zeros = np.zeros(len(dt))
    move, second = inputs.get("in_move_x", zeros), inputs.get("in_move_y", zeros)
    plane = drill.view != "side"
    held = {name: inputs.get(f"in_{name}", zeros) > 0.5 for name in ("jump", "brake", "dash")}
    new = {
        name: held[name] & ~np.concatenate(([False], held[name][:-1])) for name in ("jump", "dash")
    }
    return [
        Read(
            move=complex(move[n], second[n]) if plane else float(move[n]),
            jump=bool(held["jump"][n]),
            pressed=bool(new["jump"][n]),
            brake=bool(held["brake"][n]),
            dash=bool(new["dash"][n]),
            down=not plane and bool(second[n] < _DOWN),
        )
        for n in range(len(dt))
    ]


class _Motion:
    """The update rule."""

    def __init__(self, p: Values, steps: Steps, drill: FootDrill, *, dashes: bool) -> None:
        self.p, self.steps, self.drill = p, steps, drill
        wrong_order = p.mistake("integration-order")
        theta = np.select([p.word("integrator", one) for one in THETA], list(THETA.values()))
        rise = [p.word("rise_integrator", one) for one in THETA]
        self.theta = np.where(wrong_order, 0.0, theta)
        self.rise_theta = np.select(rise, list(THETA.values()), self.theta)
        self.faults = {name: p.mistake(name) for name in FAULTS}
        self.faulty = any(bool(mask.any()) for mask in self.faults.values())
        self.holds = bool(np.any(p.hold_time > 0))
        self.dashes = dashes
        self.nobody = np.zeros(len(p.run_speed), dtype=bool)
        self.plane = drill.view != "side"
        self.ground = Ground(p, drill)
        self.travel = Travel(p, steps, plane=self.plane)
        self.leaps = Leaps(p, steps, self.ground)
        self.stick = Stick(p)
        self.locks = bool(np.any((p.landing_lag > 0) | (p.wall_jump_lockout > 0)))
        self.walls = bool(np.any((p.wall_slide_speed > 0) | (p.wall_stick_time > 0)))
        self.timers = [name for name, of in _TIMERS.items() if bool(np.any(getattr(p, of) > 0))]
        self.dash = Dash(
            p.dash_speed, p.dash_time, p.dash_lockout, p.dash_cooldown, plane=self.plane
        )

    @property
    def columns(self) -> tuple[str, ...]:
        """Return what is recorded of the motion."""
        return ("x", "y", "vx", "vy", *(("platform_vx",) if self.ground.carries else ()))

    def start(self, count: int) -> State:
        """Return the state before the first frame: at rest on the floor."""
        x = np.full(count, self.drill.start)
        over = np.complex128 if self.plane else np.float64
        return at_rest(x.astype(over), self.drill.floor.height(x).astype(np.float64))

    def advance(self, s: State, read: Read) -> None:
        """Carry the state through one frame."""
        was, stood = s.vx, s.grounded
        gradient, move = self.ground.gradient(s), self.stick.shaped(read.move)
        new = self.travel.speed(s, move, read.brake, gradient)
        dashing, speed, locked = self.nobody, new, self.nobody
        if self.dashes:
            dashing, locked, speed = self.dash.step(
                read.move, read.dash, self.steps.timer, self.steps.impulse
            )
        if self.locks:
            locked = locked | (s.grounded & (s.lag > OVER)) | (s.away > OVER)
        if some(locked):
            idle = self.travel.speed(s, np.zeros_like(move), read.brake, gradient)
            new = np.where(locked, idle, new)
        s.own = new
        self.leaps.jump(s, read, dashing)
        before, vy = s.vy, self._fall(s, read)
        if self.dashes:  # a dash goes level
            s.own, vy = np.where(dashing, speed, s.own), np.where(dashing, 0.0, vy)
            before = np.where(dashing, 0.0, before)
        vx = self.ground.over(s, s.own)
        if not self.ground.even:  # the mean of two speeds is of one ground
            was = np.where(stood & s.grounded, was, np.where(stood, vx, was))
        h = self.steps.position
        x = s.x + h * ((1 - self.theta) * was + self.theta * vx)
        rise = (1 - self.rise_theta) * before + self.rise_theta * vy
        y = s.y + h * rise * ~s.grounded
        s.vx, s.vy = vx, vy
        self._run_down(s)
        self.ground.meet(s, x, y)

    def _fall(self, s: State, read: Read) -> FloatArray:
        """Return the new vertical speed."""
        p, before = self.p, s.vy
        gravity = np.where(before > 0, p.gravity_rise, p.gravity_fall)
        most = p.terminal_speed
        if self.holds:
            light = (before > 0) & (s.hold > OVER)
            gravity = np.where(light, gravity * p.hold_gravity, gravity)
            s.hold = np.maximum(0.0, s.hold - self.steps.timer)
        if read.down:
            gravity = np.where(before > 0, gravity, gravity * p.fast_fall)
            most = most * p.fast_fall
        if "hang" in self.timers:
            gravity = np.where(s.hang > OVER, 0.0, gravity)
        vy = np.where(s.grounded, 0.0, np.maximum(before - gravity * self.steps.gravity, -most))
        if self.walls:
            vy = self._at_wall(s, vy)
        return self._faulty(s, vy, gravity, read.jump) if self.faulty else vy

    def _at_wall(self, s: State, vy: FloatArray) -> FloatArray:
        """Return the vertical speed as walls hold it: stuck to them, then sliding down."""
        p, touches = self.p, (s.wall != 0) & ~s.grounded & (vy <= 0)
        s.stick = np.where(touches & ~s.stuck, p.wall_stick_time, s.stick)
        s.stuck = touches
        slides = touches & (p.wall_slide_speed > 0)
        vy = np.where(slides, np.maximum(vy, -p.wall_slide_speed), vy)
        return np.where(touches & (s.stick > OVER), 0.0, vy)

    def _run_down(self, s: State) -> None:
        """Let the timers run that a frame uses up."""
        for name in self.timers:
            setattr(s, name, np.maximum(0.0, getattr(s, name) - self.steps.timer))

    def _faulty(
        self, s: State, vy: FloatArray, gravity: FloatArray, jump: bool | BoolArray
    ) -> FloatArray:
        """Return the vertical speed as code with faults makes it."""
        p, faults, h = self.p, self.faults, self.steps.gravity
        air = ~s.grounded
        s.in_air = np.where(air, s.in_air + self.steps.used, 0.0)
        if some(jump):
            vy = np.where(faults["rise-while-held"] & s.rising_jump & jump, s.vy, vy)
        vy = np.where(faults["no-fall"] & air & ~s.jumped, 0.0, vy)
        vy = np.where(faults["constant-fall"] & air & (vy < 0), -0.5 * p.jump_speed, vy)
        up = s.in_air < p.jump_speed / gravity
        straight = np.where(up, 0.5, -0.5) * p.jump_speed
        vy = np.where(faults["straight-jump"] & air & s.jumped, straight, vy)
        pressed = np.maximum(s.vy - gravity * h, -p.terminal_speed)
        return np.where(faults["speed-on-ground"] & s.grounded, pressed, vy)
