"""What a check finds, and the table of all findings."""

from typing import Any

import numpy as np

from kickback.motion.segments import BoolArray, runs
from kickback.takes.record import Record

__all__ = ["CODES", "SEVERITIES", "Finding", "finding", "stretches"]

SEVERITIES = ("note", "warning", "error")

CODES: dict[str, tuple[str, str]] = {
    "time-backwards": ("error", "write the time of the frame's end, and each frame once"),
    "time-still": ("error", "write each frame once, with a clock finer than a frame"),
    "frames-dropped": ("warning", "write every frame: what happens in a gap is not seen"),
    "frame-doubled": ("warning", "write each frame once: a doubled one reads as a stop"),
    "hitch": ("note", "play again without the load: what falls into a long frame is coarse"),
    "teleport": ("warning", "the take is measured on both sides of it, never across"),
    "screen-wrap": ("warning", "log the position before wrapping; each stretch is measured alone"),
    "velocity-per-frame": (
        "warning",
        "the column is per frame: map it with per_frame = true; the displacement is used instead",
    ),
    "velocity-sign": ("warning", "one axis is flipped: map the column with scale = -1"),
    "velocity-scale": ("warning", "the column is in other units: map it with a scale"),
    "velocity-disagrees": (
        "warning",
        "the displacement is used, as it is what the player sees; log the velocity that moved it",
    ),
    "up-flipped": ("error", "falls go up: the header's up should name the other direction"),
    "speed-on-ground": (
        "warning",
        "set the vertical speed to 0 on the ground, or the next fall begins with it",
    ),
    "floor-thin": (
        "warning",
        "move in smaller steps, sweep the motion, or make the floor thicker",
    ),
    "fell-through": ("error", "the floor was missed: check the largest step against its thickness"),
    "motion-without-input": (
        "warning",
        "something else moves it, or the input column is not what the update read",
    ),
    "input-without-motion": (
        "warning",
        "something holds it, or the input column is not what the update read",
    ),
    "jump-in-air": ("warning", "ask for ground contact, or count the jumps, before a takeoff"),
    "rise-while-held": ("warning", "limit how long the button holds the rise up"),
    "no-fall": ("warning", "apply gravity whenever there is no ground, not only after a jump"),
    "constant-fall": ("warning", "add gravity to the falling speed in each step"),
    "straight-jump": ("note", "rise and fall at one speed each: no gravity acts in the arc"),
    "contact-flicker": ("note", "the flag is cleaned here; a coyote time hides it from the player"),
    "contact-disagrees": (
        "warning",
        "map the flag that each update ends with; invert = true turns one round",
    ),
    "position-frozen": ("warning", "log the position after the update that the velocity is from"),
    "positions-repeated": (
        "note",
        "log once a physics step, or interpolate what is shown: the motion judders",
    ),
    "probe-centre": ("note", "give the feet: an offset in the mapping, or probe in the header"),
}
"""Each code's severity, and what to do about it."""


class Finding(Record, frozen=True, kw_only=True):
    """Something about a take that a conclusion should not be built on unseen.

    Frames ``[start, stop)``; ``message`` says what, and what to do.
    """

    take: str
    code: str
    severity: str
    start: int
    stop: int
    message: str

    def to_record(self) -> dict[str, Any]:
        """Return the flat record that other tools read."""
        return {key: getattr(self, key) for key in self.__struct_fields__}


def finding(code: str, start: int, stop: int, what: str, severity: str | None = None) -> Finding:
    """Return a finding of frames ``[start, stop)``; the take's name is filled in later."""
    usual, advice = CODES[code]
    return Finding(
        take="",
        code=code,
        severity=severity or usual,
        start=int(start),
        stop=int(stop),
        message=f"{what}; {advice}",
    )


def stretches(mask: BoolArray, shortest: int = 1) -> list[tuple[int, int]]:
    """Return the ranges ``[start, stop)`` of at least ``shortest`` frames where a mask holds."""
    starts, stops = runs(mask)
    keep = mask[starts] & (stops - starts >= shortest) if len(starts) else np.zeros(0, dtype=bool)
    return list(zip(starts[keep].tolist(), stops[keep].tolist(), strict=True))
