"""What is measured of a projectile: launch, flight, impact, bounces, spread, cadence, aim."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

import numpy as np

from kickback.kinds.shot.launches import launches_of
from kickback.kinds.shot.motion import Arc
from kickback.kinds.shot.roles import ACROSS, UP
from kickback.kinds.shot.scene import NINETY_FIVE, Hit, Launch, Scene, target_of
from kickback.laws.forces import LINEAR, PUSH, QUADRATIC
from kickback.metrics.metric import LARGEST, Combine, Metric
from kickback.metrics.record import Occurrences, joined, none
from kickback.metrics.telling import Row, told
from kickback.motion.analysis import Analysis
from kickback.takes.quantities import (
    ACCELERATION,
    ANGLE,
    LENGTH,
    PER_TIME,
    RATIO,
    SPEED,
    TIME,
    Dimension,
)

__all__ = ["METRICS"]

_NO_SHOT = "no launch: nothing began to fly, or it was let fly before the first frame"
_NO_HIT = "no flight ended in the take"
_NO_TARGET = "no target was given: --target x,y, or 'target' in the header"

_FEWEST = 3
"""Shots that show a spread."""


def _row(scene: Scene, arc: Arc, value: float, sure: float, later: float = 0.0) -> Row:
    motion = scene.motion
    return Row(value, float(motion.begin[arc.start]), float(motion.t[arc.stop - 1]), sure, later)


def _of_launches(
    scene: Scene, value: Callable[[Scene, Launch], tuple[float, float] | None]
) -> Occurrences:
    rows = []
    for arc in scene.shots:
        found = value(scene, scene.launch(arc))
        if found is not None:
            rows.append(_row(scene, arc, *found))
    return told(rows, _NO_SHOT)


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


def _constant(scene: Scene, *, term: str) -> Occurrences:
    """Measure a constant of the flights' rule; 0 where the rule does not have it."""
    motion, rule = scene.motion, scene.rule
    if not motion.arcs:
        return none(_NO_SHOT)
    if rule is None:
        return none("its flights follow no known rule of gravity and drag")
    at = rule.form.terms.index(term) if term in rule.form.terms else None
    value = rule.value(term)
    sure = 0.0 if at is None else NINETY_FIVE * float(rule.stderr[at]) + 1e-9 * value
    first, last = motion.arcs[0], motion.arcs[-1]
    return told([Row(value, float(motion.begin[first.start]), float(motion.t[last.stop - 1]),
                     sure)], "")  # fmt: skip


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
            rows.append(_row(scene, arc, *found))
    return told(rows, _NO_HIT if scene.shots else _NO_SHOT)


def _since_launch(scene: Scene, arc: Arc) -> float:
    """Return how unsure it is when a flight began, s: by a frame where no frame was before it."""
    known = arc.rested or scene.motion.muzzle is not None
    return 0.0 if known else float(scene.motion.step[arc.start])


def _flight_time(scene: Scene, arc: Arc, hit: Hit) -> tuple[float, float, float]:
    step = float(scene.motion.step[arc.start])
    return hit.time - scene.launch(arc).time, hit.sure + _since_launch(scene, arc), step


def _range(scene: Scene, arc: Arc, hit: Hit) -> tuple[float, float, float]:
    start = scene.launch(arc)
    pace = abs(hit.drift)
    unsure = pace * (hit.sure + _since_launch(scene, arc)) + 2 * scene.motion.quantum
    later = pace * float(scene.motion.step[arc.start])
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
        step = float(scene.motion.step[arc.start])
        unsure = _since_launch(scene, arc)
        if time:
            sure = 0.05 * step + unsure + top.sure_time
            rows.append(_row(scene, arc, top.time - start.time, sure, step))
            continue
        later = abs(start.rise) * step
        sure = scene.motion.quantum + scene.gravity * step * step / 8 + top.sure_height
        sure += abs(start.rise) * unsure
        rows.append(_row(scene, arc, top.height - start.height, sure, later))
    return told(rows, "no flight went up and came down again" if scene.shots else _NO_SHOT)


