"""Numbers as people read them: with their unit, times also in frames, lengths in tiles."""

from collections.abc import Iterable

from kickback.takes.numerals import plain
from kickback.takes.quantities import LENGTH, TIME, Unit
from kickback.takes.record import Record

__all__ = ["Units", "as_written"]


class Units(Record, frozen=True, kw_only=True):
    """How a project wants numbers shown."""

    reference_rate: float = 60.0
    tile: tuple[float, str] | None = None

    def show(self, value: float | None, unit: Unit) -> str:
        """Return a value with its unit."""
        return "—" if value is None else f"{plain(value)} {unit}"

    def also(self, value: float | None, unit: Unit) -> str:
        """Return a time in frames, a length in tiles, or nothing."""
        if not value:
            return ""
        if unit.dimension == TIME and not unit.milli:
            return f"{value * self.reference_rate:.1f} f"
        if self.tile and unit.dimension == LENGTH and unit.length == self.tile[1]:
            return f"{value / self.tile[0]:.2f} tiles"
        return ""

    def note(self, units: Iterable[Unit]) -> str:
        """Return what frames and tiles are, tiles only among lengths of their own unit."""
        text = f"f: frames at {self.reference_rate:g} frames/s"
        if self.tile and LENGTH.within(self.tile[1]) in set(units):
            text += f"; tiles of {self.tile[0]:g} {self.tile[1]}"
        return text


def as_written(value: object) -> str:
    """Return a parameter's value as people write it, a dash where there is none."""
    if value is None:
        return "—"
    return f"{value:g}" if isinstance(value, float) else str(value)
