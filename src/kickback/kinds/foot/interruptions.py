"""What interrupts a character on foot besides time: a cut scene, a respawn in the air."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.motion.interruptions import CUT_SCENE, LEAP, RESPAWN, Interruption, InterruptionKind
from kickback.motion.segments import stretches

__all__ = ["cut_scenes", "flights_of", "leap_from"]

_MOVES = 0.1
"""Share of the highest speed from which it moves."""

_LASTS = 0.3
"""Seconds that a cut scene moves it at least."""

_STARTS = 3
"""Frames within which a speed that nobody pressed for is there."""


def cut_scenes(motion: FootMotion) -> list[Interruption]:
    """Return where the subject sets off from rest and moves on with no input at all.

    On the ground, from its first step until it rests or a direction is pressed.
    """
    track, inputs = motion.across, motion.inputs
    if track is None or inputs.source != "recorded" or not np.any(inputs.move):
        return []
    n, carried = len(motion.t), motion.footing.carried
    size = motion.size if carried is None else np.abs(motion.velocity - carried)
    top = float(np.max(size, initial=0.0))
    idle = (inputs.move == 0) & ~motion.dashing
    if inputs.brake is not None:
        idle &= ~inputs.brake
    moves = size > _MOVES * top
    found = []
    for a, b in stretches(idle & moves & motion.grounded):
        before = slice(max(0, a - _STARTS), a)
        rested = a > 0 and bool(np.all(idle[before])) and bool(np.any(~moves[before]))
        lasts = float(motion.t[b - 1] - motion.begin[a])
        if rested and lasts >= _LASTS:
            end = b if b < n else n
            found.append(
                Interruption(
                    kind=CUT_SCENE,
                    start=a,
                    stop=end,
                    begin=float(motion.begin[a]),
                    end=float(motion.t[end - 1]),
                )
            )
    return found


def leap_from(motion: FootMotion) -> InterruptionKind:
    """Return what a leap is that ends a motion: out of the air it is a respawn."""
    return LEAP if motion.grounded[-1] else RESPAWN


def flights_of(motion: FootMotion) -> list[tuple[float, float]]:
    """Return when each flight begins and ends, s: what interrupts a part of one spoils it all."""
    flights, last = motion.flights, len(motion.t) - 1
    return [
        (float(motion.begin[a]), float(motion.t[min(b, last)]))
        for a, b in zip(flights.start.tolist(), flights.stop.tolist(), strict=True)
    ]
