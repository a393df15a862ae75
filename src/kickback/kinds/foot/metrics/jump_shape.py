"""The shape of jumps: gravity up and down, how they bend, and how long they hang."""

import numpy as np

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.metrics.jump_entry import JumpEntry, Triple
from kickback.kinds.foot.metrics.played import AT_THE_TOP, NEAR_THE_TOP
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.motion.between import carried
from kickback.motion.segments import IntArray, first_where, last_where
from kickback.motion.tracks import Track
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import ACCELERATION, RATIO, TIME
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["SHAPE"]

_HIGH = 0.9
"""Share of the apex height from which a jump hangs."""

_SLOW = 0.1
"""Share of the takeoff speed below which it hangs."""

_QUICK = 0.9
"""Share of a fall's highest speed up to which its gravity is read: no limit acts yet."""

_ALIKE = 2.0
"""How many times worse rounded heights are than noise: slow frames share their error."""

_FEWEST = 3
"""Frames of a rise or fall that show how it bends."""


def _nothing(scene: Scene) -> Triple:
    none = np.zeros(len(scene.arcs.throws))
    return np.full(len(none), np.nan), none, none


def _rise_ends(scene: Scene, arcs: Arcs) -> tuple[IntArray, IntArray]:
    """Return the first and last frame of each rise under one law, shape (k,)."""
    throws, jump = arcs.throws, scene.motion.inputs.jump
    last = throws.top - 1
    if jump is not None:
        let_go = first_where(~jump, throws.start, throws.top + 1)
        last = np.where(let_go >= 0, np.minimum(last, let_go - 1), last)
    return throws.start, np.maximum(last, throws.start)


def _fall_ends(up: Track, arcs: Arcs) -> tuple[IntArray, IntArray]:
    """Return the first and last frame of each fall before a limit acts, shape (k,)."""
    throws = arcs.throws
    down = first_where(up.v < 0, throws.top, throws.stop)  # a flat top's first frame still rises
    first, last = np.maximum(throws.top + 1, down), throws.stop - 2
    n = len(up.v)
    edges = np.stack((np.minimum(first, n - 1), np.minimum(throws.stop, n)), axis=1).ravel()
    quickest = np.maximum.reduceat(np.append(-up.v, -np.inf), edges)[::2]
    limit = np.repeat(_QUICK * quickest, np.maximum(last - first + 1, 0))
    ranges = [np.arange(a, b + 1) for a, b in zip(first.tolist(), last.tolist(), strict=True)]
    rows = np.concatenate([np.zeros(0, dtype=np.int64), *ranges])
    slower = np.zeros(n, dtype=bool)
    slower[rows] = -up.v[rows] <= limit
    end = last_where(slower, first, np.maximum(last + 1, first))
    return first, np.where(end >= 0, end, first)


def _slope(scene: Scene, first: IntArray, last: IntArray) -> tuple[FloatArray, FloatArray]:
    """Return how fast the upward speed falls between frames, and twice its error, shape (k,)."""
    up = scene.motion.up
    if up is None:
        return _nothing(scene)[:2]
    enough = last - first >= _FEWEST - 1
    b = np.where(enough, last, first + 1)
    b = np.minimum(b, len(up.v) - 1)
    a = np.minimum(first, b - 1)
    span = up.tv[b] - up.tv[a]
    pull = (up.v[a] - up.v[b]) / span
    clock = scene.motion.clock
    error = np.hypot(up.printed * 2**0.5 / ROOT_12, pull * clock.span_error(span)) / span
    if up.source == "displacement":
        error = np.hypot(error, up.quantum * 2 / ROOT_12 / span / scene.motion.step[a])
    sure = NINETY_FIVE * error
    return np.where(enough, pull, np.nan), sure


def _fitted_pull(scene: Scene, first: IntArray, last: IntArray) -> tuple[FloatArray, FloatArray]:
    """Return the same from rounded heights: twice the curvature of a parabola through them."""
    up, t = scene.motion.up, scene.motion.t
    pull, sure = np.full(len(first), np.nan), np.zeros(len(first))
    if up is None:
        return pull, sure
    ends = np.minimum(last, len(t) - 1)
    for k, (a, b) in enumerate(zip(first.tolist(), ends.tolist(), strict=True)):
        n = b - a + 1
        if n < 2 * _FEWEST:
            continue
        span = float(t[b] - t[a])
        pull[k] = -2 * float(np.polyfit(t[a : b + 1] - t[a], up.p[a : b + 1], 2)[0])
        # the error of a parabola's curvature over n even points: σ·√(180/n)/T²
        sure[k] = _ALIKE * NINETY_FIVE * 2 * up.blur / ROOT_12 * float(np.sqrt(180.0 / n)) / span**2
    return pull, sure


def _gravity(scene: Scene, first: IntArray, last: IntArray) -> tuple[FloatArray, FloatArray]:
    up = scene.motion.up
    read = _fitted_pull if up is not None and up.rounded else _slope
    return read(scene, first, last)


