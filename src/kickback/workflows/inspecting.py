"""``inspect``: what is in a take, and what to know before building on it."""

from collections.abc import Sequence

import numpy as np

from kickback.errors import InputError
from kickback.findings.finding import Finding
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.examining import examine
from kickback.motion.motion import Event, Motion, Phase
from kickback.takes.axes import up_axis
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
    """A take's columns and findings, its ``kind`` in words and its motion; ``steps`` in s.

    There is no motion where the clock does not advance, or where no kind is known.
    """

    take: Take
    findings: Sequence[Finding]
    columns: Sequence[ColumnFacts]
    steps: tuple[float, float, float]
    kind: str
    motion: Motion | None
    phases: Sequence[Phase]
    events: Sequence[Event]

    @property
    def failed(self) -> bool:
        """Whether a finding is an error."""
        return any(item.severity == "error" for item in self.findings)


def inspect_take(analysis: AnyAnalysis) -> Inspection:
    """Say what a take contains; one of no known kind, or without a clock, has no motion."""
    take = analysis.shown
    readable = analysis.advances and _is_known(analysis)
    floor = _floor(analysis) if readable else None
    columns = []
    for name, column in take.columns.items():
        channel = channel_of(name)
        numeric = column.dtype.kind == "f"
        known = take.numbers(name) if numeric else np.zeros(0)
        known = known[np.isfinite(known)]
        about = channel.about
        if floor is not None and name == up_axis(take.header):
            known = known - floor  # y points down in the log: its numbers say nothing up here
            about = "height above the lowest ground, which it stands on"
        columns.append(
            ColumnFacts(
                name=name,
                unit=channel.unit(take.header.length_unit),
                low=float(known.min()) if known.size else None,
                high=float(known.max()) if known.size else None,
                derived=name in take.derived,
                about=about,
            )
        )
    steps = np.diff(take.numbers("t"))
    return Inspection(
        take=take,
        findings=examine(analysis),
        columns=columns,
        steps=(float(steps.min()), median(steps), float(steps.max())),
        kind=_kind(analysis, readable=readable),
        motion=analysis.whole if readable else None,
        phases=analysis.phases if readable else (),
        events=analysis.events if readable else (),
    )


def _kind(analysis: AnyAnalysis, *, readable: bool) -> str:
    """Return the kind of subject in words, and where it is from; nothing where there is none."""
    if not readable:
        return ""
    kind = analysis.kind
    if analysis.take.header.kind is not None:
        return f"{kind.name} ({kind.about})"
    return f"{kind.name} ({kind.about}), told from the columns; 'kind' in the header says it"


def _floor(analysis: AnyAnalysis) -> float | None:
    """Return the lowest height that is stood on, where the log's up is the other way; else None."""
    take = analysis.shown
    if not take.header.up.startswith("-"):
        return None
    stood = getattr(analysis.whole, "grounded", None)
    heights = analysis.take.columns.get(up_axis(take.header))
    if stood is None or heights is None or not stood.any():
        return None
    return float(np.min(heights[stood]))


def _is_known(analysis: AnyAnalysis) -> bool:
    try:
        return analysis.kind is not None
    except InputError:
        return False
