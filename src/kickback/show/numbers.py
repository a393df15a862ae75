"""Numbers as people read them: with their unit, times also in frames, lengths in tiles."""

import math
from collections.abc import Iterable

from kickback.takes.record import Record

__all__ = ["Units", "plain"]


def plain(value: float) -> str:
    """Return a number with four significant digits, never in exponent form where avoidable."""
    if abs(value) < 1e-11:  # what arithmetic leaves of nothing
        return "0"
    if not math.isfinite(value):
        return str(value)
    value = float(f"{value:.3e}")  # what rounds up to 1 has a digit less behind its point
    size = abs(value)
    if size >= 1e7 or size < 1e-5:
        return f"{value:.3g}"
    digits = max(0, 3 - math.floor(math.log10(size)))
    return f"{value:.{min(digits, 7)}f}"


class Units(Record, frozen=True, kw_only=True):
    """How a project wants numbers shown."""

    reference_rate: float = 60.0
    tile: tuple[float, str] | None = None

    def show(self, value: float | None, unit: str) -> str:
        """Return a value with its unit."""
        return "—" if value is None else f"{plain(value)} {unit}"

    def also(self, value: float | None, unit: str) -> str:
        """Return a time in frames, a length in tiles, or nothing."""
        if not value:
            return ""
        if unit == "s":
            return f"{value * self.reference_rate:.1f} f"
        if self.tile and unit == self.tile[1]:
            return f"{value / self.tile[0]:.2f} tiles"
        return ""

    def note(self, units: Iterable[str]) -> str:
        """Return what frames and tiles are, tiles only among lengths of their own unit."""
        text = f"f: frames at {self.reference_rate:g} frames/s"
        if self.tile and self.tile[1] in set(units):
            text += f"; tiles of {self.tile[0]:g} {self.tile[1]}"
        return text
