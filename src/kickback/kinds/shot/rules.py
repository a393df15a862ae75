"""The rule of flights: gravity and drag, and how positions follow the game's own speeds."""

import numpy as np

from kickback.kinds.shot.motion import Arc, ShotMotion
from kickback.kinds.shot.roles import ACROSS, ASIDE, UP
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.forces import select_forces
from kickback.laws.observations import Stretch
from kickback.laws.position import position_rule
from kickback.laws.record import Law
from kickback.laws.select import Selected
from kickback.laws.step_model import LINEAR, PUSH, QUADRATIC
from kickback.motion.segments import IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12
from kickback.takes.record import replace
from kickback.takes.roles import Role
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["FEWEST_ROWS", "by_its_own_speeds", "goes_straight", "position_law", "read_flights"]

_FALLING = (
    ((PUSH,),),
    ((PUSH, LINEAR), (PUSH, QUADRATIC)),
    ((PUSH, LINEAR, QUADRATIC),),
)
_LEVEL = (((LINEAR,), (QUADRATIC,)), ((LINEAR, QUADRATIC),))
"""Sets of terms by how many they are, of a flight with a height and of one from above."""

_MOST = 12
"""Flights that settle a rule."""

_BENT = 1e-6
"""Share of the highest speed by which a step's speed changes, for it to tell θ."""

FEWEST_ROWS = 5
"""Frames of a flight that tell a rule."""


def read_flights(motion: ShotMotion) -> Selected | None:
    """Return the rule of flights: gravity and drag; None where no known one explains them."""
    arcs = sorted(motion.arcs, key=lambda arc: arc.start - arc.stop)[:_MOST]
    motion = by_its_own_speeds(motion)
    placed = any(track.source != "reported" for track in motion.plain)
    rounded = motion.quantum > 0 or any(track.printed for track in motion.plain)
    cut = 1 if placed and not rounded else 0  # a first displacement may be of a part of a frame
    rows = [np.arange(arc.start + cut, arc.stop) for arc in arcs]
    runs = [_run(motion, one, placed=placed and rounded) for one in rows if len(one) >= FEWEST_ROWS]
    if not runs:
        return None
    noise, terms = _noise(motion, placed=placed), _FALLING if motion.flies else _LEVEL
    return select_forces(runs, noise, motion.clock.usual, terms, toward=-1j)


def goes_straight(motion: ShotMotion, arc: Arc) -> bool:
    """Whether nothing acts on a flight: it keeps its speed."""
    speed = motion.speed[arc.start : arc.stop]
    noise = max((track.noise for track in motion.plain), default=0.0)
    return float(np.ptp(speed)) <= ARITHMETIC * float(np.max(speed)) + 4 * noise


def _run(motion: ShotMotion, rows: IntArray, *, placed: bool) -> Stretch:
    """Return the frames of a flight in its own plane: along its way, and up."""
    way = np.conj(_direction(motion, rows))
    speed, place = motion.drift[rows] * way, motion.ground[rows] * way
    if not motion.flies:
        return Stretch(v=speed.real, dt=motion.dt[rows], p=place.real if placed else None)
    rising, high = speed.real + 1j * motion.rise[rows], place.real + 1j * motion.height[rows]
    return Stretch(v=rising, dt=motion.dt[rows], p=high if placed else None)


def by_its_own_speeds(motion: ShotMotion) -> ShotMotion:
    """Return a motion with the code's speeds, where positions follow them by some rule.

    Where the step is not the frame's they are other than the speeds that are seen.
    """
    own = {
        role.name: _own_speeds(motion, role)
        for role in (ACROSS, ASIDE, UP)
        if role.name in motion.tracks
    }
    tracks = dict(motion.tracks) | own
    if all(tracks[name] is motion.tracks[name] for name in tracks):
        return motion
    drift = motion.drift * 0
    for role, unit in ((ACROSS, 1.0), (ASIDE, 1j)):
        if role.name in tracks:
            drift = drift + unit * tracks[role.name].v
    rise = tracks[UP.name].v if UP.name in tracks else motion.rise
    return replace(motion, tracks=tracks, drift=drift, rise=rise)


def _own_speeds(motion: ShotMotion, role: Role) -> Track:
    """Return the track of an axis with the code's own speeds, or as it is where they are untold."""
    track = motion.tracks[role.name]
    if track.logged is None:
        return track
    if track.source == "reported":
        return track if np.array_equal(track.v, track.logged) else replace(track, v=track.logged)
    rule = position_law(motion, role)
    if rule is None or not rule.value("scale"):
        return track
    return replace(
        track,
        p=track.p / rule.value("scale"),
        v=track.logged,
        source="reported",
        noise=track.logged_grid / 2,
        window=0,
    )


def position_law(motion: ShotMotion, role: Role) -> Law | None:
    """Return how places along an axis follow the game's own speeds; None where untold."""
    track = motion.tracks.get(role.name)
    if track is None or track.logged is None:
        return None
    flying = np.zeros(len(motion.t), dtype=bool)
    for arc in motion.arcs:
        flying[arc.start + 1 : arc.stop] = True
    v = track.logged
    bent = np.abs(np.diff(v)) > _BENT * float(np.max(np.abs(v), initial=0.0))
    usable = flying[1:] & (bent if role is UP else np.abs(v[1:]) > motion.rest_speed)
    if motion.clock.interrupted is not None:
        usable &= ~motion.clock.interrupted[1:]
    law = position_rule(motion, track, role, np.flatnonzero(usable))
    return law if law is None or law.family is POSITION_RULE else None


def _direction(motion: ShotMotion, rows: IntArray) -> complex:
    """Return the direction over the ground of a flight's frames, of size 1."""
    way = complex(motion.ground[rows[-1]] - motion.ground[rows[0]])
    return way / abs(way) if abs(way) > 0 else 1.0


def _noise(motion: ShotMotion, *, placed: bool) -> float:
    if placed:  # rounded steps add up along a path: half of them on the whole
        many = max(arc.stop - arc.start for arc in motion.arcs)
        pace = float(np.max(motion.speed, initial=0.0)) * motion.clock.time_error
        return float(np.hypot(motion.quantum / ROOT_12, pace * (many / 2) ** 0.5))
    printed = max((track.printed for track in motion.plain), default=0.0) / ROOT_12
    bend = float(np.max(np.abs(np.diff(motion.rise)), initial=0.0)) / motion.clock.usual
    return float(np.hypot(printed, motion.clock.time_error * bend))
