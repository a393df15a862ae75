"""The arcs of jumps: takeoff, apex, and the return to the takeoff's level."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.throws import Throws, throws_of
from kickback.motion.between import carried
from kickback.motion.segments import BoolArray, IntArray, first_where
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["Arcs", "apex_times", "arcs_of"]

_TOPS = 3
"""Frames that a vertex may lie from the highest frame."""

_FLAT = 40
"""Frames behind the highest one within which the speed changes its sign."""

_TOPS_ROUNDED = 1.0
"""Seconds that it may do so in addition where heights are rounded: a flat top is long."""

_MIXED = 0.75
"""The θ beyond which a displacement hardly shows the speed before the step."""

_NEAR = 0.01
"""Share of its height by which a landing may lie above its takeoff and be on its level."""

_LIES = 1e-3
"""Share of its height within which a body that landed so is down."""

_LATE = 0.15
"""Seconds of an end of a rise or fall that show its speed where the whole of it bends."""

_LIGHT = 0.05
"""Share of the pull before the top that a rise's first one is at least, to be one."""

_WEIGHTLESS = 1e-3
"""Share of the usual gravity that is none."""

_SURELY = 0.01
"""Share of a pull that its rounding may be for one frame to show it."""

_UNSURE = 4.0
"""Roundings within which a pull between two frames may be that of the whole rise."""

_OFF = 1.5
"""Grids by which a fall may miss its parabola."""

_BLURRED = 0.05
"""Share of its height that a rounded arc must lack to have been cut."""

_SLOWER = 0.95
"""Share of the usual takeoff speed below which one was cut at once."""


class Arcs(Record, frozen=True, kw_only=True):
    """The jumps of a take, arrays of shape (k,); lengths and times in the take's units.

    ``throws`` are the jumps, with the frames of each. ``back`` is the time at which the
    takeoff's level is reached again (NaN with a reason), ``fall_speed`` and ``reach``
    the vertical speed and the sideways distance there, ``back_share`` how much of a frame
    behind the last one above it. ``gravity`` is the downward acceleration while rising,
    ``fall_gravity`` that of the frame in which it is back; ``apex_lever`` says how many
    errors of a printed speed over the gravity the moment of an apex has. ``cut`` says whether
    letting go lowered the apex. ``sharpness`` is how far the position's rounding can move a
    moment, s, and ``held`` how long before that level the floor held it up. ``release``: the first
    frame of the rise that reads the button up, or -1.
    """

    throws: Throws
    begin: FloatArray
    height: FloatArray
    apex_time: FloatArray
    apex_lever: FloatArray
    speed: FloatArray
    speed_resolution: FloatArray
    gravity: FloatArray
    fall_gravity: FloatArray
    back: FloatArray
    back_share: FloatArray
    held: FloatArray
    fall_speed: FloatArray
    reach: FloatArray
    side_speed: FloatArray
    cut: BoolArray
    sharpness: FloatArray
    release: IntArray
    reasons: tuple[str, ...]


Law = tuple[FloatArray, FloatArray, FloatArray]
"""``p, b, c`` of ``y(τ) = p + b·τ + c·τ²``, each of shape (k,), τ from a frame's end."""


def _law_at(track: Track, t: FloatArray, step: FloatArray, i: IntArray) -> Law:
    """Return the law that frame ``i``, shape (k,), hands to the next.

    With a reported velocity ``v`` and position weight θ the next step of length ``h``
    goes ``y(τ) = y + v·τ + a·τ²/2 + (θ - ½)·a·h·τ``: at ``τ = h`` the exact update, and
    in between the parabola on which all frames of equal step lie.
    """
    a, b = np.maximum(i - 1, 0), np.maximum(i - 2, 0)
    if track.source == "reported":
        v = track.v
        pull = (v[i] - v[a]) / step[i]
        h = step[np.minimum(i + 1, len(step) - 1)]
        theta = 0.5 if track.theta is None else track.theta
        return track.p[i], v[i] + (theta - 0.5) * pull * h, pull / 2
    p = track.p
    return carried((p[b], p[a], p[i]), (t[b], t[a], t[i]))


