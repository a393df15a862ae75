"""Who may send: the token that a stream's first header must carry."""

import hmac

from kickback.record.lines import decoded

__all__ = ["refused_entry"]


def refused_entry(line: bytes, token: str) -> str:
    """Return why a stream may not go on after its first line, or nothing where it may."""
    value = decoded(line)
    sent = value.get("token", "") if isinstance(value, dict) else ""
    if hmac.compare_digest(str(sent).encode(), token.encode()):
        return ""
    what = "a wrong token" if sent else "no token in its header"
    return f"{what}; every sender must give the recorder's own"
