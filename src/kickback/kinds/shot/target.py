"""What is to be hit: a place, or something that moves, and where shots meet it."""

import numpy as np

from kickback.kinds.shot.aim import Aim, Flight, aim, arrival
from kickback.kinds.shot.motion import Complexes, ShotMotion, place_in
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Start", "Target", "ahead_of", "lead_for", "meeting", "target_of"]

Start = tuple[float, complex, float]
"""When a shot begins, s, where over the ground, and how high."""

_MOVES = 1e-9
"""Share of its distance by which a target moves in a take, and moves."""

_ROUNDS = 60
"""Times that a meeting is looked for again where the target has gone to."""

_MET = 1e-9
"""Share of a flight's time within which a meeting is found."""


class Target(Record, frozen=True, kw_only=True):
    """Where a target is, frame by frame: over the ground and its height, arrays of shape (n,)."""

    t: FloatArray
    ground: Complexes
    height: FloatArray

    @property
    def moves(self) -> bool:
        """Whether it is not always in one place."""
        size = max(float(np.max(np.abs(self.ground))), float(np.max(np.abs(self.height))))
        way = max(float(np.ptp(one)) for one in (self.ground.real, self.ground.imag, self.height))
        return way > _MOVES * size

    def at(self, time: float) -> tuple[complex, float]:
        """Return where it is at a time, s; before and after the take it goes on as it went."""
        k = int(np.clip(np.searchsorted(self.t, time), 1, len(self.t) - 1))
        share = (time - self.t[k - 1]) / (self.t[k] - self.t[k - 1])
        ground = self.ground[k - 1] + share * (self.ground[k] - self.ground[k - 1])
        height = self.height[k - 1] + share * (self.height[k] - self.height[k - 1])
        return complex(ground), float(height)

    def heading(self, time: float) -> complex:
        """Return which way it goes over the ground at a time; 0 where it stands."""
        k = int(np.clip(np.searchsorted(self.t, time), 1, len(self.t) - 1))
        return complex(self.ground[k] - self.ground[k - 1])


def target_of(motion: ShotMotion) -> Target | None:
    """Return the target: that of the options, of columns ``target_x`` …, or of the header.

    None where there is none.
    """
    if motion.options.target is None:
        moving = _of_columns(motion)
        if moving is not None:
            return moving
    header = motion.take.header
    given: object = motion.options.target or header.extra.get("target")
    place = place_in(header, given)
    if place is None:
        return None
    many = len(motion.t)
    ground = np.full(many, place[0], dtype=np.complex128)
    return Target(t=motion.t, ground=ground, height=np.full(many, place[1]))


def _of_columns(motion: ShotMotion) -> Target | None:
    take, axes = motion.take, ground_axes(motion.take.header)
    names = [f"target_{axis}" for axis in axes]
    up = f"target_{up_axis(take.header)}"
    wanted = names if not motion.flies else [*names, up]
    if any(name not in take for name in wanted):
        return None
    parts = [take.numbers(name) for name in names]
    ground = parts[0] + 1j * (parts[1] if len(parts) > 1 else 0.0)
    height = take.numbers(up) if motion.flies else np.zeros(len(motion.t))
    place = np.asarray(ground, dtype=np.complex128)
    return Target(t=motion.t, ground=place, height=height)


def meeting(
    flight: Flight, start: Start, target: Target, *, high: bool = False
) -> tuple[Aim, float, complex] | None:
    """Return how shots from ``start`` (time, place, height) hit a target that moves.

    The aim at where both meet, the time until then, s, and the place over the ground; None where
    they never do. By iteration: aim at where the target is when a shot at its last place arrives.
    """
    begin, ground, height = start
    wait = 0.0
    for _ in range(_ROUNDS):
        place, up = target.at(begin + wait)
        across = abs(place - ground)
        found = aim(flight, across, up - height)
        if not found.elevations:
            return (found, np.nan, place) if not target.moves else None
        elevation = found.elevations[-1 if high else 0]
        time = arrival(flight, elevation, across, up - height)
        if abs(time - wait) <= _MET * max(time, 1e-12) or not target.moves:
            return found, time, place
        wait = time
    return None


def lead_for(flight: Flight, start: Start, target: Target) -> float | None:
    """Return by how much a shot must go ahead of the line to a target, degrees over the ground.

    Plus toward where the target goes; None where they never meet.
    """
    met = meeting(flight, start, target)
    if met is None or not np.isfinite(met[1]):
        return None
    return ahead_of(target, start, met[2] - start[1])


def ahead_of(target: Target, start: Start, way: complex) -> float | None:
    """Return by how much a way over the ground is ahead of the line to a target, degrees."""
    begin, ground, _ = start
    line, goes = target.at(begin)[0] - ground, target.heading(begin)
    if not abs(line) or not abs(way) or not abs(goes):
        return None
    angle = float(np.rad2deg(np.angle(way / line)))
    side = (goes / line).imag
    return angle if side >= 0 else -angle
