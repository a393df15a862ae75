"""What a view of a running recorder shows: counts, the subjects now, what they did last."""

import time
from collections.abc import Mapping, Sequence

from kickback.errors import KickbackError
from kickback.files.json_lines import frame_columns
from kickback.files.raw import RawTable
from kickback.files.read import take_from_table
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.measuring import measure
from kickback.kinds.picture import Now
from kickback.metrics.metric import Metric
from kickback.project.settings import Settings
from kickback.record.hub import Hub
from kickback.record.session import OpenTake
from kickback.takes.plain import PlainMap
from kickback.takes.quantities import Unit
from kickback.takes.record import Record, replace
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


class Figure(Record, frozen=True, kw_only=True):
    """A metric's last occurrence."""

    group: str
    part: str
    value: float
    unit: Unit


class LiveSubject(Record, frozen=True, kw_only=True):
    """One subject as its last frames show it.

    ``now``: its last frame; ``phases``: what it does, a word a track; ``figures``: the last of
    what matters most, by the group of metrics.
    """

    name: str
    now: Now | None = None
    phases: Sequence[str] = ()
    figures: Mapping[str, Sequence[Figure]] = {}


class LiveView(Record, frozen=True, kw_only=True):
    """Everything that the view shows at one moment; ``rate`` is frames received a second."""

    streams: int = 0
    rate: float = 0.0
    frames: int = 0
    takes: int = 0
    lost: int = 0
    dropped: int = 0
    refused: int = 0
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
        base = LiveSubject(name=name)
        try:
            analysis, figures = _recent(rows, item.header, self._settings)
        except (KickbackError, TypeError):  # too short yet, or of no known kind
            return base
        kept = {}
        for group in dict.fromkeys(metric.group for metric in _headlines(analysis)):
            found = [figure for figure in figures if figure.group == group]
            kept[group] = found or self._last.get((name, group), ())
            self._last[name, group] = kept[group]
        return _shown(base, analysis, kept)


def _recent(
    rows: Sequence[object], header: PlainMap, settings: Settings
) -> tuple[AnyAnalysis, list[Figure]]:
    """Return the analysis of recent frames, and the last occurrence of each figure in it."""
    plain = {key: value for key, value in header.items() if key != "recorded_at"}
    table = RawTable(
        source="now",
        header=plain,
        columns=frame_columns(list(rows), plain),
        lines=range(len(rows)),
    )
    analysis = settings.analysis(take_from_table(table))
    told = {metric.name: metric for metric in _headlines(analysis)}
    figures = [
        Figure(
            group=row.group,
            part=told[row.metric].part.replace("_", " "),
            value=float(row.occurrences.value[-1]),
            unit=row.unit,
        )
        for row in measure(analysis, list(told))
        if row.n
    ]
    return analysis, figures


def _headlines(analysis: AnyAnalysis) -> list[Metric]:
    """Return the metrics that matter most for a take's kind."""
    kind = analysis.kind
    named = {metric.name: metric for metric in kind.measuring.metrics}
    return [named[name] for name in kind.measuring.headlines]


def _shown(
    base: LiveSubject, analysis: AnyAnalysis, figures: Mapping[str, Sequence[Figure]]
) -> LiveSubject:
    """Return the subject as the end of a motion shows it."""
    kind = analysis.kind
    last = {phase.track: phase.name for phase in analysis.phases}
    return replace(
        base,
        now=kind.showing.now(analysis.whole, _TRAIL),
        phases=[last[role.name] for role in kind.roles if role.name in last],
        figures=figures,
    )
