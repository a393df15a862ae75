"""What is measured of a projectile's flights: launch, path, impact, bounces, spread."""

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np

from kickback.kinds.shot.metrics.rows import NO_GROUND, NO_HIT, NO_SHOT, UPWARD, row_of, shot_metric
from kickback.kinds.shot.motion import Arc
from kickback.kinds.shot.scene import NINETY_FIVE, Hit, Launch, Scene
from kickback.laws.step_model import LINEAR, PUSH, QUADRATIC, Term
from kickback.metrics.metric import Combine
from kickback.metrics.record import Occurrences, joined, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.takes.quantities import (
    ACCELERATION,
    ANGLE,
    LENGTH,
    PER_TIME,
    RATIO,
    SPEED,
    TIME,
)

__all__ = ["FLIGHT_METRICS"]

_FEWEST = 3
"""Shots that show a spread."""


def _of_launches(
    scene: Scene, value: Callable[[Scene, Launch], tuple[float, float] | None]
) -> Occurrences:
    rows = []
    for arc in scene.shots:
        found = value(scene, scene.launch(arc))
        if found is not None:
            rows.append(row_of(scene, arc, *found))
    return occurrences_of(rows, NO_SHOT)


def _speed(_: Scene, one: Launch) -> tuple[float, float]:
    return float(np.hypot(abs(one.drift), one.rise)), one.sure


def _elevation(_: Scene, one: Launch) -> tuple[float, float]:
    size = float(np.hypot(abs(one.drift), one.rise))
    return float(np.rad2deg(np.arctan2(one.rise, abs(one.drift)))), float(
        np.rad2deg(one.sure / max(size, 1e-12))
    )


def _azimuth(scene: Scene, one: Launch) -> tuple[float, float] | None:
    if scene.motion.take.header.view == "side" or not abs(one.drift):
        return None
    return float(np.rad2deg(np.angle(one.drift))), float(np.rad2deg(one.sure / abs(one.drift)))


def _constant(scene: Scene, *, term: Term) -> Occurrences:
    """Measure a constant of the flights' rule; 0 where the rule does not have it."""
    motion, rule = scene.motion, scene.rule
    if not motion.arcs:
        return none(NO_SHOT)
    if rule is None:
        return none("its flights follow no known rule of gravity and drag")
    value = rule.value(term.name)
    sure = NINETY_FIVE * rule.stderr.get(term.name, 0.0) + 1e-9 * value
    first, last = motion.arcs[0], motion.arcs[-1]
    begin, end = float(motion.begin[first.start]), float(motion.t[last.stop - 1])
    return occurrences_of([Row(value, begin, end, sure)], "")


def _of_hits(
    scene: Scene, value: Callable[[Scene, Arc, Hit], tuple[float, float, float] | None]
) -> Occurrences:
    rows = []
    for arc in scene.shots:
        hit = scene.hit(arc)
        if hit is None:
            continue
        found = value(scene, arc, hit)
        if found is not None:
            rows.append(row_of(scene, arc, *found))
    return occurrences_of(rows, _no_hit(scene))


def _no_hit(scene: Scene) -> str:
    """Return why no flight ends."""
    if not scene.shots:
        return NO_SHOT
    ends = scene.motion.floor is None and any(arc.ends for arc in scene.shots)
    return NO_GROUND if ends else NO_HIT


def _since_launch(scene: Scene, arc: Arc) -> float:
    """Return how unsure it is when a flight began, s: by a frame where no frame was before it."""
    known = arc.rested or scene.motion.muzzle is not None or scene.shows_launch
    return 0.0 if known else scene.first_step(arc)


def _flight_time(scene: Scene, arc: Arc, hit: Hit) -> tuple[float, float, float]:
    step = scene.first_step(arc)
    return hit.time - scene.launch(arc).time, hit.sure + _since_launch(scene, arc), step


def _range(scene: Scene, arc: Arc, hit: Hit) -> tuple[float, float, float]:
    start = scene.launch(arc)
    pace = abs(hit.drift)
    unsure = pace * hit.sure + abs(start.drift) * _since_launch(scene, arc)
    unsure += 2 * scene.motion.quantum
    later = pace * scene.first_step(arc)
    return abs(hit.ground - start.ground), unsure + 1e-9 * abs(hit.ground), later


