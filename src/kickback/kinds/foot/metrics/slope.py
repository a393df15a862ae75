"""Slopes: the speed up and down them, along the slope and over the ground, crests, and sliding."""

from functools import partial

import numpy as np

from kickback.kinds.foot.footing import SLOPE
from kickback.kinds.foot.metrics.played import PLACE
from kickback.kinds.foot.metrics.run import speed_resolution
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import SUM, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.segments import runs, stretches
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.quantities import RATIO, SPEED
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_HELD = 0.01
"""Share of a speed by which it may change over a stretch and be held."""

_BRIEF = 0.1
"""Seconds that a speed on a slope is held at least."""

_CREST = 0.25
"""Seconds in the air from which it has left the ground at a crest, not skipped on it."""


@computed_once
def _pitch(scene: Scene) -> FloatArray | None:
    """Return how steeply the ground rises the way it moves, shape (n,), degrees; 0 in the air."""
    motion, up = scene.motion, scene.motion.up
    if up is None or up.rounded:
        return None
    rise = np.diff(up.p, prepend=up.p[0])
    stands = motion.grounded & (rise != 0)
    stands[1:] &= motion.grounded[:-1]
    angle = np.zeros(len(rise))
    if stands.any():
        over = np.abs(np.diff(motion.place, prepend=motion.place[0]))
        moves = stands & (over > motion.rest_speed * motion.step)
        angle[moves] = np.rad2deg(np.arctan2(rise[moves], over[moves]))
    return angle


_NO_HEIGHT = "heights are rounded: they show no slope of the ground"
_FLAT = "no full press held its speed {} a slope for 0.1 s"


def _speed(scene: Scene, *, up: bool, along: bool) -> Occurrences:
    motion, pitch = scene.motion, _pitch(scene)
    if pitch is None:
        return none(_NO_HEIGHT)
    slope = (pitch > SLOPE) if up else (pitch < -SLOPE)
    keep = slope & (np.abs(motion.inputs.move) == 2) & motion.straight & ~motion.dashing
    rows = []
    for a, b in stretches(keep):
        late = (a + b) // 2
        if b - late < 2 or motion.t[b - 1] - motion.begin[late] < _BRIEF:
            continue
        size = motion.size[late:b]
        level = median(size)
        if float(np.ptp(size)) > _HELD * level + 2 * scene.across.noise:
            continue
        tilt = median(pitch[late:b])
        value = level / float(np.cos(np.deg2rad(tilt))) if along else level
        rows.append(row_of(motion, value, (late, b), speed_resolution(scene)))
    return occurrences_of(rows, _FLAT.format("up" if up else "down"))


def slide_speed(scene: Scene) -> Occurrences:
    """Measure the highest speed down a slope with nothing pressed, from rest or a walk."""
    motion, pitch = scene.motion, _pitch(scene)
    if pitch is None:
        return none(_NO_HEIGHT)
    idle = (pitch < -SLOPE) & (motion.inputs.move == 0) & ~motion.dashing
    rows = []
    for a, b in zip(*(part.tolist() for part in runs(idle)), strict=True):
        size = motion.size[a:b]
        if idle[a] and b - a > 2 and size[-1] > size[0] + 2 * scene.across.noise:
            rows.append(row_of(motion, float(size.max()), (a, b), speed_resolution(scene)))
    return occurrences_of(rows, "nothing slid down a slope by itself")


def crests(scene: Scene) -> Occurrences:
    """Count the crests at which a run leaves the ground: an upward slope ends and it flies on."""
    motion, pitch = scene.motion, _pitch(scene)
    if pitch is None:
        return none(_NO_HEIGHT)
    flights, rows = motion.flights, []
    rises = pitch > SLOPE
    tops = np.flatnonzero(rises[:-1] & ~rises[1:]) + 1
    if not len(tops):
        return none("no slope was run up to its crest")
    jump = motion.inputs.jump
    for row in tops.tolist():
        near = np.flatnonzero(np.abs(flights.start - row) <= 1)
        flew = 0.0
        if near.size:
            a, b = int(flights.start[near[0]]), int(flights.stop[near[0]])
            pressed = jump is not None and bool(jump[max(a - 2, 0) : a + 1].any())
            lasts = float(motion.t[min(b, len(motion.t) - 1)] - motion.begin[a])
            flew = float(lasts >= _CREST and not pressed)
        rows.append(Row(flew, float(motion.begin[row]), float(motion.t[row]), 0.0))
    return occurrences_of(rows, "")


def _metric(part: str, title: str, words: str, *, up: bool, along: bool) -> Metric:
    return Metric(
        group="slope",
        detail=not along,
        part=part,
        dimension=SPEED,
        title=title,
        definition=f"The speed that a full press holds for 0.1 s {words}, on ground that is steeper"
        " than 3 degrees.",
        formula="|v| over the ground, divided by cos(slope)" if along else "|v| over the ground",
        measure=partial(_speed, up=up, along=along),
        needs=(ACROSS, UP),
        depends=(PLACE,),
    )


METRICS = (
    _metric("speed_up", "Speed up a slope", "up a slope, along it", up=True, along=True),
    _metric(
        "ground_speed_up", "Speed up a slope over the ground", "up a slope, over the level ground",
        up=True, along=False,
    ),
    _metric("speed_down", "Speed down a slope", "down a slope, along it", up=False, along=True),
    _metric(
        "ground_speed_down", "Speed down a slope over the ground",
        "down a slope, over the level ground", up=False, along=False,
    ),
    Metric(
        group="slope",
        part="slide_speed",
        dimension=SPEED,
        title="Sliding down a slope",
        definition="The highest speed over the ground with nothing pressed, where a slope speeds it"
        " up by itself.",
        formula="max(|v|) while in_move = 0 and it gains speed downhill",
        measure=slide_speed,
        needs=(ACROSS, UP),
        depends=(PLACE,),
    ),
    Metric(
        group="slope",
        part="crests_flown",
        dimension=RATIO,
        title="Crests that it flies over",
        definition="At how many crests a run leaves the ground for a quarter of a second or more"
        " without a press.",
        formula="count of ends of upward slopes with a flight that nobody pressed for",
        measure=crests,
        needs=(ACROSS, UP),
        combine=SUM,
        depends=(PLACE,),
    ),
)  # fmt: skip
