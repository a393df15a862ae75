"""What a recorder's streams share: the setup, and what there is to tell."""

import time
from dataclasses import dataclass, field
from pathlib import Path

from kickback.record.limits import Limits
from kickback.record.notices import Notice, Notices
from kickback.takes.plain import PlainMap
from kickback.takes.record import Record

__all__ = ["Begun", "Event", "Finished", "Ledger", "Notice"]


class Begun(Record, frozen=True, kw_only=True):
    """A take that has begun: where it comes from, and its header."""

    origin: str
    header: PlainMap


class Finished(Record, frozen=True, kw_only=True):
    """A take that has ended: its file, its frames, and what ended it.

    ``dropped`` frames were given up by the sender, ``lost`` ones on the way; ``refused``
    lines were no frames; ``problem`` says what could not be written. ``seconds``: how long
    it lasts by its own clock, None where it has none.
    """

    path: Path
    frames: int
    ended_by: str
    origin: str = ""
    dropped: int = 0
    lost: int = 0
    refused: int = 0
    problem: str = ""
    seconds: float | None = None


Event = Begun | Finished | Notice


@dataclass(slots=True)
class Ledger:
    """The setup of a recorder, its counts, and the events that nobody has taken yet.

    ``gap``: a pause that ends a take, s; ``mapping``: a foreign log's mapping in plain form;
    ``clock``: the column that holds a frame's time, and the factor to seconds;
    ``defaults``: header values where a sender gives none, ``overrides``: whatever it gives;
    ``stem``: what takes are called,
    their parameter set or subject without; ``answer``: the line that a sender gets which
    can play drills; ``keep``: recent frames kept in memory for a view; ``holding``: frames
    that come in now are not saved.
    """

    folder: Path
    gap: float = 2.0
    limits: Limits = field(default_factory=Limits)
    mapping: PlainMap | None = None
    clock: tuple[str, float] = ("t", 1.0)
    defaults: PlainMap = field(default_factory=dict)
    overrides: PlainMap = field(default_factory=dict)
    stem: str = ""
    answer: bytes = b'{"drill": null}\n'
    keep: int = 0
    holding: bool = False
    frames: int = 0
    refused: int = 0
    lost: int = 0
    dropped: int = 0
    takes: int = 0
    written: int = 0
    first_refusal: str = ""
    events: list[Event] = field(default_factory=list)
    notices: Notices = field(default_factory=Notices)

    def say(self, origin: str, text: str, kind: str = "") -> None:
        """Add a sentence to the events; of one ``kind`` no more than one a second.

        Without a kind it is its own: sentences that hold a sender's words need one.
        """
        notice = Notice(origin=origin, text=text)
        self.events += self.notices.fresh(notice, kind or text, time.monotonic())

    def sum_up(self, ahead: float = 0.0) -> None:
        """Say what was held back for a second, as it will be ``ahead`` seconds from now."""
        self.events += self.notices.overdue(time.monotonic() + ahead)

    def taken(self) -> list[Event]:
        """Return the events so far, and forget them."""
        events, self.events = self.events, []
        return events
