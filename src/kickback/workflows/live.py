"""What a view of a running recorder shows: counts, the subject now, the last jump and run."""

import time
from collections.abc import Mapping, Sequence
from typing import Any

from kickback.errors import KickbackError
from kickback.files.json_lines import frame_columns
from kickback.files.raw import RawTable
from kickback.files.read import take_from_table
from kickback.kinds.measuring import measure
from kickback.motion.analysis import Analysis
from kickback.project.settings import Settings
from kickback.record.hub import Hub
from kickback.record.session import OpenTake
from kickback.takes.quantities import Unit
from kickback.takes.record import Record
from kickback.workflows.coaching import Cue

__all__ = ["Figure", "LiveSubject", "LiveView", "Watch"]

_KEEP = 4000
"""Recent frames that a view is made from."""

_EVERY = 0.1
"""Seconds between views."""

_SPARE = 12  # a view may take one part in so many of the time
_SHOWN = 3
"""Subjects that a view has room for."""

_TRAIL = 2.0
"""Seconds of the path that is drawn."""

_JUMP = ("jump.apex_height", "jump.air_time", "jump.distance", "hop.apex_height", "hop.air_time")
_RUN = ("run.top_speed", "run.time_to_90", "coast.stop_distance", "turn.time")


class Figure(Record, frozen=True, kw_only=True):
    """A metric's last occurrence."""

    group: str
    metric: str
    value: float
    unit: Unit
    end: float


class LiveSubject(Record, frozen=True, kw_only=True):
    """One subject as its last frames show it.

    ``speed`` is that across, ``rise`` that upward, length/s; ``height`` is over the floor
    that it stood on last; ``trail``: recent positions, across
    and up, oldest first.
    """

    name: str
    seconds: float
    frames: int
    speed: float | None = None
    rise: float | None = None
    height: float | None = None
    unit: str = ""
    travel: str = ""
    vertical: str = ""
    trail: Sequence[tuple[float, float]] = ()
    jump: Sequence[Figure] = ()
    run: Sequence[Figure] = ()


class LiveView(Record, frozen=True, kw_only=True):
    """Everything that the view shows at one moment; ``rate`` is frames received a second."""

    addresses: Sequence[str]
    streams: int
    rate: float
    frames: int
    takes: int
    lost: int
    dropped: int
    refused: int
    subjects: Sequence[LiveSubject] = ()
    cue: Cue | None = None


class Watch:
    """Makes views of a hub, not more often than they can be read."""

    def __init__(self, hub: Hub, settings: Settings | None = None) -> None:
        self._hub, self._settings = hub, settings or Settings()
        hub.ledger.keep = _KEEP
        self._counts: list[tuple[float, int]] = []
        self._subjects: list[LiveSubject] = []
        self._last: dict[tuple[str, str], Sequence[Figure]] = {}
        self._next = 0.0

    def view(self, cue: Cue | None = None) -> LiveView:
        """Return the view of now."""
        now = time.monotonic()
        ledger = self._hub.ledger
        self._counts = [item for item in self._counts if now - item[0] < 1.0]
        self._counts.append((now, ledger.frames))
        (first, before), (last, after) = self._counts[0], self._counts[-1]
        if now >= self._next:
            takes = [take for stream in self._hub.streams for take in stream.session.open_takes]
            self._subjects = [self._subject(take) for take in takes[:_SHOWN]]
            cost = time.monotonic() - now
            self._next = now + max(_EVERY, _SPARE * cost)
        return LiveView(
            addresses=[source.address for source in self._hub.sources],
            streams=len(self._hub.streams),
            rate=(after - before) / (last - first) if last > first else 0.0,
            frames=ledger.frames,
            takes=ledger.takes,
            lost=ledger.lost,
            dropped=ledger.dropped,
            refused=ledger.refused,
            subjects=self._subjects,
            cue=cue,
        )

    def _subject(self, item: OpenTake) -> LiveSubject:
        name = str(item.header.get("subject", "subject"))
        rows = list(item.rows)
        base = LiveSubject(name=name, seconds=0.0, frames=item.file.frames)
        try:
            analysis, figures = _recent(rows, item.header, self._settings)
        except (KickbackError, TypeError):  # too short yet, or no side view
            return base
        kept = {}
        for kind, names in (("jump", _JUMP), ("run", _RUN)):
            found = [figure for figure in figures if figure.metric in names]
            kept[kind] = found or self._last.get((name, kind), ())
            self._last[name, kind] = kept[kind]
        return _shown(base, analysis, kept)


def _recent(
    rows: Sequence[Any], header: Mapping[str, Any], settings: Settings
) -> tuple[Analysis[Any], list[Figure]]:
    """Return the analysis of recent frames, and the last occurrence of each figure in it."""
    plain = {key: value for key, value in header.items() if key != "recorded_at"}
    table = RawTable(
        source="now",
        header=plain,
        columns=frame_columns(rows, plain, str),
        lines=range(len(rows)),
    )
    analysis = settings.analysis(take_from_table(table))
    figures = [
        Figure(
            group=row.group,
            metric=row.metric,
            value=float(row.occurrences.value[-1]),
            unit=row.unit,
            end=float(row.occurrences.end[-1]),
        )
        for row in measure(analysis, (*_JUMP, *_RUN))
        if row.n
    ]
    return analysis, figures


def _shown(
    base: LiveSubject, analysis: Analysis[Any], figures: Mapping[str, Sequence[Figure]]
) -> LiveSubject:
    """Return the subject as the end of a motion shows it."""
    motion = analysis.whole
    across, up, t = motion.across, motion.up, motion.t
    height, trail = None, []
    if up is not None:
        grounded = up.p[motion.grounded]
        height = float(up.p[-1] - grounded[-1]) if len(grounded) else None
    if up is not None and across is not None:
        recent = t > t[-1] - _TRAIL
        trail = list(zip(across.p[recent].tolist(), up.p[recent].tolist(), strict=True))
    last = {phase.track: phase.name for phase in analysis.phases}
    return LiveSubject(
        name=base.name,
        seconds=float(t[-1]),
        frames=base.frames,
        speed=None if across is None else abs(float(across.v[-1])),
        rise=None if up is None else float(up.v[-1]),
        height=height,
        unit=motion.take.header.length_unit,
        travel=last.get("travel", ""),
        vertical=last.get("vertical", ""),
        trail=trail,
        jump=_last_kind(figures.get("jump", ())),
        run=figures.get("run", ()),
    )


def _last_kind(figures: Sequence[Figure]) -> Sequence[Figure]:
    """Return a jump's or a hop's figures, whichever came last."""
    if not figures:
        return ()
    kind = max(figures, key=lambda figure: figure.end).group
    return [figure for figure in figures if figure.group == kind]
