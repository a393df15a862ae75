"""Standing on something that moves: the speed relative to it, and what a takeoff keeps of it."""

import numpy as np

from kickback.kinds.foot.metrics.played import PLACE
from kickback.kinds.foot.metrics.run import speed_resolution
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.segments import runs
from kickback.takes.numeric import median
from kickback.takes.quantities import RATIO, SPEED

__all__ = ["METRICS"]

_HELD = 0.01
"""Share of a speed by which it may change over a stretch and be held."""

_BRIEF = 0.1
"""Seconds that a speed on a platform is held at least."""

_NO_COLUMN = "no column tells the velocity of what it stands on (platform_vx, …)"


def relative_speed(scene: Scene) -> Occurrences:
    """Measure the speed relative to what it stands on that a full press holds."""
    motion, carried = scene.motion, scene.motion.footing.carried
    if carried is None:
        return none(_NO_COLUMN)
    relative = np.abs(motion.velocity - carried)
    keep = motion.footing.moving & (np.abs(motion.inputs.move) == 2) & ~motion.dashing
    rows = []
    for a, b in zip(*(part.tolist() for part in runs(keep)), strict=True):
        late = (a + b) // 2
        if not keep[a] or motion.t[b - 1] - motion.begin[late] < _BRIEF:
            continue
        size = relative[late:b]
        if float(np.ptp(size)) <= _HELD * median(size) + 2 * scene.across.noise:
            rows.append(row_of(motion, median(size), (late, b), speed_resolution(scene)))
    return occurrences_of(rows, "no full press on something that moves held its speed for 0.1 s")


def kept_share(scene: Scene) -> Occurrences:
    """Measure how much of the speed of what it stood on a takeoff keeps."""
    motion, carried, throws = scene.motion, scene.motion.footing.carried, scene.arcs.throws
    if carried is None:
        return none(_NO_COLUMN)
    velocity, rows = motion.velocity, []
    for start in throws.start.tolist():
        before = start - 1
        pace = abs(carried[before])
        if not motion.grounded[before] or pace <= motion.rest_speed:
            continue
        way = carried[before] / pace
        own = ((velocity[before] - carried[before]) * np.conj(way)).real
        after = (velocity[start] * np.conj(way)).real
        sure = 2 * scene.across.noise / pace
        rows.append(
            Row(
                float((after - own) / pace),
                float(motion.begin[start]),
                float(motion.t[start]),
                float(sure),
            )
        )
    return occurrences_of(rows, "no takeoff from something that moves")


METRICS = (
    Metric(
        group="platform",
        part="relative_speed",
        dimension=SPEED,
        title="Platform: speed relative to it",
        definition="The speed relative to something that moves, held by a full press on it for at"
        " least 0.1 s.",
        formula="|v − v_platform|",
        measure=relative_speed,
        needs=(ACROSS,),
        depends=(PLACE,),
    ),
    Metric(
        group="platform",
        part="kept_share",
        dimension=RATIO,
        title="Platform: speed kept at takeoff",
        definition="How much of the speed of what it stood on is in the first frame of a jump off"
        " it: 1 keeps all of it, 0 none.",
        formula="(v[first airborne] − (v − v_platform)[last grounded]) / |v_platform|, along it",
        measure=kept_share,
        needs=(ACROSS, UP),
    ),
)
