"""What a check finds, and what kinds of findings there are."""

from kickback.motion.segments import stretches
from kickback.takes.plain import PlainDict
from kickback.takes.record import Record

__all__ = ["SEVERITIES", "Finding", "FindingKind", "finding", "stretches", "times"]

SEVERITIES = ("note", "warning", "error")


class FindingKind(Record, frozen=True, kw_only=True):
    """One entry of the table: its code, usual severity, what to do, and which codes it explains."""

    code: str
    severity: str
    advice: str
    explains: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Refuse an entry that cannot work, when it is made: at import."""
        if not self.code or not self.advice or self.severity not in SEVERITIES:
            raise TypeError(f"the finding '{self.code}' is incomplete")


class Finding(Record, frozen=True, kw_only=True):
    """Something about a take that a conclusion should not be built on unseen.

    Frames ``[start, stop)``; ``message`` says what, and what to do. ``column`` is the one
    that it is about, where it is about one; ``opposite`` that it holds the opposite.
    """

    take: str
    kind: FindingKind
    severity: str
    start: int
    stop: int
    message: str
    column: str = ""
    opposite: bool = False

    @property
    def code(self) -> str:
        """Return the code of its kind."""
        return self.kind.code

    def to_record(self) -> PlainDict:
        """Return the flat record that other tools read."""
        names = ("take", "code", "severity", "start", "stop", "message")
        return {name: getattr(self, name) for name in names}


def finding(
    kind: FindingKind,
    start: int,
    stop: int,
    what: str,
    *,
    column: str = "",
    opposite: bool = False,
) -> Finding:
    """Return a finding of frames ``[start, stop)``; the take's name is filled in later."""
    return Finding(
        take="",
        kind=kind,
        severity=kind.severity,
        start=int(start),
        stop=int(stop),
        message=f"{what}; {kind.advice}",
        column=column,
        opposite=opposite,
    )


def times(many: int) -> str:
    """Say how often something happened."""
    return "once" if many == 1 else f"{many} times"
