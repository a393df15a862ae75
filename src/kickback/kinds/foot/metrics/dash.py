"""Dashes: how fast, how long and how far, and what they lock, on the ground and in the air."""

from collections.abc import Callable
from functools import partial

import numpy as np

from kickback.kinds.foot.dashing import cooldown_of, locked_out, whole_dashes
from kickback.kinds.foot.metrics.played import DIRECTION
from kickback.kinds.foot.metrics.run import speed_resolution
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import LOCATED, NINETY_FIVE, Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.windows import WAIT, WORKED
from kickback.motion.between import crossing
from kickback.motion.segments import BoolArray, IntArray, first_where
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import LENGTH, SPEED, TIME, Dimension
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_BACK = 1.01
"""Times the top speed at which a dash is over that a held direction goes on from."""

_FLATTENED = 0.05
"""Share of a peak that windows over rounded positions may take off it."""

_STOPPED = 0.01
"""Share of the dash's speed below which it has stopped."""


class _Part(Record, frozen=True, kw_only=True):
    """One quantity of dashes, arrays of shape (k,): NaN where it cannot be had, for ``reason``."""

    value: FloatArray
    resolution: FloatArray
    end: FloatArray
    frame_shift: FloatArray
    reason: str = ""


def _in_the_air(scene: Scene) -> BoolArray:
    motion = scene.motion
    return np.asarray(~motion.grounded[np.maximum(motion.dashes.start - 1, 0)])


def _moments(scene: Scene) -> FloatArray:
    """Return how well a moment at a frame's edge is known, shape (k,), s."""
    motion = scene.motion
    step = motion.step[motion.dashes.start]
    lasts = _ends(scene) - motion.begin[motion.dashes.start]
    printed = NINETY_FIVE * motion.clock.span_error(lasts)
    sure: FloatArray = motion.clock.located(LOCATED) * step + printed
    return np.maximum(sure, step) if scene.across.rounded else sure


def _ends(scene: Scene) -> FloatArray:
    """Return when each dash ends, shape (k,), s: the last frame of its speed."""
    return np.asarray(scene.motion.t[scene.motion.dashes.stop - 1])


@computed_once
def _whole(scene: Scene) -> BoolArray:
    return whole_dashes(scene.motion)


def _peak(scene: Scene) -> _Part:
    size, dashes = scene.motion.size, scene.motion.dashes
    ranges = zip(dashes.start.tolist(), dashes.stop.tolist(), strict=True)
    value = np.array([float(np.max(size[a:b])) for a, b in ranges])
    sure = np.full(len(value), speed_resolution(scene))
    if scene.across.rounded:  # windows flatten what is as short as they are
        sure = np.maximum(sure, _FLATTENED * value)
    return _Part(value=value, resolution=sure, end=_ends(scene), frame_shift=np.zeros(len(value)))


def _tops(scene: Scene) -> FloatArray:
    """Return the top speed in each dash's direction, shape (k,); NaN where none is known."""
    motion, dashes = scene.motion, scene.motion.dashes
    return scene.top_speed(motion.toward(dashes.start, np.sign(dashes.speed)))


def _gain(scene: Scene) -> _Part:
    peak = _peak(scene)
    sure = peak.resolution * 2**0.5
    return _Part(
        value=peak.value - _tops(scene),
        resolution=sure,
        end=peak.end,
        frame_shift=peak.frame_shift,
        reason=scene.no_plateau,
    )


_CUT = "the take, a wall or a jump ends the dash"
_ROUNDED = "positions are rounded: the windows that speeds are fitted over hide a dash's ends"
_FALLS = "the speed falls from the first frame of a dash on: it is not held"


def _duration(scene: Scene) -> _Part:
    motion, dashes = scene.motion, scene.motion.dashes
    whole = _whole(scene)
    known = whole & dashes.held
    end = _ends(scene)
    value = np.where(known, end - motion.begin[dashes.start], np.nan)
    reason = _FALLS if whole.any() else _CUT
    if scene.across.rounded:
        reason = _ROUNDED
    step = motion.step[dashes.start]
    return _Part(value=value, resolution=_moments(scene), end=end, frame_shift=step, reason=reason)


def _distance(scene: Scene) -> _Part:
    motion, dashes = scene.motion, scene.motion.dashes
    duration = _duration(scene)
    gone = np.abs(motion.place[dashes.stop - 1] - motion.place[dashes.start - 1])
    step = motion.step[dashes.start]
    sure = 2 * scene.across.quantum + np.zeros(len(gone))
    value = np.where(np.isfinite(duration.value), gone, np.nan)
    slack = np.abs(dashes.speed) * step
    return _Part(
        value=value, resolution=sure, end=duration.end, frame_shift=slack, reason=duration.reason
    )


