"""Budgets and targets: how far a metric may move, and what it should be."""

import re
from collections.abc import Mapping

from kickback.errors import InputError
from kickback.takes.record import Record

__all__ = ["DEFAULT_SHARE", "Budget", "budget_for", "parse_budget"]

DEFAULT_SHARE = 0.02
"""Share of a value that it may move where nobody wrote a budget: less is hardly felt."""

_TEXT = re.compile(r"\s*([0-9.]+(?:[eE][-+]?\d+)?)\s*(%|[^\s\d%][^\s%]*)?\s*")


class Budget(Record, frozen=True, kw_only=True):
    """An allowance: a share of the value, or an amount in the metric's own unit."""

    amount: float
    relative: bool
    unit: str | None = None

    def allowance(self, size: float) -> float:
        """Return how far a value of magnitude ``size`` may move, in the metric's unit."""
        return self.amount * size if self.relative else self.amount


def parse_budget(value: object, place: str) -> Budget:
    """Read ``"5 %"``, ``"0.1 m"`` or a number in the metric's unit.

    Raises InputError for anything else.
    """
    if isinstance(value, int | float) and not isinstance(value, bool) and value >= 0:
        return Budget(amount=float(value), relative=False)
    match = _TEXT.fullmatch(value) if isinstance(value, str) else None
    if match is None:
        raise InputError(f'a budget is "5 %", "0.1 m" or a number, not {value!r}', place)
    try:
        amount = float(match.group(1))
    except ValueError as error:
        raise InputError(f"'{match.group(1)}' is no number", place) from error
    if match.group(2) == "%":
        return Budget(amount=amount / 100, relative=True)
    return Budget(amount=amount, relative=False, unit=match.group(2))


def budget_for(budgets: Mapping[str, Budget], group: str, metric: str) -> Budget | None:
    """Return a metric's own budget, else its group's, else None."""
    return budgets.get(metric) or budgets.get(group)
