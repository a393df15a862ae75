"""How much a recorder takes in before it says no; every limit can be raised by its name."""

from kickback.errors import UsageError, nearest
from kickback.takes.record import Record, replace

__all__ = ["Limits", "limits_from"]


class Limits(Record, frozen=True, kw_only=True):
    """What one recorder accepts.

    ``line``: bytes in a line; ``columns``: columns in a frame; ``frames``: frames in a
    take, beyond which the next one begins; ``subjects``: takes open at once in one stream;
    ``connections``: senders at once; ``disk``: bytes written by all takes together.
    """

    line: int = 64 * 1024
    columns: int = 256
    frames: int = 5_000_000
    subjects: int = 16
    connections: int = 32
    disk: int = 8 * 1024**3


def limits_from(items: tuple[str, ...]) -> Limits:
    """Return the limits with those of ``items``, such as ``"frames=1000"``, changed.

    Raises UsageError for an unknown name or a number below 1.
    """
    changed: dict[str, int] = {}
    for item in items:
        name, _, text = item.partition("=")
        if name not in Limits.__struct_fields__:
            raise UsageError(f"no limit '{name}'{nearest(name, Limits.__struct_fields__)}")
        if not text.isdecimal() or int(text) < 1:
            raise UsageError(f"limit '{name}' must be a whole number above 0, not '{text}'")
        changed[name] = int(text)
    return replace(Limits(), **changed)
