"""Turns a stream of lines into takes on disk, as they come.

A take file is written line by line while the game runs, so that whatever ends the
recorder, what has arrived is in a readable file.
"""

import csv
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

import msgspec

from kickback.errors import InputError
from kickback.files.json_lines import is_end, is_header
from kickback.takes.record import Record

__all__ = ["Finished", "Session"]

_LONGEST_LINE = 1_000_000


class Finished(Record, frozen=True, kw_only=True):
    """A take that has ended: its file, its number of frames, and what ended it."""

    path: Path
    frames: int
    ended_by: str


@dataclass(slots=True)
class _Open:
    """A take that is being written."""

    path: Path
    file: IO[bytes]
    frames: int = 0
    last_time: float | None = None


@dataclass(slots=True)
class Session:
    """Splits lines into takes: at headers, at end objects, and at pauses.

    ``gap`` is how long a pause, in the frames' own time or in the lines' arrival, ends a
    take, s. ``on_finish`` hears of every take that ended. Lines that are no frame are
    counted in ``refused`` with the first one's reason; they end nothing.
    """

    folder: Path
    gap: float
    on_finish: Callable[[Finished], None]
    refused: int = 0
    first_refusal: str = ""
    _header: dict[str, Any] = field(default_factory=dict)
    _names: list[str] | None = None
    _open: dict[str, _Open] = field(default_factory=dict)
    _line: int = 0

    def feed(self, line: bytes) -> None:
        """Take in one line: a header, a frame, an end, or CSV names and rows."""
        self._line += 1
        text = line.strip()
        if not text:
            return
        if len(text) > _LONGEST_LINE:
            self._refuse("is longer than a million characters")
        elif text[:1] in b"{[":
            self._feed_json(text)
        elif text[:1] == b"#":
            self._feed_header(text.lstrip(b"#").strip())
        else:
            self._feed_csv(text)

    def feed_last(self, line: bytes) -> None:
        """Take in a last line that no line end closed; a CSV row may have lost digits."""
        if line.lstrip()[:1] in b"{[":
            self.feed(line)
        else:
            self._line += 1
            self._refuse("was cut off: the stream ended in the middle of it")

    def pause(self) -> None:
        """End the takes that are open: nothing has come for longer than the gap."""
        self._end_all("a pause")

    def close(self) -> None:
        """End the takes that are open: the sender has left."""
        self._end_all("the sender left")

    @property
    def recording(self) -> bool:
        """Whether a take is open."""
        return bool(self._open)

    def flush(self) -> None:
        """Hand what was written to the operating system."""
        for item in self._open.values():
            item.file.flush()

    def _feed_json(self, text: bytes) -> None:
        try:
            value = msgspec.json.decode(text)
        except (msgspec.DecodeError, RecursionError) as error:
            self._refuse(f"is not JSON ({error})")
            return
        if is_header(value):
            self._new_header(value)
        elif is_end(value):
            self._end_all("its end object")
        elif isinstance(value, dict):
            self._write(text, str(value.get("subject", "")), value.get("t"), None)
        else:
            names = self._names or self._header.get("columns")
            if not isinstance(names, list) or len(names) != len(value):
                self._refuse("is an array that does not fit a header's 'columns'")
                return
            row = dict(zip(names, value, strict=True))
            self._write(text, str(row.get("subject", "")), row.get("t"), names)

    def _feed_header(self, text: bytes) -> None:
        try:
            value = msgspec.json.decode(text)
        except (msgspec.DecodeError, RecursionError):
            return  # a comment
        if isinstance(value, dict):
            self._new_header(value)
            self._names = None

    def _feed_csv(self, text: bytes) -> None:
        cells = next(csv.reader([text.decode("utf-8", errors="replace")]), [])
        values = [_cell(cell) for cell in cells]
        if self._names is None or cells == self._names:
            if any(not isinstance(value, str) for value in values) or len(cells) < 2:
                self._refuse("is no frame: expected JSON, or CSV column names before CSV rows")
                return
            if self._names is None:
                self._names = [cell.strip() for cell in cells]
            return
        if len(values) != len(self._names):
            self._refuse(f"has {len(values)} values where there are {len(self._names)} columns")
            return
        row = dict(zip(self._names, values, strict=True))
        self._write(
            msgspec.json.encode(values), str(row.get("subject", "")), row.get("t"), self._names
        )

    def _new_header(self, value: dict[str, Any]) -> None:
        self._end_all("the next header")
        self._header = value
        names = value.get("columns")
        self._names = names if isinstance(names, list) else None

    def _write(self, line: bytes, subject: str, time: Any, names: list[str] | None) -> None:
        item = self._open.get(subject)
        clock = float(time) if isinstance(time, int | float) else None
        if item is not None and clock is not None and item.last_time is not None:
            passed = clock - item.last_time
            if not 0 <= passed <= self.gap:
                self._end(subject, "a pause" if passed > 0 else "time that began again")
                item = None
        if item is None:
            item = self._begin(subject, names)
        item.file.write(line + b"\n")
        item.frames += 1
        item.last_time = clock

    def _begin(self, subject: str, names: list[str] | None) -> _Open:
        header = {"kickback": 1, **self._header}
        header.setdefault("recorded_at", datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ"))
        if subject:
            header["subject"] = subject
        if names is not None:
            header["columns"] = names
        else:
            header.pop("columns", None)
        path = self._free_path(header, subject)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            file = path.open("xb")
        except OSError as error:
            raise InputError(f"cannot be written ({error.strerror})", str(path)) from error
        file.write(msgspec.json.encode(header) + b"\n")
        self._open[subject] = _Open(path=path, file=file)
        return self._open[subject]

    def _free_path(self, header: dict[str, Any], subject: str) -> Path:
        parameters = header.get("parameters")
        name = parameters.get("name") if isinstance(parameters, dict) else None
        stem = _safe(str(name or header.get("subject") or "take"))
        if subject and name:
            stem = f"{stem}-{_safe(subject)}"
        rate = header.get("frame_rate")
        if isinstance(rate, int | float) and not isinstance(rate, bool):
            stem = f"{stem}-{rate:g}"
        stem = f"{stem}-{datetime.now(UTC):%Y%m%d-%H%M%S}"
        path = self.folder / f"{stem}.jsonl"
        number = 1
        while path.exists():
            number += 1
            path = self.folder / f"{stem}-{number}.jsonl"
        return path

    def _end_all(self, ended_by: str) -> None:
        for subject in list(self._open):
            self._end(subject, ended_by)

    def _end(self, subject: str, ended_by: str) -> None:
        item = self._open.pop(subject)
        item.file.close()
        self.on_finish(Finished(path=item.path, frames=item.frames, ended_by=ended_by))

    def _refuse(self, reason: str) -> None:
        self.refused += 1
        if not self.first_refusal:
            self.first_refusal = f"line {self._line} {reason}"


def _cell(cell: str) -> float | str:
    try:
        return float(cell)
    except ValueError:
        return cell


def _safe(name: str) -> str:
    """Return a name from the wire as a file name that cannot leave its folder."""
    kept = "".join(mark if mark.isalnum() or mark in "-_" else "-" for mark in name)
    return kept.strip("-")[:60] or "take"
