"""How moves on foot were played: what their metrics depend on beside the game's numbers."""

import numpy as np

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.scene import Scene
from kickback.metrics.dependence import Dependence
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import median
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = [
    "AT_THE_TOP",
    "DIRECTION",
    "ENTRY",
    "ENTRY_SQUARED",
    "FULL",
    "HOLD",
    "LANDING",
    "NEAR_THE_TOP",
    "PLACE",
    "RUN_UP",
    "STICK",
    "entry_given",
    "played",
]

ENTRY = Dependence(
    name="entry",
    instead="entry speed",
    words="the speed at its start, as a share of the top speed",
    powers=(0.0, 1.0),
)
"""A stop's time is the same from any speed under friction, and goes with it under a brake."""

ENTRY_SQUARED = replace(ENTRY, powers=(1.0, 2.0))
"""A stop's distance goes with the speed under friction, and with its square under a brake."""

HOLD = Dependence(
    name="hold",
    words="how long the button was held",
    unit="s",
    powers=(0.0, 1.0),
)
"""A rise that a release cuts or slows grows with the hold, and ever less than in proportion."""

FULL = Dependence(
    name="hold of the rise",
    words="how much of the rise the button was held",
    powers=(0.0, 3.0),
)
"""A release just before the apex shortens a jump by too little to make it a hop: by the share of
the rise that is left, times how many times as strong the gravity is from there on, less one."""

NEAR_THE_TOP = replace(FULL, powers=(0.0, 3.2))
"""What lasts near the apex alone: the last third of the rise, within 10 % of its height."""

AT_THE_TOP = replace(FULL, powers=(0.0, 10.0))
"""The last tenth of the rise, in which it is slower than a tenth of its takeoff speed."""

RUN_UP = Dependence(
    name="run-up",
    instead="run-up speed",
    words="the speed at takeoff, as a share of the top speed",
    powers=(0.0, 1.0),
)

STICK = Dependence(name="stick", words="a stick held still in the air", within=1e-6)
"""Where it is moved in the air, two flights are hardly ever alike."""

LANDING = Dependence(name="landing", words="how much lower it landed, in apex heights", within=0.02)

DIRECTION = Dependence(name="direction", words="whether a direction was held", within=1e-6)

PUSHED_FROM = Dependence(
    name="pushed from",
    words="the speed from which it was pushed in the air, as a share of the top speed",
    within=0.02,
)
PUSHED_TO = Dependence(
    name="pushed to",
    words="the speed to which it was pushed in the air, as a share of the top speed",
    within=0.02,
)
"""An approach gains less and less, a constant push as much from any speed to any."""

PLACE = Dependence(name="place", words="where it was played, and with which moves")
"""Nothing that is given with an occurrence says it: only equal inputs are alike."""


def entry_given(scene: Scene, entry: FloatArray) -> dict[str, FloatArray]:
    """Return what stops and turns depend on, of speeds at their start, shape (k,)."""
    return _shares(scene, entry, ENTRY)


def _shares(scene: Scene, speed: FloatArray, dependence: Dependence) -> dict[str, FloatArray]:
    """Return speeds as shares of the take's top speed, NaN where it shows none, and as they are."""
    tops = scene.plateaus.speed[np.isfinite(scene.plateaus.speed)]
    top = median(tops) if len(tops) else float("nan")
    size = np.abs(speed)
    return {dependence.name: size / top, dependence.instead: size}


def played(scene: Scene, arcs: Arcs) -> dict[str, FloatArray]:
    """Return what jumps depend on, arrays of shape (k,): hold, run-up, stick, landing."""
    hold = _holds(scene, arcs)
    once = np.where(_pressed_again(scene, arcs), np.nan, 1.0)  # no hold says what that does
    given = {
        HOLD.name: hold * once,
        FULL.name: _shares_of_rise(scene, arcs, hold) * once,
        STICK.name: _sticks(scene, arcs),
        LANDING.name: _landings(scene, arcs),
    }
    if scene.track is not None:
        given |= _shares(scene, arcs.side_speed, RUN_UP)
    return given


def _holds(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return for how long after takeoff the button stayed down, s; NaN where none was recorded."""
    motion, start = scene.motion, arcs.throws.start
    jump = motion.inputs.jump
    if jump is None:
        return np.full(len(start), np.nan)
    n = len(jump)
    up = np.append(np.flatnonzero(~jump), n)
    let_go = up[np.searchsorted(up, start)]
    end = np.append(motion.begin, motion.t[-1])[let_go]
    held: FloatArray = end - motion.begin[start]
    return held


def _shares_of_rise(scene: Scene, arcs: Arcs, hold: FloatArray) -> FloatArray:
    """Return how much of each rise the button was held, 1 where it was held on past the apex.

    Whether a release in the frame of the apex still acts is up to which side of it the frame
    began on: only one that comes a whole frame after the apex is known to do nothing.
    """
    step = scene.motion.step[arcs.throws.start]
    rise = np.where(arcs.apex_time > 0, arcs.apex_time + step, np.inf)
    return np.where(np.isfinite(hold), np.minimum(hold / rise, 1.0), 1.0)


def _pressed_again(scene: Scene, arcs: Arcs) -> BoolArray:
    """Return the jumps, shape (k,), in whose rise the button was let go of and pressed again."""
    jump, throws = scene.motion.inputs.jump, arcs.throws
    if jump is None:
        return np.zeros(len(throws), dtype=bool)
    presses = np.concatenate(([0], np.cumsum(jump[1:] & ~jump[:-1])))
    return np.asarray(presses[throws.top] > presses[throws.start])


def _sticks(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return where the stick was along the motion in the air, 1 forward; NaN where it moved."""
    if scene.track is None:
        return np.zeros(len(arcs.throws))
    move, start = scene.motion.inputs.move, arcs.throws.start
    turns = np.concatenate(([0], np.cumsum(move[1:] != move[:-1])))
    last = np.maximum(np.minimum(arcs.throws.stop, len(move)) - 1, start)
    along: FloatArray = np.sign(scene.across.v[start]) * move[start] / 2.0
    return np.where(turns[last] == turns[start], along, np.nan)


def _landings(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return how much lower jumps landed than they took off, in their heights."""
    up, throws = scene.motion.up, arcs.throws
    if up is None:
        return np.zeros(len(throws))
    last = np.minimum(throws.stop, len(up.p) - 1)
    lower = up.p[throws.start - 1] - up.p[last]
    share: FloatArray = lower / np.where(np.abs(arcs.height) > 0, np.abs(arcs.height), 1.0)
    return share