def _fitted_laws(track: Track, t: FloatArray, low: IntArray, high: IntArray) -> Law:
    """Return the law at frame ``high`` from all frames ``[low, high]``, for rounded heights."""
    found = np.full((3, len(low)), np.nan)
    for k, (a, b) in enumerate(zip(low.tolist(), high.tolist(), strict=True)):
        if b - a >= 3:
            c2, c1, c0 = np.polyfit(t[a : b + 1] - t[b], track.p[a : b + 1], 2)
            found[:, k] = c0, c1, c2
        elif b > a:
            found[:, k] = track.p[b], (track.p[b] - track.p[a]) / (t[b] - t[a]), 0.0
    return found[0], found[1], found[2]


def _rise_law(
    motion: FootMotion, track: Track, start: IntArray, top: IntArray
) -> tuple[Law, IntArray]:
    """Return the law of the rise near the top, and the frames it is counted from.

    The step into the highest frame still began while rising, so it shows the rise's own
    acceleration, also where the frame before was cut short by letting go.
    """
    t, n = motion.t, len(motion.t)
    if track.rounded:
        return _fitted_ends(track, t, start - 1, top), top
    if track.source == "reported":
        i = np.maximum(top - 1, start)
        j = np.minimum(i + 1, n - 1)
        h = motion.step[j]
        pull = (track.v[j] - track.v[i]) / h
        theta = 0.5 if track.theta is None else track.theta
        return (track.p[i], track.v[i] + (theta - 0.5) * pull * h, pull / 2), i
    i = np.where(top - 2 >= start - 1, top, np.minimum(np.maximum(top + 1, 2), n - 1))
    release = _releases(motion, start, top)
    cut_late = (release >= top - 1) & (top + 1 < n)
    i = np.where(cut_late, np.minimum(top + 1, n - 1), i)
    p = track.p
    return carried((p[i - 2], p[i - 1], p[i]), (t[i - 2], t[i - 1], t[i])), i


def _releases(motion: FootMotion, start: IntArray, top: IntArray) -> IntArray:
    """Return the first frame of each rise that read the jump button up, or -1."""
    jump = motion.inputs.jump
    if jump is None:
        return np.full(len(start), -1, dtype=np.int64)
    return first_where(~jump, start, top + 2)


def apex_times(motion: FootMotion) -> FloatArray:
    """Return when each flight tops out, shape (flights,), s.

    The vertex of the parabola through the rising positions; the highest frame's time
    where the rise is too short for one.
    """
    flights = motion.flights
    if motion.up is None or not len(flights):
        return np.zeros(len(flights))
    return _tops(motion, motion.up, flights.start, flights.top, flights.stop)[0]


def _tops(
    motion: FootMotion, track: Track, start: IntArray, top: IntArray, stop: IntArray
) -> tuple[FloatArray, FloatArray]:
    """Return when arcs of frames ``[start, stop)`` with their highest at ``top`` top out, s.

    The second array is by how much more the error of one speed moves it than ``σ/g``: the
    line through two speeds is zero a share ``s`` of their step behind the first, so that it
    has ``√((1 − s)² + s²)`` of it.
    """
    if track.source == "reported" and track.quantum:  # rounded heights are level at their top
        falls = first_where(track.v <= 0, start, np.minimum(top + _FLAT, stop))
        top = np.where(falls > 0, np.maximum(falls - 1, start), top)
    (_, b, c), i = _rise_law(motion, track, np.maximum(start, 1), top)
    with np.errstate(divide="ignore", invalid="ignore"):
        vertex = motion.t[i] - b / (2 * c)
    near = np.abs(vertex - motion.t[top]) <= _TOPS * motion.step[top] + (
        _TOPS_ROUNDED if track.rounded else 0
    )
    j = np.minimum(i + 1, len(track.v) - 1)
    gone = track.v[i] - track.v[j]
    share = np.where(gone > 0, track.v[i] / np.where(gone > 0, gone, 1.0), 1.0)
    return np.where(np.isfinite(vertex) & near, vertex, motion.t[top]), np.hypot(1 - share, share)


