"""``inspect``: what is in a take."""

from collections.abc import Sequence

import numpy as np

from kickback.motion.analyse import Motion, analyse
from kickback.motion.events import Event, events_of
from kickback.takes.channels import channel_of
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["ColumnFacts", "Inspection", "inspect_take"]


class ColumnFacts(Record, frozen=True, kw_only=True):
    """One column: unit, range, and whether it was derived. ``low`` is None for text."""

    name: str
    unit: str
    low: float | None
    high: float | None
    derived: bool
    about: str


class Inspection(Record, frozen=True, kw_only=True):
    """A take's columns and, for a side view, its motion and events; ``steps`` in s."""

    take: Take
    columns: Sequence[ColumnFacts]
    steps: tuple[float, float, float]
    motion: Motion | None
    events: Sequence[Event]


def inspect_take(take: Take) -> Inspection:
    """Say what a take contains; a view that cannot be measured has no motion."""
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
    motion = analyse(take) if take.header.view == "side" else None
    return Inspection(
        take=take,
        columns=columns,
        steps=(float(steps.min()), median(steps), float(steps.max())),
        motion=motion,
        events=events_of(motion) if motion is not None else (),
    )