@computed_once
def _both(scene: Scene, arcs: Arcs) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Return the rise's and the fall's gravity, each with its resolution, shape (k,)."""
    up = scene.motion.up
    if up is None:
        value, sure, _ = _nothing(scene)
        return value, sure, value, sure
    rise, rise_sure = _gravity(scene, *_rise_ends(scene, arcs))
    fall, fall_sure = _gravity(scene, *_fall_ends(up, arcs))
    return rise, rise_sure, fall, fall_sure


def _rise_gravity(scene: Scene, arcs: Arcs) -> Triple:
    rise, sure, _, _ = _both(scene, arcs)
    return rise, sure, np.zeros(len(rise))


def _fall_gravity(scene: Scene, arcs: Arcs) -> Triple:
    _, _, fall, sure = _both(scene, arcs)
    return fall, sure, np.zeros(len(fall))


def _gravity_ratio(scene: Scene, arcs: Arcs) -> Triple:
    rise, rise_sure, fall, fall_sure = _both(scene, arcs)
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = np.where(rise > 0, fall / rise, np.nan)
        sure = np.abs(ratio) * np.hypot(rise_sure / rise, fall_sure / fall)
    return ratio, sure, np.zeros(len(ratio))


def _bend(scene: Scene, first: IntArray, last: IntArray) -> FloatArray:
    """Return how far the speed half-way is off a straight line between two, shape (k,)."""
    up = scene.motion.up
    if up is None:
        return np.full(len(first), np.nan)
    enough = last - first >= _FEWEST
    b = np.minimum(np.where(enough, last, first + 2), len(up.v) - 1)
    a = np.maximum(np.minimum(first, b - 2), 0)
    middle = (a + b) // 2
    share = (up.tv[middle] - up.tv[a]) / (up.tv[b] - up.tv[a])
    line = up.v[a] + share * (up.v[b] - up.v[a])
    return np.where(enough, np.abs(up.v[middle] - line), np.nan)


def _misfit(scene: Scene, arcs: Arcs) -> Triple:
    up = scene.motion.up
    if up is None or up.rounded:
        return _nothing(scene)
    bends = [_bend(scene, *ends) for ends in (_rise_ends(scene, arcs), _fall_ends(up, arcs))]
    with np.errstate(invalid="ignore"):
        worst = np.fmax(*bends) / np.where(arcs.speed > 0, arcs.speed, np.nan)
    sure = (2 * up.noise + _clock_blur(scene, arcs)) / np.where(arcs.speed > 0, arcs.speed, 1.0)
    worst = np.where(worst <= ARITHMETIC, 0.0, worst)
    return worst, np.maximum(sure, ARITHMETIC), np.zeros(len(worst))


def _clock_blur(scene: Scene, arcs: Arcs) -> FloatArray:
    """Return what rounded times leave of an upward speed's place on a line, shape (k,)."""
    pull = np.where(arcs.gravity > 0, arcs.gravity, 0.0)
    return np.asarray(NINETY_FIVE * pull * scene.motion.clock.grid * 2**0.5 / ROOT_12)


def _crossed(t: FloatArray, y: FloatArray, hit: IntArray, level: FloatArray) -> FloatArray:
    """Return when heights cross a level into frames ``hit``, by the parabola through three."""
    c = np.clip(hit, 2, len(y) - 1)
    points, times = (y[c - 2], y[c - 1], y[c]), (t[c - 2], t[c - 1], t[c])
    p, b, a = carried(points, times)
    lower, upper = t[c - 1] - t[c], np.zeros(len(c))
    share = (level - y[c - 1]) / np.where(y[c] != y[c - 1], y[c] - y[c - 1], 1.0)
    tau = lower * (1 - share)
    for _ in range(6):  # Newton from the chord
        slope = b + 2 * a * tau
        move = (p + b * tau + a * tau * tau - level) / np.where(slope != 0, slope, np.inf)
        tau = np.clip(tau - move, lower, upper)
    return np.asarray(t[c] + tau)


def _hang_time(scene: Scene, arcs: Arcs) -> Triple:
    up, t, throws = scene.motion.up, scene.motion.t, arcs.throws
    if up is None:
        return _nothing(scene)
    floor = up.p[throws.start - 1]
    level = floor + _HIGH * arcs.height
    wanted = np.full(len(t), np.inf)
    for a, b, value in zip(
        throws.start.tolist(), throws.stop.tolist(), level.tolist(), strict=True
    ):
        wanted[a:b] = value
    high = up.p >= wanted
    rising = first_where(high, throws.start, throws.top + 1)
    falling = first_where(~high, throws.top, throws.stop)
    found = (rising >= 0) & (falling >= 0) & np.isfinite(level)
    safe_up, safe_down = np.where(found, rising, 2), np.where(found, falling, 2)
    lasts = _crossed(t, up.p, safe_down, level) - _crossed(t, up.p, safe_up, level)
    quick = np.where(arcs.speed > 0, (1 - _HIGH) ** 0.5 * arcs.speed, np.inf)
    sure = scene.motion.clock.located(2e-3) * scene.motion.step[throws.start]
    sure = (
        sure + NINETY_FIVE * np.hypot(up.blur / quick, scene.motion.clock.grid) * 2**0.5 / ROOT_12
    )
    if up.rounded:
        sure = np.maximum(sure, scene.motion.step[throws.start])
    return np.where(found, lasts, np.nan), sure, scene.motion.step[throws.start]


