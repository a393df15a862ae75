"""Moments at which the sideways speed reaches a level, for pushes and releases."""

import numpy as np

from kickback.kinds.foot.scene import Scene
from kickback.kinds.foot.travel import Pushes, Releases
from kickback.motion.approach import approach_moment, final_line
from kickback.motion.between import crossing, crossing_error
from kickback.motion.segments import IntArray, first_where
from kickback.motion.tracks import Track
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12, typical
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Moments", "located", "push_moments", "stop_moments", "zero_moments"]

STOPPED = 0.01
"""Share of the speed at a release below which the subject has stopped."""

_STOOD = 0.05
"""Seconds at one place that show, in rounded positions, that it stands."""

_TURNED = 1.5
"""Grids by which a rounded position must come back to have turned round."""

_SHORTEST = 1e-9
"""Seconds below which no time divides a speed."""


class Moments(Record, frozen=True, kw_only=True):
    """Times at which something happened, shape (k,), s; NaN where it did not.

    ``resolution`` is how well each is located, s.
    """

    time: FloatArray
    resolution: FloatArray


def located(
    scene: Scene,
    hit: IntArray,
    level: FloatArray,
    start: IntArray,
    *,
    share: float = 0.0,
    first: IntArray | None = None,
    track: Track | None = None,
) -> Moments:
    """Return when the speed reaches a ``level`` on its way to frame ``hit``, shape (k,).

    The sideways speed, unless another ``track`` is said.

    ``start``: where the press or release is, from which times are counted; ``share``: of
    another printed speed, that the level is; ``first``: the earliest frame under one law, that
    before the start unless another is said.
    """
    track = scene.across if track is None else track
    found = hit > 0
    safe = np.where(found, hit, 1)
    mixed = track.source == "displacement"
    first = np.minimum(start - 1 if first is None else first, safe - 1)
    begin, clock = scene.motion.begin[start], scene.motion.clock
    of_time, of_speed = clock.grid / ROOT_12, track.printed / ROOT_12
    time, known = crossing(
        track.tv, track.v, safe, level, first, mixed=mixed, errors=(of_time, of_speed)
    )
    error = np.zeros(len(hit))
    if of_time or of_speed:
        errors = (of_time, of_speed, share * of_speed)
        error = crossing_error(track.tv, track.v, safe, level, first, errors)
    error = np.hypot(np.hypot(error, of_time), clock.rate_error * (time - begin))
    time = np.where(found, time, np.nan)
    resolution = scene.moment_resolution(np.where(found, time, 0.0), known, error, track)
    return Moments(time=time, resolution=resolution)


def _rounded(scene: Scene, moments: list[tuple[float, float]]) -> Moments:
    """Return moments with the resolution that rounding allows: ``max(dt, sqrt(2q/a))``."""
    time = np.array([moment for moment, _ in moments])
    a = np.array([change for _, change in moments])
    step = typical(scene.motion.step)
    with np.errstate(divide="ignore", invalid="ignore"):
        blur = np.sqrt(2 * scene.across.blur / a)
    return Moments(time=time, resolution=np.maximum(step, np.where(np.isfinite(blur), blur, step)))


def _per_frame(n: int, start: IntArray, stop: IntArray, value: FloatArray) -> FloatArray:
    """Spread one value a range over its frames, shape (n,); NaN elsewhere."""
    lengths = np.stack((np.diff(start, prepend=0), stop - start), axis=1)
    lengths[1:, 0] -= lengths[:-1, 1]  # the gap before each range, then the range
    items = np.stack((np.full(len(value), np.nan), value), axis=1)
    out = np.repeat(items.ravel(), lengths.ravel())
    return np.concatenate((out, np.full(n - len(out), np.nan)))


@computed_once
def push_moments(scene: Scene, share: float) -> Moments:
    """Return when each push reaches ``share`` of its top speed, shape (k,), along its side."""
    motion, track, pushes = scene.motion, scene.across, scene.pushes
    if track.rounded:
        return _rounded(
            scene, [_push_fit(scene, pushes, k, share) for k in range(len(pushes.press))]
        )
    n = len(motion.t)
    level = share * scene.push_tops * pushes.side
    goal = _per_frame(n, pushes.press, pushes.stop, level)
    way = _per_frame(n, pushes.press, pushes.stop, pushes.side)
    hit = first_where((track.v - goal) * way >= 0, pushes.press, pushes.stop)
    first = pushes.press - 1
    turned = pushes.entry < -motion.rest_speed
    if turned.any():
        forward = first_where(track.v * way > 0, pushes.press, pushes.stop)
        first = np.where(turned, forward, first)
    return located(scene, hit, level, pushes.press, share=share, first=first)