@computed_once
def _recovered(scene: Scene) -> tuple[FloatArray, FloatArray]:
    """Return when each dash is back at the top speed, or at rest, and how surely; NaN where not.

    At the top speed where the direction is held on, at rest where nothing is.
    """
    motion, dashes, track = scene.motion, scene.motion.dashes, scene.across
    if track.rounded:  # windows smooth a dash's end away
        return np.full(len(dashes), np.nan), np.zeros(len(dashes))
    last = np.minimum(dashes.stop, len(motion.t) - 1)
    side = np.sign(dashes.speed)
    move = motion.inputs.move[last] * side
    tops = _tops(scene)
    peak = np.abs(dashes.speed)
    level = np.where(move > 0, tops * _BACK, np.maximum(_STOPPED * peak, motion.rest_speed))
    level = np.where(move < 0, np.nan, level)
    ends = np.append(dashes.start[1:], len(motion.t))
    lined = motion.inputs.lined
    other = [
        a + int(np.argmax(np.append(lined[a:b] != lined[min(a, len(lined) - 1)], True)))
        for a, b in zip(dashes.stop.tolist(), ends.tolist(), strict=True)
    ]
    size = motion.size
    goal = np.full(len(size), -np.inf)
    for a, b, value in zip(dashes.stop.tolist(), other, level.tolist(), strict=True):
        goal[a:b] = value if np.isfinite(value) else -np.inf
    hit = first_where(size <= goal, dashes.stop, np.array(other, dtype=np.int64))
    found = (hit > 0) & _whole(scene) & np.isfinite(level)
    safe = np.where(found, hit, 1)
    wanted = np.where(found, level, 0.0)
    first = np.minimum(np.maximum(dashes.stop - 1, 0), safe - 1)
    errors = (motion.clock.grid / ROOT_12, track.printed / ROOT_12)
    mixed = track.source == "displacement"
    time, known = crossing(track.tv, size, safe, wanted, first, mixed=mixed, errors=errors)
    gentle = np.abs(size[safe] - size[safe - 1]) / motion.step[safe]
    blur = errors[1] / np.where(gentle > 0, gentle, np.inf)
    sure = scene.moment_resolution(time, known, np.hypot(blur, errors[0]))
    return np.where(found, time, np.nan), sure


_NOT_BACK = "no dash is seen to come back to the top speed with its direction held, or to rest"


def _recovery_time(scene: Scene) -> _Part:
    time, sure = _recovered(scene)
    end = _ends(scene)
    step = scene.motion.step[scene.motion.dashes.start]
    return _Part(
        value=np.maximum(time - end, 0.0),
        resolution=sure,
        end=time,
        frame_shift=step,
        reason=_NOT_BACK,
    )


def _recovery_distance(scene: Scene) -> _Part:
    motion, dashes = scene.motion, scene.motion.dashes
    time, sure = _recovered(scene)
    place = motion.place
    at = np.where(np.isfinite(time), time, motion.t[0])
    there = np.interp(at, motion.t, place.real) + 1j * np.interp(at, motion.t, place.imag)
    value = np.where(np.isfinite(time), np.abs(there - place[dashes.stop - 1]), np.nan)
    slow = motion.size[np.clip(np.searchsorted(motion.t, at), 0, len(motion.t) - 1)]
    step = motion.step[dashes.start]
    return _Part(
        value=value,
        resolution=slow * sure + 2 * scene.across.quantum,
        end=time,
        frame_shift=np.abs(dashes.speed) * step,
        reason=_NOT_BACK,
    )


def _lockout(scene: Scene) -> _Part:
    """Return how long after a dash's start opposite input is not read, where any is held then."""
    motion, dashes = scene.motion, scene.motion.dashes
    value = np.full(len(dashes), np.nan)
    start, stop = _locks(scene)
    for a, b in zip(start.tolist(), stop.tolist(), strict=True):
        value[dashes.start == a] = motion.t[b - 1] - motion.begin[a]
    step = motion.step[dashes.start]
    # it runs out in the frame before the first that moved
    end = motion.begin[dashes.start] + value
    return _Part(
        value=value,
        resolution=step,
        end=end,
        frame_shift=step,
        reason="no opposite input was held through the end of a dash, with a coasting to"
        " tell its effect by",
    )


def _locks(scene: Scene) -> tuple[IntArray, IntArray]:
    from kickback.kinds.foot.laws.coasting import coast_law

    motion, track = scene.motion, scene.across
    return locked_out(motion, track, coast_law(motion, track))


@computed_once
def _part(scene: Scene, of: Callable[[Scene], _Part]) -> _Part:
    return of(scene)


