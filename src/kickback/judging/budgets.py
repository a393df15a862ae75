"""Budgets and targets: how far a metric may move, what it must be, and what it should be."""

from collections.abc import Mapping
from fnmatch import fnmatchcase
from typing import NamedTuple

from kickback.errors import InputError, nearest
from kickback.takes.amounts import Amount, Scales, parse_amount
from kickback.takes.plain import PlainDict
from kickback.takes.quantities import RATIO, Dimension, Unit
from kickback.takes.record import Record

__all__ = [
    "BUDGET_KEYS",
    "DEFAULT_SHARE",
    "Allowance",
    "Budget",
    "Target",
    "budget_for",
    "parse_budget",
    "parse_target",
    "size_of",
]

DEFAULT_SHARE = 0.02
"""Share of a value that it may move where nobody wrote a budget: less is hardly felt."""

_SIDES = ("up", "down")
_WISHES = ("at_least", "at_most")

BUDGET_KEYS = frozenset((*_SIDES, *_WISHES))
"""What a budget that is a table may say."""

_NEARLY_NONE = 0.01
"""Share below which a budget in % is one of the whole, not of the share."""

_INFINITE = float("inf")


class Allowance(NamedTuple):
    """How far a value may go up and down, in its unit; infinite where nothing bounds it."""

    up: float
    down: float

    @property
    def least(self) -> float:
        """Return the tighter of the two."""
        return min(self)

    def over(self, change: float) -> float:
        """Return a change in budgets: beyond 1 it is more than is allowed."""
        side = self.up if change > 0 else self.down
        if not side:
            return _INFINITE if change else 0.0
        return abs(change) / side


def size_of(size: float, unit: Unit) -> float:
    """Return what a share of a metric is taken of: of the whole, where it is a share near none."""
    return 1.0 if unit.dimension == RATIO and size < _NEARLY_NONE else size


class Budget(Record, frozen=True, kw_only=True):
    """How far a metric may move ``up`` and ``down``, and what it is ``at_least`` and ``at_most``.

    None where nothing bounds it. ``scales`` are the project's.
    """

    up: Amount | None = None
    down: Amount | None = None
    at_least: Amount | None = None
    at_most: Amount | None = None
    scales: Scales = Scales()

    @property
    def text(self) -> str:
        """Return it as it is written."""
        if self.up is not None and self.up is self.down:
            return self.up.text
        parts = [f"{key.replace('_', ' ')} {one.text}" for key, one in self._parts()]
        return ", ".join(parts)

    @property
    def moves(self) -> bool:
        """Whether it bounds a change at all, beside what the value is."""
        return self.up is not None or self.down is not None

    def _parts(self) -> list[tuple[str, Amount]]:
        every = ((key, getattr(self, key)) for key in (*_SIDES, *_WISHES))
        return [(key, one) for key, one in every if one is not None]

    def fits(self, dimension: Dimension) -> bool:
        """Whether it can be one of a metric of a dimension."""
        return all(
            (key in _SIDES and one.relative)
            or (not one.unit and (not one.number or dimension == RATIO))
            or (one.relative and dimension == RATIO)
            or (bool(one.unit) and one.fits(dimension, self.scales))
            for key, one in self._parts()
        )

    def allowance(self, size: float, unit: Unit) -> Allowance:
        """Return how far a value of magnitude ``size`` may move, in the metric's unit.

        Raises InputError where a length cannot be brought to the unit.
        """
        up, down = (self._side(one, size, unit) for one in (self.up, self.down))
        return Allowance(up, down)

    def _side(self, one: Amount | None, size: float, unit: Unit) -> float:
        if one is None:
            return _INFINITE
        if not one.relative:
            return one.within(unit, self.scales, "budget ")
        return one.number / 100 * size_of(size, unit)

    def bounds(self, unit: Unit) -> tuple[float, float]:
        """Return what the value is at least and at most, infinite where nothing says it."""
        low, high = (
            None if one is None else one.within(unit, self.scales, "budget ")
            for one in (self.at_least, self.at_most)
        )
        return -_INFINITE if low is None else low, _INFINITE if high is None else high


class Target(Record, frozen=True, kw_only=True):
    """What a metric should be."""

    amount: Amount
    scales: Scales = Scales()

    @classmethod
    def of_number(cls, number: float) -> "Target":
        """Return a target in the metric's own unit, whatever that is."""
        return cls(amount=Amount(number=number, unit="", text=f"{number:g}"))

    def fits(self, dimension: Dimension) -> bool:
        """Whether it can be one of a metric of a dimension."""
        bare = not self.amount.unit or self.amount.relative
        return dimension == RATIO if bare else self.amount.fits(dimension, self.scales)

    def within(self, unit: Unit) -> float:
        """Return it in the metric's unit; raises InputError where it cannot be brought there."""
        if not self.amount.unit:
            return self.amount.number
        return self.amount.within(unit, self.scales, "target ")


def parse_budget(value: object, place: str = "", scales: Scales | None = None) -> Budget:
    """Read ``"5 %"``, ``"10 ms"``, ``{up = …, down = …}`` or ``{at_least = …, at_most = …}``.

    Raises InputError for anything else, and for a unit that is none.
    """
    own = scales or Scales()
    if not isinstance(value, Mapping):
        both = _positive(value, place, own)
        return Budget(up=both, down=both, scales=own)
    for key in value:
        if key not in BUDGET_KEYS:
            raise InputError(f"a budget has no '{key}'{nearest(key, sorted(BUDGET_KEYS))}", place)
    if not value:
        raise InputError("a budget must say something: up, down, at_least or at_most", place)
    read: PlainDict = {key: _positive(value[key], place, own) for key in _SIDES if key in value}
    read |= {
        key: parse_amount(value[key], place, f"'{key}'", own) for key in _WISHES if key in value
    }
    return Budget(**read, scales=own)


def _positive(value: object, place: str, scales: Scales) -> Amount:
    amount = parse_amount(value, place, "a budget", scales)
    if amount.number < 0:
        raise InputError(f"a budget is not below zero, as {value!r} is", place)
    return amount


def parse_target(value: object, place: str = "", scales: Scales | None = None) -> Target:
    """Read ``"4 tiles"``; raises InputError for what is no amount with a known unit."""
    own = scales or Scales()
    return Target(amount=parse_amount(value, place, "a target", own), scales=own)


def budget_for(budgets: Mapping[str, Budget], metric: str, dimension: Dimension) -> Budget | None:
    """Return a metric's own budget, else its pattern's, else its group's, else None.

    Of several patterns the longest counts. One of a group or a pattern is for those of its
    metrics whose dimension it has.
    """
    if metric in budgets:
        return budgets[metric]
    group = metric.partition(".")[0]
    names = [name for name in budgets if name == group or fnmatchcase(metric, name)]
    fitting = [name for name in names if budgets[name].fits(dimension)]
    return budgets[max(fitting, key=lambda name: (name != group, len(name)))] if fitting else None
