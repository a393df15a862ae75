"""Which way a heading column counts: degrees or radians, from which axis, and which way round."""

from itertools import product

import numpy as np

from kickback.motion.segments import BoolArray
from kickback.takes.axes import ground_axes
from kickback.takes.numeric import median, quantile
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["Reading", "heading_reading"]

_QUICK = 0.3
"""Share of the highest speed from which a motion shows its direction."""

_NEAR = 20.0
"""Degrees that the usual motion may be off its heading: what slides leave."""

_FAR = 2.0
"""Times that another reading must come nearer."""

_FEWEST = 30
"""Frames with a direction that tell a reading."""

_TURNS = 5.0
"""Degrees that the motion must turn by, to tell one reading from another."""


class Reading(Record, frozen=True, kw_only=True):
    """``ours = sign · theirs + offset``, degrees; ``theirs`` in radians where that is said.

    ``off``: by how much the usual motion is then off its heading, degrees.
    """

    radians: bool
    sign: int
    offset: float
    off: float

    @property
    def plain(self) -> bool:
        """Whether the column is read as it is."""
        return not self.radians and self.sign == 1 and not self.offset

    @property
    def words(self) -> str:
        """Return what a mapping would say."""
        parts = ["radians = true"] if self.radians else []
        parts += ["scale = -1"] if self.sign < 0 else []
        parts += [f"offset = {self.offset:g}"] if self.offset else []
        return ", ".join(parts)


def heading_reading(take: Take) -> tuple[Reading, Reading] | None:
    """Return how a heading reads as it is, and how it reads best; None where nothing tells."""
    axes = [axis for axis in ground_axes(take.header) if axis in take]
    if "heading" not in take or len(axes) != 2:
        return None
    step = np.diff(take.numbers(axes[0])) + 1j * np.diff(take.numbers(axes[1]))
    size = np.abs(step)
    quick: BoolArray = size >= _QUICK * quantile(size, 0.95)
    way = np.rad2deg(np.angle(step[quick & (size > 0)]))
    theirs = take.numbers("heading")[1:][quick & (size > 0)]
    turned = float(np.ptp(np.unwrap(way, period=360.0))) if len(way) else 0.0
    if len(way) < _FEWEST or turned < _TURNS:
        return None
    small = float(np.max(np.abs(theirs))) <= 4 * np.pi + 1e-3
    readings = [
        _read(theirs, way, radians=radians, sign=sign, offset=offset)
        for radians, sign, offset in product((False, True)[: 1 + small], (1, -1), _OFFSETS)
    ]
    plain = readings[0]
    best = min(readings, key=lambda one: one.off)
    if best.off > _NEAR or best.off * _FAR > plain.off:
        best = plain
    return plain, best


_OFFSETS = (0.0, 90.0, 180.0, -90.0)


def _read(
    theirs: FloatArray, way: FloatArray, *, radians: bool, sign: int, offset: float
) -> Reading:
    ours = sign * (np.rad2deg(theirs) if radians else theirs) + offset
    apart = np.abs((ours - way + 180.0) % 360.0 - 180.0)
    off = median(apart)
    return Reading(radians=radians, sign=sign, offset=offset, off=off)
