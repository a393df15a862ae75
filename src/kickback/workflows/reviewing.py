"""After each take: what it measures, and how that differs from takes before it."""

import contextlib
import os
import queue
import threading
import time
from collections.abc import Mapping, Sequence
from pathlib import Path

import msgspec

from kickback.errors import KickbackError
from kickback.files.encodings import SUFFIXES
from kickback.files.options import ReadOptions
from kickback.files.read import read_take, take_from_bytes
from kickback.files.write import write_take
from kickback.judging.compare import MetricChange, compare
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.measuring import measure
from kickback.kinds.playing.drills import Drill
from kickback.metrics.record import Measurement, Measurements
from kickback.project.settings import Settings
from kickback.record.ledger import Finished
from kickback.takes.record import Record, replace
from kickback.takes.take import Take
from kickback.workflows.coaching import missing_parts
from kickback.workflows.reading import in_own_unit, options_for, read_in_project

__all__ = ["Review", "Reviewer"]

_LOOK_BACK = 40
"""Newest takes among which the one before is looked for."""

_MOST = 8_000_000
"""Bytes of a take that are measured while recording goes on: more than half an hour of frames."""

_GLANCE = 200_000
"""Bytes of a take that are looked at where nothing is to be measured."""

_BEHIND = 20
"""Takes that may wait to be measured; of those that come faster, none is."""

_REST = 5.0
"""Times what a review took, until the next one."""

_TOO_FAST = "not measured: takes come faster than that"

_PATIENCE = 5.0
"""Seconds that a recorder that is stopped by hand waits for what is being measured."""


class Review(Record, frozen=True, kw_only=True):
    """A take that was saved, what it measures, and the changes against earlier takes.

    ``take`` is None, with a problem, where it cannot be measured. ``before`` and ``last_time``
    are the take before and the last one of the same drill and parameter set, by metric;
    empty, with a name of "", where there is none. ``missing``: parts of the drill.
    ``note``: what was left out, and why.
    """

    finished: Finished
    take: Take | None = None
    problem: str = ""
    measured: Sequence[Measurement] = ()
    before_name: str = ""
    before: Mapping[str, MetricChange] = {}
    last_time_name: str = ""
    last_time: Mapping[str, MetricChange] = {}
    missing: Sequence[str] = ()
    note: str = ""


