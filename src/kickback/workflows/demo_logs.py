"""The demo's foreign logs: a take as other games might have written it."""

import json

import numpy as np

from kickback.takes.take import Take

__all__ = ["LOG_MAPPING", "console_log", "foreign_log"]

LOG_MAPPING = """\
# How the columns of roof-run.csv become Kickback's.

[header]
subject = "lamplighter"
view = "side"
up = "-y"               # the log counts y downward
length_unit = "px"
drill = "rooftop-basics"

[columns]
t = { from = "time_ms", scale = 0.001 }
x = "pos_x"
y = { from = "pos_y", offset = 24 }    # the log tracks the centre, 24 px above the feet
in_move_x = ["key_right", { from = "key_left", scale = -1 }]
in_jump = "key_jump"
touch_ground = { from = "airborne", invert = true }
"""

_PIXELS = 32.0
"""Pixels a metre in the foreign logs."""


def foreign_log(take: Take) -> bytes:
    """Return a take as another game might have logged it: whole pixels, y down, keys."""
    t, x, y = (take.numbers(name) for name in ("t", "x", "y"))
    move, jump = take.numbers("in_move_x"), take.numbers("in_jump")
    air = 1 - take.numbers("touch_ground")
    columns = (
        np.round(t * 1000),
        np.round(x * _PIXELS),
        np.round(-y * _PIXELS) - 24,
        move > 0,
        move < 0,
        jump,
        air,
    )
    rows = zip(*(column.astype(np.int64).tolist() for column in columns), strict=True)
    lines = ["time_ms;pos_x;pos_y;key_right;key_left;key_jump;airborne"]
    lines += [";".join(map(str, row)) for row in rows]
    return ("\n".join(lines) + "\n").encode()


def console_log(take: Take) -> bytes:
    """Return a take as a game's console output: frames as JSON, among other lines.

    Velocities are per frame, and halfway between two jumps the subject is set back to the
    start.
    """
    t, dt, x, y, vx, vy, ground, move, jump = (
        take.numbers(name)
        for name in ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")
    )
    lines = ["Lantern Row, build 212", "[INFO] rooftops loaded in 0.4 s"]
    for k in range(len(take)):
        if k == round(0.57 * len(take)):
            lines.append("[INFO] lamplighter set back to the start")
        gone = x[k] if k < 0.57 * len(take) else x[k] - 40.0
        held = [
            word
            for word, on in (("right", move[k] > 0), ("left", move[k] < 0), ("jump", jump[k] > 0))
            if on
        ]
        frame = {
            "frame": k,
            "time": round(float(t[k]), 6),
            "player": {
                "pos": [round(_PIXELS * gone, 3), round(-_PIXELS * y[k], 3)],
                "vel": [_PIXELS * vx[k] * dt[k], -_PIXELS * vy[k] * dt[k]],
                "grounded": bool(ground[k]),
            },
            "keys": held,
        }
        lines.append(json.dumps(frame))
    return ("\n".join([*lines, "bye"]) + "\n").encode()
