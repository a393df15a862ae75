"""How a vehicle loses its sideways speed: a decay, or a friction, while it turns and after.

A speed that stays as it is goes sideways once the heading turns under it: of the speeds ``f``
forward and ``s`` aside a turn by ``Δ`` makes ``s·cos Δ − f·sin Δ`` aside, on which grip acts.
"""

import numpy as np

from kickback.kinds.vehicle.laws.drive import law_of_forces
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.phases import slides
from kickback.kinds.vehicle.roles import SIDEWAYS
from kickback.laws.forces import select_forces
from kickback.laws.keys import PhaseKey
from kickback.laws.observations import Stretch
from kickback.laws.record import Law
from kickback.laws.select import Selected
from kickback.laws.step_model import LINEAR, ROLLING
from kickback.motion.segments import BoolArray, stretches
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["GRIP", "grip_laws"]

GRIP = PhaseKey("grip")

_FEWEST = 6
"""Rows of a slide below which it tells nothing."""

_TERMS = (((LINEAR,), (ROLLING,)), ((LINEAR, ROLLING),))

_ROUNDED = 1.15
"""Times the rounding of speeds and times that there may be: a heading's is nearly none of it."""

_MOST = 12
"""Slides that are looked at, the longest first."""


def grip_laws(motion: VehicleMotion) -> list[Law]:
    """Return the law of the sideways speed, or why none is told; nothing without a heading."""
    aside = motion.sideways
    if aside is None:
        return []
    rows = [_law_on(motion, aside, medium, on) for medium, on in motion.media]
    told = [row for row in rows if row.family is not None]
    return told or rows[:1]


def _law_on(motion: VehicleMotion, aside: Track, medium: str, on: BoolArray) -> Law:
    """Return the law of the slides on a surface."""
    base = Law(
        take=motion.take.name,
        role=SIDEWAYS,
        phase=PhaseKey(GRIP.base, medium=medium),
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis="sideways",
        frame=motion.clock.usual,
    )
    if aside.rounded or motion.forward.rounded:
        reason = "speeds are fitted to rounded places: none is that of a frame"
        return replace(base, reason=reason)
    sliding = slides(motion) & motion.driven & on
    parts = sorted(stretches(sliding, _FEWEST), key=lambda part: part[0] - part[1])[:_MOST]
    if not parts:
        return replace(base, reason="it goes along its heading: no slide shows a grip")
    heading = np.deg2rad(motion.heading)
    before = np.concatenate((heading[:1], heading[:-1]))
    noise = _noise(motion)
    readings = [_read(motion, parts, way, noise) for way in (heading, before)]
    found = [one for one in readings if one is not None]
    if not found:
        return replace(base, reason="its slides follow no known rule")
    return law_of_forces(base, min(found, key=lambda one: one.misfit), motion)


def _noise(motion: VehicleMotion) -> float:
    """Return the standard error of a sideways speed: of the printed speeds.

    A rounded heading turns the speeds before and after a step alike: most of that goes out.
    """
    aside = motion.sideways
    if aside is None:
        return 0.0
    of_place = 2**0.5 * aside.quantum / motion.clock.usual
    return (aside.printed if aside.source == "reported" else of_place) / ROOT_12


def _read(
    motion: VehicleMotion, parts: list[tuple[int, int]], way: FloatArray, noise: float
) -> Selected | None:
    """Return the law of slides, seen in each frame from a heading ``way``, radians, shape (n,)."""
    own = motion.velocity * np.exp(-1j * way)
    turned = np.concatenate(([0.0], np.diff(way)))
    was = np.concatenate((own[:1], own[:-1]))
    scale, shift = np.cos(turned), -was.real * np.sin(turned)
    lost = (own.imag - scale * was.imag - shift) / motion.dt
    pace = float(np.sqrt(np.mean(np.concatenate([lost[a + 1 : b] ** 2 for a, b in parts]))))
    noise = _ROUNDED * float(np.hypot(noise, motion.clock.time_error * pace))
    runs = []
    for a, b in parts:
        rows = slice(a, b)
        runs.append(
            Stretch(v=own.imag[rows], dt=motion.dt[rows], turned=(scale[rows], shift[rows]))
        )
    return select_forces(runs, noise, motion.clock.usual, _TERMS, singly=True)
