"""Each metric over the frame rate: values, spread, limit, exponent and verdict."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from kickback.framerate.groups import Group, group_takes
from kickback.framerate.scaling import scaling
from kickback.metrics.budgets import Budget, budget_for
from kickback.metrics.measure import measure
from kickback.metrics.record import Measurement
from kickback.motion.thresholds import Thresholds
from kickback.takes.rates import same_rate
from kickback.takes.record import Record
from kickback.takes.take import Take

__all__ = ["FrameRates", "MetricOverRate", "RateValue", "frame_rates"]

BREAKS_AT = 0.5
CLEAR_OF = 0.25


class RateValue(Record, frozen=True, kw_only=True):
    """A metric at one frame rate; ``value`` is None with a reason where it is missing."""

    rate: float
    value: float | None
    resolution: float | None
    slack: float
    reason: str | None


class MetricOverRate(Record, frozen=True, kw_only=True):
    """One metric of one group: ``verdict`` is steady, drifts, breaks or cannot-tell.

    ``beyond`` says that it fails: it breaks, or drifts beyond its budget.
    """

    group: str
    metric: str
    unit: str
    values: Sequence[RateValue]
    spread: float | None = None
    limit: float | None = None
    exponent: float | None = None
    exponent_low: float | None = None
    exponent_high: float | None = None
    budget: float | None = None
    verdict: str = "cannot-tell"
    beyond: bool = False
    reason: str | None = None

    def to_records(self) -> list[dict[str, Any]]:
        """Return one flat record a rate."""
        return [
            {
                "group": self.group,
                "kind": "metric",
                "name": self.metric,
                "unit": self.unit,
                "rate": item.rate,
                "value": item.value,
                "resolution": item.resolution,
                "spread": self.spread,
                "limit": self.limit,
                "exponent": self.exponent,
                "exponent_low": self.exponent_low,
                "exponent_high": self.exponent_high,
                "budget": self.budget,
                "verdict": self.verdict,
                "cause": None,
                "fix": None,
                "reason": item.reason if item.value is None else self.reason,
            }
            for item in self.values
        ]


class FrameRates(Record, frozen=True, kw_only=True):
    """The metrics of all groups over their rates, and sentences about the takes."""

    groups: Sequence[Group]
    rows: Sequence[MetricOverRate]
    warnings: Sequence[str]

    @property
    def failed(self) -> bool:
        """Whether a metric breaks, or drifts beyond its budget."""
        return any(row.beyond for row in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether a metric was found at some rates only, so that nothing can be told."""
        return any(
            row.verdict == "cannot-tell" and any(item.value is not None for item in row.values)
            for row in self.rows
        )

    def to_records(self) -> list[dict[str, Any]]:
        """Return the flat records that other tools read."""
        return [record for row in self.rows for record in row.to_records()]

    def to_frame(self) -> Any:
        """Return the records as a pandas table."""
        import pandas as pd

        return pd.DataFrame(self.to_records())


def frame_rates(
    takes: Sequence[Take],
    *,
    only: Sequence[str] = (),
    budgets: Mapping[str, Budget] | None = None,
    thresholds: Thresholds | None = None,
) -> FrameRates:
    """Hold the metrics of takes at different frame rates against each other.

    Raises UsageError for an unknown metric and InputError for a take that cannot be
    measured. A group at a single rate is said and left out.
    """
    groups, warnings = group_takes(takes)
    rows: list[MetricOverRate] = []
    used: list[Group] = []
    for group in groups:
        by_rate = _by_rate(group.takes)
        if len(by_rate) < 2:
            rate = group.takes[0].frame_rate
            warnings.append(
                f"'{group.name}' has takes at {rate:.4g} frames/s only; two rates are the least"
            )
            continue
        used.append(group)
        measured = {
            rate: [measure(take, only, thresholds).by_metric() for take in members]
            for rate, members in by_rate.items()
        }
        first = next(iter(measured.values()))[0]
        for metric, sample in first.items():
            if sample.unit == "frames":
                continue  # a count of frames is judged by its time in seconds
            values = [
                _at_rate(rate, [item[metric] for item in items]) for rate, items in measured.items()
            ]
            rows.append(_judge(group.name, sample, values, budgets or {}))
    return FrameRates(groups=used, rows=rows, warnings=warnings)


def _by_rate(takes: Sequence[Take]) -> dict[float, list[Take]]:
    """Return takes by nominal rate, slowest first; rates within 2 % are one."""
    found: dict[float, list[Take]] = {}
    for take in sorted(takes, key=lambda take: take.frame_rate):
        rate = take.frame_rate
        near = next((known for known in found if same_rate(known, rate)), rate)
        found.setdefault(near, []).append(take)
    return found


def _at_rate(rate: float, items: Sequence[Measurement]) -> RateValue:
    """Return one value for all takes at a rate: the median of theirs."""
    known = [item for item in items if item.value is not None]
    if not known:
        return RateValue(rate=rate, value=None, resolution=None, slack=0.0, reason=items[0].reason)
    return RateValue(
        rate=rate,
        value=float(np.median([item.value for item in known if item.value is not None])),
        resolution=float(np.median([item.resolution or 0.0 for item in known])),
        slack=max(item.slack for item in known),
        reason=known[0].reason,
    )


def _judge(
    group: str, sample: Measurement, values: Sequence[RateValue], budgets: Mapping[str, Budget]
) -> MetricOverRate:
    known = [item for item in values if item.value is not None]
    lacking = [item for item in values if item.value is None]
    reason = None
    if lacking:
        rates = ", ".join(f"{item.rate:.4g}" for item in lacking)
        reason = f"not at {rates} frames/s: {lacking[0].reason}" if known else lacking[0].reason
    if len(known) < 2:
        return MetricOverRate(
            group=group,
            metric=sample.metric,
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
    own = budget_for(budgets, sample.metric)
    size = abs(float(np.median(value)))
    one_frame = max(item.slack for item in known)
    budget = own.allowance(size) if own else max(0.02 * size, located, one_frame)
    if spread <= located + 1e-9 * size:
        verdict = "steady"
    elif _breaks(fit.exponent, fit.low, fit.high) and spread > max(one_frame, located):
        verdict = "breaks"
    else:
        verdict = "drifts"
    beyond = verdict == "breaks" or (verdict == "drifts" and spread > budget)
    if verdict == "drifts" and not beyond and own is None:
        what = "no more than one frame explains" if spread <= one_frame else "within 2 %"
        reason = f"{what}; {reason}" if reason else what
    return MetricOverRate(
        group=group,
        metric=sample.metric,
        unit=sample.unit,
        values=values,
        spread=spread,
        limit=None if verdict == "breaks" else fit.limit,
        exponent=fit.exponent,
        exponent_low=fit.low,
        exponent_high=fit.high,
        budget=budget,
        verdict=verdict,
        beyond=beyond,
        reason=reason,
    )


def _breaks(p: float | None, low: float | None, high: float | None) -> bool:
    """Whether an exponent is that of a missing time step: large, and clear of a quarter."""
    if p is None or low is None or high is None:
        return False
    return abs(p) >= BREAKS_AT and (low > CLEAR_OF or high < -CLEAR_OF)
