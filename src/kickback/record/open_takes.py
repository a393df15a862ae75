"""The takes that a stream has open: where each is saved, what it holds, and how it ends."""

from collections import deque
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import pairwise
from typing import Any

import msgspec

from kickback.files.names import safe_name
from kickback.record.ledger import Begun, Finished, Ledger
from kickback.record.lines import Frame
from kickback.record.take_file import TakeFile, reason_of
from kickback.takes.plain import PlainDict, PlainMap

__all__ = ["OpenTake", "OpenTakes"]

_UNITS = (("milliseconds", 1e-3), ("microseconds", 1e-6), ("nanoseconds", 1e-9))
"""The units that times without a mapping may be in, with the factor to seconds."""


@dataclass(slots=True)
class OpenTake:
    """A take that is being received; ``rows`` are its recent frames, where a view wants them."""

    file: TakeFile
    subject: str
    header: PlainMap
    names: list[str] | None
    rows: deque[object]
    clock: object
    plain: bool
    first_time: float | None = None
    last_time: float | None = None
    steady: bool = False
    """Whether a step between two of its frames was an ordinary one."""
    refused: int = 0
    dropped: int = 0
    lost: int = 0


class OpenTakes:
    """Begins, fills and ends the takes of a stream, one a subject."""

    def __init__(self, origin: str, ledger: Ledger) -> None:
        self._origin, self._ledger = origin, ledger
        self._open: dict[str, OpenTake] = {}
        self._unsaved = ""
        self._factor = 1.0
        """What brings times to seconds that are in a smaller unit."""
        self._doubted = ""
        """The unit that one leap suggests; the next one says whether it is one."""

    def every(self) -> list[OpenTake]:
        """Return the takes that are being received."""
        return list(self._open.values())

    def of(self, subject: str) -> OpenTake | None:
        """Return the open take of a subject, if there is one."""
        return self._open.get(subject)

    def cut(self, reason: str) -> None:
        """End all of them."""
        for item in self.every():
            self.end(item, reason)
        self._unsaved = ""

    def flush(self) -> None:
        """Hand what was written to the operating system; a take that cannot be ends."""
        for item in self.every():
            try:
                item.file.flush()
            except OSError:
                self._give_up(item)

    def fed_quickly(self, item: OpenTake, block: bytes, rows: list[Any]) -> bool:
        """Save many frames of a take at once; False where one is out of the ordinary."""
        widest = max(map(len, rows), default=0)
        if widest > self._ledger.limits.columns or not self._room(item, len(block), len(rows)):
            return False
        if not self._in_time(rows, item):
            return False
        self._save(item, block, len(rows), rows)
        return True

    def add(self, frame: Frame, header: PlainMap, lost: int, *, overrides: bool) -> str:
        """Save a frame, in a new take where it begins one; why it is no frame, or nothing.

        ``header`` is that of the frames to come, ``lost`` the frames lost before them;
        ``overrides`` says that the ledger's go before it.
        """
        item = self._open.get(frame.subject)
        time = self._time_of(frame.row, frame.names)
        if item is not None:
            item = self._continued(item, time)
        if item is not None and frame.names != item.names:
            return "is a frame of another kind than those before it"
        if item is not None and not self._room(item, len(frame.line) + 1, 1):
            self._end_full(item)
            item = None
        item = item or self._begin(frame, header, lost, overrides=overrides)
        if item is None:
            return "could not be saved"
        self._save(item, frame.line + b"\n", 1, [frame.row])
        item.last_time = time
        if item.first_time is None:
            item.first_time = time
        return ""

    def end(self, item: OpenTake, ended_by: str) -> None:
        """End a take, and say what it holds."""
        del self._open[item.subject]
        counts = {"dropped": item.dropped, "lost": item.lost, "refused": item.refused}
        frames = item.file.frames
        end = {"frames": frames, "ended_by": ended_by, **{k: v for k, v in counts.items() if v}}
        try:
            path = item.file.finish(end)
        except OSError as error:
            path, item.file.problem = item.file.path, reason_of(error)
        self._ledger.takes += 1
        self._ledger.events.append(
            Finished(
                path=path,
                frames=frames,
                ended_by=ended_by,
                origin=self._origin,
                problem=item.file.problem,
                seconds=self._lasted(item),
                **counts,
            )
        )

    def _lasted(self, item: OpenTake) -> float | None:
        """Return how long a take lasts, its first frame's step taken for a usual one, s."""
        if item.first_time is None or item.last_time is None or item.file.frames < 2:
            return None
        span = (item.last_time - item.first_time) * self._ledger.clock[1] * self._factor
        return span * item.file.frames / (item.file.frames - 1)

    def _continued(self, item: OpenTake, time: float | None) -> OpenTake | None:
        """Return a take that a frame at a time goes on with; None where a pause has ended it."""
        if time is None or item.last_time is None:
            return item
        step = (time - item.last_time) * self._ledger.clock[1]
        if self._doubted and step > 0:
            self._settle(step)
        passed = step * self._factor
        if 0 <= passed <= self._ledger.gap:
            item.steady = item.steady or passed > 0
            return item
        if passed > 0 and not item.steady and self._factor == 1.0:
            # no frame has followed another in time: it may be their unit that leaps
            self._doubt(step)
            return item
        self.end(item, "a pause" if passed > 0 else "time that began again")
        return None

    def _doubt(self, step: float) -> None:
        """Take a step that leaps for one in a smaller unit, until the next one tells."""
        fits = (one for one in _UNITS if step * one[1] <= self._ledger.gap)
        self._doubted, self._factor = next(fits, _UNITS[-1])

    def _settle(self, step: float) -> None:
        """Tell a unit, in which every step leaps, from a pause after a take's first frame."""
        unit, self._doubted = self._doubted, ""
        if step <= self._ledger.gap:
            self._factor = 1.0
            return
        self._ledger.say(
            self._origin,
            f"the times leap by {step:.4g} in every frame: taken for {unit}; a mapping says so"
            f' to the other commands: t = {{ from = "t", scale = {self._factor:g} }}',
            kind="unit",
        )

    def _end_full(self, item: OpenTake) -> None:
        """End a take that a limit leaves no room for."""
        limits = self._ledger.limits
        if item.file.frames >= limits.frames:
            self.end(item, f"the limit of {limits.frames} frames in a take")
        else:
            self.end(item, self._full())
            self._block(self._full())

    def _in_time(self, rows: list[Any], item: OpenTake) -> bool:
        """Whether frames follow each other without a pause; notes the last one's time."""
        key = item.clock
        if key is None:
            return True
        if self._doubted:
            return False
        try:
            times = [row[key] for row in rows]
            gap = self._ledger.gap / (self._ledger.clock[1] * self._factor)
            before = times[:1] if item.last_time is None else [item.last_time]
            sound = all(0 <= b - a <= gap for a, b in pairwise(before + times))
        except (KeyError, TypeError):
            return False
        if sound:
            item.steady = item.steady or times[-1] > before[0]
            item.last_time = times[-1]
        return sound

    def _room(self, item: OpenTake, size: int, count: int) -> bool:
        limits = self._ledger.limits
        fits = item.file.frames + count <= limits.frames
        return fits and self._ledger.written + size <= limits.disk

    def _save(self, item: OpenTake, lines: bytes, count: int, rows: list[Any]) -> None:
        self._ledger.frames += count
        if self._ledger.keep:
            item.rows.extend(rows)
        self._ledger.written += len(lines)
        try:
            item.file.write(lines, count)
        except OSError:
            self._give_up(item)

    def _begin(
        self, frame: Frame, given: PlainMap, lost: int, *, overrides: bool
    ) -> OpenTake | None:
        """Open a take's file; None, with the reason kept, where that cannot be."""
        if self._unsaved or not self._may_begin():
            return None
        header = self._header(frame, given, overrides=overrides)
        head = msgspec.json.encode(header) + b"\n"
        if self._ledger.written + len(head) + len(frame.line) >= self._ledger.limits.disk:
            self._block(self._full())
            return None
        try:
            file = TakeFile(self._ledger.folder, self._stem(header, frame.subject), head)
        except OSError as error:
            self._block(f"{self._ledger.folder} cannot be written ({reason_of(error)})")
            return None
        self._ledger.written += len(head)
        names = frame.names
        item = OpenTake(
            file=file,
            subject=frame.subject,
            header=header,
            names=names,
            rows=deque(maxlen=self._ledger.keep or 1),
            clock=self._clock_in(names),
            plain=not frame.subject and (names is None or "subject" not in names),
            lost=lost,
        )
        self._open[frame.subject] = item
        self._ledger.events.append(Begun(origin=self._origin, header=header))
        return item

    def _may_begin(self) -> bool:
        limits = self._ledger.limits
        if len(self._open) >= limits.subjects:
            self._block(f"the limit of {limits.subjects} subjects in a stream is met")
            return False
        return True

    def _header(self, frame: Frame, given: PlainMap, *, overrides: bool) -> PlainDict:
        """Return the header that a take is saved with."""
        header = {"kickback": 1, **self._ledger.defaults, **given}
        if overrides:
            header |= self._ledger.overrides
        header.setdefault("recorded_at", datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ"))
        own = {
            "subject": frame.subject or None,
            "columns": frame.names,
            "mapping": self._ledger.mapping,
        }
        return header | {key: value for key, value in own.items() if value is not None}

    def _full(self) -> str:
        return f"the limit of {self._ledger.limits.disk} bytes on disk is met"

    def _clock_in(self, names: list[str] | None) -> Any:
        """Return where a frame holds its time: a key, an index, or None."""
        name = self._ledger.clock[0]
        if names is None:
            return name
        return names.index(name) if name in names else None

    def _time_of(self, row: Any, names: list[str] | None) -> float | None:
        key = self._clock_in(names)
        if names is not None:
            value = None if key is None else row[key]
        else:
            value = row
            for step in key.split("."):  # a mapped log's time may lie deeper
                value = value.get(step) if isinstance(value, dict) else None
        try:
            return float(value) if isinstance(value, int | float) else None
        except OverflowError:
            return None

    def _block(self, reason: str) -> None:
        """Save nothing more until the next take; the sentence is said once."""
        self._unsaved = reason
        self._ledger.say(self._origin, f"frames are not saved: {reason}", kind="unsaved")

    def _stem(self, header: PlainMap, subject: str) -> str:
        """Return what a take's file is called."""
        parameters = header.get("parameters")
        name = parameters.get("name") if isinstance(parameters, dict) else None
        stem = self._ledger.stem or safe_name(str(name or header.get("subject") or "take"))
        if subject and (name or self._ledger.stem):
            stem = f"{stem}-{safe_name(subject)}"
        rate = header.get("frame_rate")
        if not self._ledger.stem and isinstance(rate, int | float) and not isinstance(rate, bool):
            stem = f"{stem}-{rate:g}"
        return f"{stem}-{datetime.now(UTC):%Y%m%d-%H%M%S}"

    def _give_up(self, item: OpenTake) -> None:
        """End a take that cannot be written any more; what was written is kept."""
        problem = item.file.problem
        self.end(item, f"the disk ({problem})")
        self._block(problem)
