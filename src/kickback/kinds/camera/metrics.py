"""How a camera follows: its lag, its largest offset, what it shows of a bounce, and its edges."""

from functools import partial

import numpy as np

from kickback.kinds.camera.filmed import Filmed, band_of, followed
from kickback.kinds.camera.roles import ACROSS, UP
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.motion import Motion, Scene, motion_in
from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12, median, quantile
from kickback.takes.quantities import LENGTH, RATIO, TIME
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_FAST = 0.9
"""Share of the highest speed from which a subject is at its top speed."""

_STEADY = 0.02
"""Share of a lag by which its middle third may differ from the last for it to be held."""

_BRIEF = 0.1
"""Seconds that a lag is held at least, or a camera stands."""

_STANDS = 1e-3
"""Share of a largest step below which something stands."""

_LATE = 0.25
"""Seconds at rest after which an offset is that of rest."""

_NINETY_FIVE = 2.0

_OF_MEDIAN = 1.25
"""Standard error of a median over that of a mean."""


def _ground(motion: Motion) -> list[Filmed]:
    return [one for one in followed(motion) if one.role is not UP]


def _steps(path: FloatArray) -> FloatArray:
    return np.abs(np.diff(path, prepend=path[:1]))


def _stands(path: FloatArray, grid: float) -> BoolArray:
    step = _steps(path)
    still: BoolArray = step <= _STANDS * float(np.max(step, initial=0.0)) + grid
    return still


@computed_once
def _at_rest(motion: Motion, one: Filmed) -> float:
    """Return the offset of a camera from a subject that rests, length: 0 where none is seen."""
    start, stop = _rests(motion, _stands(one.leader, one.grid) & _stands(one.follower, one.grid))
    if not len(start):
        return 0.0
    last = stop - 1
    since = np.maximum(np.searchsorted(motion.t, motion.t[last] - _LATE), start)
    moved = np.abs(one.follower[last] - one.follower[since])
    # steps below what is rounded away may still creep: those that moved least stand
    still = moved <= float(moved.min()) + one.grid / 2
    return median((one.follower[last] - one.leader[last])[still])


def _rests(motion: Motion, rest: BoolArray) -> tuple[IntArray, IntArray]:
    """Return the stretches of a rest, ``[start, stop)``, that last."""
    start, stop = runs(rest)
    keep = rest[start] & (motion.t[stop - 1] - motion.begin[start] >= _LATE)
    return start[keep], stop[keep]


def _grid(one: Filmed) -> float:
    return _NINETY_FIVE * one.grid / ROOT_12


@computed_once
def _lags(motion: Motion) -> list[tuple[int, int, float, float, float]]:
    """Return stretches of one lag: frames ``[start, stop)``, the lag, the speed, its resolution.

    The lag is positive where the camera is behind. It is that of a stretch's last third, where
    that of the middle one is the same.
    """
    found = []
    for one in _ground(motion):
        gone, offset = np.diff(one.leader, prepend=one.leader[0]), one.follower - one.leader
        speed = np.abs(gone) / motion.step
        quick = speed >= _FAST * quantile(speed, 0.99) - 2 * one.grid / motion.step
        held = quick & (np.abs(gone) > one.grid) & (speed > 0)
        rest = _at_rest(motion, one)
        codes = held * np.sign(gone).astype(np.int64)
        start, stop = runs(codes)
        third = (stop - start) // 3
        lasts = motion.t[stop - 1] - motion.t[stop - third - (third == 0)] >= _BRIEF
        keep = held[start] & (third >= 2) & lasts
        for a, b in zip(start[keep].tolist(), stop[keep].tolist(), strict=True):
            long = (b - a) // 3
            late, middle = slice(b - long, b), slice(b - 2 * long, b - long)
            way = float(np.sign(gone[a]))
            usual = median(offset[late])
            lag, earlier = (rest - usual) * way, (rest - median(offset[middle])) * way
            if abs(lag - earlier) > _STEADY * abs(lag) + 2 * one.grid:
                continue
            pace = abs(float(one.leader[b - 1] - one.leader[late.start - 1]))
            pace /= float(motion.t[b - 1] - motion.t[late.start - 1])
            sure = _grid(one) + abs(lag - earlier)
            half = float(motion.t[b - 1] - motion.t[late.start]) * pace / 2
            sure += _wobble(float(np.std(offset[late])), half / max(abs(usual), 1e-12))
            found.append((late.start, b, lag, pace, sure))
    return found


