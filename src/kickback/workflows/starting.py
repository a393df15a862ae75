"""``new``: a project's first files."""

from pathlib import Path

from kickback.errors import InputError
from kickback.files.atomic import write_new

__all__ = ["start_project"]

_SETTINGS = """\
# Kickback's settings for this project. Commands find this file in the current folder
# or above. Remove the # in front of what you want to use.

# reference_rate = 60     # times are also shown in frames at this rate
# tile = "32 px"           # lengths are also shown in tiles of this size

# What takes are, where their own header does not say.
# view = "side"            # or "top", "3d"
# up = "-y"                # where y grows downward
# length_unit = "px"       # lengths are shown in this unit
# floor_thickness = 16     # the thinnest floor: 'inspect' says what falls through it

# What files' names say: {subject}, {parameters}, {rate}, {drill}, {repeat}.
# file_name = "{drill}-{parameters}-{rate}fps-{repeat}"

# What counts as a settled speed, and as standing still.
# plateau_time = 0.2       # s
# plateau_change = "0.1 %"
# rest_speed = 0.5         # in the length unit, per second
# clock = "game"           # durations in the game's own time: without pauses and slow motion

# What other length units are in 'length_unit': takes in them are converted.
[units]
# m = 32

# What one file may hold before it is refused.
[limits]
# line_mb = 8
# columns = 1000
# header_keys = 10000
# unpacked_mb = 64

# How far a metric, a group or a pattern may move before it counts, and what it must be.
# 'kickback metrics' lists the names. A share, or an amount with its unit: "10 ms",
# "3 frames" at the reference rate, "0.5 tiles", "4 px", "2 tiles/s".
[budgets]
# "jump.apex_height" = "5 %"
# "coast.stop_distance" = { up = "4 px", down = "10 %" }
# "jump.distance" = { at_least = "6 tiles" }
# "hop.*" = "10 %"

# What a metric should be: a change beyond its budget that comes nearer is no failure.
[targets]
# "coast.stop_distance" = "2 tiles"

# How far a single take of a metric may lie off: 'kickback compare --repeats TAKES --keep'
# measures and writes it.
# [noise]
# "jump.apex_height" = "0.02 tiles"

# How 'kickback gate' plays the game: every drill, parameter set and rate, one after another.
# [gate]
# run = "./mygame --parameters {parameters} --rate {rate} --record {address}"
# drills = ["drills/basics.toml"]
# parameters = ["params/hero.toml"]
# rates = [30, 60, 144]
"""

_MAPPING = """\
# How the columns of the game's own log become Kickback's:
#     kickback measure my-log.csv --map game.map.toml
# Each line is OURS = "THEIRS". For JSON logs a dotted path names a nested value: "pos.0".

[header]
subject = "hero"
view = "side"
up = "+y"                 # "-y" where y grows downward
length_unit = "px"
# frame_rate = 60         # needed only where the log has no times

[columns]
t = "time"                # { from = "time_ms", scale = 0.001 } for milliseconds
x = "x"
y = "y"                   # { from = "y", offset = 16 } from the centre to the feet
# vx = { from = "vel_x", per_frame = true }      # a speed per frame
# vy = "vel_y"
# in_move_x = ["right", { from = "left", scale = -1 }]
# in_jump = "jump"                               # or { from = "keys", has = "jump" }
# touch_ground = { from = "airborne", invert = true }
# in_brake = { from = "brake_pedal", above = 0.5 }   # a pedal that counts as pressed

[rows]
# stamp = "start"         # the time is that of the update's beginning
# state = "before"        # the row shows what its update began with; position, velocity,
#                         # contact, heading, pitch, ground_pitch, camera and label may each
#                         # say otherwise: camera = "after"
"""

_PARAMETERS = """\
# A parameter set: the values that the movement code runs with. A take carries a copy.
name = "first"
notes = ""

[values]
run_speed = 8.0
ground_acceleration = 40.0
jump_speed = 13.0
gravity_rise = 40.0
gravity_fall = 40.0
"""

_DRILL = """\
# A drill: timed inputs, so that two takes are the same exercise.
#     kickback simulate params/first.toml --drill drills/first-steps.toml
name = "first-steps"
length = 6.0

[[input]]                 # run for a second and a half, then slide to a stop
at = 0.5
until = 2.0
move_x = 1.0

[[input]]                 # a jump
at = 4.0
until = 4.5
jump = 1.0
"""

_FILES = {
    "kickback.toml": _SETTINGS,
    "game.map.toml": _MAPPING,
    "params/first.toml": _PARAMETERS,
    "drills/first-steps.toml": _DRILL,
}


def start_project(folder: Path) -> list[tuple[Path, bool]]:
    """Write a project's first files; returns each path and whether it was written.

    What exists is left as it is. Raises InputError where a file cannot be written.
    """
    done: list[tuple[Path, bool]] = []
    for name, text in _FILES.items():
        path = folder / name
        if path.exists():
            done.append((path, False))
            continue
        write_new(path, text.encode())
        done.append((path, True))
    takes = folder / "takes"
    try:
        takes.mkdir(exist_ok=True)
    except OSError as error:
        raise InputError(f"cannot be made ({error.strerror})", str(takes)) from error
    return done