def _impact_speed(scene: Scene, _: Arc, hit: Hit) -> tuple[float, float, float]:
    noise = max((track.noise for track in scene.motion.plain), default=0.0)
    later = scene.gravity * scene.motion.clock.usual
    fall = _fall(scene, hit)
    return float(np.hypot(abs(hit.drift), fall)), NINETY_FIVE * noise + later / 2, later


def _fall(scene: Scene, hit: Hit) -> float:
    """Return the rise at a hit: of the path, which lies half a step behind the code's speeds."""
    return hit.rise if scene.motion.flies else 0.0


def _impact_angle(scene: Scene, _: Arc, hit: Hit) -> tuple[float, float, float]:
    fall, pace = -_fall(scene, hit), abs(hit.drift)
    later = scene.gravity * scene.motion.clock.usual / max(float(np.hypot(fall, pace)), 1e-12)
    noise = max((track.noise for track in scene.motion.plain), default=0.0)
    sure = later / 2 + NINETY_FIVE * noise / max(float(np.hypot(fall, pace)), 1e-12)
    turn = float(np.rad2deg(1.0))
    return float(np.rad2deg(np.arctan2(fall, pace))), sure * turn, later * turn


def _apex(scene: Scene, *, time: bool) -> Occurrences:
    rows = []
    for arc in scene.shots:
        top, start = scene.top(arc), scene.launch(arc)
        if top is None:
            continue
        step = scene.first_step(arc)
        unsure = _since_launch(scene, arc)
        if time:
            sure = 0.05 * step + unsure + top.sure_time
            rows.append(row_of(scene, arc, top.time - start.time, sure, step))
            continue
        later = abs(start.rise) * step
        sure = scene.motion.quantum + scene.gravity * step * step / 8 + top.sure_height
        sure += abs(start.rise) * unsure
        rows.append(row_of(scene, arc, top.height - start.height, sure, later))
    return occurrences_of(rows, "no flight went up and came down again" if scene.shots else NO_SHOT)


def _bounce(scene: Scene, *, along: bool) -> Occurrences:
    """Measure what a bounce leaves of the speed into the ground, or of that along it.

    The update that bounces falls and slows first: the speeds after such a step are compared.
    """
    motion, rows = scene.motion, []
    for arc, after in zip(motion.arcs, motion.arcs[1:], strict=False):
        if after.start != arc.stop or not arc.hits:
            continue
        noise = max((track.noise for track in motion.plain), default=0.0)
        before = complex(abs(motion.drift[arc.stop - 1]), motion.rise[arc.stop - 1])
        met = scene.after(before, after.start)
        one, other = met.real, abs(motion.drift[after.start])
        slack = abs(met.real - before.real)
        if not along:
            one, other, slack = -met.imag, float(motion.rise[after.start]), abs(met - before)
        if one > motion.rest_speed and other > 0:
            sure = (slack + NINETY_FIVE * 2 * noise) / one + 1e-9
            rows.append(row_of(scene, arc, other / one, sure, slack / one))
    return occurrences_of(rows, "it never bounced")


def _landing_points(parts: Sequence[Occurrences]) -> Occurrences:
    """Return the spread of the places that several shots hit: the distance from their mean."""
    every = joined(parts)
    if len(every.value) < _FEWEST:
        reason = every.reason or f"fewer than {_FEWEST} shots that hit something"
        return none(reason if not len(every.value) else f"{len(every.value)} of {_FEWEST} shots")
    place = every.given["x"] + 1j * every.given["y"]
    off = place - place.mean()
    radius = float(np.sqrt(np.mean(np.abs(off) ** 2)))
    axes = np.sqrt(np.maximum(np.linalg.eigvalsh(np.cov(off.real, off.imag, bias=True)), 0.0))
    x, y = float(place.mean().real), float(place.mean().imag)
    remark = f"{len(place)} shots around {x:.4g}, {y:.4g}; axes of {axes[1]:.3g} and {axes[0]:.3g}"
    return Occurrences(
        value=np.array([radius]),
        start=every.start.min(keepdims=True),
        end=every.end.max(keepdims=True),
        resolution=np.array([float(np.max(every.resolution))]),
        frame_shift=np.array([float(np.max(every.frame_shift))]),
        remark=remark,
    )


SPREAD = Combine(name="spread", narrows=True, one_each=True, of=_landing_points)


