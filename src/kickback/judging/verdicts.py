"""What becomes of a change: its verdict, by what bounds it and by what it may be."""

from collections.abc import Mapping
from typing import NamedTuple

from kickback.judging.budgets import DEFAULT_SHARE, Allowance, Budget, Target, budget_for, size_of
from kickback.takes.quantities import Unit
from kickback.takes.record import Record
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["FAILING", "VERDICTS", "Change", "Judged", "Rules", "Verdict", "judged", "of_bounds"]


class Verdict(NamedTuple):
    """A word for what became of a metric, and what it says."""

    name: str
    about: str


VERDICTS = (
    Verdict("missed", "it is not what it must be (at_least, at_most)"),
    Verdict("lost", "only the base has it"),
    Verdict("regressed", "it moved beyond a budget that somebody wrote"),
    Verdict("cannot-tell", "what is known of it does not settle whether it is within its budget"),
    Verdict("closer", "it moved beyond its budget, toward its target"),
    Verdict("changed", "it moved, and nobody wrote a budget for it"),
    Verdict("new", "only the candidate has it"),
    Verdict("moved", "it moved within its budget"),
    Verdict("met", "it is what it must be"),
    Verdict("same", "it did not move"),
)
"""Every verdict of a comparison, what needs attention most first."""

FAILING = frozenset({"missed", "regressed"})
"""Verdicts that fail always; ``lost`` fails where a budget or a baseline asks for the metric."""

_HIDDEN = 2.05
"""Resolutions that a metric may move where nobody wrote a budget: two frames, and rounding."""

_NONE = 1e-250
"""A number below which there is none: a kept 0 has a grid of its own."""


class Change(NamedTuple):
    """A change of a metric and what bounds it; ``clear``: no test speaks against its having moved.

    ``size`` is the magnitude that arithmetic is held against, ``located`` what the takes' own
    resolution hides: less is no change where nobody wrote a budget. ``value`` is what the candidate
    itself shows, however it was played, known within ``known``.
    """

    base: float
    candidate: float
    low: float
    high: float
    size: float
    value: float
    known: float
    clear: bool = True
    located: float = 0.0

    @property
    def change(self) -> float:
        """Return the change itself."""
        return self.candidate - self.base

    @property
    def moved(self) -> bool:
        """Whether the metric is known to have moved."""
        least = max(self.low, -self.high, 0.0)
        known = self.low > 0 or self.high < 0
        return self.clear and known and max(least, abs(self.change)) > ARITHMETIC * self.size


class Rules(Record, frozen=True, kw_only=True):
    """What metrics are held against; ``gate``: what nobody wrote a budget for may fail as well."""

    budgets: Mapping[str, Budget] = {}
    targets: Mapping[str, Target] = {}
    gate: bool = False

    def written(self, metric: str, unit: Unit) -> Budget | None:
        """Return the budget that somebody wrote for a metric, or None."""
        return budget_for(self.budgets, metric, unit.dimension)

    def asks(self, metric: str, unit: Unit) -> bool:
        """Whether a budget, a target or a baseline asks for a metric."""
        return self.gate or metric in self.targets or self.written(metric, unit) is not None

    def target(self, metric: str, unit: Unit) -> float | None:
        """Return a metric's target in its unit, or None."""
        own = self.targets.get(metric)
        return None if own is None else own.within(unit)


class Judged(NamedTuple):
    """A verdict, why, what judged it, and whether it fails."""

    verdict: str
    reason: str
    allowance: Allowance
    budget: str
    fails: bool


_DEFAULT = f"{DEFAULT_SHARE:.0%}"


def judged(change: Change, metric: str, unit: Unit, rules: Rules) -> Judged:
    """Return the verdict on a change of a metric, in its unit.

    Raises InputError for a budget or a target that cannot be brought to the unit.
    """
    own = rules.written(metric, unit)
    target = rules.target(metric, unit)
    moves = own is not None and own.moves
    allowance, text = _allowed(change, own, unit)
    verdict, reason = of_bounds(change.value, change.known, own, unit)
    if verdict != "missed":
        binds = rules.gate or target is not None or moves
        found, why = _of_change(change, allowance, binds=binds, unit=unit)
        if not verdict or (binds and found in {"regressed", "cannot-tell"}):
            verdict, reason = found, why
    if verdict == "regressed" and target is not None and _nearer(change, target):
        verdict, reason = "closer", f"target {target:g} {unit}"
    return Judged(verdict, reason, allowance, text, verdict in FAILING)


def _allowed(change: Change, own: Budget | None, unit: Unit) -> tuple[Allowance, str]:
    """Return what a metric may move, and how that was written: 2 % where nobody wrote it."""
    size = size_of(abs(change.base), unit)
    if own is not None and own.moves:
        return own.allowance(size, unit), own.text
    usual = max(DEFAULT_SHARE * size, _HIDDEN * change.located)
    return Allowance(usual, usual), _DEFAULT if own is None else f"{own.text}, {_DEFAULT}"


def _nearer(change: Change, target: float) -> bool:
    return abs(change.candidate - target) < abs(change.base - target)


def of_bounds(value: float, known: float, own: Budget | None, unit: Unit) -> tuple[str, str]:
    """Return what an absolute wish says of a value, known so well; nothing where there is none."""
    if own is None or (own.at_least is None and own.at_most is None):
        return "", ""
    low, high = own.bounds(unit)
    over = max(low - value, value - high)
    if over > known + ARITHMETIC * abs(value):
        at = f"at least {low:.4g}" if value < low else f"at most {high:.4g}"
        return "missed", f"it must be {at} {unit}"
    if over > -known and known > ARITHMETIC * abs(value):
        return "cannot-tell", f"it is known within {known:.3g} {unit} only"
    return "met", ""


def _of_change(change: Change, allowance: Allowance, *, binds: bool, unit: Unit) -> tuple[str, str]:
    slack = ARITHMETIC * change.size + _NONE
    inside = change.low >= -allowance.down - slack and change.high <= allowance.up + slack
    beyond = change.low > allowance.up + slack or change.high < -allowance.down - slack
    if not binds:
        if change.moved:
            return "changed", ""
        return ("same", "") if inside else ("cannot-tell", _across(change, allowance, unit))
    if beyond and change.clear:
        return "regressed", ""
    if inside:
        return ("moved" if change.moved else "same"), ""
    return "cannot-tell", _across(change, allowance, unit)


def _across(change: Change, allowance: Allowance, unit: Unit) -> str:
    """Say that bounds of a change lie on both sides of its budget, and what would settle it."""
    ends = f"{change.low:+.3g} to {change.high:+.3g} {unit}"
    budget = min(allowance)
    return f"a change of {ends} is known only, and {budget:.3g} {unit} allowed"
