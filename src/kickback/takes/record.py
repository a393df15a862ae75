"""What all records are: frozen, slotted, keyword-only, checked once when made.

Structs of msgspec rather than dataclasses: thirty records are then defined in two
milliseconds instead of forty, a good part of what an ordinary take costs in all.
"""

from typing import TypeVar

import msgspec

__all__ = ["Record", "replace"]

R = TypeVar("R", bound="Record")


class Record(msgspec.Struct, frozen=True, eq=False, kw_only=True):
    """A frozen record, compared by identity: most hold arrays.

    A record class writes ``frozen=True, kw_only=True`` again: the one for the type
    checker, the other because it is not inherited.
    """


def replace(record: R, **changes: object) -> R:
    """Return a copy of a record with some fields changed."""
    changed: R = msgspec.structs.replace(record, **changes)
    return changed
