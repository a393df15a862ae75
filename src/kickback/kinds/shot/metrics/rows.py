"""What the metrics of a projectile share: how one is made, an occurrence of a flight, reasons."""

from collections.abc import Callable
from typing import Any

from kickback.kinds.shot.motion import Arc
from kickback.kinds.shot.roles import ACROSS, UP
from kickback.kinds.shot.scene import Scene
from kickback.metrics.metric import Metric
from kickback.metrics.record import Occurrences
from kickback.metrics.rows import Row
from kickback.takes.quantities import Dimension

__all__ = ["NO_GROUND", "NO_HIT", "NO_SHOT", "UPWARD", "row_of", "shot_metric"]

NO_SHOT = "no launch: nothing began to fly, or it was let fly before the first frame"
NO_HIT = "no flight ended in the take"
NO_GROUND = "its rows end while it falls: the header's 'ground', a height, would tell what it meets"

UPWARD = (ACROSS, UP)


def row_of(scene: Scene, arc: Arc, value: float, sure: float, later: float = 0.0) -> Row:
    """Return an occurrence over a flight."""
    motion = scene.motion
    return Row(value, float(motion.begin[arc.start]), float(motion.t[arc.stop - 1]), sure, later)


def shot_metric(
    part: str,
    measure: Callable[[Any], Occurrences],
    dimension: Dimension,
    title: str,
    definition: str,
    formula: str,
    **own: Any,
) -> Metric:
    """Return a metric of the group ``shot``."""
    needs = own.pop("needs", (ACROSS,))
    return Metric(
        group="shot",
        part=part,
        measure=measure,
        needs=needs,
        dimension=dimension,
        title=title,
        definition=definition,
        formula=formula,
        **own,
    )
