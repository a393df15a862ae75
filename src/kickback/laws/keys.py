"""What a law is of: a phase as a key with parts, never parsed out of text."""

import msgspec

__all__ = ["PhaseKey"]


class PhaseKey(msgspec.Struct, frozen=True):
    """A phase, or a moment between phases, that has a law of its own.

    ``base`` is the phase; ``part`` which part of it (``let go``), ``medium`` where it is not
    the ground (``in the air``), ``amount`` the share of a stick that is held, ``near_apex``
    that it is the slow part of a flight, ``side`` toward which end of an axis (``toward +x``), or
    whether it is ``straight`` along one or ``diagonal``.
    """

    base: str
    part: str = ""
    medium: str = ""
    amount: float | None = None
    near_apex: bool = False
    side: str = ""

    def __str__(self) -> str:
        """Return the key in words."""
        words = [self.base, self.part, self.medium]
        if self.amount is not None:
            words.append(f"at {self.amount:.0%}")
        if self.near_apex:
            words.append("near the apex")
        if self.side:
            words.append(self.side)
        return " ".join(word for word in words if word)
