"""``inspect``: what is in a take, and what to know before building on it."""

from collections.abc import Sequence

import numpy as np

from kickback.integrity.examine import examine
from kickback.integrity.finding import Finding
from kickback.motion.analyse import Motion, analyse
from kickback.motion.events import Event, events_of
from kickback.project.settings import Settings
from kickback.takes.channels import channel_of
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["ColumnFacts", "Inspection", "find_in", "inspect_take"]


class ColumnFacts(Record, frozen=True, kw_only=True):
    """One column: unit, range, and whether it was derived. ``low`` is None for text."""

    name: str
    unit: str
    low: float | None
    high: float | None
    derived: bool
    about: str


class Inspection(Record, frozen=True, kw_only=True):
    """A take's columns and findings and, for a side view, its motion; ``steps`` in s.

    There is no motion where the clock does not advance.
    """

    take: Take
    findings: Sequence[Finding]
    columns: Sequence[ColumnFacts]
    steps: tuple[float, float, float]
    motion: Motion | None
    events: Sequence[Event]

    @property
    def failed(self) -> bool:
        """Whether a finding is an error."""
        return any(item.severity == "error" for item in self.findings)


def inspect_take(take: Take, settings: Settings | None = None) -> Inspection:
    """Say what a take contains; a view that cannot be measured has no motion."""
    settings = settings or Settings()
    findings = find_in(take, settings)
    columns = []
    for name, column in take.columns.items():
        channel = channel_of(name)
        numeric = column.dtype.kind == "f"
        known = take.numbers(name) if numeric else np.zeros(0)
        known = known[np.isfinite(known)]
        columns.append(
            ColumnFacts(
                name=name,
                unit=channel.unit(take.header.length_unit),
                low=float(known.min()) if known.size else None,
                high=float(known.max()) if known.size else None,
                derived=name in take.derived,
                about=channel.about,
            )
        )
    steps = np.diff(take.numbers("t"))
    sound = bool(np.all(steps > 0)) and take.header.view == "side"
    motion = analyse(take, settings.thresholds) if sound else None
    return Inspection(
        take=take,
        findings=findings,
        columns=columns,
        steps=(float(steps.min()), median(steps), float(steps.max())),
        motion=motion,
        events=events_of(motion) if motion is not None else (),
    )


def find_in(take: Take, settings: Settings) -> list[Finding]:
    """Return a take's findings, with the project's floor and tile where the units agree."""
    unit = take.header.length_unit
    floor = settings.floor_thickness if settings.length_unit in {None, unit} else None
    tile = settings.tile[0] if settings.tile is not None and settings.tile[1] == unit else None
    return examine(take, floor_thickness=floor, tile=tile)