def _push_fit(scene: Scene, pushes: Pushes, k: int, share: float) -> tuple[float, float]:
    """Return when a push reaches a share of its plateau, from rounded positions."""
    motion, track = scene.motion, scene.across
    at = int(pushes.plateau[k])
    missing = (float("nan"), float("nan"))
    if at < 0 or not np.isfinite(scene.plateaus.speed[at]):
        return missing
    side = float(pushes.side[k])
    settled, stop = int(scene.plateaus.settled[at]), int(scene.plateaus.stop[at])
    late = (settled + stop) // 2
    offset, speed = final_line(motion.t[late:stop], track.p[late:stop])
    low = int(pushes.press[k]) - 1
    if pushes.entry[k] < -motion.rest_speed:  # after the turning point
        low += int(np.argmax(-side * track.p[low:stop]))
    t = motion.t[low:late]
    distance = (track.p[low:late] - (offset + speed * t)) * side
    moment, a = approach_moment(t, distance, (1 - share) * abs(speed), track.blur)
    if np.isfinite(moment) and t[0] <= moment <= t[-1]:
        return moment, a
    # too few frames for a fit: constant acceleration lags the line by half its duration
    lasts = max(2 * float(distance[0]) / abs(speed), _SHORTEST)
    return float(t[0]) + share * lasts, abs(speed) / lasts


def zero_moments(scene: Scene) -> Moments:
    """Return when each push against the motion has brought it to zero."""
    motion, track, pushes = scene.motion, scene.across, scene.pushes
    n = len(motion.t)
    if track.rounded:
        return _rounded(
            scene,
            [
                _turning_point(scene, int(a), int(b), float(-side))
                for a, b, side in zip(pushes.press, pushes.stop, pushes.side, strict=True)
            ],
        )
    way = _per_frame(n, pushes.press, pushes.stop, pushes.side)
    hit = first_where(track.v * way >= 0, pushes.press, pushes.stop)
    return located(scene, hit, np.zeros(len(hit)), pushes.press)


def _turning_point(scene: Scene, start: int, stop: int, way: float) -> tuple[float, float]:
    """Return the middle of the furthest frames toward ``way``, and the bend there."""
    motion, track = scene.motion, scene.across
    reach = track.p[start - 1 : stop] * way
    furthest = np.flatnonzero(reach == reach.max())
    if furthest[-1] == len(reach) - 1 and len(furthest) < 3:
        return float("nan"), float("nan")
    first, last = int(furthest[0]) + start - 1, int(furthest[-1]) + start - 1
    entry = abs(float(track.v[start - 1]))
    if furthest[-1] == len(reach) - 1:
        last = first
    moment = float(motion.t[first] + motion.t[last]) / 2
    return moment, entry / max(moment - float(motion.begin[start]), _SHORTEST)


def stop_moments(scene: Scene, *, braking: bool) -> Moments:
    """Return when each coast, or each braking, has come to a stop.

    A coast's stop is speed below 1 % of that at the release, or below the rest threshold;
    braking ends at zero, where the speed gets there at all.
    """
    return _stop_moments(scene, scene.brakes if braking else scene.coasts, braking)


@computed_once
def _stop_moments(scene: Scene, releases: Releases, to_zero: bool) -> Moments:
    motion, track = scene.motion, scene.across
    if track.rounded:
        return _rounded(
            scene, [_stop_fit(scene, releases, k, to_zero) for k in range(len(releases.start))]
        )
    n = len(motion.t)
    start, stop = releases.start, releases.stop
    way = np.sign(releases.entry)
    sides = _per_frame(n, start, stop, way)
    forward = track.v * sides
    limit = np.maximum(STOPPED * np.abs(releases.entry), motion.rest_speed)
    hit = first_where(forward <= _per_frame(n, start, stop, limit), start, stop)
    level = limit
    if to_zero:
        zero = first_where(forward <= 0, start, stop)
        level = np.where(zero >= 0, 0.0, limit)
        hit = np.where(zero >= 0, zero, hit)
    return located(scene, hit, level * way, start, share=STOPPED)


def _stop_fit(scene: Scene, releases: Releases, k: int, to_zero: bool) -> tuple[float, float]:
    """Return when a release has come to a stop, from rounded positions."""
    motion, track = scene.motion, scene.across
    start, stop = int(releases.start[k]), int(releases.stop[k])
    way = float(np.sign(releases.entry[k]))
    place = track.p[start - 1 : stop] * way
    end = float(place[-1])
    if place.max() > end + _TURNED * track.blur:  # turned round under the opposite input
        return _turning_point(scene, start, stop, way)
    still = np.flatnonzero(np.abs(place - end) > 0.5 * track.blur)
    rest_from = int(still[-1]) + start if still.size else start
    if motion.t[stop - 1] - motion.t[min(rest_from, stop - 1)] < _STOOD:
        return float("nan"), float("nan")
    short = 0.0 if to_zero else STOPPED * abs(float(releases.entry[k]))
    t = motion.t[start - 1 : stop]
    moment, a = approach_moment(t, end - place, short, track.blur)
    if not np.isfinite(moment):  # too few frames for a fit: the last that moved
        a = abs(float(releases.entry[k])) / max(
            float(motion.t[rest_from] - motion.begin[start]), _SHORTEST
        )
        moment = float(motion.t[rest_from])
    return min(moment, float(motion.t[stop - 1])), a
