"""The moves on foot that two parameter sets are laid over each other in."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.moves import Move
from kickback.takes.quantities import LENGTH, SPEED
from kickback.takes.take import FloatArray

__all__ = ["MOVES"]


def _speed(motion: FootMotion, frame: int) -> FloatArray | None:
    """Return the sideways speed, positive the way it goes at first or, from rest, later."""
    track = motion.across
    if track is None:
        return None
    v = track.v
    if motion.plane is not None:  # along the line of that frame
        v = (motion.plane.velocity * np.conj(motion.plane.line[frame])).real
    later = v[frame : frame + len(v) // 20 + 2]
    before = float(v[max(frame - 1, 0)])
    way = np.sign(before if abs(before) > motion.rest_speed else float(later[-1])) or 1.0
    return np.asarray(v * way)


def _height(motion: FootMotion, frame: int) -> FloatArray | None:
    """Return the height over where the frame before a takeoff was."""
    up = motion.up
    return None if up is None else np.asarray(up.p - up.p[max(frame - 1, 0)])


MOVES = (
    Move("run", "run.time_to_top_speed", "speed", SPEED, _speed),
    Move("coast", "coast.stop_time", "speed", SPEED, _speed),
    Move("brake", "brake.stop_time", "speed", SPEED, _speed),
    Move("turn", "turn.time", "speed", SPEED, _speed),
    Move("jump", "jump.apex_height", "height", LENGTH, _height, across=False),
    Move("hop", "hop.apex_height", "height", LENGTH, _height, across=False),
)
