"""What the model stands on and bumps into: slopes, belts, walls, landings, ledges, ceilings."""

import numpy as np

from kickback.kinds.foot.model.drills import FootDrill
from kickback.kinds.foot.model.state import Over, State
from kickback.kinds.playing.parameters import BoolArray, Values, some
from kickback.takes.take import FloatArray

__all__ = ["Ground"]

_BESIDE = 1e-6
"""Length within which a body that goes toward a wall touches it."""

_OFF = 1e-9
"""Height from which a body is off the floor."""


class Ground:
    """The floor of a drill under each set's subject.

    ``even``: no piece of it slopes or moves, so that own speeds are those over the ground.
    """

    def __init__(self, p: Values, drill: FootDrill) -> None:
        self._p, self._floor, self._ceiling = p, drill.floor, drill.ceiling
        self.even = drill.floor.even
        self.carries = bool(drill.floor.moves.any())
        self._along = p.word("slope_speed", "along")
        self._fell_through = p.mistake("fell-through")
        self._falls_through = bool(self._fell_through.any())
        self._one = np.ones(len(p), dtype=bool)
        self._keeps_falling = p.mistake("speed-on-ground")
        self._keeps = bool(self._keeps_falling.any())
        self._hangs, self._lags = (bool(np.any(one > 0)) for one in (p.ledge_hang, p.landing_lag))
        self._flies = p.word("crest", "fly")

    def gradient(self, s: State) -> FloatArray | None:
        """Return how far the ground rises in a unit of length; None if it never does."""
        if self.even:
            return None
        return self._floor.gradient(self._floor.piece(s.x.real)) * s.grounded

    def belt(self, s: State) -> FloatArray:
        """Return the speed of what each subject stands on, shape (m,); 0 in the air."""
        return self._floor.belt(s.x.real) * s.grounded

    def over(self, s: State, own: Over) -> Over:
        """Return the speed over the ground that an own speed is, shape (m,)."""
        if self.even:
            return own
        return np.asarray(own * self._shown(s, own) + self.belt(s))

    def _shown(self, s: State, own: Over) -> FloatArray:
        """Return what of an own speed goes over the level ground."""
        gradient = self._floor.gradient(self._floor.piece(s.x.real)) * s.grounded
        size = np.abs(own)
        way = np.real(own) / np.where(size > 0, size, 1.0)
        return np.where(self._along, 1 / np.sqrt(1 + (gradient * way) ** 2), 1.0)

    def leave(self, s: State, who: BoolArray) -> None:
        """Take subjects off the ground, with what they keep of its motion."""
        if not self.even:
            free = s.own * self._shown(s, s.own) + self._p.belt_kept * self.belt(s)
            s.own = np.where(who & s.grounded, free, s.own)
        s.grounded = s.grounded & ~who

    def meet(self, s: State, x: Over, y: FloatArray) -> None:
        """Move to ``x`` and ``y``: land on, leave, or bump into what is there."""
        old = s.x.real
        x = self._bump(s, x, np.minimum(y, s.y)) if len(self._floor.edges) > 1 else x
        end = x.real
        level = self._floor.height(end)
        joined = self._floor.joined(old, end) if len(self._floor.edges) > 1 else self._one
        left = s.grounded & (y > level + _OFF) & ~joined
        rise = np.zeros_like(level)
        if not self.even:
            y, left, rise = self._follow(s, end, np.where(s.grounded & ~left, level, y), left)
        landed = ~s.grounded & (y <= level) & (s.vy <= rise + _OFF)
        if self._falls_through:
            landed &= ~self._fell_through | (y > level - 0.01)
        self._settle(s, x, np.where(landed, level, y), landed, left, rise)
        if self._ceiling is not None:
            top = self._ceiling.height(end)
            s.vy = np.where(s.y > top, np.minimum(s.vy, 0.0), s.vy)
            s.y = np.minimum(s.y, top)

    def _bump(self, s: State, x: Over, low: FloatArray) -> Over:
        """Return where bodies end that go to ``x``: at a wall those that it stops."""
        old, way = s.x.real, np.sign(s.vx.real)
        piece = self._floor.piece(x.real)
        onward = x.real + way * _BESIDE  # a place may follow its speed later
        if not some((self._floor.piece(old) != piece) | (self._floor.piece(onward) != piece)):
            s.wall = np.zeros_like(old)
            return x
        end = self._floor.stopped(old, x.real, low)
        onward = end + way * _BESIDE
        leans = self._floor.stopped(end, onward, low) != onward
        s.wall = np.where(end != x.real, np.sign(x.real - old), leans * way)
        bumped = s.wall != 0
        s.own = np.where(bumped, s.own - s.own.real, s.own)
        s.vx = np.where(bumped, s.vx - s.vx.real, s.vx)
        return end + 1j * x.imag if np.iscomplexobj(x) else end

    def _follow(
        self, s: State, end: FloatArray, y: FloatArray, left: BoolArray
    ) -> tuple[FloatArray, BoolArray, FloatArray]:
        """Return heights of subjects that follow the ground, who leaves it, and its rise, /s."""
        old = self._floor.piece(s.x.real)
        was, now = self._floor.gradient(old), self._floor.gradient(self._floor.piece(end))
        v = np.real(s.vx)
        flies = s.grounded & self._flies & (v * now < v * was - _OFF)
        y = np.where(flies, self._floor.on(old, end), y)
        s.vy = np.where(flies, v * was, s.vy)
        return y, left | flies, v * now

    def _settle(
        self,
        s: State,
        x: Over,
        y: FloatArray,
        landed: BoolArray,
        left: BoolArray,
        rise: FloatArray,
    ) -> None:
        """Set where subjects are, with what landings and ledges start."""
        p = self._p
        stands = (s.grounded | landed) & ~left
        if not self.even and some(landed):
            s.x, s.grounded = x, s.grounded | landed
            s.own = np.where(landed, s.own - p.belt_kept * self.belt(s), s.own)
        leaves = some(left)
        if leaves:
            self.leave(s, left)
        s.x, s.y, s.grounded = x, y, stands
        s.vy = np.where(stands & ~self._keeps_falling if self._keeps else stands, rise, s.vy)
        if leaves:
            s.coyote = np.where(left, p.coyote_time, s.coyote)
        if self._hangs:
            s.hang = np.where(left & (s.vy <= 0), p.ledge_hang, np.where(stands, 0.0, s.hang))
        if self._lags:
            s.lag = np.where(landed, p.landing_lag, s.lag)