def _wobble(shake: float, lags: float) -> float:
    """Return how surely the middle of an offset that uneven frames shake is known.

    ``shake`` is its standard deviation. A camera forgets a frame over its lag: offsets so far
    apart shake each for itself, ``lags`` of them.
    """
    return _NINETY_FIVE * _OF_MEDIAN * shake / float(np.sqrt(max(lags, 1.0)))


def _lag(scene: Scene, *, time: bool, ahead: bool = False) -> Occurrences:
    motion = motion_in(scene)
    rows = [row for row in _lags(motion) if (row[2] < -row[4]) == ahead]
    if not rows:
        return none(
            "the camera never looks ahead at top speed"
            if ahead
            else "the camera never held its place behind a subject at top speed for 0.1 s"
        )
    start, stop, lag, speed, sure = np.array(rows).T
    size = np.abs(lag)
    return Occurrences(
        value=size / speed if time else size,
        start=motion.begin[start.astype(np.int64)],
        end=motion.t[stop.astype(np.int64) - 1],
        resolution=sure / speed if time else sure,
        frame_shift=motion.step[start.astype(np.int64)] * (1.0 if time else speed),
    )


def _one(motion: Motion, value: float, row: int, sure: float, slack: float = 0.0) -> Occurrences:
    return Occurrences(
        value=np.array([value]),
        start=motion.begin[row : row + 1],
        end=motion.t[row : row + 1],
        resolution=np.array([sure]),
        frame_shift=np.array([slack]),
    )


def largest_offset(scene: Scene) -> Occurrences:
    """Measure how far the subject is from its place in the picture at most."""
    motion = motion_in(scene)
    axes = followed(motion)
    off = np.sqrt(sum((one.follower - one.leader - _at_rest(motion, one)) ** 2 for one in axes))
    row = int(np.argmax(off))
    later = float(np.sqrt(sum(_steps(one.leader)[row] ** 2 for one in axes)))
    return _one(motion, float(off[row]), row, max(_grid(one) for one in axes), later)


def bounce_share(scene: Scene) -> Occurrences:
    """Measure how much of its subject's way up and down a camera makes."""
    motion = motion_in(scene)
    (one,) = [one for one in followed(motion) if one.role is UP]
    rise, shown = float(np.ptp(one.leader)), float(np.ptp(one.follower))
    if rise <= 4 * one.grid or rise == 0:
        return none("the subject stays on one level")
    return _one(motion, shown / rise, int(np.argmax(one.leader)), _grid(one) * 2 / rise)


def overshoot(scene: Scene) -> Occurrences:
    """Measure how far beyond its resting place a camera swings after a stop."""
    motion, rows = motion_in(scene), []
    for one in _ground(motion):
        start, stop = _rests(motion, _stands(one.leader, one.grid))
        for a, b in zip(start[start > 0].tolist(), stop[start > 0].tolist(), strict=True):
            to_go = one.follower[a - 1 : b] - one.follower[b - 1]
            way = abs(float(to_go[0]))
            if way <= 10 * one.grid or way == 0:
                continue
            beyond = max(float(np.max(-to_go * np.sign(to_go[0]))), 0.0)
            share = beyond / way
            rows.append((a, b, 0.0 if share < 1e-9 else share, _grid(one) / way))
    if not rows:
        return none("no stop of a quarter of a second with a camera that still had way to go")
    first, after, value, sure = np.array(rows).T
    return Occurrences(
        value=value,
        start=motion.begin[first.astype(np.int64)],
        end=motion.t[after.astype(np.int64) - 1],
        resolution=sure,
        frame_shift=np.zeros(len(value)),
    )


def dead_zone(scene: Scene) -> Occurrences:
    """Measure the width of the band in which a subject moves and its camera stands.

    Its ends carry the camera along, or the rules each way lead to either of them.
    """
    from kickback.kinds.camera.follow import FOLLOW
    from kickback.laws.following import rules_of

    motion = motion_in(scene)
    for one in _ground(motion):
        band = band_of(one)
        if band is not None:
            return _one(motion, band.width, 0, 2 * _grid(one))
        rules = rules_of(motion, one, FOLLOW)
        if len(rules) == 2:
            plus, minus = rules
            sure = _NINETY_FIVE * float(np.hypot(plus.offset_error, minus.offset_error))
            width = minus.offset - plus.offset
            if width > sure + _grid(one):
                return _one(motion, width, 0, sure)
    if all(np.ptp(one.follower) <= one.grid for one in _ground(motion)):
        return none("the camera never moves")
    return none("no rule each way tells one: the camera moves whenever its subject does")


