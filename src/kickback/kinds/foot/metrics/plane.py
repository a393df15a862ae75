"""Moving over a plane: the top speed by direction, and how a new direction is taken up."""

from functools import partial

import numpy as np

from kickback.kinds.foot.metrics.played import ENTRY, ENTRY_SQUARED, entry_given
from kickback.kinds.foot.metrics.run import speed_resolution
from kickback.kinds.foot.metrics.slowing import stops
from kickback.kinds.foot.plane import Plane
from kickback.kinds.foot.roles import ACROSS, ASIDE
from kickback.kinds.foot.scene import Scene
from kickback.kinds.foot.turns import Turns, Veered, radii_of, turns_of, veered
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import BoolArray
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.quantities import LENGTH, RATIO, SPEED, TIME

__all__ = ["METRICS"]

_NEAR = 10.0
"""Degrees by which a turn may be off a round angle and be one of it."""

_TURNS = (("eighth", 45), ("quarter", 90), ("half", 180))
"""Turns by parts of a whole one, degrees."""

_UNTOLD = "no input was recorded: nothing tells when it turns"
_NO_PLANE = "the take has one ground axis only"


def _plane(scene: Scene) -> Plane:
    """Return the plane of a take that is known to have one."""
    if scene.motion.plane is None:
        raise LookupError(_NO_PLANE)
    return scene.motion.plane


def _tops(scene: Scene, *, diagonal: bool) -> tuple[BoolArray, str]:
    """Return which plateaus are along the input's axes, or between them; else why none is."""
    plateaus = scene.plateaus
    odd = plateaus.toward % 2 == 1
    keep = np.isfinite(plateaus.speed) & (odd if diagonal else ~odd)
    where = "between the input's axes" if diagonal else "along the input's axes"
    within = scene.motion.options.plateau
    return keep, "" if keep.any() else f"no full input {where} held its speed {within}"


def _speed(scene: Scene, *, diagonal: bool) -> Occurrences:
    keep, reason = _tops(scene, diagonal=diagonal)
    if reason:
        return none(reason)
    plateaus, motion = scene.plateaus, scene.motion
    start, stop = plateaus.settled[keep], plateaus.stop[keep]
    return Occurrences(
        value=plateaus.speed[keep],
        start=motion.begin[start],
        end=motion.t[stop - 1],
        resolution=np.full(len(start), speed_resolution(scene)),
        frame_shift=np.zeros(len(start)),
        remark=scene.remark,
    )


def _diagonal_ratio(scene: Scene) -> Occurrences:
    """Measure how much quicker a diagonal is than a run along an axis."""
    parts = [_speed(scene, diagonal=diagonal) for diagonal in (True, False)]
    lacking = [part.reason for part in parts if not len(part.value)]
    if lacking:
        return none(lacking[0])
    diagonal, straight = (median(part.value) for part in parts)
    wide, narrow = (median(part.resolution) / median(part.value) for part in parts)
    ratio = diagonal / straight
    return Occurrences(
        value=np.array([ratio]),
        start=np.array([min(float(part.start.min()) for part in parts)]),
        end=np.array([max(float(part.end.max()) for part in parts)]),
        resolution=np.array([ratio * float(np.hypot(wide, narrow))]),
        frame_shift=np.zeros(1),
        remark=scene.remark,
    )


@computed_once
def _turned(scene: Scene) -> tuple[Turns, Veered]:
    """Return the turns of a take, and when each is over."""
    plane = _plane(scene)
    turns = turns_of(scene, plane)
    return turns, veered(scene, plane, turns)


def _chosen(scene: Scene, turns: Turns, angle: float) -> tuple[BoolArray, str, str]:
    """Return which turns are of an angle, why there are none, and what to know about them."""
    if scene.motion.inputs.source != "recorded":
        return np.zeros(len(turns.press), dtype=bool), _UNTOLD, ""
    of_angle = np.abs(turns.angle - angle) <= _NEAR
    if not of_angle.any():
        return of_angle, f"no full press {angle:g} degrees off the motion on the ground", ""
    if not np.isfinite(turns.top[of_angle]).any():
        return of_angle, scene.no_plateau, ""
    fast = of_angle & turns.fast
    return (fast, "", "") if fast.any() else (of_angle, "", "not from top speed")


def _turn(scene: Scene, angle: float, *, wide: bool) -> Occurrences:
    turns, when = _turned(scene)
    chosen, reason, remark = _chosen(scene, turns, angle)
    keep = chosen & np.isfinite(when.time)
    if not keep.any():
        return none(reason or "no press was held until the motion had its direction and speed")
    motion = scene.motion
    begin, step = motion.begin[turns.press], motion.step[turns.press]
    if wide:
        value = when.wide
        resolution = turns.entry * when.resolution + 2 * scene.across.quantum
        slack = turns.entry * step
    else:
        value, resolution, slack = when.time - begin, when.resolution, 2 * step
    return Occurrences(
        value=value,
        start=begin,
        end=when.time,
        resolution=resolution,
        frame_shift=slack,
        remark=" · ".join(part for part in (remark, scene.remark) if part),
        given=entry_given(scene, turns.entry),
    ).only(keep)


