"""Words by which a foreign log's columns are known, ours on the left."""

from collections.abc import Mapping as Map

__all__ = [
    "AIR",
    "ANGLES",
    "AXES",
    "CAMERA",
    "ELSE",
    "FRAME",
    "KEYS",
    "MOVE",
    "PERCENT",
    "POSITION",
    "STEERED",
    "STEP",
    "TARGET",
    "TIME",
    "VELOCITY",
    "WORDS",
]

TIME = {"t", "time", "timestamp", "ts", "elapsed", "clock", "now", "ms", "millis", "us", "secs"}
STEP = {"dt", "delta", "deltatime", "frametime", "timestep"}
FRAME = {"frame", "frames", "tick", "ticks", "step", "index", "n", "no"}
POSITION = {"pos", "position", "loc", "location", "coord", "coords", "place", "p"}
VELOCITY = {"vel", "velocity", "v", "speed", "spd", "motion"}
ELSE = {
    "acc",
    "accel",
    "acceleration",
    "rot",
    "rotation",
    "scale",
    "size",
    "mouse",
    "goal",
    "wanted",
    "enemy",
    "normal",
    "gravity",
    "old",
    "prev",
    "last",
}
CAMERA = {"cam", "camera", "view"}
TARGET = {"target", "aim"}
KEYS = {"key", "keys", "btn", "button", "held", "pressed"}
MOVE = {"move", "axis", "stick", "input", "horizontal", "dir", "direction", "steer", "walk"}
AXES = {"x": "x", "0": "x", "y": "y", "1": "y", "z": "z", "2": "z"}
WORDS: Map[str, frozenset[str]] = {
    "touch_ground": frozenset({"ground", "grounded", "floor", "feet", "landed", "standing"}),
    "touch_side": frozenset({"wall", "side", "walled"}),
    "touch_above": frozenset({"ceiling", "head", "above"}),
    "in_jump": frozenset({"jump"}),
    "in_dash": frozenset({"dash"}),
    "in_brake": frozenset({"brake", "brakes", "braking", "brakepedal", "handbrake"}),
    "in_fire": frozenset({"fire", "firing", "shoot", "shooting", "trigger", "launch", "throw"}),
    "shot": frozenset({"shot", "projectile", "bullet", "arrow", "missile", "ball"}),
    "surface": frozenset({"surface", "terrain", "material"}),
    "state": frozenset({"state", "anim", "animation", "action"}),
    "event": frozenset({"event", "note", "marker"}),
}
STEERED: Map[str, frozenset[str]] = {
    "in_throttle": frozenset({"throttle", "gas", "accelerator", "accelerate", "thrust"}),
    "in_steer": frozenset({"steer", "steering", "wheel", "rudder"}),
    "heading": frozenset({"heading", "yaw", "bearing", "azimuth", "facing"}),
    "pitch": frozenset({"pitch", "tilt"}),
    "ground_pitch": frozenset({"slope", "incline"}),
}
ANGLES = ("heading", "pitch", "ground_pitch")
PERCENT = {"pct", "percent"}
AIR = {"air", "airborne", "flying", "inair"}
