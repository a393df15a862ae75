"""Speed over the ground: toward what the input asks for, on the ground and in the air."""

import numpy as np

from kickback.kinds.foot.model.state import Over, State
from kickback.kinds.foot.model.values import Steps
from kickback.kinds.playing.parameters import Values, some
from kickback.takes.take import FloatArray

__all__ = ["Travel"]


class Travel:
    """How each set's own speed changes in a frame; over a plane by length or by axis."""

    def __init__(self, p: Values, steps: Steps, *, plane: bool) -> None:
        self._p, self._steps, self._plane = p, steps, plane
        self._smoothing = p.word("ground_movement", "smoothing")
        self._friction = p.word("ground_movement", "friction")
        self._smooths, self._rubs = some(self._smoothing), some(self._friction)
        self._by_axis = p.word("plane_movement", "axis")
        self._unshortened = p.mistake("diagonal-faster")
        self._reverse = np.where(p.reverse_speed > 0, p.reverse_speed, p.run_speed)
        self._air_share = np.where(p.air_speed > 0, p.air_speed / p.run_speed, 1.0)
        self._eases = (p.air_rate > 0) | (p.air_stop_rate > 0)
        self._eased = bool(self._eases.any())
        self._both = bool(np.any(self._reverse != p.run_speed))
        self._slopes = bool(np.any(p.slope_effect > 0))
        self._slides = bool(np.any(p.slide_angle > 0))

    def speed(self, s: State, move: Over, brake: bool, gradient: FloatArray | None) -> Over:
        """Return the new own speed; ``gradient``: how the ground rises, None if it never does."""
        goal = np.zeros_like(s.own) if brake else self._goal(move)
        stands = np.count_nonzero(s.grounded)
        if stands == len(s.grounded):
            return self._grounded(s, move, brake, goal, gradient)
        if not stands:
            return self._in_air(s.own, move, goal)
        on_ground = self._grounded(s, move, brake, goal, gradient)
        return np.where(s.grounded, on_ground, self._in_air(s.own, move, goal))

    def _in_air(self, v: Over, move: Over, goal: Over) -> Over:
        """Return the new speed in the air."""
        p = self._p
        pushed = np.where(move != 0, p.air_acceleration, p.air_deceleration) * self._steps.speed
        in_air = self._toward(v, goal * self._air_share, pushed)
        if self._eased:
            kept = np.where(move != 0, self._steps.kept_in_air, self._steps.kept_drifting)
            aim = goal * self._air_share
            in_air = np.where(self._eases, aim + (v - aim) * kept, in_air)
        return in_air

    def _grounded(
        self, s: State, move: Over, brake: bool, goal: Over, gradient: FloatArray | None
    ) -> Over:
        """Return the new speed on the ground, which may slope."""
        p, v = self._p, s.own
        if gradient is not None and self._slopes:
            tilt = np.arctan(gradient) * np.sign(np.real(goal))
            goal = goal * np.maximum(0.0, 1 - p.slope_effect * np.sin(tilt))
        on_ground = self._on_ground(v, move, brake, goal)
        if gradient is not None and self._slides:
            slides = (p.slide_angle > 0) & (np.rad2deg(np.arctan(np.abs(gradient))) > p.slide_angle)
            gained = np.sign(gradient) * p.slide_acceleration * self._steps.speed
            on_ground = np.where(slides & (move == 0), v - gained, on_ground)
        return on_ground

    def _goal(self, move: Over) -> Over:
        """Return the speed that an input asks for."""
        if not self._plane:
            both = np.where(move >= 0, self._p.run_speed, self._reverse) if self._both else None
            return move * (self._p.run_speed if both is None else both)
        shortened = move / np.maximum(1.0, np.abs(move))
        return np.where(self._unshortened, move, shortened) * self._p.run_speed

    def _toward(self, v: Over, goal: Over, most: FloatArray) -> Over:
        """Return ``v`` moved toward ``goal`` by ``most``: by length, or on each axis by itself."""
        if not self._plane:
            return _toward(v, goal, most)
        by_axis = _toward(v.real, goal.real, most) + 1j * _toward(v.imag, goal.imag, most)
        gap = goal - v
        left = np.abs(gap)
        by_length = v + gap * np.minimum(1.0, most / np.where(left > 0, left, np.inf))
        by_length = np.where(left <= most, goal, by_length)
        return np.where(self._by_axis, by_axis, by_length)

    def _on_ground(self, v: Over, move: Over, brake: bool, goal: Over) -> Over:
        """Return the new speed on the ground, by each set's kind of movement."""
        p, h, steps = self._p, self._steps.speed, self._steps
        against = (v * np.conj(move)).real < 0
        if brake:
            against = v != 0
        slowing = (move == 0) | (np.abs(v) > np.abs(goal))
        rate = np.where(slowing, p.coast_deceleration, p.ground_acceleration)
        new = self._toward(v, goal, np.where(against, p.brake_deceleration, rate) * h)
        if self._smooths:
            kept = np.where(move == 0, steps.kept_letting_go, steps.kept_pressing)
            new = np.where(self._smoothing, goal + (v - goal) * kept, new)
        if self._rubs:
            way = move / np.maximum(1.0, np.abs(move)) if self._plane else move
            driven = v + way * p.ground_acceleration * h
            new = np.where(self._friction, driven * steps.kept_rubbing, new)
        return new


def _toward(v: FloatArray, goal: FloatArray, most: FloatArray) -> FloatArray:
    """Return ``v`` moved toward ``goal`` by ``most``, and no further than the goal."""
    return v + np.maximum(-most, np.minimum(most, goal - v))
