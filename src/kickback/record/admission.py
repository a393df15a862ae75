"""Who may send: the token that a stream's first header must carry, and who is no sender."""

import hmac
import re

from kickback.files.json_lines import is_header
from kickback.record.lines import decoded

__all__ = ["refused_entry", "speaks_http"]

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
