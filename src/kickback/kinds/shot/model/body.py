"""The projectile itself: launches, flights, bounces, and the wait before the next."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.kinds.playing.parameters import BoolArray, Values
from kickback.kinds.shot.model.drills import ShotDrill
from kickback.kinds.shot.model.parameters import FAULTS, MISTAKES
from kickback.takes.header import Value
from kickback.takes.take import FloatArray

__all__ = ["fire_shots"]

_OVER = 1e-12
"""What is left of a wait that is over, s."""

_SLOW = 1.0
"""Upward speed below which a bounce is over, length/s."""

_GOLDEN = 0.6180339887498949
"""What scatters shots evenly, and each time alike: the golden ratio's multiples."""


def fire_shots(
    sets: Sequence[Mapping[str, Value]], drill: ShotDrill, dt: FloatArray
) -> dict[str, FloatArray]:
    """Play a drill with m full parameter sets over the steps ``dt``, shape (n,), s.

    Returns the columns, shape (n, m): the shot that was launched last.
    """
    p = Values(sets, MISTAKES | FAULTS)
    body = _Body(p, drill)
    begins = np.concatenate(([0.0], np.cumsum(dt)[:-1]))
    fire = drill.read(begins).get("in_fire", np.zeros(len(dt))) > 0.5
    names = ["dt", "x", "y", "vx", "vy", "touch_ground"]
    names += ["z", "vz"] if drill.view == "3d" else []
    out = {name: np.zeros((len(dt), len(p))) for name in names}
    for n, step in enumerate(dt.tolist()):
        shown = body.advance(step, bool(fire[n]))
        for name in names:
            out[name][n] = shown[name]
    return out


class _Body:
    """Where each set's shot is; arrays of shape (m,); over the ground complex."""

    def __init__(self, p: Values, drill: ShotDrill) -> None:
        m = len(p)
        self._p, self._drill, self._reference = p, drill, 1.0 / p.reference_rate
        self._start = complex(drill.start, 0.0)
        self.x, self.v = np.full(m, self._start), np.zeros(m, dtype=np.complex128)
        self.y, self.rise = p.muzzle_height.copy(), np.zeros(m)
        self._flies, self._lies = np.zeros(m, dtype=bool), np.zeros(m, dtype=bool)
        self._wait, self._shots, self._burst = np.zeros(m), np.zeros(m), np.zeros(m)
        self._due, self._idle = np.zeros(m, dtype=bool), np.ones(m, dtype=bool)
        self._late, self._behind = p.mistake("spawn-late"), p.mistake("spawned-behind")
        old = p.mistake("integration-order") | p.word("integrator", "explicit")
        self._share = np.where(old, 0.0, np.where(p.word("integrator", "trapezoid"), 0.5, 1.0))

    def advance(self, dt: float, fire: bool) -> dict[str, FloatArray]:
        """Move on by a frame, and return what a row of it shows."""
        p, h0 = self._p, self._reference
        used = np.where(p.mistake("dt-clamped"), np.minimum(dt, p.largest_step), dt)
        self._wait = self._wait - np.where(p.mistake("timer-in-frames"), h0, used)
        ready = (self._wait <= _OVER) & fire
        launches = (ready & ~self._late) | self._due
        self._due = ready & self._late
        over = np.where(p.mistake("cadence-rounded"), 0.0, np.maximum(self._wait, -used))
        begun = np.where(self._idle, 0.0, over)
        self._burst = np.where(self._idle, 0.0, self._burst) + ready
        ended = (self._burst >= p.burst) & (p.cooldown > 0)
        pause = np.where(ended, p.cooldown, p.cadence)
        self._burst = np.where(ready & ended, 0.0, self._burst)
        self._wait = np.where(ready, begun + pause, self._wait)
        self._idle = ~ready & (self._wait < -used)
        self._launch(launches, used)
        self._fly(used)
        return {
            "dt": used,
            "x": self.x.real,
            "z": self.x.imag,
            "y": self.y,
            "vx": self.v.real,
            "vz": self.v.imag,
            "vy": self.rise,
            "touch_ground": self._lies.astype(np.float64),
        }

    def _launch(self, who: BoolArray, used: FloatArray) -> None:
        p = self._p
        turn = np.mod(self._shots * _GOLDEN, 1.0)
        up = p.elevation + p.scatter * (2 * turn - 1)
        aside = p.scatter * (2 * np.mod(turn * 7.0, 1.0) - 1) * (self._drill.view == "3d")
        speed = p.launch_speed * np.where(p.mistake("impulse-times-dt"), used / self._reference, 1)
        level = speed * np.cos(np.deg2rad(up)) * np.exp(1j * np.deg2rad(aside))
        rise = speed * np.sin(np.deg2rad(up))
        back = np.where(self._behind, 2 * used, 0.0)
        self.x = np.where(who, self._start - level * back, self.x)
        self.y = np.where(who, p.muzzle_height - rise * back, self.y)
        self.v, self.rise = np.where(who, level, self.v), np.where(who, rise, self.rise)
        self._flies, self._lies = self._flies | who, self._lies & ~who
        self._shots = self._shots + who

    def _fly(self, used: FloatArray) -> None:
        p, h0, flies = self._p, self._reference, self._flies
        before, fell = self.v, self.rise
        fall = np.where(p.mistake("gravity-per-frame"), h0, used)
        decays = np.where(p.mistake("factor-per-frame"), h0, used)
        kept = np.where(
            p.mistake("first-order-factor"),
            1 - p.linear_drag * decays,
            np.exp(-p.linear_drag * decays),
        )
        v, rise = before * kept, (fell - p.gravity * fall) * kept
        size = np.hypot(np.abs(v), rise)
        kept = np.maximum(1 - p.quadratic_drag * size * used, 0.0)
        v, rise = v * kept, rise * kept
        moves = np.where(p.mistake("position-per-frame"), h0, used)
        share = self._share
        x = self.x + (share * v + (1 - share) * before) * moves
        y = self.y + (share * rise + (1 - share) * fell) * moves
        meets = flies & (y <= 0) & (rise < 0)
        back = np.where(meets, -rise * p.bounce, rise)
        stops = meets & (back < _SLOW)
        along = np.where(meets, v * (1 - p.bounce_friction), v)
        self.x, self.y = np.where(flies, x, self.x), np.where(flies, np.maximum(y, 0.0), self.y)
        self.v = np.where(flies, np.where(stops, 0.0, along), self.v)
        self.rise = np.where(flies, np.where(stops, 0.0, back), self.rise)
        self._flies = flies & ~stops
        self._lies = meets | (self._lies & ~flies)