def _bounce(scene: Scene, *, along: bool) -> Occurrences:
    """Measure what a bounce leaves of the speed into the ground, or of that along it."""
    motion, rows = scene.motion, []
    for arc, after in zip(motion.arcs, motion.arcs[1:], strict=False):
        if after.start != arc.stop or not arc.hits:
            continue
        step = float(motion.step[after.start])
        noise = max((track.noise for track in motion.plain), default=0.0)
        slack = scene.gravity * step
        if along:
            one, other = abs(motion.drift[arc.stop - 1]), abs(motion.drift[after.start])
            slack = 0.0
        else:
            other = float(motion.rise[after.start])
            one = slack - float(motion.rise[arc.stop - 1])  # the update that bounces falls first
        if one > motion.rest_speed and other > 0:
            sure = (slack + NINETY_FIVE * 2 * noise) / one + 1e-9
            rows.append(_row(scene, arc, other / one, sure, slack / one))
    return told(rows, "it never bounced")


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
        slack=np.array([float(np.max(every.slack))]),
        remark=remark,
    )


SPREAD = Combine(name="spread", of=_landing_points)


def _hit_places(scene: Scene) -> Occurrences:
    rows, places = [], []
    for arc in scene.shots:
        hit = scene.hit(arc)
        if hit is None:
            continue
        _, sure, later = _range(scene, arc, hit)
        rows.append(_row(scene, arc, 0.0, sure, later))
        places.append(hit.ground)
    where = np.array(places, dtype=np.complex128)
    return told(rows, _NO_HIT if scene.shots else _NO_SHOT,
                given={"x": where.real.copy(), "y": where.imag.copy()})  # fmt: skip


def _cadence(analysis: Analysis[Any], *, jitter: bool) -> Occurrences:
    """Measure the time between launches while the button is held, or how much that varies."""
    found = launches_of(analysis)
    if len(found.time) < 2:
        return none("fewer than two launches in the take")
    gaps = np.diff(found.time)[found.held]
    if not len(gaps):
        return none("no two launches under one press of the button")
    start, end = found.time[:-1][found.held], found.time[1:][found.held]
    step = found.step[1:][found.held]
    if not jitter:
        zero = np.zeros(len(gaps))
        return Occurrences(value=gaps, start=start, end=end, resolution=step, slack=zero + step)
    spread = float(np.std(gaps))
    return Occurrences(
        value=np.array([spread]), start=start[:1], end=end[-1:], slack=step[:1],
        resolution=step[:1],
    )  # fmt: skip


def _latency(analysis: Analysis[Any]) -> Occurrences:
    """Measure the time from a press of the fire button to the launch."""
    found = launches_of(analysis)
    if found.pressed is None:
        return none("no fire button was recorded (in_fire)")
    waits = found.time - found.pressed
    keep = np.isfinite(waits)
    if not keep.any():
        return none("no launch after a press of the button")
    value = np.where(np.abs(waits) < 1e-9, 0.0, waits)
    return Occurrences(value=value, start=found.pressed, end=found.time, resolution=0 * value,
                       slack=found.step).only(keep)  # fmt: skip


def _miss(scene: Scene, *, what: str) -> Occurrences:
    """Measure how near a flight comes to the target, or on which side it passes it."""
    motion = scene.motion
    target = target_of(motion)
    if target is None:
        return none(_NO_TARGET)
    rows = []
    for arc in scene.shots:
        if not arc.hits:
            continue  # what of its way is not in the take may have come nearer
        last = min(arc.stop + 1, len(motion.t))
        ground, height = motion.ground[arc.start : last], motion.height[arc.start : last]
        points = np.stack((ground.real, ground.imag, height), axis=1)
        aim_at = np.array([target[0].real, target[0].imag, target[1]])
        a, b = points[:-1], points[1:]
        way = b - a
        size = np.maximum(np.sum(way * way, axis=1), 1e-300)
        share = np.clip(np.sum((aim_at - a) * way, axis=1) / size, 0, 1)
        off = a + share[:, None] * way - aim_at
        row = int(np.argmin(np.sum(off * off, axis=1)))
        along = complex(ground[-1] - ground[0])
        along = along / abs(along) if abs(along) else 1.0
        turned = complex(off[row, 0], off[row, 1]) / along
        value = {
            "distance": float(np.linalg.norm(off[row])),
            "along": turned.real,
            "aside": turned.imag,
            "up": float(off[row, 2]),
        }[what]
        bend = scene.gravity * float(motion.step[arc.start]) ** 2 / 8
        later = float(motion.speed[arc.start] * motion.step[arc.start])
        rows.append(_row(scene, arc, value, bend + 2 * motion.quantum, later))
    return told(rows, _NO_HIT if scene.shots else _NO_SHOT)


