"""What moves what: elasticities about the base, and how two metrics go together."""

from collections.abc import Sequence

import numpy as np

from kickback.errors import UsageError, nearest
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.tuning.sweep.record import Corner, Elasticity, Point, SweepPlan, Swept, Trade

__all__ = ["MOVES", "pairs_of", "swept", "with_trade"]

MOVES = 0.05
"""Per cent of a metric for one of a parameter, from which it is said to move."""

_UNEVEN = 0.25
"""Part of an elasticity by which the sides may differ, of 1 at least, and be called even."""

_BANDS = 6
_THIRD = 1 / 3
"""Part of a metric's range that is an end of it."""


def swept(
    plan: SweepPlan, rates: Sequence[float], points: Sequence[Point], units: dict[str, str]
) -> Swept:
    """Return a sweep with its elasticities: ``ln(m₊/m₋) / ln(p₊/p₋)`` about the base."""
    result = Swept(
        plan=plan, rates=list(rates), points=list(points), units=units, elasticities=[], unmoved=[]
    )
    rows = [
        one
        for rate in rates
        for k, name in enumerate(plan.nudged)
        for one in _of(result, name, (1 + 2 * k, 2 + 2 * k), rate)
    ]
    moved = {one.parameter for one in rows if abs(one.value) >= MOVES}
    unmoved = [name for name in plan.nudged if name not in moved]
    return replace(result, elasticities=rows, unmoved=unmoved)


def _of(result: Swept, name: str, numbers: tuple[int, int], rate: float) -> list[Elasticity]:
    """Return by what a parameter moves each metric that all three sets have."""
    base, low, high = (result.at(number, rate) for number in (0, *numbers))
    nudge = result.plan.nudge
    sides = np.log1p(nudge), -np.log1p(-nudge)
    rows = []
    for metric, value in base.items():
        around = [low.get(metric), value, high.get(metric)]
        if any(one is None or one == 0 for one in around):
            continue
        known = np.array(around, dtype=np.float64)
        if not (np.sign(known) == np.sign(known[0])).all():
            continue
        down, up = np.diff(np.log(np.abs(known))) / np.array([sides[1], sides[0]])
        mean = float(np.sum(np.diff(np.log(np.abs(known)))) / sum(sides))
        leaps = bool(abs(up - down) > _UNEVEN * max(1.0, abs(mean)))
        rows.append(Elasticity(metric=metric, parameter=name, rate=rate, value=mean, leaps=leaps))
    return rows


def with_trade(result: Swept, first: str, second: str) -> Swept:
    """Return a sweep with how two of its metrics go together over the sets of its ranges.

    Raises UsageError for a metric that no take shows, or where too few sets show both.
    """
    for name in (first, second):
        if name not in result.units:
            raise UsageError(f"no metric '{name}' in this sweep{nearest(name, result.units)}")
    found = [_trade(result, first, second, rate) for rate in result.rates]
    return replace(result, trades=[*result.trades, *found])


def pairs_of(result: Swept, first: str, second: str, rate: float) -> tuple[FloatArray, FloatArray]:
    """Return both metrics of the sets that show them, shape (k,)."""
    rows = [(one.metrics.get(first), one.metrics.get(second)) for one in result.over(rate)]
    known = np.array([row for row in rows if None not in row], dtype=np.float64).reshape(-1, 2)
    return known[:, 0], known[:, 1]


def _trade(result: Swept, first: str, second: str, rate: float) -> Trade:
    from scipy.stats import spearmanr

    one, other = pairs_of(result, first, second, rate)
    if len(one) < 4 or not (np.ptp(one) > 0 and np.ptp(other) > 0):
        raise UsageError(
            f"{first} and {second} are not both moved by what is varied: --vary NAME=LOW..HIGH"
        )
    edges = np.linspace(one.min(), one.max(), _BANDS + 1)
    place = np.clip(np.digitize(one, edges[1:-1]), 0, _BANDS - 1)
    bands = [
        (
            float(edges[k]),
            float(edges[k + 1]),
            float(other[place == k].min()),
            float(other[place == k].max()),
        )
        for k in range(_BANDS)
        if (place == k).any()
    ]
    corners = [
        Corner(
            first_high=high,
            second_high=up,
            sets=int(np.sum(_end(one, high=high) & _end(other, high=up))),
        )
        for high in (True, False)
        for up in (True, False)
    ]
    return Trade(
        first=first,
        second=second,
        rate=rate,
        rank=float(spearmanr(one, other)[0]),
        sets=len(one),
        of=len(result.over(rate)),
        bands=bands,
        corners=corners,
    )


def _end(values: FloatArray, *, high: bool) -> np.ndarray:
    share = (values - values.min()) / np.ptp(values)
    return np.asarray(share >= 1 - _THIRD if high else share <= _THIRD)