def _measure(scene: Scene, *, of: Callable[[Scene], _Part], air: bool) -> Occurrences:
    motion, dashes = scene.motion, scene.motion.dashes
    if motion.inputs.dash is None:
        return none("no dash button was recorded")
    here = _in_the_air(scene) == air
    if not here.any():
        return none(f"no dash {'in the air' if air else 'on the ground'}")
    part = _part(scene, of)
    keep = here & np.isfinite(part.value)
    if not keep.any():
        return none(part.reason)
    held = np.sign(motion.inputs.move[dashes.start]) * np.sign(dashes.speed)
    return Occurrences(
        value=part.value,
        start=motion.begin[dashes.start],
        end=part.end,
        resolution=part.resolution,
        frame_shift=part.frame_shift,
        remark=scene.remark,
        given={DIRECTION.name: np.abs(held)},
    ).only(keep)


def cooldown(scene: Scene) -> Occurrences:
    """Measure how long after a dash's press the next one may be, from presses."""
    motion = scene.motion
    if motion.inputs.dash is None:
        return none("no dash button was recorded")
    waits = cooldown_of(motion)
    if not len(waits):
        return none("no second press of the dash button after a dash")
    return Occurrences(
        value=waits.wait,
        start=motion.begin[waits.press] - waits.wait,
        end=motion.begin[waits.press],
        resolution=np.zeros(len(waits)),
        frame_shift=motion.step[waits.press],
        given={WORKED: waits.worked.astype(np.float64)},
    )


class _Entry(Record, frozen=True, kw_only=True):
    part: str
    dimension: Dimension
    title: str
    definition: str
    formula: str
    of: Callable[[Scene], _Part]
    phrases: tuple[str, ...] = ()
    detail: bool = False
    whole_frames: bool = False


_ENTRIES = (
    _Entry(
        part="peak_speed",
        dimension=SPEED,
        title="peak speed",
        definition="The highest speed over the ground while the dash lasts.",
        formula="max(|v|) over the dash's frames",
        of=_peak,
        phrases=("dashes {} faster", "dashes {} slower", "dashes"),
    ),
    _Entry(
        part="gain",
        dimension=SPEED,
        title="gain over the top speed",
        definition="The peak speed less the top speed that full input holds in that direction.",
        formula="max(|v|) − v_top",
        of=_gain,
    ),
    _Entry(
        part="duration",
        dimension=TIME,
        title="duration",
        definition="From the start of the first frame with the dash's speed to the end of the last."
        " Not for those that a wall, a jump or the take's end cuts short, nor for a speed that"
        " falls from the first frame on.",
        formula="t(last frame of the speed) − t(start of the first)",
        of=_duration,
        whole_frames=True,
        phrases=("dashes {} longer", "dashes {} shorter", "dashes"),
    ),
    _Entry(
        part="distance",
        dimension=LENGTH,
        title="distance",
        definition="How far over the ground the dash's frames carry.",
        formula="|x(last frame of the speed) − x(before the first)|",
        of=_distance,
        whole_frames=True,
        phrases=("dashes {} further", "dashes {} less far", "dashes"),
    ),
    _Entry(
        part="recovery_time",
        dimension=TIME,
        title="time back to normal",
        definition="From the dash's end until the speed is within 1 % of the top speed, where the"
        " direction is held on, or at rest (1 % of the dash's), where nothing is held.",
        formula="t(|v| ≤ 1.01·v_top, or ≤ 0.01·v_dash without input) − t(end of the dash)",
        of=_recovery_time,
    ),
    _Entry(
        part="recovery_distance",
        detail=True,
        dimension=LENGTH,
        title="distance back to normal",
        definition="How far it goes from the dash's end until the speed is back, as for the time.",
        formula="|x(back) − x(end of the dash)|",
        of=_recovery_distance,
    ),
    _Entry(
        part="lockout",
        dimension=TIME,
        title="input locked out",
        definition="From the dash's start until opposite input, held through its end, moves it:"
        " up to then it goes on as if coasting.",
        formula="t(end of the last frame that coasts on) − t(start of the dash)",
        of=_lockout,
        whole_frames=True,
    ),
)

METRICS = (
    *(
        Metric(
            group=group,
            part=entry.part,
            dimension=entry.dimension,
            title=f"{group.replace('_', ' ').capitalize()}: {entry.title}",
            definition=f"{entry.definition} {where}",
            formula=entry.formula,
            measure=partial(_measure, of=entry.of, air=air),
            phrases=entry.phrases if not air else (),
            needs=(ACROSS,),
            depends=(DIRECTION,),
            detail=entry.detail,
            whole_frames=entry.whole_frames,
        )
        for group, air, where in (
            ("dash", False, "Of dashes that begin on the ground."),
            ("air_dash", True, "Of dashes that begin in the air."),
        )
        for entry in _ENTRIES
    ),
    Metric(
        group="dash",
        part="cooldown",
        dimension=TIME,
        title="Dash: cooldown",
        definition="From a dash's press until a press dashes again: the middle between the latest"
        " press that did nothing and the earliest later one that dashed, resolved to half of"
        " what lies between them. On the ground and in the air together.",
        formula="(max(wait that failed) + min(longer wait that dashed)) / 2",
        measure=cooldown,
        needs=(ACROSS,),
        combine=WAIT,
    ),
)
