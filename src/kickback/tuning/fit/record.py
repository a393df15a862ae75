"""What fitting a game gives: its numbers, what is unread, and how far the model runs apart."""

from collections.abc import Mapping, Sequence

from kickback.kinds.fitting import Number, Unread
from kickback.takes.header import Value
from kickback.takes.quantities import Unit
from kickback.takes.record import Record

__all__ = ["Divergence", "Fitted", "MetricApart"]


class Divergence(Record, frozen=True, kw_only=True):
    """How far a take and the model that plays its inputs run apart in one column.

    ``usual`` and ``largest`` are sizes of differences, in ``unit``, the latter at ``time``, s, in
    a ``phase``; ``noise`` is the usual standard error of the take's own numbers. ``within``:
    whether all but single frames are what that leaves. ``missing`` says what is not played.
    """

    take: str
    rate: float
    column: str
    unit: Unit
    usual: float
    largest: float
    time: float
    phase: str
    noise: float
    within: bool
    missing: str = ""


class MetricApart(Record, frozen=True, kw_only=True):
    """A metric of a take and of the model that plays its inputs; None where that shows none."""

    take: str
    metric: str
    unit: Unit
    own: float
    model: float | None
    resolution: float

    @property
    def share(self) -> float:
        """Return the difference as a share of the take's number; infinite where that is none."""
        if self.model is None:
            return float("inf")
        gap = abs(self.model - self.own)
        if gap == 0:
            return 0.0
        return gap / abs(self.own) if self.own else float("inf")


class Fitted(Record, frozen=True, kw_only=True):
    """A game as parameters: ``values`` are what a parameter file holds.

    ``numbers`` are those that were read, with errors; ``unread`` what no take shows, ``none`` what
    of that is taken for none and stands as 0 among the values.
    ``mistakes`` are the causes of a dependence on the frame rate that it makes. ``divergence`` and
    ``metrics`` tell how it was held against the takes; ``fits`` is the verdict of that.
    """

    kind: str
    rate: float
    length_unit: str
    values: Mapping[str, Value]
    numbers: Sequence[Number]
    unread: Sequence[Unread]
    none: Sequence[Unread]
    mistakes: Sequence[str]
    divergence: Sequence[Divergence]
    metrics: Sequence[MetricApart]
    warnings: Sequence[str] = ()
    fits: bool = True