def _aimed(scene: Scene, *, what: str) -> Occurrences:
    """Measure an elevation that would have hit the target at the speed of the launch."""
    motion, rule = scene.motion, scene.rule
    target = target_of(motion)
    if target is None:
        return none(_NO_TARGET)
    if rule is None or not motion.flies:
        return none("its flights follow no known rule of gravity and drag")
    rows = []
    for arc in scene.shots:
        start = scene.launch(arc)
        speed = float(np.hypot(abs(start.drift), start.rise))
        found = scene.aims[arc.start]
        share = start.sure / max(speed, 1e-12)
        angle = float(np.rad2deg(2 * share)) + 1e-6
        values = {
            "low": (found.elevations[:1], angle),
            "high": (found.elevations[1:], angle),
            "beyond": ((found.beyond,), 2 * share * abs(target[0] - start.ground)),
            "least": ((found.least_speed,), 1e-9 * found.least_speed),
        }
        some, sure = values[what]
        step = float(motion.step[arc.start])
        turn = float(np.rad2deg(scene.gravity * step / max(speed, 1e-12)))
        later = turn if what in {"low", "high"} else speed * step
        rows += [_row(scene, arc, one, sure, later) for one in some]
    far = "the target is out of reach at this speed: shot.beyond_reach says by how far"
    return told(rows, far if scene.shots else _NO_SHOT)


def _metric(
    part: str, measure: Callable[[Any], Occurrences], dimension: Dimension, title: str,
    definition: str, formula: str, **own: Any,
) -> Metric:  # fmt: skip
    needs = own.pop("needs", (ACROSS,))
    return Metric(group="shot", part=part, measure=measure, needs=needs, dimension=dimension,
                  title=title, definition=definition, formula=formula, **own)  # fmt: skip


_UPWARD = (ACROSS, UP)

