"""Verdicts over the frame rate, of metrics and of constants."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.causes.constants import ConstantRow
from kickback.framerate.record import OverRate, RateValue
from kickback.framerate.scaling import scaling
from kickback.judging.budgets import DEFAULT_SHARE, Budget, budget_for
from kickback.metrics.record import Measurement

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
        value=float(np.median([item.value for item in known if item.value is not None])),
        resolution=float(np.median([item.resolution or 0.0 for item in known])),
        slack=max(item.slack for item in known),
        reason=known[0].reason,
    )


def judge_metric(
    group: str, sample: Measurement, values: Sequence[RateValue], budgets: Mapping[str, Budget]
) -> OverRate:
    """Return a metric's verdict: against its budget, and against what resolution explains."""
    known = [item for item in values if item.value is not None]
    lacking = [item for item in values if item.value is None]
    reason = None
    if lacking:
        rates = ", ".join(f"{item.rate:.4g}" for item in lacking)
        reason = f"not at {rates} frames/s: {lacking[0].reason}" if known else lacking[0].reason
    if len(known) < 2:
        return OverRate(
            group=group,
            kind="metric",
            name=sample.metric,
            metric_group=sample.group,
            unit=sample.unit,
            values=values,
            reason=reason,
        )
    rate = np.array([item.rate for item in known])
    value = np.array([item.value for item in known], dtype=np.float64)
    resolution = np.array([item.resolution or 0.0 for item in known])
    fit = scaling(rate, value, resolution)
    spread = float(np.ptp(value))
    located = float(resolution[np.argmax(value)] + resolution[np.argmin(value)])
    own = budget_for(budgets, sample.group, sample.metric)
    size = abs(float(np.median(value)))
    one_frame = max(item.slack for item in known)
    # what happens a frame later and where that is seen between frames may add up
    budget = own.allowance(size) if own else max(DEFAULT_SHARE * size, located + one_frame)
    if spread <= located + 1e-9 * size:
        verdict = "steady"
    elif _breaks(fit.exponent, fit.low, fit.high) and spread > max(one_frame, located):
        verdict = "breaks"
    else:
        verdict = "drifts"
    beyond = verdict == "breaks" or (verdict == "drifts" and spread > budget)
    if verdict == "drifts" and not beyond and own is None:
        what = "within 2 %" if spread > located + one_frame else "no more than one frame explains"
        reason = f"{what}; {reason}" if reason else what
    return OverRate(
        group=group,
        kind="metric",
        name=sample.metric,
        metric_group=sample.group,
        unit=sample.unit,
        values=values,
        spread=spread,
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