class Reviewer:
    """Reviews takes in a thread of its own, so that receiving goes on meanwhile.

    Takes get the ``encoding`` that was asked for. ``reviews`` gives what is ready. Without
    ``measures`` it only sees whether they can be read. What it costs is bounded: of a
    long take a part is measured, and of takes that come faster than that, none.
    """

    def __init__(
        self,
        folder: Path,
        encoding: str,
        settings: Settings,
        drill: Drill | None,
        *,
        measures: bool = True,
    ) -> None:
        self._folder, self._encoding = folder, encoding
        self._settings, self._drill, self._measures = settings, drill, measures
        self._converts = encoding != "jsonl" or settings.mapping is not None
        self._unconverted: list[Finished] = []
        self._ending = threading.Event()
        self._waiting: queue.Queue[Finished | None] = queue.Queue()
        self._ready: queue.Queue[Review] = queue.Queue()
        self._last: dict[str, Path] = {}
        self._thread = threading.Thread(target=self._work, daemon=True, name="review")
        self._thread.start()

    def add(self, finished: Finished) -> None:
        """Have a take reviewed."""
        self._waiting.put(finished)

    def reviews(self) -> list[Review]:
        """Return the reviews that are ready."""
        found = []
        while not self._ready.empty():
            found.append(self._ready.get())
        return found

    def close(self, *, hurried: bool = False) -> list[Review]:
        """Wait for the reviews under way, and return them; an interrupt ends the waiting."""
        self._ending.set()
        self._waiting.put(None)
        with contextlib.suppress(KeyboardInterrupt):
            self._thread.join(_PATIENCE if hurried else None)
        return self.reviews()

    def _work(self) -> None:
        while (finished := self._waiting.get()) is not None:
            if self._waiting.qsize() > _BEHIND and not self._ending.is_set():
                # whatever is done for a take now is taken from receiving the next ones
                self._ready.put(Review(finished=finished, note=_TOO_FAST))
                if self._converts:
                    self._unconverted.append(finished)
                continue
            began = time.monotonic()
            self._ready.put(self._reviewed(finished))
            # receiving goes before: of a processor it gets most, however fast takes come
            self._ending.wait(_REST * (time.monotonic() - began))
        for finished in self._unconverted:
            with contextlib.suppress(Exception):
                self._review(finished, measures=False)

    def _reviewed(self, finished: Finished) -> Review:
        try:
            return self._review(finished, measures=self._measures)
        except Exception as error:
            return Review(finished=finished, problem=f"it cannot be measured ({error})")

    def _review(self, finished: Finished, *, measures: bool) -> Review:
        try:
            size = finished.path.stat().st_size
            part = min(size, _MOST if measures or self._converts else _GLANCE)
            take, foreign = self._read(finished.path, part, whole=part == size)
            note = ""
            if part == size:
                path = self._encoded(finished.path, take, foreign=foreign)
                finished = replace(finished, path=path)
            elif foreign or self._encoding != "jsonl":
                note = "too long to be converted while recording: 'kickback convert' does it"
            if not measures:
                return Review(finished=finished, note=note)
            if part < size:
                note = f"of {finished.frames} frames the first {len(take)} are measured" + (
                    f"; {note}" if note else ""
                )
            take = in_own_unit(take, self._settings)
            analysis = self._settings.analysis(take)
            measured = measure(analysis)
        except (KickbackError, OSError) as error:
            return Review(finished=finished, problem=str(error))
        return replace(self._against_earlier(finished, analysis, measured), note=note)

    def _against_earlier(
        self, finished: Finished, analysis: AnyAnalysis, measured: Measurements
    ) -> Review:
        take = analysis.take
        earlier = self._earlier(finished.path, take)
        before = self._last.get(take.header.subject) or next(iter(earlier), None)
        again = _last_time(earlier, take)
        self._last[take.header.subject] = finished.path
        since_before, since_again = (self._changes(path, analysis) for path in (before, again))
        return Review(
            finished=finished,
            take=take,
            measured=list(measured),
            before_name=before.name if before and since_before else "",
            before=since_before,
            last_time_name=again.name if again and since_again else "",
            last_time=since_again,
            missing=self._missing(analysis),
        )

    def _missing(self, analysis: AnyAnalysis) -> list[str]:
        if self._drill is None or analysis.take.header.drill != self._drill.name:
            return []
        return missing_parts(analysis, self._drill)

    def _read(self, path: Path, size: int, *, whole: bool) -> tuple[Take, bool]:
        """Return a take, or its first bytes, and whether it is in a foreign log's form still.

        As everywhere, the project's own mapping serves takes that lack our columns.
        """
        options = options_for(str(path), self._settings, ReadOptions())
        if whole:
            take = read_take(path, None, options)
        else:
            with path.open("rb") as file:
                data = file.read(size)
            take = take_from_bytes(data[: data.rfind(b"\n") + 1], str(path), None, options)
        return take, take.mapped

    def _encoded(self, path: Path, take: Take, *, foreign: bool) -> Path:
        """Put a take into the encoding that was asked for, and a foreign log into our form."""
        if self._encoding == "jsonl":
            if foreign:
                write_take(take, path)
            return path
        stem, number = path.name.removesuffix(".jsonl"), 1
        while True:
            name = stem if number == 1 else f"{stem}-{number}"
            target = path.with_name(f"{name}.{self._encoding}")
            number += 1
            if not target.exists():
                write_take(take, target, replace=False)
                path.unlink()
                return target

    def _earlier(self, path: Path, take: Take) -> list[Path]:
        """Return the folder's newest takes of the subject before this one, newest first."""
        ages: dict[Path, int] = {}
        with os.scandir(self._folder) as items:
            for item in items:
                if item.name.endswith(SUFFIXES) and ".open." not in item.name:
                    with contextlib.suppress(OSError):  # gone meanwhile
                        ages[Path(item.path)] = item.stat().st_mtime_ns
        ages.pop(path, None)
        others = sorted(ages, key=lambda item: ages[item], reverse=True)[:_LOOK_BACK]
        return [
            item
            for item in others
            if _header_of(item).get("subject", "subject") == take.header.subject
        ]

    def _changes(self, path: Path | None, analysis: AnyAnalysis) -> dict[str, MetricChange]:
        """Return the changes against an earlier take, by metric; none where it is unsound."""
        settings = self._settings
        try:
            if path is None or path.stat().st_size > _MOST:
                return {}
            rows = compare(
                [settings.analysis(read_in_project(str(path), settings))],
                [analysis],
                budgets=settings.budgets,
                targets=settings.targets,
            ).rows
        except (KickbackError, OSError):
            return {}
        return {row.metric: row for row in rows}


def _last_time(earlier: Sequence[Path], take: Take) -> Path | None:
    """Return the last take of the same exercise, at the same rate where there is one."""
    alike = [path for path in earlier if _same_exercise(path, take)]
    return next((path for path in alike if _same_rate(path, take)), next(iter(alike), None))


def _same_exercise(path: Path, take: Take) -> bool:
    """Whether a take has the same drill and parameter set; takes without either have not."""
    header = _header_of(path)
    parameters = header.get("parameters")
    name = parameters.get("name") if isinstance(parameters, dict) else None
    own = (take.header.drill, take.header.parameters_name)
    return own != (None, None) and (header.get("drill"), name) == own


def _same_rate(path: Path, take: Take) -> bool:
    return _header_of(path).get("frame_rate") == take.header.frame_rate


def _header_of(path: Path) -> Mapping[str, object]:
    """Return a take's header, without reading the take where that can be; {} for none."""
    try:
        if path.suffix not in {".jsonl", ".csv"}:
            return read_take(path).header.to_mapping()
        with path.open("rb") as file:
            line = file.readline(1 << 20)
        value = msgspec.json.decode(line.lstrip(b"# "))
    except (KickbackError, OSError, ValueError, RecursionError):
        return {}
    return value if isinstance(value, dict) else {}