METRICS = (
    _metric("launch_speed", partial(_of_launches, value=_speed), SPEED, "Launch speed",
            "The speed that a launch gives: worked back by a frame of gravity and drag where it"
            " lay still before.",
            "|v| before the first update of the flight",
            phrases=("flies off {} faster", "flies off {} slower", "flies off")),
    _metric("launch_angle", partial(_of_launches, value=_elevation), ANGLE, "Launch elevation",
            "The angle of a launch over the level.", "arctan(rise / speed over the ground)",
            needs=_UPWARD),
    _metric("launch_azimuth", partial(_of_launches, value=_azimuth), ANGLE, "Launch azimuth",
            "The direction of a launch over the ground: 0 along the first axis, turning toward"
            " the second.", "arg(velocity over the ground)", detail=True),
    _metric("gravity", partial(_constant, term=PUSH), ACCELERATION, "Gravity",
            "The gravity of the flights, told from all of them together with their drag.",
            "v1 = v0 − g·dt, less the drag", needs=_UPWARD),
    _metric("drag", partial(_constant, term=LINEAR), PER_TIME, "Linear drag",
            "The rate at which a flight loses its speed: 0 where the rule has no such part.",
            "v1 = v0·exp(−k·dt)"),
    _metric("quadratic_drag", partial(_constant, term=QUADRATIC), RATIO / LENGTH,
            "Quadratic drag",
            "What a flight loses with the square of its speed: 0 where the rule has no such part.",
            "v1 = v0 − q·|v0|·v0·dt", detail=True),
    _metric("flight_time", partial(_of_hits, value=_flight_time), TIME, "Flight time",
            "From the launch to what ends the flight, between frames where its path meets the"
            " height that it is stopped at.", "t(hit) − t(launch); (v + √(v² + 2·g·h))/g upward",
            phrases=("flies {} longer", "flies {} shorter", "flies")),
    _metric("range", partial(_of_hits, value=_range), LENGTH, "Range",
            "How far over the ground it is from the launch to what ends the flight.",
            "|x(hit) − x(launch)|; v²·sin(2θ)/g on level ground without drag",
            phrases=("flies {} further", "flies {} less far", "flies")),
    _metric("apex_height", partial(_apex, time=False), LENGTH, "Apex height",
            "How high it goes over its launch: the top of the parabola through the three highest"
            " frames.", "max(y) − y(launch); (v·sin θ)²/2g", needs=_UPWARD,
            phrases=("flies {} higher", "flies {} lower", "flies")),
    _metric("time_to_apex", partial(_apex, time=True), TIME, "Time to the apex",
            "From the launch to the highest point.", "t(apex) − t(launch); v·sin θ/g",
            needs=_UPWARD, detail=True),
    _metric("impact_speed", partial(_of_hits, value=_impact_speed), SPEED, "Impact speed",
            "The speed with which it meets what ends the flight.", "|v| of the path at the hit"),
    _metric("impact_angle", partial(_of_hits, value=_impact_angle), ANGLE, "Impact angle",
            "By how much it comes down steeper than level.",
            "arctan(−rise / speed over the ground)",
            needs=_UPWARD),
    _metric("bounce_factor", partial(_bounce, along=False), RATIO, "Bounce",
            "What a bounce leaves of the speed into the ground.", "rise after / −rise before",
            needs=_UPWARD),
    _metric("bounce_kept", partial(_bounce, along=True), RATIO, "Speed along the ground kept",
            "What a bounce leaves of the speed over the ground: 1 without friction.",
            "|v over the ground| after / before", detail=True, needs=_UPWARD),
    _metric("spread", _hit_places, LENGTH, "Spread",
            "How far the places that several shots hit lie from their mean, as a root mean"
            " square: a circle of that radius holds two thirds of shots that scatter alike.",
            "√(mean |x − mean(x)|²) over the ground", combine=SPREAD),
    _metric("cadence", partial(_cadence, jitter=False), TIME, "Cadence",
            "The time from launch to launch while the button is held.", "t(launch) − t(one before)",
            display=True),
    _metric("cadence_jitter", partial(_cadence, jitter=True), TIME, "Jitter of the cadence",
            "How much that varies, as a standard deviation: up to half a frame in sound code.",
            "√(mean (gap − mean gap)²)", display=True, detail=True, framed=True),
    _metric("fire_latency", _latency, TIME, "Latency of the button",
            "From the press of the fire button to the launch; 0 where both are in one update.",
            "t(launch) − t(press)", display=True, detail=True),
    _metric("miss", partial(_miss, what="distance"), LENGTH, "Closest approach",
            "How near the path comes to the target.", "min |p − target|", detail=True),
    _metric("miss_along", partial(_miss, what="along"), LENGTH, "Miss, along",
            "How far beyond the target the nearest point lies, along the flight.",
            "(p − target)·along at the nearest point", detail=True),
    _metric("miss_aside", partial(_miss, what="aside"), LENGTH, "Miss, aside",
            "How far aside of it, plus toward growing azimuths.",
            "(p − target)·aside at the nearest point", detail=True),
    _metric("miss_up", partial(_miss, what="up"), LENGTH, "Miss, up",
            "How far over it.", "height − that of the target at the nearest point", detail=True,
            needs=_UPWARD),
    _metric("low_elevation", partial(_aimed, what="low"), ANGLE, "Elevation that hits, low",
            "The lower elevation that would have hit the target at the same speed.",
            "tan θ = (v² − √(v⁴ − g·(g·d² + 2·h·v²)))/(g·d) without drag", detail=True,
            needs=_UPWARD),
    _metric("high_elevation", partial(_aimed, what="high"), ANGLE, "Elevation that hits, high",
            "The higher one.", "tan θ = (v² + √(v⁴ − g·(g·d² + 2·h·v²)))/(g·d) without drag",
            detail=True, needs=_UPWARD),
    _metric("beyond_reach", partial(_aimed, what="beyond"), LENGTH, "Out of reach by",
            "How near a shot of that speed comes to the target at its best; 0 where it reaches"
            " it.", "min over elevations of |p − target|", detail=True, needs=_UPWARD,
            combine=LARGEST),
    _metric("least_speed", partial(_aimed, what="least"), SPEED, "Least speed that reaches",
            "The least launch speed that reaches the target, without drag.",
            "√(g·(h + √(h² + d²)))", detail=True, needs=_UPWARD),
)  # fmt: skip
