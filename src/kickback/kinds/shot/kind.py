"""The kind of a projectile: from the side, in three dimensions, or from above."""

from collections.abc import Collection

import numpy as np

from kickback.causes.constants import ConstantRow
from kickback.kinds.foretold import Foretold
from kickback.kinds.kind import Kind, Measuring, Reading, Rules, Showing
from kickback.kinds.shot.causes import CADENCE_ROUNDED
from kickback.kinds.shot.findings import FINDINGS, check_muzzle, check_spawn
from kickback.kinds.shot.laws import cadence_laws, shot_laws
from kickback.kinds.shot.metrics.aiming import AIM_METRICS
from kickback.kinds.shot.metrics.firing import FIRE_METRICS
from kickback.kinds.shot.metrics.flights import FLIGHT_METRICS
from kickback.kinds.shot.model.model import SHOT_MODEL
from kickback.kinds.shot.motion import ShotMotion, join_motions, read_motion
from kickback.kinds.shot.picture import shot_now, shot_picture
from kickback.kinds.shot.roles import ACROSS, ASIDE, UP
from kickback.kinds.shot.scene import Scene
from kickback.laws.keys import PhaseKey
from kickback.motion.motion import Event, Phase
from kickback.takes.take import Take

__all__ = ["SHOT"]

HEADLINES = (
    "shot.launch_speed",
    "shot.range",
    "shot.flight_time",
    "shot.apex_height",
    "shot.launch_angle",
    "shot.gravity",
    "shot.impact_speed",
    "shot.cadence",
    "shot.spread",
)
"""What is shown first where there is room for a few, the most telling one at the head."""

_FLIES = ("shot.gravity", "shot.drag", "shot.quadratic_drag", "shot.flight_time", "shot.range",
          "shot.apex_height", "shot.time_to_apex", "shot.impact_speed", "shot.impact_angle",
          "shot.spread", "shot.miss", "shot.miss_along", "shot.miss_up", "shot.low_elevation",
          "shot.high_elevation", "shot.lead_needed", "shot.beyond_reach", "shot.least_speed",
          "shot.bounce_factor", "shot.bounce_kept")  # fmt: skip
_BY_PHASE = {
    "flight": _FLIES,
    "launch": ("shot.launch_speed", *_FLIES),
    "cadence": ("shot.cadence",),
    "cooldown": ("shot.cooldown",),
}
"""What the constants of each phase move."""


def _applies(take: Take) -> bool:
    """Whether a take is of a projectile: a fire button was pressed, and nothing steers it."""
    steers = {"in_move_x", "in_jump", "in_throttle", "in_steer"} & set(take.columns)
    return "in_fire" in take and not steers


def _moved(row: ConstantRow, _: Collection[PhaseKey]) -> tuple[str, ...]:
    return _groups_of(row.phase.base)


def _groups_of(phase: str) -> tuple[str, ...]:
    return _BY_PHASE.get(phase, ("shot",))


def _by_order(_: bool) -> tuple[str, ...]:
    return (
        "shot.flight_time",
        "shot.range",
        "shot.apex_height",
        "shot.time_to_apex",
        "shot.impact_speed",
        "shot.impact_angle",
        "shot.spread",
        "shot.bounce_factor",
        "shot.miss",
        "shot.miss_along",
        "shot.miss_up",
        "shot.launch_angle",
        "shot.launch_speed",
        "shot.low_elevation",
        "shot.high_elevation",
        "shot.beyond_reach",
    )


def _no_interruption(_: ShotMotion) -> None:
    """Say that a leap ends no flight: it begins another one."""


def _phases(motion: ShotMotion) -> list[Phase]:
    """Return rests and flights."""
    role = UP if motion.flies else ACROSS
    if role.name not in motion.tracks:
        return []
    found, at = [], 0
    for arc in motion.arcs:
        if arc.start > at:
            found.append((at, arc.start, "rest"))
        found.append((arc.start, arc.stop, "flight" if arc.launched else "bounce"))
        at = arc.stop
    if at < len(motion.t):
        found.append((at, len(motion.t), "rest"))
    return [
        Phase(track=role.name, name=name, start=a, stop=b, inferred=False) for a, b, name in found
    ]


def _events(motion: ShotMotion) -> list[Event]:
    """Return launches, highest points and hits, in the order of time."""
    scene, found = Scene(motion), []
    for arc in motion.arcs:
        if arc.launched:
            found.append(("launch", float(motion.begin[arc.start]), arc.start))
        if motion.flies and (top := scene.top(arc)) is not None:
            found.append(("apex", top.time, int(np.searchsorted(motion.t, top.time))))
        hit = scene.hit(arc)
        if hit is not None:
            found.append(("hit", hit.time, arc.stop))
    last = len(motion.t) - 1
    return [
        Event(name=name, time=time, frame=min(frame, last), inferred=name != "launch")
        for name, time, frame in sorted(found, key=lambda one: one[1])
    ]


FORETOLD = (
    Foretold("shot.launch_speed", ("launch.speed",), lambda v: v, "the launch"),
    Foretold("shot.gravity", ("flight.acceleration",), lambda g: g, "the gravity"),
)

MEANS = {
    "gravity": "flight", "drag": "flight", "air": "flight", "launch": "launch",
    "muzzle": "launch", "speed": "launch", "power": "launch", "cadence": "cadence",
    "cooldown": "cooldown", "pause": "cooldown", "interval": "cadence",
}  # fmt: skip


SHOT = Kind(
    name="shot",
    about="a projectile that is thrown, lobbed or fired, in any view",
    roles=(ACROSS, ASIDE, UP),
    applies=_applies,
    reading=Reading(
        read=read_motion, join=join_motions, phases=_phases, events=_events, leap=_no_interruption
    ),
    measuring=Measuring(
        metrics=(*FLIGHT_METRICS, *FIRE_METRICS, *AIM_METRICS),
        scene=Scene,
        headlines=HEADLINES,
        checks=(check_spawn, check_muzzle),
        findings=FINDINGS,
    ),
    rules=Rules(
        laws=shot_laws,
        of_take=cadence_laws,
        causes=(CADENCE_ROUNDED,),
        moved=_moved,
        by_order=_by_order,
        foretold=FORETOLD,
        groups_of=_groups_of,
        phases_of_words=MEANS,
    ),
    showing=Showing(picture=shot_picture, now=shot_now),
    model=SHOT_MODEL,
)
