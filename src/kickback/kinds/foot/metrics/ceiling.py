"""Jumps that a ceiling stops: what it takes of their height."""

from functools import partial

import numpy as np

from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.kinds.foot.throws import CEILING
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.quantities import LENGTH

__all__ = ["METRICS"]


def _measure(scene: Scene, *, lost: bool) -> Occurrences:
    """Measure the height that a jump under a ceiling would have had, or what it lost of it.

    It is carried on under the rise's gravity from the last frame before the ceiling:
    ``y + v²/2g``, in the frames of the take's order, ``v − (θ − ½)·g·h`` for ``v``.
    """
    motion, up, arcs = scene.motion, scene.motion.up, scene.arcs
    if up is None:
        return none(UP.missing)
    throws = arcs.throws
    stopped = np.array([end == CEILING for end in throws.end], dtype=bool)
    if not stopped.any():
        return none("no jump was stopped by a ceiling")
    if up.rounded:
        return none("heights are rounded: the speed before the ceiling is not known")
    known = arcs.gravity[np.isfinite(arcs.gravity) & (arcs.gravity > 0)]
    if not len(known):
        return none("no rise long enough shows the gravity")
    g, rows = median(known), []
    theta = 0.5 if up.theta is None or up.source != "reported" else up.theta
    for k in np.flatnonzero(stopped).tolist():
        start, stop = int(throws.start[k]), int(throws.stop[k])
        last = stop - 1
        h, floor = float(motion.step[last]), float(up.p[start - 1])
        v = float(up.v[last]) - (theta - 0.5) * g * h
        if up.source == "displacement":
            v -= g * h / 2
        free = float(up.p[last]) - floor + max(v, 0.0) ** 2 / (2 * g)
        # between frames an arc's vertex lies above its highest frame, by g·h²/8 at most
        sure = g * h * h / 8 + NINETY_FIVE * abs(v) / g * up.printed / ROOT_12 + up.quantum
        reached = float(np.max(up.p[start : min(stop + 1, len(up.p))])) - floor
        value = free - reached if lost else free
        rows.append(Row(value, float(motion.begin[start]), float(motion.t[last]), sure))
    return occurrences_of(rows, "no jump was stopped by a ceiling")


_metric = partial(Metric, group="ceiling", needs=(UP,))


METRICS = (
    _metric(
        part="free_height",
        dimension=LENGTH,
        title="Ceiling: height without it",
        definition="The apex that a jump which a ceiling stops would have had, carried on under its"
        " own gravity. Such jumps are none of jump.apex_height.",
        formula="y + v²/2g from the last frame before the ceiling, less y(takeoff)",
        measure=partial(_measure, lost=False),
    ),
    _metric(
        part="lost_height",
        dimension=LENGTH,
        title="Ceiling: height lost",
        definition="How much of its height a ceiling takes off a jump.",
        formula="ceiling.free_height − (max(y) − y(takeoff))",
        measure=partial(_measure, lost=True),
    ),
)
