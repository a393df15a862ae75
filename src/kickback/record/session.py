"""Turns one stream of bytes into takes on disk, as they come.

A take file is written while the game runs, so that whatever ends the recorder, what has
arrived is in a readable file. Lines that are no frame are counted; they end nothing.
"""

import csv
import hmac
from collections import deque
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import pairwise
from typing import Any

import msgspec

from kickback.errors import InputError
from kickback.files.json_lines import is_end, is_header
from kickback.record.ledger import Begun, Finished, Ledger
from kickback.record.take_file import TakeFile, reason_of, safe_name
from kickback.takes.header import Header

__all__ = ["OpenTake", "Session"]

_MARKS = {"sent", "dropped", "take"}
_OURS = (b'"kickback"', b'"end"', b'"sent"', b'"dropped"', b'"subject"')
_SPENT = 64
_Cell = float | int | str | bool | None
_ARRAYS = msgspec.json.Decoder(list[list[_Cell]])
_OBJECTS = msgspec.json.Decoder(list[dict[str, _Cell]])


@dataclass(slots=True)
class OpenTake:
    """A take that is being received; ``rows`` are its recent frames, where a view wants them."""

    file: TakeFile
    header: Mapping[str, Any]
    names: list[str] | None
    rows: deque[Any]
    clock: Any
    plain: bool
    last_time: float | None = None
    refused: int = 0
    dropped: int = 0
    lost: int = 0


