"""Verdicts over the frame rate, of metrics and of constants."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.causes.constants import ConstantRow
from kickback.framerate.record import OverRate, RateValue
from kickback.framerate.scaling import Scaling, scaling
from kickback.judging.budgets import DEFAULT_SHARE, Budget, budget_for, size_of
from kickback.metrics.record import Measurement
from kickback.takes.numeric import median
from kickback.takes.quantities import Unit
from kickback.takes.record import replace
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["at_rate", "judge_constant", "judge_metric"]

BREAKS_AT = 0.5
"""Exponent from which a number scales with the rate: half of what a missing time step gives."""

CLEAR_OF = 0.25
"""Exponent that its interval must lie clear of."""


def at_rate(rate: float, items: Sequence[Measurement]) -> RateValue:
    """Return one value for all takes at a rate: the median of theirs."""
    known = [item for item in items if item.value is not None]
    if not known:
        return RateValue(rate=rate, value=None, resolution=None, reason=items[0].reason)
    return RateValue(
        rate=rate,
        value=median([item.value for item in known if item.value is not None]),
        resolution=median([item.resolution or 0.0 for item in known]),
        frame_shift=max(item.frame_shift for item in known),
        reason=known[0].reason,
    )


def judge_metric(
    group: str, sample: Measurement, values: Sequence[RateValue], budgets: Mapping[str, Budget]
) -> OverRate:
    """Return a metric's verdict: against its budget, and against what resolution explains."""
    known = [item for item in values if item.value is not None]
    base = OverRate(
        group=group,
        kind="metric",
        name=sample.metric,
        metric_group=sample.group,
        unit=sample.unit,
        values=values,
        reason=_lacking(values),
    )
    if len(known) < 2:
        return base
    return _judged(base, _Spread(known, sample.unit), _budget(budgets, sample))


def _budget(budgets: Mapping[str, Budget], sample: Measurement) -> Budget | None:
    """Return the budget that bounds how far a metric may move; what it must be is no such."""
    own = budget_for(budgets, sample.metric, sample.unit.dimension)
    return own if own is not None and own.moves else None


def _lacking(values: Sequence[RateValue]) -> str | None:
    """Return why a metric is not there at some rates, or None."""
    lacking = [item for item in values if item.value is None]
    if not lacking:
        return None
    if len(lacking) == len(values):
        return lacking[0].reason
    rates = ", ".join(f"{item.rate:.4g}" for item in lacking)
    return f"not at {rates} frames/s: {lacking[0].reason}"


class _Spread:
    """How far values at several rates lie apart, and how far they may by what locates them."""

    def __init__(self, known: Sequence[RateValue], unit: Unit) -> None:
        self.rate = np.array([item.rate for item in known])
        self.value = np.array([item.value for item in known], dtype=np.float64)
        self.resolution = np.array([item.resolution or 0.0 for item in known])
        self.spread = float(np.ptp(self.value))
        ends = self.resolution[[np.argmax(self.value), np.argmin(self.value)]]
        self.located = float(ends.sum())
        own = abs(median(self.value))
        self.size = size_of(own, unit)
        self.least = DEFAULT_SHARE if self.size > own else 0.0  # a share near none scales by chance
        self.one_frame = max(item.frame_shift for item in known)

    def allowed(self, own: Budget | None, unit: Unit) -> float:
        """Return the budget: what happens a frame later and where that is seen may add up."""
        if own is not None:
            return own.allowance(self.size, unit).least
        return max(DEFAULT_SHARE * self.size, self.located + self.one_frame)

    def verdict(self, fit: Scaling) -> str:
        """Return whether the values are steady, drift or break."""
        if self.spread <= self.located + ARITHMETIC * self.size:
            return "steady"
        far = self.spread > max(self.one_frame + self.located, self.least)
        return "breaks" if far and _breaks(fit.exponent, fit.low, fit.high) else "drifts"


def _judged(base: OverRate, over: _Spread, own: Budget | None) -> OverRate:
    """Return a metric with its verdict, budget and exponent."""
    fit = scaling(over.rate, over.value, over.resolution)
    budget, verdict = over.allowed(own, base.unit), over.verdict(fit)
    beyond = verdict == "breaks" or (verdict == "drifts" and over.spread > budget)
    reason = base.reason
    if verdict == "steady" and over.spread > budget:
        verdict = "cannot-tell"  # what locates the values is wider than what they may move
        what = f"the resolution, {over.located:.3g} {base.unit}, hides a spread beyond the budget"
        reason = f"{what}; {reason}" if reason else what
    if verdict == "drifts" and not beyond and own is None:
        small = over.spread > over.located + over.one_frame
        what = "within 2 %" if small else "no more than one frame explains"
        reason = f"{what}; {reason}" if reason else what
    return replace(
        base,
        spread=over.spread,
        limit=None if verdict == "breaks" else fit.limit,
        exponent=fit.exponent,
        exponent_low=fit.low,
        exponent_high=fit.high,
        budget=budget,
        budgeted=own is not None,
        verdict=verdict,
        beyond=beyond,
        reason=reason,
    )


def judge_constant(
    group: str, row: ConstantRow, power: int | None, causes: tuple[str, ...]
) -> OverRate:
    """Return a constant's verdict from its own exponent, None where no whole number fits it."""
    fit = scaling(row.rate, row.value, 2 * row.stderr)
    steady = power == 0 and not causes
    verdict = "steady" if steady else "breaks" if power else "drifts" if causes else "cannot-tell"
    return OverRate(
        group=group,
        kind="constant",
        name=row.name,
        unit=row.unit,
        values=[
            RateValue(rate=rate, value=value, resolution=2 * error)
            for rate, value, error in zip(
                row.rate.tolist(), row.value.tolist(), row.stderr.tolist(), strict=True
            )
        ],
        spread=float(np.ptp(row.value)),
        limit=None if power else fit.limit,
        exponent=fit.exponent,
        exponent_low=fit.low,
        exponent_high=fit.high,
        verdict=verdict,
        causes=causes,
    )


def _breaks(p: float | None, low: float | None, high: float | None) -> bool:
    """Whether an exponent is that of a missing time step: large, and clear of a quarter."""
    if p is None or low is None or high is None:
        return False
    return abs(p) >= BREAKS_AT and (low > CLEAR_OF or high < -CLEAR_OF)