def _slow_time(scene: Scene, arcs: Arcs) -> Triple:
    up, throws = scene.motion.up, arcs.throws
    if up is None or up.rounded:
        return _nothing(scene)
    limit = np.zeros(len(up.v))
    for a, b, value in zip(
        throws.start.tolist(), throws.stop.tolist(), arcs.speed.tolist(), strict=True
    ):
        limit[a:b] = _SLOW * value
    slow = first_where(up.v < limit, throws.start, throws.stop)
    quick = first_where(up.v < -limit, throws.top, throws.stop)
    found = (slow > throws.start) & (quick > 0)
    s, q = np.where(found, slow, 1), np.where(found, quick, 1)
    level = np.nan_to_num(_SLOW * arcs.speed)
    lasts = _chord(up, q, -level) - _chord(up, s, level)
    pull = np.where(arcs.gravity > 0, arcs.gravity, np.inf)
    clock = scene.motion.clock
    error = np.hypot(up.printed / pull, clock.grid) * 2**0.5 / ROOT_12
    sure = clock.located(2e-3) * scene.motion.step[throws.start] + NINETY_FIVE * error
    sure = sure + 2 * _SLOW * arcs.speed_resolution / pull
    if up.source == "displacement":  # a takeoff speed of displacements is of some step beside it
        sure = sure + 2 * _SLOW * scene.motion.step[throws.start]
    return np.where(found, lasts, np.nan), sure, scene.motion.step[throws.start]


def _chord(up: Track, hit: IntArray, level: FloatArray) -> FloatArray:
    """Return when an upward speed reaches a level on its way to frames, along the chord."""
    before = hit - 1
    change = up.v[hit] - up.v[before]
    share = np.clip((level - up.v[before]) / np.where(change != 0, change, 1.0), 0.0, 1.0)
    return np.asarray(up.tv[before] + share * (up.tv[hit] - up.tv[before]))


_ALL = ("jump",)

SHAPE = (
    JumpEntry(
        part="rise_gravity",
        detail=True,
        dimension=ACCELERATION,
        title="gravity while rising",
        definition="How fast the upward speed falls, from the first airborne frame to the last"
        " before the apex or before the button is let go.",
        formula="(vy[first] − vy[last]) / (t[last] − t[first]); a parabola's curvature where"
        " heights are rounded",
        of=_rise_gravity,
        held=False,
        groups=_ALL,
    ),
    JumpEntry(
        part="fall_gravity",
        detail=True,
        dimension=ACCELERATION,
        title="gravity while falling",
        definition="How fast the falling speed grows, from behind the apex to 90 % of the fall's"
        " highest speed, before any limit acts.",
        formula="(vy[first] − vy[last]) / (t[last] − t[first]); a parabola's curvature where"
        " heights are rounded",
        of=_fall_gravity,
        held=False,
        groups=_ALL,
    ),
    JumpEntry(
        part="gravity_ratio",
        dimension=RATIO,
        title="gravity of the fall against the rise",
        definition="The gravity while falling over that while rising: 1 for a plain arc, more for"
        " a fall that is quicker than the rise.",
        formula="jump.fall_gravity / jump.rise_gravity of the same jump",
        of=_gravity_ratio,
        held=False,
        groups=_ALL,
    ),
    JumpEntry(
        part="bend_misfit",
        detail=True,
        dimension=RATIO,
        title="misfit to a parabola",
        definition="How far the upward speed half-way through the rise, or the fall, is from the"
        " straight line that gravity makes of it, as a share of the takeoff speed: 0 for a"
        " parabola and for an arc of straight lines, which has no gravity; more for any other.",
        formula="max(|vy(middle) − line(middle)|) / v_takeoff, of rise and fall",
        of=_misfit,
        held=False,
        groups=_ALL,
    ),
    JumpEntry(
        part="hang_time",
        dimension=TIME,
        title="hang time by height",
        definition="How long it is within 10 % of its apex height.",
        formula="t(y falls below 0.9·apex) − t(y rises above 0.9·apex); 2·√0.1·v0/g for one"
        " gravity",
        of=_hang_time,
        held=False,
        depends=(NEAR_THE_TOP,),
        groups=_ALL,
    ),
    JumpEntry(
        part="slow_time",
        detail=True,
        dimension=TIME,
        title="hang time by speed",
        definition="How long it rises or falls slower than a tenth of its takeoff speed.",
        formula="t(vy = −0.1·v0) − t(vy = 0.1·v0); 0.2·v0/g for one gravity",
        of=_slow_time,
        held=False,
        depends=(AT_THE_TOP,),
        groups=_ALL,
    ),
)
"""Quantities of jumps from the ground beside the core ones."""
