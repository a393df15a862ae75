"""What a metric depends on beside the game's numbers: how it was played."""

from kickback.takes.record import Record

__all__ = ["Dependence"]


class Dependence(Record, frozen=True, kw_only=True):
    """One thing that players do differently each time, and that a metric goes with.

    ``name`` is its key among what is given with occurrences, ``words`` say what it is, ``unit``
    what it is in, in words. Between two plays of one game the metric goes with at least the
    first and at most the second of ``powers`` of it: a distance to a stop with the first to the
    second power of the speed before it. None where no power is known: then only plays that are
    alike ``within`` so much are compared. ``instead`` is the key of what is compared where the
    first is not known on both sides.
    """

    name: str
    words: str
    instead: str = ""
    unit: str = ""
    powers: tuple[float, float] | None = None
    within: float = 0.0

    @property
    def told(self) -> bool:
        """Whether something that is given with an occurrence says it."""
        return self.powers is not None or self.within > 0
