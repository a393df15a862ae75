"""The vehicle itself: what an update makes of pedals, wheel, grip and slope."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.kinds.playing.parameters import BoolArray, Values
from kickback.kinds.vehicle.model.drills import VehicleDrill
from kickback.kinds.vehicle.model.parameters import FAULTS, MISTAKES
from kickback.takes.header import Value
from kickback.takes.take import FloatArray

__all__ = ["drive_vehicle"]

_OFF = 1e-9
"""Height from which it is off the ground."""


def drive_vehicle(
    sets: Sequence[Mapping[str, Value]], drill: VehicleDrill, dt: FloatArray
) -> dict[str, FloatArray]:
    """Play a drill with m full parameter sets over the steps ``dt``, shape (n,), s.

    Returns the columns, shape (n, m); from above with the second axis ``y``.
    """
    p = Values(sets, MISTAKES | FAULTS)
    body = _Body(p, drill)
    begins = np.concatenate(([0.0], np.cumsum(dt)[:-1]))
    inputs = drill.read(begins)
    zeros = np.zeros(len(dt))
    pedals = [inputs.get(f"in_{name}", zeros) for name in ("throttle", "steer", "brake")]
    names = body.columns()
    out = {name: np.zeros((len(dt), len(p))) for name in names}
    for n, step in enumerate(dt.tolist()):
        shown = body.advance(step, *(float(one[n]) for one in pedals))
        for name in names:
            out[name][n] = shown[name]
    return out


class _Steps:
    """The time step that each term uses in a frame: mistakes live here; arrays of shape (m,)."""

    def __init__(self, p: Values) -> None:
        self._p, self._reference = p, 1.0 / p.reference_rate
        self._whole, self._clamped = p.mistake("all-in-frames"), p.mistake("dt-clamped")
        self._free, self._twice = p.mistake("acceleration-per-frame"), p.mistake("dt-twice")
        self._wheel, self._places = p.mistake("steering-per-frame"), p.mistake("position-per-frame")
        self._factor, self._first = p.mistake("factor-per-frame"), p.mistake("first-order-factor")

    def take(self, dt: float) -> None:
        """Set every term's step for a frame of ``dt`` seconds."""
        h0 = self._reference
        h = np.where(self._clamped, np.minimum(dt, self._p.largest_step), dt)
        self.used = h
        h = np.where(self._whole, h0, h)
        self.plain = h
        self.push = np.where(self._free, h0, np.where(self._twice, h * h / h0, h))
        self.wheel = np.where(self._wheel, h0, h)
        self.place = np.where(self._places, h0, h)
        self._decaying = np.where(self._factor, h0, h)

    def kept(self, rate: FloatArray) -> FloatArray:
        """Return what a decay keeps in a frame."""
        h = self._decaying
        return np.where(self._first, np.maximum(0.0, 1.0 - rate * h), np.exp(-rate * h))


