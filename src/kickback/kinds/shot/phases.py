"""What a projectile does when: rests and flights, launches, highest points and hits."""

import numpy as np

from kickback.kinds.shot.motion import ShotMotion
from kickback.kinds.shot.roles import ACROSS, UP
from kickback.kinds.shot.scene import Scene
from kickback.motion.motion import Event, Phase

__all__ = ["no_interruption", "shot_events", "shot_phases"]


def no_interruption(_: ShotMotion) -> None:
    """Say that a leap ends no flight: it begins another one."""


def shot_phases(motion: ShotMotion) -> list[Phase]:
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


def shot_events(motion: ShotMotion) -> list[Event]:
    """Return launches, highest points and hits, in the order of time."""
    scene, found = Scene(motion), []
    for arc in motion.arcs:
        if arc.launched:
            found.append(("launch", scene.launch(arc).time, arc.start))
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
