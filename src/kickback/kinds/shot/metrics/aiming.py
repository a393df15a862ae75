"""What is measured of how a shot is aimed: how far it misses a target, and what would have hit."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np

from kickback.kinds.shot.metrics.rows import NO_HIT, NO_SHOT, UPWARD, row_of, shot_metric
from kickback.kinds.shot.motion import Arc
from kickback.kinds.shot.roles import ACROSS, ASIDE
from kickback.kinds.shot.scene import Scene
from kickback.kinds.shot.target import Target, ahead_of, lead_for
from kickback.metrics.metric import LARGEST
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import occurrences_of
from kickback.takes.quantities import ANGLE, LENGTH, SPEED

__all__ = ["AIM_METRICS"]

_NO_TARGET = "no target was given: --target x,y, columns target_x …, or 'target' in the header"
_NO_RULE = "its flights follow no known rule of gravity and drag"


class _Pass(NamedTuple):
    """Where a flight is nearest to its target: off along its way, aside of it, and up."""

    distance: float
    along: float
    aside: float
    up: float


def _nearest(scene: Scene, target: Target, arc: Arc) -> _Pass:
    """Return where a flight passes its target, each where it is at the same time."""
    motion, rows = scene.motion, slice(arc.start, min(arc.stop + 1, len(scene.motion.t)))
    ground = motion.ground[rows]
    off_ground, off_up = ground - target.ground[rows], motion.height[rows] - target.height[rows]
    off = np.stack((off_ground.real, off_ground.imag, off_up), axis=1)
    a, way = off[:-1], np.diff(off, axis=0)
    size = np.maximum(np.sum(way * way, axis=1), 1e-300)
    share = np.clip(-np.sum(a * way, axis=1) / size, 0, 1)
    near = a + share[:, None] * way
    x, z, up = (float(one) for one in near[int(np.argmin(np.sum(near * near, axis=1)))])
    along = complex(ground[-1] - ground[0])
    turned = complex(x, z) / (along / abs(along) if abs(along) else 1.0)
    return _Pass(float(np.hypot(abs(turned), up)), turned.real, turned.imag, up)


def _miss(scene: Scene, *, what: str) -> Occurrences:
    """Measure how near a flight comes to the target, or on which side it passes it."""
    motion, target = scene.motion, scene.target
    if target is None:
        return none(_NO_TARGET)
    rows = []
    for arc in scene.shots:
        if not arc.hits:
            continue  # what of its way is not in the take may have come nearer
        value = getattr(_nearest(scene, target, arc), what)
        bend = scene.gravity * float(motion.step[arc.start]) ** 2 / 8
        later = float(motion.speed[arc.start] * motion.step[arc.start])
        rows.append(row_of(scene, arc, value, bend + 2 * motion.quantum, later))
    return occurrences_of(rows, NO_HIT if scene.shots else NO_SHOT)


def _aimed(scene: Scene, *, what: str) -> Occurrences:
    """Measure an elevation that would have hit the target at the speed of the launch."""
    target = scene.target
    if target is None:
        return none(_NO_TARGET)
    if scene.rule is None or not scene.motion.flies:
        return none(_NO_RULE)
    rows = []
    for arc in scene.shots:
        found = scene.aims.get(arc.start)
        if found is None:
            continue
        start = scene.launch(arc)
        speed = float(np.hypot(abs(start.drift), start.rise))
        share = start.sure / max(speed, 1e-12)
        angle = float(np.rad2deg(2 * share)) + 1e-6
        far = abs(target.at(start.time)[0] - start.ground)
        values = {
            "low": (found.elevations[:1], angle),
            "high": (found.elevations[1:], angle),
            "beyond": ((found.beyond,), 2 * share * far),
            "least": ((found.least_speed,), 1e-9 * found.least_speed),
        }
        some, sure = values[what]
        step = float(scene.motion.step[arc.start])
        turn = float(np.rad2deg(scene.gravity * step / max(speed, 1e-12)))
        later = turn if what in {"low", "high"} else speed * step
        rows += [row_of(scene, arc, one, sure, later) for one in some]
    far_off = "the target is out of reach at this speed: shot.beyond_reach says by how far"
    return occurrences_of(rows, far_off if scene.shots else NO_SHOT)


def _led(scene: Scene, arc: Arc, target: Target) -> float | None:
    return ahead_of(target, scene.start(arc), scene.launch(arc).drift)


def _to_lead(scene: Scene, arc: Arc, target: Target) -> float | None:
    flight = scene.flight(arc)
    return None if flight is None else lead_for(flight, scene.start(arc), target)


def _lead(scene: Scene, *, of: Callable[[Scene, Arc, Target], float | None]) -> Occurrences:
    """Measure how far ahead of a moving target a shot goes, or should have gone."""
    target = scene.target
    if target is None:
        return none(_NO_TARGET)
    if not target.moves:
        return none("the target does not move: there is nothing to lead")
    rows = []
    for arc in scene.shots:
        angle = of(scene, arc, target)
        if angle is None:
            continue
        start = scene.launch(arc)
        sure = float(np.rad2deg(2 * start.sure / max(abs(start.drift), 1e-12)))
        far = max(abs(target.at(start.time)[0] - start.ground), 1e-12)
        step = float(scene.motion.step[arc.start])
        sideways = abs(target.heading(start.time)) / far
        later = float(np.rad2deg(sideways))
        rows.append(row_of(scene, arc, angle, sure + later * 1e-3 + 1e-9 * step, later))
    return occurrences_of(
        rows, "no shot of that speed meets the target" if scene.shots else NO_SHOT
    )


AIM_METRICS = (
    shot_metric("miss", partial(_miss, what="distance"), LENGTH, "Closest approach",
                "How near the path comes to the target, each where it is at the same time.",
                "min |p − target|", detail=True),
    shot_metric("miss_along", partial(_miss, what="along"), LENGTH, "Miss, along",
                "How far beyond the target the nearest point lies, along the flight.",
                "(p − target)·along at the nearest point", detail=True),
    shot_metric("miss_aside", partial(_miss, what="aside"), LENGTH, "Miss, aside",
                "How far aside of it, plus toward growing azimuths.",
                "(p − target)·aside at the nearest point", detail=True),
    shot_metric("miss_up", partial(_miss, what="up"), LENGTH, "Miss, up",
                "How far over it.", "height − that of the target at the nearest point",
                detail=True, needs=UPWARD),
    shot_metric("low_elevation", partial(_aimed, what="low"), ANGLE, "Elevation that hits, low",
                "The lower elevation that would have hit the target at the same speed; one that"
                " moves is met where it has gone to by then.",
                "tan θ = (v² − √(v⁴ − g·(g·d² + 2·h·v²)))/(g·d) without drag", detail=True,
                needs=UPWARD),
    shot_metric("high_elevation", partial(_aimed, what="high"), ANGLE,
                "Elevation that hits, high", "The higher one.",
                "tan θ = (v² + √(v⁴ − g·(g·d² + 2·h·v²)))/(g·d) without drag", detail=True,
                needs=UPWARD),
    shot_metric("beyond_reach", partial(_aimed, what="beyond"), LENGTH, "Out of reach by",
                "How near a shot of that speed comes to the target at its best; 0 where it"
                " reaches it.", "min over elevations of |p − target|", detail=True, needs=UPWARD,
                combine=LARGEST),
    shot_metric("least_speed", partial(_aimed, what="least"), SPEED, "Least speed that reaches",
                "The least launch speed that reaches the target, without drag.",
                "√(g·(h + √(h² + d²)))", detail=True, needs=UPWARD),
    shot_metric("lead", partial(_lead, of=_led), ANGLE, "Lead",
                "How far ahead of the line to a moving target a shot is launched, over the"
                " ground: plus toward where the target goes.",
                "angle from (target − launch) to the launch's velocity", detail=True,
                needs=(ACROSS, ASIDE)),
    shot_metric("lead_needed", partial(_lead, of=_to_lead), ANGLE, "Lead that hits",
                "The lead with which a shot of that speed would have met the target, as the"
                " target then went.",
                "angle to target(t + T), T the flight time to there", detail=True,
                needs=(ACROSS, ASIDE)),
)  # fmt: skip
