"""Which steps tell how the position follows the speed, and which speed the rules are about."""

import numpy as np

from kickback.kinds.foot.laws.implied import implied_tracks
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.throws import thrown_in_the_air
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.record import Law
from kickback.motion.segments import IntArray
from kickback.motion.tracks import Track
from kickback.takes.record import replace
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray

__all__ = ["law_track", "usable_steps"]

_BENT = 1e-6
"""Share of the highest speed by which a step's speed changes, for it to tell θ."""


def usable_steps(motion: FootMotion, v: FloatArray, role: Role) -> IntArray:
    """Return the steps whose speed changes by the laws alone."""
    before, after = v[:-1], v[1:]
    scale = float(np.max(np.abs(v), initial=0.0))
    usable = (np.abs(after - before) > _BENT * scale) & ((before != 0) | (after != 0))
    usable &= ~motion.dashing[1:]
    if motion.plane is not None and role is ACROSS:
        usable &= ~motion.plane.cut[1:]
    if motion.clock.interrupted is not None:
        usable &= ~motion.clock.interrupted[1:]
    if role is UP:
        usable[thrown_in_the_air(motion) - 1] = False
        usable &= ~motion.grounded[1:] & ~motion.grounded[:-1]
        if motion.inputs.jump is not None:  # a cut comes between the rows
            usable &= ~(motion.inputs.jump[:-1] & ~motion.inputs.jump[1:])
    return np.flatnonzero(usable)


def law_track(motion: FootMotion, track: Track, rule: Law | None) -> Track:
    """Return the track whose speed the rules are about: the game's own where it moves anything.

    A velocity that is not the motion still is the speed of the code where the position
    follows it by another rule, such as one without a time step: its positions are then those
    that the speed makes with one. Without a velocity, the one
    that the rule's θ implies.
    """
    if track.source == "reported":  # its speeds are those seen on the wall clock
        return track if track.logged is None else replace(track, v=track.logged)
    if rule is None or rule.family is not POSITION_RULE:
        return track
    if track.logged is None:
        told = rule.value("theta")
        implied = implied_tracks(motion, track, rule.role)
        return next((one for theta, one in implied if theta == told), track)
    p, theta, noise = track.p / rule.value("scale"), rule.value("theta"), track.logged_grid / 2
    return replace(
        track, p=p, v=track.logged, theta=theta, source="reported", noise=noise, window=0
    )