class _Body:
    """Where each set's vehicle is; arrays of shape (m,)."""

    def __init__(self, p: Values, drill: VehicleDrill) -> None:
        m = len(p)
        self.p, self._drill, self._steps = p, drill, _Steps(p)
        self.x, self.y = np.full(m, drill.start), np.zeros(m)
        self.v, self.vy = np.zeros(m, dtype=np.complex128), np.zeros(m)
        self.heading, self.turning = np.full(m, drill.heading), np.zeros(m)
        self.pitch, self.grounded = np.zeros(m), np.ones(m, dtype=bool)
        self._old = p.mistake("integration-order") | p.word("integrator", "explicit")
        self._airborne = (p.mistake("drives-in-air"), p.mistake("steers-in-air"))
        self._sign = np.where(p.mistake("wheel-reversed"), -1.0, 1.0)
        if drill.view == "side":
            self.y = drill.floor.height(self.x)

    def columns(self) -> list[str]:
        """Return the columns that a take of the drill has."""
        if self._drill.view == "side":
            return ["dt", "x", "y", "vx", "vy", "pitch", "ground_pitch", "touch_ground"]
        return ["dt", "x", "y", "vx", "vy", "heading"]

    def advance(
        self, dt: float, throttle: float, wheel: float, brake: float
    ) -> dict[str, FloatArray]:
        """Move on by a frame, and return what a row of it shows."""
        steps = self._steps
        steps.take(dt)
        if self._drill.view == "side":
            return self._over_slopes(throttle, brake)
        self._turn(wheel)
        along = np.exp(1j * np.deg2rad(self.heading))
        own = self.v * np.conj(along)
        forward = self._driven(own.real, throttle, brake, np.ones(len(self.x), dtype=bool))
        before = self.v
        self.v = (forward + 1j * own.imag * steps.kept(self.p.grip_rate)) * along
        moved = np.where(self._old, before, self.v) * steps.place
        self.x, self.y = self.x + moved.real, self.y + moved.imag
        return {
            "dt": steps.used,
            "x": self.x,
            "y": self.y,
            "vx": self.v.real,
            "vy": self.v.imag,
            "heading": self.heading,
        }

    def _turn(self, wheel: float) -> None:
        """Turn the heading as the wheel asks, less at low speeds."""
        p, steps = self.p, self._steps
        along = np.exp(1j * np.deg2rad(self.heading))
        ahead = (self.v * np.conj(along)).real
        full = np.where(p.full_steer_speed > 0, p.full_steer_speed, 1.0)
        share = np.where(p.full_steer_speed > 0, np.clip(ahead / full, -1, 1), 1.0)
        wanted = wheel * self._sign * p.yaw_rate * share
        kept = np.where(p.steer_rate > 0, steps.kept(p.steer_rate), 0.0)
        self.turning = wanted + (self.turning - wanted) * kept
        self.heading = self.heading + self.turning * steps.wheel

    def _driven(
        self, v: FloatArray, throttle: float, brake: float, grounded: BoolArray
    ) -> FloatArray:
        """Return the forward speed after a frame of pedals and resistances."""
        p, steps = self.p, self._steps
        engine = p.engine if throttle >= 0 else p.reverse_engine
        drives = grounded | self._airborne[0]
        v = v + throttle * engine * steps.push * drives
        v = v * steps.kept(p.linear_drag)
        v = v - p.quadratic_drag * v * np.abs(v) * steps.push
        loss = (p.rolling + p.brake * brake) * steps.push * grounded
        v = np.sign(v) * np.maximum(np.abs(v) - loss, 0.0)
        limit = np.where(p.top_speed > 0, p.top_speed, np.inf)
        return np.clip(v, -limit, limit)

    def _over_slopes(self, throttle: float, brake: float) -> dict[str, FloatArray]:
        """Move along a floor, or through the air over it: from the side."""
        p, steps, floor = self.p, self._steps, self._drill.floor
        slope = floor.gradient(floor.piece(self.x))
        pull = -p.gravity * np.sin(np.arctan(slope)) * self.grounded
        before, fell = self.v.real, self.vy
        v = self._driven(before + pull * steps.plain, throttle, brake, self.grounded)
        fall = np.where(self.grounded, v * slope, fell - p.gravity * steps.plain)
        x = self.x + np.where(self._old, before, v) * steps.place
        y = self.y + np.where(self._old, fell, fall) * steps.place
        ground = floor.height(x)
        ahead = floor.gradient(floor.piece(x))
        # it leaves a crest where the ground falls away quicker than it would fall itself
        leaves = self.grounded & (v * ahead < v * slope - p.gravity * steps.plain)
        lands = ~self.grounded & (y <= ground + _OFF)
        stays = (self.grounded & ~leaves) | lands
        self.y = np.where(stays, ground, y)
        self.vy = np.where(stays, v * ahead, fall)
        self.x, self.v, self.grounded = x, v.astype(np.complex128), stays
        under = np.rad2deg(np.arctan(ahead))
        kept = np.where(p.align_rate > 0, steps.kept(p.align_rate), 0.0)
        self.pitch = np.where(stays, under + (self.pitch - under) * kept, self.pitch)
        return {
            "dt": steps.used,
            "x": self.x,
            "y": self.y,
            "vx": v,
            "vy": self.vy,
            "pitch": self.pitch,
            "ground_pitch": under,
            "touch_ground": stays.astype(np.float64),
        }
