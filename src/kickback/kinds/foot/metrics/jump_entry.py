"""What an entry of the jumps' table is: one quantity, measured of each kind of jump."""

from collections.abc import Callable

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.scene import Scene
from kickback.metrics.dependence import Dependence
from kickback.takes.quantities import Dimension
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["JumpEntry", "Triple"]

Triple = tuple[FloatArray, FloatArray, FloatArray]
"""Values, resolutions and what one frame more would change, shape (k,) each."""


class JumpEntry(Record, frozen=True, kw_only=True):
    """One quantity of jumps: ``of`` gives it of all arcs of a take, NaN where it cannot be had.

    ``sideways`` measures those with a run-up alone; ``held`` says that it goes with how long the
    button was held; ``groups`` are those that have it, all where there are none.
    """

    part: str
    dimension: Dimension
    title: str
    definition: str
    formula: str
    of: Callable[[Scene, Arcs], Triple]
    sideways: bool = False
    depends: tuple[Dependence, ...] = ()
    held: bool = True
    phrases: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    detail: bool = False
    whole_frames: bool = False
