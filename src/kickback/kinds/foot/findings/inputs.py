"""Inputs against the motion: what moves by itself, and what does not move when told to."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.steering import Complexes
from kickback.takes.numeric import median
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["FINDINGS", "check_inputs"]

_NOISY = 8
"""Noises that a speed must reach to be motion."""

_STANDS = 0.01
"""Share of top speed below which it stands."""

INPUT_WITHOUT_MOTION = FindingKind(
    code="input-without-motion",
    severity="warning",
    advice="something holds it, or the input column is not what the update read",
)

MOTION_WITHOUT_INPUT = FindingKind(
    code="motion-without-input",
    severity="warning",
    advice="something else moves it, or the input column is not what the update read",
)

FINDINGS = (
    INPUT_WITHOUT_MOTION,
    MOTION_WITHOUT_INPUT,
)
"""What these checks may say."""

_GAIN = 0.1
"""Share of top speed that is gained without input before it is said."""

_ON = 6
"""Frames behind a standstill that tell whether it goes on."""

_THROUGH = 0.1
"""Share of the way at top speed in these that shows it."""

_LONG = 1.0
"""Seconds for which something in the way tells of itself, where a column says what is touched."""

_WAIT = 0.4
"""Seconds a held direction may do nothing."""

_QUICK = 0.02
"""Share of top speed from which a stop was a bump."""

_LEFT = 0.25
"""Share of its speed that a bump leaves at most."""

_CREEP = 1e-3
"""Share of a step at top speed that a body at a wall may be pushed about by."""

_BESIDE = 3.0
"""Frames at top speed that a body may sink into a wall."""

_SINKING = 0.05
"""Frames, and seconds, at top speed that a body may sink into a wall."""


def check_inputs(motion: FootMotion) -> list[Finding]:
    """Return motion without input and input without motion."""
    track = motion.across
    if track is None or motion.inputs.source != "recorded":
        return []
    size, carried = motion.size, motion.footing.carried
    if carried is not None:
        size = np.abs(motion.velocity - carried)
    top = float(size.max(initial=0.0))
    if top <= _NOISY * track.noise or top == 0:
        return _nothing_moves(motion)
    move = motion.inputs.move
    idle = (move == 0) & ~motion.dashing
    idle[1:] &= idle[:-1]  # a speed from displacements is that of the step before
    idle &= ~motion.footing.sloped  # it may slide down
    if motion.inputs.brake is not None:
        idle &= ~motion.inputs.brake
    rising = np.zeros(len(size), dtype=bool)
    rising[1:] = (
        idle[1:] & (np.diff(size) > ARITHMETIC * top + 2 * track.noise) & motion.grounded[1:]
    )
    found = []
    unit = motion.take.header.length_unit
    for start, stop in stretches(rising, 3):
        gain = float(size[stop - 1] - size[start - 1])
        if gain > _GAIN * top:
            what = f"the speed grows by {gain:.4g} {unit}/s on the ground with no input"
            found.append(finding(MOTION_WITHOUT_INPUT, start, stop, what))
    return found + _held_still(motion, top)


def _held_still(motion: FootMotion, top: float) -> list[Finding]:
    found, place = [], motion.place
    still = (motion.size < _STANDS * top) & (np.abs(motion.inputs.move) == 2) & motion.grounded
    creep = np.abs(np.diff(place, prepend=place[0]))  # out of a wall, say
    still &= creep <= _CREEP * top * motion.step
    if motion.inputs.brake is not None:
        still &= ~motion.inputs.brake
    still &= ~motion.touches_side
    shortest = max(4, round(_WAIT / median(motion.step)))
    at, way = _walls(motion, top)
    beside = max(_BESIDE * median(motion.step), _SINKING) * top
    for start, stop in stretches(still, shortest):
        against = (way * np.conj(motion.wanted[start])).real > 0
        seconds = float(motion.t[stop - 1] - motion.begin[start])
        hit = bool(np.any(against & (np.abs(at - place[start]) <= beside)))
        silent = "touch_side" in motion.take and seconds >= _LONG
        through = _goes_through(motion, start, stop, top)
        if hit and not (silent or through):
            continue  # it ran into something here
        what = f"a direction is held for {seconds:.2f} s and nothing moves"
        if hit:
            what += ", then it goes on through the place" if through else ", beside no contact"
        found.append(finding(INPUT_WITHOUT_MOTION, start, stop, what))
    return found


def _goes_through(motion: FootMotion, start: int, stop: int, top: float) -> bool:
    """Whether what stood still on the ground goes on the way that is held, by nothing else."""
    last = stop + _ON
    if last >= len(motion.t) or not motion.grounded[start:last].all():
        return False
    same = np.all(motion.inputs.lined[start:last] == motion.inputs.lined[start])
    gone = (motion.place[last] - motion.place[start]) * np.conj(motion.wanted[start])
    return bool(same) and float(gone.real) > _THROUGH * top * float(motion.t[last] - motion.t[stop])


def _walls(motion: FootMotion, top: float) -> tuple[Complexes, Complexes]:
    """Return where on the ground the motion ended at once, and the way that it went.

    Physics libraries let a body sink into a wall for some frames, and push it out again.
    """
    v = motion.velocity
    size = np.abs(v[:-1])
    onward = (v[1:] * np.conj(v[:-1])).real
    rows = np.flatnonzero((size > _QUICK * top) & (onward < _LEFT * size**2))
    return motion.place[rows + 1], v[rows]


def _nothing_moves(motion: FootMotion) -> list[Finding]:
    pressed = np.abs(motion.inputs.move) == 2
    shortest = max(4, round(_WAIT / median(motion.step)))
    held = stretches(pressed, shortest)
    if not held:
        return []
    what = "directions are held but the subject never moves sideways"
    return [finding(INPUT_WITHOUT_MOTION, held[0][0], held[-1][1], what)]
