"""Turns one stream of bytes into takes on disk, as they come.

A take file is written while the game runs, so that whatever ends the recorder, what has
arrived is in a readable file. Lines that are no frame are counted; they end nothing.
"""

from collections.abc import Callable

import msgspec

from kickback.errors import InputError
from kickback.record.admission import Gate
from kickback.record.framing import Framing
from kickback.record.ledger import Ledger
from kickback.record.lines import (
    BOM,
    End,
    Frame,
    Head,
    Lines,
    Mark,
    Refused,
    Said,
    decoded,
    distinct,
    many_frames,
)
from kickback.record.losses import Losses, is_count
from kickback.record.open_takes import OpenTake, OpenTakes
from kickback.takes.header import Header
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.ranges import beyond_range

__all__ = ["OpenTake", "Session"]

_OF_THE_STREAM = {"token", "accepts", "take"}
"""Keys of a header that are about the stream, not the take."""


class Session:
    """Splits a stream into takes: at headers, end objects, pauses, and time that restarts.

    ``token`` is what the first header must carry, None where anyone may send. ``enter``
    is asked for a seat, before a network's sender sends its first sound line, and
    says why there is none; it is None where none is needed. ``rejected`` says why
    nothing more is taken from this stream; ``replies`` are lines for the sender;
    ``plays_drill`` says that it can play a drill by itself.
    """

    def __init__(
        self,
        origin: str,
        ledger: Ledger,
        token: str | None = None,
        *,
        datagrams: bool = False,
        enter: Callable[[], str] | None = None,
    ) -> None:
        self.origin, self.ledger = origin, ledger
        self.rejected = ""
        self.replies: list[bytes] = []
        self.plays_drill = False
        self.datagrams = datagrams
        self._gate = Gate(token, enter, patient=datagrams)
        self._header: PlainDict = {}
        self._framing = Framing(ledger.limits.line)
        self._lines = Lines(strict=enter is not None and ledger.mapping is None)
        self._losses = Losses(datagrams=datagrams)
        self._takes = OpenTakes(origin, ledger)
        self._line = 0
        self._saved = 0
        self._late = False

    def feed(self, data: bytes) -> None:
        """Take in bytes; a line may come in pieces."""
        for block in self._framing.blocks(data):
            if self.rejected:
                return
            if block is None:
                self._line += 1
                reason = f"is longer than the limit of {self.ledger.limits.line} bytes"
                if self._gate.shut:  # no header is: whoever begins so is no sender
                    self.reject(f"its first line {reason}")
                else:
                    self._refuse(reason)
            else:
                self._feed_block(block)

    def feed_datagram(self, data: bytes) -> None:
        """Take in a datagram: whole lines, of which the last needs no line end."""
        self._late = False
        self.feed(data if data.endswith(b"\n") else data + b"\n")
        self._framing.clear()

    def end(self, reason: str = "the sender left") -> None:
        """End the stream; a last line that no line end closed counts where it is whole."""
        rest = self._framing.rest().strip()
        if rest and not self.rejected:
            # a CSV row may have lost digits unnoticed; JSON is whole or it is not JSON
            if rest[:1] in b"{[" and decoded(rest) is not None:
                self._feed_line(rest)
            else:
                self._line += 1
                self._refuse("was cut off: the stream ended in the middle of it")
        self.cut(reason)

    def cut(self, reason: str) -> None:
        """End the takes that are open; the stream goes on."""
        self._takes.cut(reason)

    @property
    def begun(self) -> bool:
        """Whether frames have come, saved or not."""
        return self._losses.position > 0 or self._saved > 0

    @property
    def seen_frames(self) -> int:
        """Return how many frames were saved."""
        return self._saved

    @property
    def open_takes(self) -> list[OpenTake]:
        """Return the takes that are being received."""
        return self._takes.every()

    def flush(self) -> None:
        """Hand what was written to the operating system; a take that cannot be ends."""
        self._takes.flush()

    def reject(self, reason: str) -> None:
        """Take nothing more from this stream, and tell both sides why."""
        self.rejected = reason
        self._answer_refusal(reason)

    def _answer_refusal(self, reason: str) -> None:
        self.replies.append(msgspec.json.encode({"error": reason}) + b"\n")
        self.ledger.say(self.origin, f"refused: {reason}", kind="refused")

    def _feed_block(self, block: bytes) -> None:
        """Take in whole lines: runs of frames at once, anything else line by line."""
        at, tried = 0, 0
        while at < len(block) and not (self.rejected or self._late):
            item = self._takes.of("")
            if at >= tried and item is not None and item.plain:
                tried = _run_end(block, at, arrays=item.names is not None)
                if tried > at and self._fed_quickly(block[at:tried], item):
                    at = tried
                    continue
            end = block.find(b"\n", at) + 1
            self._feed_line(block[at : end - 1])
            at = end

    def _fed_quickly(self, block: bytes, item: OpenTake) -> bool:
        """Take in many frames of the open take at once; False where one is unusual."""
        rows = many_frames(block, item.names)
        if rows is None or not self._takes.fed_quickly(item, block, rows):
            return False
        self._line += len(rows)
        self._losses.position += len(rows)
        self._saved += len(rows)
        return True

    def _feed_line(self, line: bytes) -> None:
        """Take in one line."""
        self._line += 1
        text = line.strip().removeprefix(BOM).lstrip()
        if not text or (self._gate.shut and not self._let_in(text)):
            return
        said = self._lines.read(text)
        while self._lines.mistaken:
            self._lines.mistaken -= 1
            self._refuse("or one before it is no frame, nor the names of its columns")
        sound = not isinstance(said, Refused | None)
        if self._gate.shut and sound and not self._seated():
            return
        self._obey(said)

    def _obey(self, said: Said) -> None:
        """Do what a line says."""
        match said:
            case Frame() as frame:
                self._frame(frame)
            case Head(value):
                self._new_header(value)
            case Mark(value):
                self._mark(value)
            case End(value):
                self._mark(value)
                if not self._late:
                    self.cut("its end object")
                    self._losses.spend()
            case Refused(reason):
                self._refuse(reason)

    def _let_in(self, text: bytes) -> bool:
        """Whether a line passes the gate."""
        reason = self._gate.refusal(text)
        if reason is None:
            return True
        if self._gate.ends(reason):
            self.reject(reason)
        elif reason:
            self._answer_refusal(reason)
        return False

    def _seated(self) -> bool:
        """Whether there is a seat for a sender that makes sense."""
        full = self._gate.seat()
        if full:
            self.reject(full)
        return not full

    def _new_header(self, value: PlainDict) -> None:
        take = value.get("take")
        if take is not None and self.datagrams and not self._losses.is_next(take):
            if not self._header:
                self._adopt(value)
            return  # datagrams can be lost, so their header is sent again and again
        self.cut("the next header")
        self._losses.spend()
        self._losses.begin(take)
        self._adopt(value)

    def _adopt(self, value: PlainDict) -> None:
        """Make a header that of the frames to come, and answer it."""
        header = self._sound(
            {key: item for key, item in value.items() if key not in _OF_THE_STREAM}
        )
        names = header.pop("columns", None)
        most = self.ledger.limits.columns
        if isinstance(names, list) and len(names) > most:
            self.reject(f"{len(names)} columns are more than the limit of {most}")
            return
        self._lines.names = self._names_in(names)
        self._header = header
        accepts = value.get("accepts")
        if isinstance(accepts, list) and "drill" in accepts:
            self.plays_drill = True
            self.replies.append(self.ledger.answer)

    def _sound(self, header: PlainDict) -> PlainDict:
        """Return a header that readers take; one that makes no sense is kept inside of it."""
        try:
            Header.from_mapping(header, "the header")
        except InputError as error:
            self.ledger.say(
                self.origin, f"{error}; the take is kept, with it as 'header_sent'", kind="header"
            )
        else:
            return header
        sent: object = header
        if beyond_range(header) is not None:  # readers refuse such numbers: kept as words
            sent = msgspec.json.encode(header).decode()
        return {"kickback": 1, "header_sent": sent, "columns": header.get("columns")}

    def _names_in(self, names: object) -> list[str] | None:
        """Return a header's column names, told apart; None where it has none."""
        if names is None:
            return None
        if not isinstance(names, list) or not all(isinstance(name, str) for name in names):
            what, found = "is no list of names: arrays cannot be frames", None
        else:
            what, found = "has empty or doubled names: numbers tell them apart", distinct(names)
        if found != names:
            self.ledger.say(self.origin, f"the header's 'columns' {what}", kind="columns")
        return found

    def _mark(self, value: PlainMap) -> None:
        """Take in what a sender counts: frames sent before this line, and frames given up."""
        losses, take = self._losses, value.get("take")
        if losses.is_late(take):
            self._late = True
            return
        if losses.is_next(take):
            if losses.take is not None:
                self.cut("the next take")
                self._header, self._lines.names = {}, None
            losses.spend()
            losses.begin(take)
        item = next(iter(self._takes.every()), None)
        dropped = value.get("dropped")
        if is_count(dropped) and item is not None:
            self.ledger.dropped += max(0, dropped - item.dropped)
            item.dropped = max(item.dropped, dropped)
        self._count(losses.missing(value), item)

    def _count(self, missing: int, item: OpenTake | None) -> None:
        """Count frames that were lost on the way; fewer than none are late."""
        if missing < 0:
            self._late = True
            return
        self.ledger.lost += missing
        if item is not None:
            item.lost += missing
        else:  # before a take's first frame has come, what is missing is known to be lost too
            self._losses.before += missing

    def _frame(self, frame: Frame) -> None:
        """Take in one frame."""
        self._losses.position += 1
        most = self.ledger.limits.columns
        if len(frame.row) > most:
            self._refuse(f"has more columns than the limit of {most}")
            return
        if self.ledger.holding and not self.plays_drill:
            return
        before = self._takes.of(frame.subject)
        reason = self._takes.add(
            frame, self._header, self._losses.before, overrides=not self.plays_drill
        )
        if reason:
            self._refuse(reason)
            return
        if self._takes.of(frame.subject) is not before:
            self._losses.before = 0
        self._saved += 1

    def _refuse(self, reason: str) -> None:
        self.ledger.refused += 1
        for item in self._takes.every():
            item.refused += 1
        if not self.ledger.first_refusal:
            self.ledger.first_refusal = f"line {self._line} {reason}"


def _run_end(block: bytes, at: int, *, arrays: bool) -> int:
    """Return where the lines from ``at`` on end that may all be frames, which is there for none."""
    if arrays and block[at : at + 1] != b"[":
        return at
    return (block.find(b"\n{", at) + 1 if arrays else 0) or len(block)
