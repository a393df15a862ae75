"""Metrics that go with how they were played: what other hands made of them is no fault of code."""

from collections.abc import Mapping, Sequence

from kickback.framerate.judge import at_rate, judge_metric
from kickback.framerate.record import OverRate, RateValue
from kickback.judging.budgets import Budget
from kickback.judging.matching import matched
from kickback.judging.samples import sample_of
from kickback.metrics.metric import Metric
from kickback.metrics.record import Measurement
from kickback.takes.record import replace

__all__ = ["played_alike"]


def played_alike(
    row: OverRate,
    metric: Metric,
    measured: Mapping[float, Sequence[Measurement]],
    budgets: Mapping[str, Budget],
) -> OverRate:
    """Return a metric that does not hold, judged anew by plays that are alike at all rates.

    ``measured``: of each take at a rate, 1/s. Plays are held against those at the rate that shows
    most of them. What was played nowhere alike ``cannot-tell`` whether it is the game or the hand.
    """
    known = _known(measured)
    if not metric.depends or len(known) < 2:
        return row
    most = max(known, key=lambda rate: sum(item.n for item in known[rate]))
    own = sample_of(metric, known[most])
    values: list[RateValue] = []
    for rate, items in known.items():
        value = at_rate(rate, items)
        if rate != most:
            alike, why = matched(metric.depends, own, sample_of(metric, items))
            if alike is None:
                return _untold(row, why)
            gone = alike.candidate - alike.base
            half = (value.resolution or 0.0) + alike.half
            value = replace(value, value=(own.value or 0.0) + gone, resolution=half)
        values.append(value)
    again = judge_metric(row.group, known[most][0], values, budgets)
    return row if again.beyond else _judged_anew(row, again)


def _known(
    measured: Mapping[float, Sequence[Measurement]],
) -> dict[float, list[Measurement]]:
    """Return the measurements that have a value, of the rates that have any."""
    known = {
        rate: [item for item in items if item.value is not None] for rate, items in measured.items()
    }
    return {rate: items for rate, items in known.items() if items}


def _judged_anew(row: OverRate, again: OverRate) -> OverRate:
    """Return a metric with the verdict that plays that are alike have."""
    return replace(
        row,
        verdict=again.verdict,
        beyond=False,
        spread=again.spread,
        limit=again.limit,
        exponent=again.exponent,
        exponent_low=again.exponent_low,
        exponent_high=again.exponent_high,
        reason="; ".join(part for part in ("by plays that are alike", again.reason) if part),
    )


def _untold(row: OverRate, why: str) -> OverRate:
    return replace(
        row, verdict="cannot-tell", beyond=False, reason=f"played otherwise at these rates: {why}"
    )
