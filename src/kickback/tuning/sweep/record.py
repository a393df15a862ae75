"""What is varied, what was played, and what moves what."""

from collections.abc import Mapping, Sequence

from kickback.takes.header import Value
from kickback.takes.record import Record

__all__ = ["Corner", "Elasticity", "Knob", "Point", "SweepPlan", "Swept", "Trade"]


class Knob(Record, frozen=True, kw_only=True):
    """A parameter that is varied, over its ``values`` or from ``low`` to ``high``.

    With neither it is only moved a little, to see what goes with it.
    """

    name: str
    low: float | None = None
    high: float | None = None
    values: tuple[float, ...] = ()

    @property
    def swept(self) -> bool:
        """Whether it goes over a range."""
        return bool(self.values) or self.low is not None


class SweepPlan(Record, frozen=True, kw_only=True):
    """The sets to be played: what each has otherwise than the ``base``.

    The first is the base itself, two follow for each of the ``nudged`` parameters, which is
    ``nudge`` lower and higher as a share, and then those over the ranges of ``knobs``.
    """

    base: Mapping[str, Value]
    knobs: Sequence[Knob]
    nudged: Sequence[str]
    nudge: float
    sets: Sequence[Mapping[str, float]]

    @property
    def first_swept(self) -> int:
        """Return the number of the first set over the ranges."""
        return 1 + 2 * len(self.nudged)


class Point(Record, frozen=True, kw_only=True):
    """One set as it was played at a frame rate: its metrics, None where a take has none."""

    number: int
    rate: float
    metrics: Mapping[str, float | None]


class Elasticity(Record, frozen=True, kw_only=True):
    """By how many per cent a metric moves with one per cent of a parameter, at the base.

    ``leaps``: it moves unevenly, in whole frames perhaps, so that the number is a mean.
    """

    metric: str
    parameter: str
    rate: float
    value: float
    leaps: bool


class Corner(Record, frozen=True, kw_only=True):
    """Whether any set has both metrics at one end of what is had: the outer third of each."""

    first_high: bool
    second_high: bool
    sets: int


class Trade(Record, frozen=True, kw_only=True):
    """How two metrics go together over all sets: ``rank`` is Spearman's correlation.

    ``bands`` are ranges of the first, each with the lowest and the highest of the second in it.
    ``sets`` of all that there are show both.
    """

    first: str
    second: str
    rate: float
    rank: float
    sets: int
    of: int
    bands: Sequence[tuple[float, float, float, float]]
    corners: Sequence[Corner]


class Swept(Record, frozen=True, kw_only=True):
    """A sweep: its plan, every point, and by what the parameters move the metrics.

    ``units`` are those of the metrics. ``unmoved`` are nudged parameters that move nothing.
    """

    plan: SweepPlan
    rates: Sequence[float]
    points: Sequence[Point]
    units: Mapping[str, str]
    elasticities: Sequence[Elasticity]
    unmoved: Sequence[str]
    trades: Sequence[Trade] = ()

    def of(self, parameter: str, rate: float) -> list[Elasticity]:
        """Return what a parameter moves at a frame rate, what it moves most first."""
        rows = [one for one in self.elasticities if (one.parameter, one.rate) == (parameter, rate)]
        return sorted(rows, key=lambda one: -abs(one.value))

    def over(self, rate: float) -> list[Point]:
        """Return the points of the base and of the ranges, at a frame rate."""
        first = self.plan.first_swept
        return [
            one
            for one in self.points
            if one.rate == rate and (one.number == 0 or one.number >= first)
        ]

    def at(self, number: int, rate: float) -> Mapping[str, float | None]:
        """Return the metrics of a set at a frame rate; empty where it has none."""
        found = (one.metrics for one in self.points if (one.number, one.rate) == (number, rate))
        return next(found, {})