def largest_jerk(scene: Scene) -> Occurrences:
    """Measure the largest change of a camera's acceleration."""
    motion = motion_in(scene)
    axes = followed(motion)
    if any(one.grid for one in axes):
        return none("places are rounded: their third differences are those of the rounding")
    if len(motion.t) < 5:
        return none("too few frames")
    step = motion.step[3:]
    size = np.sqrt(sum((np.diff(one.follower, 3) / step**3) ** 2 for one in axes))
    row = int(np.argmax(size)) + 3
    return _one(motion, float(size.max()), row, 1e-9 * float(size.max()), float(size.max()))


def out_of_view(scene: Scene) -> Occurrences:
    """Measure the share of frames in which the subject is out of the picture."""
    motion = motion_in(scene)
    size = motion.take.header.extra.get("view_size")
    if not (isinstance(size, list) and len(size) == 2):
        return none("the header tells no view_size, [width, height] in the take's length unit")
    out = np.zeros(len(motion.t), dtype=bool)
    for one in followed(motion):
        half = float(size[1] if one.role is UP else size[0]) / 2
        out |= np.abs(one.leader - one.follower) > half
    row = int(np.argmax(out))
    return _one(motion, float(np.mean(out)), row, 1 / len(out))


_metric = partial(Metric, group="camera", needs=(ACROSS,))


METRICS = (
    _metric(
        part="lag_time",
        measure=partial(_lag, time=True),
        dimension=TIME,
        title="Camera: lag",
        definition="How long the camera is behind its subject at top speed, once that no longer"
        " changes: 1/rate for a smoothing.",
        formula="camera.lag_distance / |v|",
    ),
    _metric(
        part="lag_distance",
        measure=partial(_lag, time=False),
        dimension=LENGTH,
        title="Camera: lag as a distance",
        definition="How far the camera is behind its subject at top speed, once that no longer"
        " changes, against where it stands beside a subject that rests.",
        formula="(x − camera_x) − (x − camera_x at rest), along the motion",
    ),
    _metric(
        part="look_ahead",
        measure=partial(_lag, time=False, ahead=True),
        dimension=LENGTH,
        title="Camera: look-ahead",
        definition="How far the camera is ahead of its subject at top speed, against rest.",
        formula="(camera_x − x) − (camera_x − x at rest), along the motion",
    ),
    _metric(
        part="largest_offset",
        measure=largest_offset,
        dimension=LENGTH,
        title="Camera: largest offset",
        definition="How far the subject is at most from its place in the picture at rest.",
        formula="max |p − camera − (p − camera at rest)|",
        combine=LARGEST,
    ),
    _metric(
        part="bounce_share",
        measure=bounce_share,
        dimension=RATIO,
        title="Camera: share of the bounce",
        definition="How much of its subject's way up and down the camera makes: 0 keeps its"
        " height, 1 goes with it.",
        formula="(max − min of camera height) / (max − min of height)",
        needs=(UP,),
        combine=LARGEST,
    ),
    _metric(
        part="overshoot",
        measure=overshoot,
        detail=True,
        dimension=RATIO,
        title="Camera: overshoot",
        definition="How far beyond its resting place the camera goes after its subject has"
        " stopped, as a share of the way that it still had.",
        formula="max(−Δ·sign(Δ₀)) / |Δ₀| with Δ the way to where it rests",
    ),
    _metric(
        part="dead_zone",
        measure=dead_zone,
        detail=True,
        dimension=LENGTH,
        title="Camera: dead zone",
        definition="The width of the band in which its subject moves and the camera does not: from"
        " one end of it to the other the rules lead that it follows each way.",
        formula="offset of the rule toward − less that of the rule toward +",
    ),
    _metric(
        part="largest_jerk",
        measure=largest_jerk,
        detail=True,
        framed=True,
        dimension=LENGTH / TIME**3,
        title="Camera: largest jerk",
        definition="The largest change of the camera's acceleration.",
        formula="max |Δ³camera| / dt³",
        combine=LARGEST,
    ),
    _metric(
        part="out_of_view",
        measure=out_of_view,
        detail=True,
        dimension=RATIO,
        title="Camera: subject out of the picture",
        definition="The share of frames in which the subject is outside the header's view_size.",
        formula="mean(|p − camera| > view_size / 2)",
        combine=LARGEST,
    ),
)
