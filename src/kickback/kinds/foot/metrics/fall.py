"""Falling: the terminal speed."""

import numpy as np

from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences, none
from kickback.takes.quantities import SPEED

__all__ = ["METRICS"]

_FEWEST = 5
"""Frames of a fall from which it may show a plateau: three that settle and two cut short."""


def terminal_speed(scene: Scene) -> Occurrences:
    """Measure the falling speed that no longer grows."""
    motion, up = scene.motion, scene.motion.up
    if up is None:
        return none(UP.missing)
    flights = motion.flights
    least, change = motion.options.plateau_time, motion.options.plateau_change
    found: list[tuple[float, float, float]] = []
    for top, stop in zip(flights.top.tolist(), flights.stop.tolist(), strict=True):
        # the last frame of all may be cut short by the landing
        final = -float(up.v[max(stop - 2, 0)])
        still_growing = abs(up.v[stop - 3] + final) > change * final + 2 * up.noise
        if stop - top < _FEWEST or still_growing:
            continue
        fall = -up.v[top + 1 : stop]
        off = np.flatnonzero(np.abs(fall[:-1] - final) > change * final + 2 * up.noise)
        settled = top + 1 + (int(off[-1]) + 1 if off.size else 0)
        if final > 0 and motion.t[stop - 2] - motion.begin[settled] >= least:
            found.append((final, float(motion.begin[settled]), float(motion.t[stop - 2])))
    if not found:
        return none(f"no fall held its speed {motion.options.plateau}")
    value, start, end = np.array(found).T
    size = np.full(len(found), up.noise)
    return Occurrences(value=value, start=start, end=end, resolution=size, slack=0 * size)


METRICS = (
    Metric(
        group="fall",
        part="terminal_speed",
        dimension=SPEED,
        title="Terminal speed",
        definition="The falling speed that settles: it changes by less than 0.1 % for at least"
        " 0.2 s, or by what the project calls settled.",
        formula="|vy| over the plateau before landing",
        measure=terminal_speed,
        phrases=("falls {} faster", "falls {} slower", "falls"),
        needs=(UP,),
    ),
)
