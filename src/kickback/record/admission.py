"""Who may send: the token that a stream's first header must carry, and who is no sender."""

import hmac
import re
from collections.abc import Callable

from kickback.files.json_lines import is_header
from kickback.record.lines import MARKS, decoded

__all__ = ["Gate", "refused_entry", "speaks_http"]

_METHODS = rb"(?:GET|HEAD|POST|PUT|PATCH|DELETE|OPTIONS|CONNECT|TRACE|PRI)(?:\s|$)"
_HTTP = re.compile(rb"(?!#?\s*[{\[])(?:" + _METHODS + rb"|\S+\s.*HTTP/\d)", re.DOTALL)


def refused_entry(line: bytes, token: str) -> str:
    """Return why a stream may not go on after its first line, or nothing where it may."""
    value = decoded(line)
    sent = value.get("token", "") if isinstance(value, dict) and is_header(value) else ""
    if hmac.compare_digest(str(sent).encode(), token.encode()):
        return ""
    what = "a wrong token" if sent else "no token in its header"
    return f"{what}; every sender must give the recorder's own"


def speaks_http(line: bytes) -> bool:
    """Whether a stream's first line is a request of a web page or its browser.

    Any page can make a browser send lines to this machine: they are not let in.
    """
    return _HTTP.match(line) is not None


class Gate:
    """What a sender passes before its first line counts: the token, and a seat.

    ``enter`` gives a seat, or says why there is none; without it there is no gate.
    ``patient``: a line without the token ends nothing, since datagrams are lost and a later
    header may have it.
    """

    def __init__(
        self, token: str | None, enter: Callable[[], str] | None, *, patient: bool
    ) -> None:
        self._token, self._enter, self._patient = token, enter, patient
        self._told = False

    @property
    def shut(self) -> bool:
        """Whether the sender still has to pass."""
        return self._token is not None or self._enter is not None

    def refusal(self, line: bytes) -> str | None:
        """Return why a line does not pass, None where it does; "" where that has been told."""
        if self._token is not None:
            reason = refused_entry(line, self._token)
            if reason:
                return self._first(line, reason) if self._patient else reason
            self._token = None
        if self._enter is not None and speaks_http(line):
            return "speaks HTTP; a browser's game sends to the ws:// address"
        return None

    def ends(self, reason: str) -> bool:
        """Whether a refusal is the end of the stream."""
        return bool(reason) and not (self._patient and self._token is not None)

    def seat(self) -> str:
        """Take a seat for a sender whose line made sense; why there is none, or nothing."""
        reason = self._enter() if self._enter is not None else ""
        if not reason:
            self._enter = None
        return reason

    def _first(self, line: bytes, reason: str) -> str:
        """Return a reason once; marks go before every datagram's header and need no token."""
        value = decoded(line)
        mark = isinstance(value, dict) and set(value) <= MARKS
        if mark or self._told:
            return ""
        self._told = True
        return reason
