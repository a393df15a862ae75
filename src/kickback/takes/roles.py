"""Roles: what a track of a motion is for, whichever column it is read from."""

from kickback.takes.record import Record

__all__ = ["Role"]


class Role(Record, frozen=True, kw_only=True):
    """What a track is for: its ``name``, and the reason where a take does not have it.

    ``gravity`` says that a constant acceleration along it is called gravity; ``speed`` is what the
    speed along it is called in code.
    """

    name: str
    missing: str
    gravity: bool = False
    speed: str = "speed"
