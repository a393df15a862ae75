"""Inputs against the motion: what moves by itself, and what does not move when told to."""

import numpy as np

from kickback.integrity.finding import Finding, finding, stretches
from kickback.motion.analyse import Motion
from kickback.takes.numeric import median

__all__ = ["check_inputs"]

_GAIN = 0.1
_WAIT = 0.4


def check_inputs(motion: Motion) -> list[Finding]:
    """Return motion without input and input without motion."""
    track = motion.across
    if track is None or motion.inputs.source != "recorded":
        return []
    size = np.abs(track.v)
    top = float(size.max(initial=0.0))
    if top <= max(8 * track.noise, 0.0) or top == 0:
        return _nothing_moves(motion)
    move = motion.inputs.move
    idle = move == 0
    idle[1:] &= idle[:-1]  # a speed from displacements is that of the step before
    if motion.inputs.brake is not None:
        idle &= ~motion.inputs.brake
    rising = np.zeros(len(size), dtype=bool)
    rising[1:] = idle[1:] & (np.diff(size) > 1e-9 * top + 2 * track.noise) & motion.grounded[1:]
    found = []
    unit = motion.take.header.length_unit
    for start, stop in stretches(rising, 3):
        gain = float(size[stop - 1] - size[start - 1])
        if gain > _GAIN * top:
            what = f"the speed grows by {gain:.4g} {unit}/s on the ground with no input"
            found.append(finding("motion-without-input", start, stop, what))
    return found + _held_still(motion, top)


def _held_still(motion: Motion, top: float) -> list[Finding]:
    track, found = motion.across, []
    if track is None:
        return []
    still = (np.abs(track.v) < 0.01 * top) & (np.abs(motion.inputs.move) == 2) & motion.grounded
    if motion.inputs.brake is not None:
        still &= ~motion.inputs.brake
    if "touch_side" in motion.take:
        still &= motion.take.numbers("touch_side") < 0.5
    shortest = max(4, round(_WAIT / median(motion.step)))
    for start, stop in stretches(still, shortest):
        seconds = float(motion.t[stop - 1] - motion.begin[start])
        what = f"a direction is held for {seconds:.2f} s and nothing moves"
        found.append(finding("input-without-motion", start, stop, what))
    return found


def _nothing_moves(motion: Motion) -> list[Finding]:
    pressed = np.abs(motion.inputs.move) == 2
    shortest = max(4, round(_WAIT / median(motion.step)))
    held = stretches(pressed, shortest)
    if not held:
        return []
    what = "directions are held but the subject never moves sideways"
    return [finding("input-without-motion", held[0][0], held[-1][1], what)]
