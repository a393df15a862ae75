"""What solving gives: parameters, what becomes of wishes, and which exclude each other."""

from collections.abc import Mapping, Sequence

from kickback.takes.header import Value
from kickback.takes.quantities import Unit
from kickback.takes.record import Record

__all__ = ["Choice", "Conflict", "Got", "Solution"]


class Got(Record, frozen=True, kw_only=True):
    """A wish and what the model gives: ``solved`` at the rate that it was solved for, exactly.

    ``rounded`` with the numbers as they are written, ``by_rate`` the same at frame rates; None
    where a take of it does not show the metric.
    """

    metric: str
    unit: Unit
    wanted: float
    before: float | None
    solved: float | None
    rounded: float | None
    by_rate: Mapping[float, float | None]

    @property
    def residual(self) -> float:
        """Return how far the exact solution is off, as a share of what is wanted."""
        return float("inf") if self.solved is None else abs(self.solved / self.wanted - 1)


class Choice(Record, frozen=True, kw_only=True):
    """One way out of a conflict: what is given up, and what it then is.

    ``becomes`` is None where that does not help.
    """

    name: str
    unit: str
    kept: bool
    wanted: float
    becomes: float | None


class Conflict(Record, frozen=True, kw_only=True):
    """Wishes that exclude each other: they are had by ``knobs`` alone, of which some are kept."""

    wishes: tuple[str, ...]
    knobs: tuple[str, ...]
    kept: tuple[str, ...]
    choices: Sequence[Choice]


class Solution(Record, frozen=True, kw_only=True):
    """Parameters that fulfil wishes: ``values`` as they are written, ``exact`` before rounding.

    ``changed`` are those that were set, with what they were; ``free`` others that the wishes
    could be had by, and that were left as they are. ``nearest``: no values fulfil the wishes,
    these come nearest. With a ``conflict`` nothing is changed.
    """

    kind: str
    rate: float
    values: Mapping[str, Value]
    exact: Mapping[str, Value]
    changed: Mapping[str, Value]
    free: Sequence[str]
    got: Sequence[Got]
    nearest: bool = False
    conflict: Conflict | None = None

    @property
    def solved(self) -> bool:
        """Whether all wishes are fulfilled."""
        return self.conflict is None and not self.nearest