def _hit_places(scene: Scene) -> Occurrences:
    rows, places = [], []
    for arc in scene.shots:
        hit = scene.hit(arc)
        if hit is None:
            continue
        _, sure, later = _range(scene, arc, hit)
        rows.append(row_of(scene, arc, 0.0, sure, later))
        places.append(hit.ground)
    where = np.array(places, dtype=np.complex128)
    return occurrences_of(
        rows,
        _no_hit(scene),
        given={"x": where.real.copy(), "y": where.imag.copy()},
    )


FLIGHT_METRICS = (
    shot_metric("launch_speed", partial(_of_launches, value=_speed), SPEED, "Launch speed",
            "The speed that a launch gives: worked back by a frame of gravity and drag where it"
            " lay still before.",
            "|v| before the first update of the flight",
            phrases=("flies off {} faster", "flies off {} slower", "flies off")),
    shot_metric("launch_angle", partial(_of_launches, value=_elevation), ANGLE, "Launch elevation",
            "The angle of a launch over the level.", "arctan(rise / speed over the ground)",
            needs=UPWARD),
    shot_metric("launch_azimuth", partial(_of_launches, value=_azimuth), ANGLE, "Launch azimuth",
            "The direction of a launch over the ground: 0 along the first axis, turning toward"
            " the second.", "arg(velocity over the ground)", detail=True),
    shot_metric("gravity", partial(_constant, term=PUSH), ACCELERATION, "Gravity",
            "The gravity of the flights, told from all of them together with their drag.",
            "v1 = v0 − g·dt, less the drag", needs=UPWARD),
    shot_metric("drag", partial(_constant, term=LINEAR), PER_TIME, "Linear drag",
            "The rate at which a flight loses its speed: 0 where the rule has no such part.",
            "v1 = v0·exp(−k·dt)"),
    shot_metric("quadratic_drag", partial(_constant, term=QUADRATIC), RATIO / LENGTH,
            "Quadratic drag",
            "What a flight loses with the square of its speed: 0 where the rule has no such part.",
            "v1 = v0 − q·|v0|·v0·dt", detail=True),
    shot_metric("flight_time", partial(_of_hits, value=_flight_time), TIME, "Flight time",
            "From the launch to what ends the flight, between frames where its path meets the"
            " height that it is stopped at.", "t(hit) − t(launch); (v + √(v² + 2·g·h))/g upward",
            phrases=("flies {} longer", "flies {} shorter", "flies")),
    shot_metric("range", partial(_of_hits, value=_range), LENGTH, "Range",
            "How far over the ground it is from the launch to what ends the flight.",
            "|x(hit) − x(launch)|; v²·sin(2θ)/g on level ground without drag",
            phrases=("flies {} further", "flies {} less far", "flies")),
    shot_metric("apex_height", partial(_apex, time=False), LENGTH, "Apex height",
            "How high it goes over its launch: the top of the parabola through the three highest"
            " frames.", "max(y) − y(launch); (v·sin θ)²/2g", needs=UPWARD,
            phrases=("flies {} higher", "flies {} lower", "flies")),
    shot_metric("time_to_apex", partial(_apex, time=True), TIME, "Time to the apex",
            "From the launch to the highest point.", "t(apex) − t(launch); v·sin θ/g",
            needs=UPWARD, detail=True),
    shot_metric("impact_speed", partial(_of_hits, value=_impact_speed), SPEED, "Impact speed",
            "The speed with which it meets what ends the flight.", "|v| of the path at the hit"),
    shot_metric("impact_angle", partial(_of_hits, value=_impact_angle), ANGLE, "Impact angle",
            "By how much it comes down steeper than level.",
            "arctan(−rise / speed over the ground)",
            needs=UPWARD),
    shot_metric("bounce_factor", partial(_bounce, along=False), RATIO, "Bounce",
            "What a bounce leaves of the speed into the ground.", "rise after / −rise before",
            needs=UPWARD),
    shot_metric("bounce_kept", partial(_bounce, along=True), RATIO, "Speed along the ground kept",
            "What a bounce leaves of the speed over the ground: 1 without friction.",
            "|v over the ground| after / before", detail=True, needs=UPWARD),
    shot_metric("spread", _hit_places, LENGTH, "Spread",
            "How far the places that several shots hit lie from their mean, as a root mean"
            " square: a circle of that radius holds two thirds of shots that scatter alike.",
            "√(mean |x − mean(x)|²) over the ground", combine=SPREAD),
)  # fmt: skip