@dataclass(slots=True)
class Session:
    """Splits a stream into takes: at headers, end objects, pauses, and time that restarts.

    ``token`` is what the first header must carry, None where anyone may send.
    ``rejected`` says why nothing more is taken from this stream; ``replies`` are lines for
    the sender; ``plays_drill`` says that it can play a drill by itself.
    """

    origin: str
    ledger: Ledger
    token: str | None = None
    datagrams: bool = False
    rejected: str = ""
    replies: list[bytes] = field(default_factory=list)
    seen_frames: int = 0
    plays_drill: bool = False
    _header: dict[str, Any] = field(default_factory=dict)
    _names: list[str] | None = None
    _csv: list[str] | None = None
    _open: dict[str, OpenTake] = field(default_factory=dict)
    _line: int = 0
    _rest: bytes = b""
    _skipping: bool = False
    _late: bool = False
    _take: str | None = None
    _spent: deque[str] = field(default_factory=lambda: deque(maxlen=_SPENT))
    _position: int = 0
    _lost_before: int = 0
    _delimiter: str = ","
    _unsaved: str = ""

    def feed(self, data: bytes) -> None:
        """Take in bytes; a line may come in pieces."""
        if self._skipping:
            _, end, data = data.partition(b"\n")
            if not end:
                return
            self._skipping = False
        block = self._rest + data if self._rest else data
        whole = block.rfind(b"\n") + 1
        self._rest = block[whole:]
        longest = self.ledger.limits.line
        begin = 0
        while begin < whole and not self.rejected:
            # pieces no longer than a line may be: whatever fits one has no line too long
            stop = block.rfind(b"\n", begin, begin + longest + 1) + 1
            if stop:
                self._feed_block(block[begin:stop])
            else:
                stop = block.find(b"\n", begin) + 1
                self._too_long()
            begin = stop
        if len(self._rest) > longest:
            self._rest, self._skipping = b"", True
            self._too_long()

    def feed_datagram(self, data: bytes) -> None:
        """Take in a datagram: whole lines, of which the last needs no line end."""
        self._late = False
        self.feed(data if data.endswith(b"\n") else data + b"\n")
        self._rest, self._skipping = b"", False

    def end(self, reason: str = "the sender left") -> None:
        """End the stream; a last line that no line end closed counts where it is whole."""
        rest, self._rest = self._rest.strip(), b""
        if rest and not self.rejected:
            # a CSV row may have lost digits unnoticed; JSON is whole or it is not JSON
            if rest[:1] in b"{[" and _decoded(rest) is not None:
                self._feed_line(rest)
            else:
                self._line += 1
                self._refuse("was cut off: the stream ended in the middle of it")
        self.cut(reason)

    def cut(self, reason: str) -> None:
        """End the takes that are open; the stream goes on."""
        for subject in list(self._open):
            self._end(subject, reason)
        self._unsaved = ""

    @property
    def begun(self) -> bool:
        """Whether frames have come, saved or not."""
        return self._position > 0 or self.seen_frames > 0

    @property
    def open_takes(self) -> list[OpenTake]:
        """Return the takes that are being received."""
        return list(self._open.values())

    def flush(self) -> None:
        """Hand what was written to the operating system; a take that cannot be ends."""
        for subject, item in list(self._open.items()):
            try:
                item.file.flush()
            except OSError:
                self._give_up(subject)

    def _feed_block(self, block: bytes) -> None:
        item = self._open.get("")
        if item is not None and item.plain and self._fed_quickly(block, item):
            return
        for line in block.split(b"\n")[:-1]:
            if self.rejected or self._late:
                return
            self._feed_line(line)

    def _fed_quickly(self, block: bytes, item: OpenTake) -> bool:
        """Take in many frames of the open take at once; False where one is unusual.

        The typed decoder takes plain cells only, so that frames and lines correspond
        where each line begins and ends as a frame does and their numbers agree.
        """
        first, between, last = (b"[", b"]\n[", b"]\n") if item.names else (b"{", b"}\n{", b"}\n")
        count = block.count(b"\n")
        if (
            not block.startswith(first)
            or not block.endswith(last)
            or block.count(between) != count - 1
            or (not item.names and any(key in block for key in _OURS))
            or not self._room(item, len(block), count)
        ):
            return False
        try:
            rows: Any = (_ARRAYS if item.names else _OBJECTS).decode(
                b"[" + block[:-1].replace(b"\n", b",") + b"]"
            )
        except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
            return False
        sizes = set(map(len, rows))
        if len(rows) != count or (item.names and sizes != {len(item.names)}):
            return False
        if max(sizes) > self.ledger.limits.columns or not self._in_time(rows, item):
            return False
        self._line += count
        self._position += count
        self._save(item, block, count, rows)
        return True

    def _in_time(self, rows: list[Any], item: OpenTake) -> bool:
        """Whether frames follow each other without a pause; notes the last one's time."""
        key = item.clock
        if key is None:
            return True
        try:
            times = [row[key] for row in rows]
            gap = self.ledger.gap / self.ledger.clock[1]
            before = times[:1] if item.last_time is None else [item.last_time]
            sound = all(0 <= b - a <= gap for a, b in pairwise(before + times))
        except (KeyError, TypeError):
            return False
        if sound:
            item.last_time = times[-1]
        return sound

    def _feed_line(self, line: bytes) -> None:
        """Take in one line: a header, a frame, an end, a mark, or CSV names and rows."""
        self._line += 1
        text = line.strip()
        if not text:
            return
        if self.token is not None and not self._admitted(text):
            return
        if text[:1] in b"{[":
            self._feed_json(text)
        elif text[:1] == b"#":
            value = _decoded(text.lstrip(b"#").strip())  # anything else is a comment
            if isinstance(value, dict):
                self._new_header(value)
                self._csv = None
        else:
            self._feed_csv(text)

    def _admitted(self, text: bytes) -> bool:
        """Whether the sender may go on: its first line is a header with the token."""
        value = _decoded(text)
        sent = value.get("token", "") if isinstance(value, dict) else ""
        if not hmac.compare_digest(str(sent).encode(), str(self.token).encode()):
            what = "a wrong token" if sent else "no token in its header"
            self.reject(f"{what}; every sender must give the recorder's own")
            return False
        self.token = None
        return True

    def reject(self, reason: str) -> None:
        """Take nothing more from this stream, and tell both sides why."""
        self.rejected = reason
        self.replies.append(msgspec.json.encode({"error": reason}) + b"\n")
        self.ledger.say(self.origin, f"refused: {reason}")

    def _feed_json(self, text: bytes) -> None:
        value = _decoded(text)
        if value is None:
            self._refuse("is not JSON")
        elif is_header(value):
            self._new_header(value)
        elif is_end(value):
            self._mark(value)
            if not self._late:
                self.cut("its end object")
                self._spend()
        elif isinstance(value, dict):
            if value and set(value) <= _MARKS:
                self._mark(value)
                return
            self._frame(text, str(value.get("subject", "")), value, None)
        else:
            names = self._names
            if names is None or len(names) != len(value):
                self._refuse("is an array that does not fit a header's 'columns'")
                return
            self._frame(text, _subject_in(names, value), value, names)

    def _feed_csv(self, text: bytes) -> None:
        words = text.decode("utf-8", errors="replace")
        if self._csv is None:
            self._delimiter = max(",;\t", key=words.count)
        try:
            cells = next(csv.reader([words], delimiter=self._delimiter), [])
        except csv.Error:
            cells = []
        values = [_cell(cell, decimal_comma=self._delimiter != ",") for cell in cells]
        if self._csv is None or cells == self._csv:
            if any(not isinstance(value, str) for value in values) or len(cells) < 2:
                self._refuse("is no frame: expected JSON, or CSV column names before CSV rows")
            elif self._csv is None:
                self._csv = [cell.strip() for cell in cells]
            return
        if len(values) != len(self._csv):
            self._refuse(f"has {len(values)} values where there are {len(self._csv)} columns")
            return
        self._frame(msgspec.json.encode(values), _subject_in(self._csv, values), values, self._csv)

    def _new_header(self, value: dict[str, Any]) -> None:
        take = value.get("take")
        if take is not None and str(take) == self._take and self.datagrams:
            if not self._header:
                self._adopt(value)
            return  # datagrams can be lost, so their header is sent again and again
        self.cut("the next header")
        self._spend()
        self._take = None if take is None else str(take)
        self._adopt(value)

    def _spend(self) -> None:
        """Forget the sender's take; what still comes of it is late."""
        if self._take is not None:
            self._spent.append(self._take)
        self._take, self._position, self._lost_before = None, 0, 0

    def _adopt(self, value: dict[str, Any]) -> None:
        """Make a header that of the frames to come, and answer it."""
        header = {k: v for k, v in value.items() if k not in {"token", "accepts", "take"}}
        try:
            Header.from_mapping(header, "the header")
        except InputError as error:
            self.ledger.say(self.origin, f"{error}; the take is kept, with it as 'header_sent'")
            header = {"kickback": 1, "header_sent": header, "columns": header.get("columns")}
        names = header.pop("columns", None)
        sound = isinstance(names, list) and all(isinstance(name, str) for name in names)
        self._names = names if sound else None
        if self._names is not None and len(self._names) > self.ledger.limits.columns:
            self.reject(
                f"{len(self._names)} columns are more than the limit of"
                f" {self.ledger.limits.columns}"
            )
            return
        self._header = header
        accepts = value.get("accepts")
        if isinstance(accepts, list) and "drill" in accepts:
            self.plays_drill = True
            self.replies.append(self.ledger.answer)

    def _mark(self, value: Mapping[str, Any]) -> None:
        """Take in what a sender counts: frames sent before this line, and frames given up."""
        take, sent, dropped = (value.get(key) for key in ("take", "sent", "dropped"))
        if take is not None and str(take) != self._take:
            if str(take) in self._spent:
                self._late = True
                return
            if self._take is not None:
                self.cut("the next take")
                self._header, self._names = {}, None
            self._spend()
            self._take = str(take)
        item = next(iter(self._open.values()), None)
        if isinstance(dropped, int) and item is not None:
            self.ledger.dropped += max(0, dropped - item.dropped)
            item.dropped = max(item.dropped, dropped)
        if not isinstance(sent, int) or isinstance(sent, bool):
            return
        missing = sent - self._position
        if missing > 0:
            # before a take's first frame has come, what is missing is known to be lost too
            self.ledger.lost += missing
            if item is not None:
                item.lost += missing
            else:
                self._lost_before += missing
            self._position = sent
        elif missing < 0 and self.datagrams and "end" not in value:
            self._late = True  # overtaken or doubled: counted as lost when it was missing

    def _frame(self, line: bytes, subject: str, row: Any, names: list[str] | None) -> None:
        """Take in one frame."""
        self._position += 1
        if len(row) > self.ledger.limits.columns:
            self._refuse(f"has more columns than the limit of {self.ledger.limits.columns}")
            return
        if self.ledger.holding and not self.plays_drill:
            return
        item = self._open.get(subject)
        time = self._time_of(row, names)
        if item is not None and time is not None and item.last_time is not None:
            passed = (time - item.last_time) * self.ledger.clock[1]
            if not 0 <= passed <= self.ledger.gap:
                self._end(subject, "a pause" if passed > 0 else "time that began again")
                item = None
        if item is not None and names != item.names:
            self._refuse("is a frame of another kind than those before it")
            return
        if item is not None and not self._room(item, len(line) + 1, 1):
            limits = self.ledger.limits
            if item.file.frames >= limits.frames:
                self._end(subject, f"the limit of {limits.frames} frames in a take")
            else:
                self._end(subject, self._full())
                self._block(self._full())
            item = None
        item = item or self._begin(subject, names)
        if item is None:
            self._refuse("could not be saved")
            return
        self._save(item, line + b"\n", 1, [row])
        item.last_time = time

    def _room(self, item: OpenTake, size: int, count: int) -> bool:
        limits = self.ledger.limits
        return (
            item.file.frames + count <= limits.frames and self.ledger.written + size <= limits.disk
        )

    def _save(self, item: OpenTake, lines: bytes, count: int, rows: list[Any]) -> None:
        self.ledger.frames += count
        self.seen_frames += count
        if self.ledger.keep:
            item.rows.extend(rows)
        self.ledger.written += len(lines)
        try:
            item.file.write(lines, count)
        except OSError:
            self._give_up(next(key for key, value in self._open.items() if value is item))

    def _begin(self, subject: str, names: list[str] | None) -> OpenTake | None:
        """Open a take's file; None, with the reason kept, where that cannot be."""
        if self._unsaved:
            return None
        limits = self.ledger.limits
        if len(self._open) >= limits.subjects:
            self._block(f"the limit of {limits.subjects} subjects in a stream is met")
            return None
        if self.ledger.written >= limits.disk:
            self._block(self._full())
            return None
        header = {"kickback": 1, **self.ledger.defaults, **self._header}
        if not self.plays_drill:
            header |= self.ledger.overrides
        header.setdefault("recorded_at", datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ"))
        if subject:
            header["subject"] = subject
        if names is not None:
            header["columns"] = names
        if self.ledger.mapping is not None:
            header["mapping"] = self.ledger.mapping
        try:
            file = TakeFile(self.ledger.folder, self._stem(header, subject), header)
        except OSError as error:
            self._block(f"{self.ledger.folder} cannot be written ({reason_of(error)})")
            return None
        self._open[subject] = OpenTake(
            file=file,
            header=header,
            names=names,
            rows=deque(maxlen=self.ledger.keep or 1),
            clock=self._clock_in(names),
            plain=not subject and (names is None or "subject" not in names),
            lost=self._lost_before,
        )
        self._lost_before = 0
        self.ledger.events.append(Begun(origin=self.origin, header=header))
        return self._open[subject]

    def _full(self) -> str:
        return f"the limit of {self.ledger.limits.disk} bytes on disk is met"

    def _clock_in(self, names: list[str] | None) -> Any:
        """Return where a frame holds its time: a key, an index, or None."""
        name = self.ledger.clock[0]
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
        return float(value) if isinstance(value, int | float) else None

    def _block(self, reason: str) -> None:
        """Save nothing more until the next take; the sentence is said once."""
        self._unsaved = reason
        self.ledger.say(self.origin, f"frames are not saved: {reason}")

    def _stem(self, header: Mapping[str, Any], subject: str) -> str:
        """Return what a take's file is called."""
        parameters = header.get("parameters")
        name = parameters.get("name") if isinstance(parameters, dict) else None
        stem = self.ledger.stem or safe_name(str(name or header.get("subject") or "take"))
        if subject and (name or self.ledger.stem):
            stem = f"{stem}-{safe_name(subject)}"
        rate = header.get("frame_rate")
        if not self.ledger.stem and isinstance(rate, int | float) and not isinstance(rate, bool):
            stem = f"{stem}-{rate:g}"
        return f"{stem}-{datetime.now(UTC):%Y%m%d-%H%M%S}"

    def _give_up(self, subject: str) -> None:
        """End a take that cannot be written any more; what was written is kept."""
        problem = self._open[subject].file.problem
        self._end(subject, f"the disk ({problem})")
        self._block(problem)

    def _end(self, subject: str, ended_by: str) -> None:
        item = self._open.pop(subject)
        counts = {"dropped": item.dropped, "lost": item.lost, "refused": item.refused}
        frames = item.file.frames
        end = {"frames": frames, "ended_by": ended_by, **{k: v for k, v in counts.items() if v}}
        try:
            path = item.file.finish(end)
        except OSError as error:
            path, item.file.problem = item.file.path, reason_of(error)
        self.ledger.takes += 1
        self.ledger.events.append(
            Finished(
                path=path,
                frames=frames,
                ended_by=ended_by,
                origin=self.origin,
                problem=item.file.problem,
                **counts,
            )
        )

    def _too_long(self) -> None:
        self._line += 1
        self._refuse(f"is longer than the limit of {self.ledger.limits.line} bytes")

    def _refuse(self, reason: str) -> None:
        self.ledger.refused += 1
        for item in self._open.values():
            item.refused += 1
        if not self.ledger.first_refusal:
            self.ledger.first_refusal = f"line {self._line} {reason}"


def _decoded(text: bytes) -> Any:
    """Return a line's JSON, or None."""
    try:
        return msgspec.json.decode(text)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None


def _subject_in(names: list[str], values: list[Any]) -> str:
    return str(values[names.index("subject")]) if "subject" in names else ""


def _cell(cell: str, *, decimal_comma: bool) -> float | str:
    try:
        return float(cell.replace(",", ".") if decimal_comma else cell)
    except ValueError:
        return cell