def arcs_of(motion: FootMotion) -> Arcs:
    """Return the arcs of all jumps that begin in the take; needs heights.

    Raises nothing: what cannot be had is NaN, with a reason for the return.
    """
    throws, track = throws_of(motion), motion.up
    if track is None or not len(throws):
        none = np.zeros(0)
        return Arcs(
            throws=throws,
            begin=none,
            height=none,
            apex_time=none,
            apex_lever=none,
            speed=none,
            speed_resolution=none,
            gravity=none,
            fall_gravity=none,
            back=none,
            back_share=none,
            held=none,
            fall_speed=none,
            reach=none,
            side_speed=none,
            cut=np.zeros(0, dtype=bool),
            sharpness=none,
            release=np.zeros(0, dtype=np.int64),
            reasons=(),
        )
    start, top = throws.start, throws.top
    rising = ~throws.landed & (top >= throws.stop - 1)  # it was ended before it topped out
    height = np.where(rising, np.nan, track.p[top] - track.p[start - 1])
    gravity, unsure = _gravity(motion, track, start, top)
    first = _first_pull(track, start, top, gravity)
    speed, speed_resolution = _takeoff(motion, track, start, top, first)
    back, share, held, fall_gravity, fall_speed, reach, reasons = _return(
        motion, track, throws, height
    )
    tops, apex_lever = _tops(motion, track, start, top, throws.stop)
    pulled = np.where(gravity > 0, gravity, np.inf)
    sharpness = np.sqrt(2 * track.blur / pulled)
    return Arcs(
        throws=throws,
        begin=motion.begin[start],
        height=height,
        apex_time=np.where(rising, np.nan, tops - motion.begin[start]),
        apex_lever=apex_lever,
        speed=speed,
        speed_resolution=speed_resolution,
        gravity=gravity,
        fall_gravity=fall_gravity,
        back=back,
        back_share=share,
        held=held,
        fall_speed=fall_speed,
        reach=reach,
        side_speed=motion.size[start],
        cut=_cut(motion, track, start, top, gravity, unsure, speed),
        sharpness=sharpness,
        release=_releases(motion, start, top),
        reasons=reasons,
    )


