"""Coming to a stop: coasting with the input let go, braking against the motion."""

import numpy as np

from kickback.kinds.foot.metrics.played import ENTRY, ENTRY_SQUARED, entry_given
from kickback.kinds.foot.metrics.speeds import STOPPED, stop_moments
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.scene import Scene
from kickback.kinds.foot.travel import Releases
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import BoolArray
from kickback.takes.quantities import LENGTH, TIME

__all__ = ["METRICS", "stops"]

_FROM_TOP = 0.01
"""Share of the top speed that a stop from it may lack."""

_FASTEST = 0.9
"""Share of the fastest stop's speed at its start that the others have, where none is from the top.
"""

_FROM_TOP_ROUNDED = 0.02
"""The same where speeds are fitted to rounded positions."""

_CAUSES = {
    "input": "another input came before the subject stopped",
    "ground": "the ground sloped or moved before it stopped",
    "wall": "a wall stopped the subject",
    "air": "the subject left the ground before it stopped",
    "dash": "a dash came before the subject stopped",
    "end": "the take ends before the subject stops",
}


def stops(
    scene: Scene, *, braking: bool, distance: bool, among: BoolArray | None = None
) -> Occurrences:
    """Measure the time or the distance of stops; ``among``: of which, shape (k,), all without."""
    if scene.no_release:
        return none(scene.no_release)
    releases = scene.brakes if braking else scene.coasts
    if not len(releases.start):
        what = (
            "no opposite or brake input while moving on the ground"
            if braking
            else "the input was never let go while moving on the ground"
        )
        return none(what)
    moments = stop_moments(scene, braking=braking)
    stopped = np.isfinite(moments.time)
    if among is not None:
        if not among.any():
            return none("the input was never let go while moving in such a direction")
        stopped &= among
    if not stopped.any():
        which = 0 if among is None else int(np.argmax(among))
        return none(_CAUSES[releases.cause[which]])
    begin = scene.motion.begin[releases.start]
    time = moments.time - begin
    step = scene.motion.step[releases.start]
    speed = np.abs(releases.entry)
    if distance:
        track = scene.across
        there = np.interp(np.where(stopped, moments.time, begin), scene.motion.t, track.p)
        value = np.abs(there - track.p[releases.start - 1])
        # the speed is nearly nothing at the stop, so a late moment costs little length
        resolution = STOPPED * speed * moments.resolution + 2 * track.quantum
        slack = speed * step
    else:
        value, resolution, slack = time, moments.resolution, step
    keep, remark = _from_top(scene, releases, stopped)
    return Occurrences(
        value=value,
        start=begin,
        end=moments.time,
        resolution=resolution,
        frame_shift=slack,
        remark=" · ".join(part for part in (remark, scene.remark) if part),
        given=entry_given(scene, releases.entry),
    ).only(keep)


def _from_top(scene: Scene, releases: Releases, stopped: BoolArray) -> tuple[BoolArray, str]:
    """Keep the stops from top speed where there are any; else say that there are none."""
    top = scene.top_speed(releases.toward)
    with np.errstate(invalid="ignore"):
        slack = _FROM_TOP_ROUNDED if scene.across.rounded else _FROM_TOP
        at_top = stopped & (np.abs(releases.entry) >= (1 - slack) * top - 2 * scene.across.noise)
    if at_top.any():
        return at_top, ""
    entry = np.where(stopped, np.abs(releases.entry), 0.0)
    return stopped & (entry >= _FASTEST * entry.max()), "not from top speed"


def coast_stop_time(scene: Scene) -> Occurrences:
    """Measure the time from letting go to the stop."""
    return stops(scene, braking=False, distance=False)


def coast_stop_distance(scene: Scene) -> Occurrences:
    """Measure the distance from letting go to the stop."""
    return stops(scene, braking=False, distance=True)


def brake_stop_time(scene: Scene) -> Occurrences:
    """Measure the time from opposite or brake input to zero speed."""
    return stops(scene, braking=True, distance=False)


def brake_stop_distance(scene: Scene) -> Occurrences:
    """Measure the distance from opposite or brake input to zero speed."""
    return stops(scene, braking=True, distance=True)


METRICS = (
    Metric(
        group="coast",
        part="stop_time",
        dimension=TIME,
        title="Coasting: stop time",
        definition="From letting the input go, at top speed where the take shows that, to the"
        " stop: speed below 1 % of that at the release, or below the rest threshold.",
        formula="t(|v| = 0.01·v0) − t(release); 0.99·v0/a for constant deceleration,"
        " ln(100)/k for friction of rate k",
        measure=coast_stop_time,
        needs=(ACROSS,),
        depends=(ENTRY,),
    ),
    Metric(
        group="coast",
        part="stop_distance",
        dimension=LENGTH,
        title="Coasting: stop distance",
        definition="How far the subject slides from letting go to the stop.",
        formula="|x(stop) − x(release)|; about v0²/2a for constant deceleration, 0.99·v0/k for"
        " friction of rate k",
        measure=coast_stop_distance,
        phrases=("slides {} further", "slides {} less far", "slides"),
        needs=(ACROSS,),
        depends=(ENTRY_SQUARED,),
    ),
    Metric(
        group="brake",
        part="stop_time",
        dimension=TIME,
        title="Braking: stop time",
        definition="From opposite or brake input, at top speed where the take shows that, until"
        " speed is zero (below 1 % of that at the press where it never is).",
        formula="t(v = 0) − t(press); v0/a for constant deceleration",
        measure=brake_stop_time,
        needs=(ACROSS,),
        depends=(ENTRY,),
    ),
    Metric(
        group="brake",
        part="stop_distance",
        dimension=LENGTH,
        title="Braking: stop distance",
        definition="How far the subject goes from opposite or brake input until speed is zero.",
        formula="|x(v = 0) − x(press)|; about v0²/2a for constant deceleration",
        measure=brake_stop_distance,
        phrases=("brakes {} longer", "brakes {} shorter", "brakes"),
        needs=(ACROSS,),
        depends=(ENTRY_SQUARED,),
    ),
)
