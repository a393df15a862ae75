"""The laws of one motion of a vehicle: pedals, grip, wheel and tilt."""

import numpy as np

from kickback.kinds.vehicle.laws.drive import drive_laws, straight_rows
from kickback.kinds.vehicle.laws.grip import grip_laws
from kickback.kinds.vehicle.laws.steering import steering_laws
from kickback.kinds.vehicle.laws.tilt import tilt_laws
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.roles import FORWARD
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.position import position_rule
from kickback.laws.record import Law, Laws
from kickback.motion.tracks import Track
from kickback.takes.record import replace

__all__ = ["vehicle_laws"]

_BENT = 1e-6
"""Share of the highest speed by which a step's speed changes, for it to tell θ."""


def vehicle_laws(motion: VehicleMotion) -> Laws:
    """Return the update rule behind each part of a vehicle's motion.

    A part that no rule explains, or that is too short or too noisy to tell, has the law ``none``
    with the reason.
    """
    rule = _rule(motion, motion.forward)
    scale = None if rule is None or rule.family is not POSITION_RULE else rule.value("scale")
    rows = drive_laws(motion, _with_own_speed(motion.forward, scale))
    if rule is not None and scale is not None and rule.clock == "frame":
        rows = [replace(row, by_frame=True) for row in rows]
    rows += [*grip_laws(motion), *steering_laws(motion), *tilt_laws(motion)]
    return Laws(
        rows=rows if rule is None else [*rows, rule],
        even=motion.clock.even,
        consequences=[one for row in rows if row.family for one in row.family.follows(row)],
    )


def _with_own_speed(track: Track, scale: float | None) -> Track:
    """Return a track with the code's own speed, where places go by it or by ``scale`` times it."""
    if track.logged is None:
        return track
    if track.source == "reported":
        return replace(track, v=track.logged)
    if scale is None:
        return track
    noise = track.logged_grid / 2
    return replace(
        track, p=track.p / scale, v=track.logged, source="reported", noise=noise, window=0
    )


def _rule(motion: VehicleMotion, track: Track) -> Law | None:
    """Return how the position follows the speed, on straight ways."""
    if track.logged is None:
        return None
    v = track.logged
    scale = float(np.max(np.abs(v), initial=0.0))
    usable = (np.abs(np.diff(v)) > _BENT * scale) & straight_rows(motion)[1:]
    if motion.clock.interrupted is not None:
        usable &= ~motion.clock.interrupted[1:]
    return position_rule(motion, track, FORWARD, np.flatnonzero(usable))