def _gravity(
    motion: FootMotion, track: Track, start: IntArray, top: IntArray
) -> tuple[FloatArray, FloatArray]:
    """Return the downward acceleration early in each rise, and what rounding may make of it.

    The take's median where it is short.
    """
    error = np.zeros(len(start))
    if track.rounded:
        high = _before_release(motion, start, top)
        high = _before_bend(track, motion.t, start - 1, high)
        _, _, c = _fitted_laws(track, motion.t, start - 1, high)
        longest = int(np.max(high - start))
        pull = np.where((high - start >= max(4, longest // 2)) & (c < 0), -2 * c, np.nan)
    else:
        pull, error = _early_pull(motion, track, start, top)
        late = _late_pull(track, start, top)
        pull = np.where(top > start, np.where(pull <= _LIGHT * late, late, pull), np.nan)
        pull = np.where(pull > 0, pull, np.nan)
    usual = median(pull[np.isfinite(pull)]) if np.any(np.isfinite(pull)) else 0.0
    with np.errstate(invalid="ignore"):
        odd = ~np.isfinite(pull) | (pull > 3 * usual)  # a cut in the first frames
    return np.where(odd, usual, pull), np.where(odd, median(error), error)


def _early_pull(
    motion: FootMotion, track: Track, start: IntArray, top: IntArray
) -> tuple[FloatArray, FloatArray]:
    """Return the downward acceleration after each takeoff, and what rounding may make of it.

    It is that of the first frame. Where rounding hides it, of as many as show it, while the button
    was held and for half of the rise at most; NaN where that is too few, and others show it.
    """
    a = np.minimum(start, len(track.v) - 2)
    step = track.tv[a + 1] - track.tv[a]
    first = -(track.v[a + 1] - track.v[a]) / step
    usual = median(first[first > 0]) if np.any(first > 0) else 0.0
    rounding = _UNSURE * (usual * motion.clock.time_error + track.printed)
    if not usual or not np.any(rounding > _SURELY * usual * step):
        return first, rounding / step
    needed = np.ceil(rounding / (_SURELY * usual * step)).astype(np.int64)
    held = np.minimum(_releases(motion, start, top) - 1, (start + top) // 2)
    b = np.maximum(np.minimum(a + needed, held), a + 1)
    lasts = track.tv[b] - track.tv[a]
    pull = -(track.v[b] - track.v[a]) / lasts
    poor = b - a < needed
    return np.where(poor & ~poor.all(), np.nan, pull), rounding / lasts


def _first_pull(track: Track, start: IntArray, top: IntArray, gravity: FloatArray) -> FloatArray:
    """Return the downward acceleration right after each takeoff: none where a rise is held up."""
    if track.rounded:
        return gravity
    a = np.minimum(start, len(track.v) - 2)
    pull = -(track.v[a + 1] - track.v[a]) / (track.tv[a + 1] - track.tv[a])
    light = (top > start + 1) & (pull >= 0) & (pull < gravity)
    return np.where(light, pull, gravity)


def _late_pull(track: Track, start: IntArray, top: IntArray) -> FloatArray:
    """Return the downward acceleration of the last rising step before each top, shape (k,)."""
    last = np.maximum(top - 1, np.minimum(start + 1, top))
    before = np.maximum(last - 1, 0)
    gone = track.tv[last] - track.tv[before]
    pull = -(track.v[last] - track.v[before]) / np.where(gone > 0, gone, 1.0)
    return np.where(last > before, np.maximum(pull, 0.0), 0.0)


def _before_bend(track: Track, t: FloatArray, low: IntArray, high: IntArray) -> IntArray:
    """Return the last frame of the one parabola that a rise begins with, shape (k,)."""
    early = np.minimum(high, np.searchsorted(t, t[low] + _LATE))
    return np.where(_bends(track, t, low, high) & (early - low >= 3), early, high)


def _before_release(motion: FootMotion, start: IntArray, top: IntArray) -> IntArray:
    """Return the last rising frame that a release of the button did not touch."""
    release = _releases(motion, start, top)
    return np.where(release - 1 - start >= 3, np.minimum(release - 1, top), top)


def _takeoff(
    motion: FootMotion, track: Track, start: IntArray, top: IntArray, gravity: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return takeoff speeds and their resolutions, shape (k,).

    The impulse is the frame's own velocity plus ``g·dt`` where the displacement of that
    frame shows that gravity acted in it: ``Δy/dt = v + (1 - θ)·g·dt``.
    """
    dt = motion.step[start]
    if track.rounded:
        high = _before_release(motion, start, top)
        high = _before_bend(track, motion.t, start - 1, high)
        _, b, c = _fitted_laws(track, motion.t, start - 1, high)
        span = motion.t[high] - motion.t[start - 1]
        speed = b - 2 * c * (span - dt / 2)
        return speed, gravity * dt + 2 * track.blur / np.maximum(span, dt)
    row = track.v[start]
    if track.source != "reported" or track.theta is None or track.theta > _MIXED:
        return row, gravity * dt
    moved = (track.p[start] - track.p[start - 1]) / dt
    acted = np.abs(moved - row - (1 - track.theta) * gravity * dt) < np.abs(moved - row)
    return np.where(acted, row + gravity * dt, row), track.noise + track.blur / dt + 0 * row


def _return(
    motion: FootMotion, track: Track, throws: Throws, height: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray, FloatArray, FloatArray, tuple[str, ...]]:
    """Return when the takeoff's level is reached again, and what ``Arcs`` holds of that.

    In order: the moment, its share of a frame, how long before that level it was held up, the
    pull, the speed, the distance, and why not.
    """
    t, y = motion.t, track.p
    start, stop, top = throws.start, throws.stop, throws.top
    level = y[start - 1]
    n = len(t)
    line = np.full(n, -np.inf)
    last = np.minimum(np.where(throws.landed, stop, stop - 1), n - 1)
    reach_of = np.nan_to_num(np.abs(height))
    over = y[last] - level
    near = (over > 0) & (over <= np.maximum(_NEAR * reach_of, track.blur))
    near &= (stop < n) & throws.landed
    level = np.where(near, y[last], level)  # solvers let a body rest deeper here than there
    met = level + np.where(near, _LIES, ARITHMETIC) * reach_of
    for k in range(len(throws)):
        line[top[k] + 1 : last[k] + 1] = met[k]
    hit = first_where(y <= line, top + 1, last + 1)
    missing = hit < 0
    i = np.maximum(np.where(missing, last, hit) - 1, 0)
    if track.rounded:
        p, b, c = _fitted_ends(track, t, top, i)
    else:
        p, b, c = _law_at(track, t, motion.step, i)
    tau, speed = _fall_to(p - level, b, c)
    h = t[np.minimum(i + 1, n - 1)] - t[i]
    fallen = np.maximum(y[i] - y[np.minimum(i + 1, n - 1)], ARITHMETIC**9)
    chord = np.minimum((y[i] - level) / fallen, 1.0) * h
    lawless = (i < top + 2) | ~np.isfinite(tau)
    tau = np.clip(np.where(lawless, chord, tau), 0.0, h)
    if track.source == "reported":
        speed = -(track.v[i] + 2 * c * tau)
    else:
        speed = np.where(lawless, speed, -(b + 2 * c * tau))
    reach = _side_reach(motion, i, tau, start)
    unit = motion.take.header.length_unit
    reasons = tuple(
        ""
        if not gone
        else (
            end
            if end
            else f"it lands {rise:.3g} {unit} above its takeoff"
            if at < n
            else "the take ends before the subject is down again"
        )
        for gone, rise, at, end in zip(missing, over, stop, throws.end, strict=True)
    )
    lost = np.where(missing, np.nan, 1.0)
    share = tau / np.where(h > 0, h, 1.0)
    pull = np.abs(2 * c)
    held = np.where(near, over / np.maximum(speed, ARITHMETIC), 0.0)
    back = t[i] + tau
    return (
        back * lost, share * lost, held * lost, pull * lost, speed * lost, reach * lost, reasons,
    )  # fmt: skip


def _fitted_ends(track: Track, t: FloatArray, low: IntArray, high: IntArray) -> Law:
    """Return the law at frame ``high`` of frames from ``low`` on; where they bend, of their end."""
    late = np.maximum(low, np.searchsorted(t, t[high] - _LATE))
    return _one_or(
        _fitted_laws(track, t, low, high),
        _fitted_laws(track, t, late, high),
        _bends(track, t, low, high),
    )


def _one_or(whole: Law, part: Law, bent: BoolArray) -> Law:
    p, b, c = (np.where(bent, other, one) for other, one in zip(part, whole, strict=True))
    return p, b, c


def _bends(track: Track, t: FloatArray, low: IntArray, high: IntArray) -> BoolArray:
    """Return which stretches ``[low, high]`` of rounded heights are no one parabola."""
    p, b_, c = _fitted_laws(track, t, low, high)
    bent = np.zeros(len(high), dtype=bool)
    for k, (a, b) in enumerate(zip(low.tolist(), high.tolist(), strict=True)):
        tau = t[a : b + 1] - t[b]
        fit = p[k] + b_[k] * tau + c[k] * tau**2
        bent[k] = bool(np.any(np.abs(fit - track.p[a : b + 1]) > _OFF * track.blur))
    return bent


def _fall_to(above: FloatArray, b: FloatArray, c: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return when ``above + b·τ + c·τ²`` comes down to zero, and the downward speed there."""
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(b * b - 4 * c * above)
        tau = 2 * above / (root - b)  # the later root, in the form that keeps its digits
    return tau, root


def _side_reach(motion: FootMotion, i: IntArray, tau: FloatArray, start: IntArray) -> FloatArray:
    """Return how far over the ground it is from where it took off, shape (k,)."""
    if motion.across is None:
        return np.full(len(i), np.nan)
    along = [_axis_reach(motion, side, i, tau, start) for side in motion.over_ground]
    return along[0] if len(along) == 1 else np.hypot(*along)


def _axis_reach(
    motion: FootMotion, side: Track, i: IntArray, tau: FloatArray, start: IntArray
) -> FloatArray:
    """Return how far along one axis of the ground it is from where it took off, shape (k,)."""
    x = side.p
    if side.rounded:
        h = motion.t[np.minimum(i + 1, len(x) - 1)] - motion.t[i]
        there = x[i] + (x[np.minimum(i + 1, len(x) - 1)] - x[i]) * tau / np.maximum(h, 1e-300)
    else:
        p, b, c = _law_at(side, motion.t, motion.step, i)
        there = p + b * tau + c * tau**2
    return np.abs(there - x[start - 1])


def _cut(
    motion: FootMotion,
    track: Track,
    start: IntArray,
    top: IntArray,
    gravity: FloatArray,
    unsure: FloatArray,
    speed: FloatArray,
) -> BoolArray:
    """Return whether letting go of the button while rising lowered the apex, shape (k,).

    The arc it was on at the release, carried on under the rise's gravity, would have
    peaked at ``y + b²/2g``; lower by more than sampling and rounding explain is a cut.
    ``unsure``: what the gravity may be more than it seems, by its rounding.
    """
    release = _releases(motion, start, top)
    held = np.maximum(release - 1, start)
    h = motion.step[held]
    if track.source == "reported":
        theta = 0.5 if track.theta is None else track.theta
        slope = track.v[held] - (theta - 0.5) * gravity * _mean_step(motion.step, held, top)
    elif track.rounded:
        slope = speed - gravity * (motion.t[held] - motion.begin[start] - h / 2)
    else:
        slope = track.v[held] - gravity * h / 2
    if not track.rounded:  # the pull that was in force: a sustained rise's own is lighter
        before = np.maximum(held - 1, 0)
        span = track.tv[held] - track.tv[before]
        own = -(track.v[held] - track.v[before]) / span
        # two printed speeds and times tell it poorly: it is the rise's where that may be
        printed = _UNSURE * (np.abs(gravity) * motion.clock.time_error + track.printed) / span
        lighter = (held > start) & (np.abs(own - gravity) > printed)
        gravity = np.where(lighter, np.maximum(own, _WEIGHTLESS * gravity), gravity)
        unsure = np.where(lighter, printed, unsure)
    with np.errstate(divide="ignore", invalid="ignore"):
        expected = track.p[held] + np.maximum(slope, 0.0) ** 2 / (2 * (gravity + unsure))
    widest = np.maximum(h, motion.step[top])
    slack = gravity * widest * widest / 4 + 2 * track.blur
    if track.rounded:
        slack = slack + _BLURRED * (expected - track.p[start - 1])
    later = (release > start) & (expected - track.p[top] > slack) & (slope > 0)
    return later | _cut_at_once(release == start, speed)


def _mean_step(step: FloatArray, first: IntArray, last: IntArray) -> FloatArray:
    """Return the step that stands for those after ``first`` up to ``last``, s, shape (k,).

    Each takes of a height what goes with its square: ``Σh²/Σh``; ``first``'s own where none follow.
    """
    once, twice = np.cumsum(step), np.cumsum(step * step)
    passed = once[last] - once[first]
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (twice[last] - twice[first]) / passed
    return np.where(passed > 0, mean, step[first])


def _cut_at_once(up: BoolArray, speed: FloatArray) -> BoolArray:
    """Return which takeoffs with the button ``up`` already are slower than those with it down."""
    usual = median(speed[~up]) if not up.all() else np.inf
    return up & (speed < _SLOWER * usual) if np.isfinite(usual) else np.zeros_like(up)