def _radius(scene: Scene) -> Occurrences:
    turns, _ = _turned(scene)
    plane, motion = _plane(scene), scene.motion
    radius, sure = radii_of(scene, plane, turns)
    keep = np.isfinite(radius)
    if not keep.any():
        return none("no turn went on at one rate, at 90 % of the top speed, over three frames")
    track = scene.across
    share = 2 * track.noise / np.maximum(turns.entry, motion.rest_speed or 1.0)
    return Occurrences(
        value=radius,
        start=motion.begin[turns.press],
        end=motion.t[np.minimum(turns.stop, len(motion.t)) - 1],
        resolution=np.nan_to_num(radius * share + sure) + 2 * track.quantum,
        frame_shift=np.nan_to_num(sure),
        remark=scene.remark,
    ).only(keep)


def _stop(scene: Scene, *, diagonal: bool) -> Occurrences:
    odd = scene.coasts.toward % 2 == 1
    return stops(scene, braking=False, distance=True, among=odd if diagonal else ~odd)


def _turn_metrics(name: str, angle: int) -> tuple[Metric, Metric]:
    """Return the metrics of turns by one angle."""
    asked = f"From a full press {angle} degrees off the motion, at top speed where the take shows"
    way = (
        "How far it goes on the old way before it comes back"
        if angle == 180
        else "How far it is carried across the direction that was pressed"
    )
    return (
        Metric(
            group="turn",
            part=f"{name}_time",
            dimension=TIME,
            title=f"Time to a direction {angle} degrees off",
            definition=f"{asked} that, until the motion is within 5 degrees of it and at 90 % of"
            " its top speed.",
            formula="t(|angle(v, pressed)| ≤ 5° and |v| ≥ 0.9·v_top) − t(press)",
            measure=partial(_turn, angle=float(angle), wide=False),
            phrases=(
                f"takes {{}} longer to turn by {angle} degrees",
                f"turns by {angle} degrees {{}} sooner",
                f"turns by {angle} degrees",
            ),
            needs=(ASIDE,),
            depends=(ENTRY,),
        ),
        Metric(
            group="turn",
            part=f"{name}_width",
            detail=True,
            dimension=LENGTH,
            title=f"Run wide in a turn by {angle} degrees",
            definition=f"{way}, from the press until the turn is over.",
            formula="max(−s·u) with u the direction pressed, s the way from the press"
            if angle == 180
            else "|s × u| at the end of the turn, with u the direction pressed, s the way from the"
            " press",
            measure=partial(_turn, angle=float(angle), wide=True),
            needs=(ASIDE,),
            depends=(ENTRY_SQUARED,),
        ),
    )


METRICS = (
    Metric(
        group="plane",
        part="straight_speed",
        dimension=SPEED,
        title="Top speed along an axis",
        definition="The speed at which full input along one of its axes settles.",
        formula="median(|v|) over the later half of each plateau, pressed within 22.5° of an axis",
        measure=partial(_speed, diagonal=False),
        needs=(ASIDE,),
    ),
    Metric(
        group="plane",
        part="diagonal_speed",
        dimension=SPEED,
        title="Top speed of a diagonal",
        definition="The speed at which full input between its axes settles.",
        formula="median(|v|) over the later half of each plateau, pressed within 22.5° of a"
        " diagonal",
        measure=partial(_speed, diagonal=True),
        needs=(ASIDE,),
    ),
    Metric(
        group="run",
        part="diagonal_ratio",
        dimension=RATIO,
        title="Diagonal against straight speed",
        definition="The top speed of diagonals over that along the axes: 1 where the speed's length"
        " is limited, 1.414 where each axis has its own limit or the input is not shortened.",
        formula="plane.diagonal_speed / plane.straight_speed",
        measure=_diagonal_ratio,
        phrases=("is {} quicker on diagonals", "is {} slower on diagonals", "runs diagonals"),
        needs=(ASIDE,),
    ),
    *(metric for name, angle in _TURNS for metric in _turn_metrics(name, angle)),
    Metric(
        group="turn",
        part="radius",
        dimension=LENGTH,
        title="Turning radius at full speed",
        definition="The radius of the path of a turn whose direction turns at one rate, for most of"
        " its angle and three frames at least, at 90 % of the top speed or more; a path that bends"
        " ever more or less has no one radius.",
        formula="Σ|v|·dt / ΣΔangle(v)",
        measure=_radius,
        needs=(ASIDE,),
    ),
    Metric(
        group="plane",
        part="straight_stop",
        detail=True,
        dimension=LENGTH,
        title="Coasting along an axis: stop distance",
        definition="coast.stop_distance of those stops only that go along an axis of the input.",
        formula="|x(stop) − x(release)|",
        measure=partial(_stop, diagonal=False),
        needs=(ACROSS, ASIDE),
        depends=(ENTRY_SQUARED,),
    ),
    Metric(
        group="plane",
        part="diagonal_stop",
        detail=True,
        dimension=LENGTH,
        title="Coasting on a diagonal: stop distance",
        definition="coast.stop_distance of those stops only that go between the input's axes.",
        formula="|x(stop) − x(release)|",
        measure=partial(_stop, diagonal=True),
        needs=(ACROSS, ASIDE),
        depends=(ENTRY_SQUARED,),
    ),
)
