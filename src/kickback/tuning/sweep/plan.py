"""Which sets a sweep plays: the base, what is a little beside it, and a grid or a sample."""

from collections.abc import Mapping, Sequence
from itertools import product

import numpy as np

from kickback.errors import UsageError, nearest
from kickback.takes.header import Value
from kickback.tuning.sweep.record import Knob, SweepPlan

__all__ = ["MOST", "planned"]

MOST = 100_000
"""Sets that a sweep may have."""


def planned(
    base: Mapping[str, Value],
    knobs: Sequence[Knob],
    *,
    grid: int = 5,
    samples: int | None = None,
    seed: int = 0,
    nudge: float = 0.02,
) -> SweepPlan:
    """Return the sets of a sweep.

    Ranges are gone over in a grid of so many values each, or with ``samples`` in a Latin hypercube
    of so many sets. Raises UsageError for a parameter that is none or no number, and for too many
    sets.
    """
    for one in knobs:
        value = base.get(one.name)
        if one.name not in base:
            raise UsageError(f"no parameter '{one.name}' to vary{nearest(one.name, base)}")
        if isinstance(value, bool | str):
            raise UsageError(f"'{one.name}' is '{value}': only numbers are varied")
    nudged = [one.name for one in knobs if float(base[one.name]) != 0]
    beside = [{name: float(base[name]) * (1 + sign * nudge)} for name in nudged for sign in (-1, 1)]
    swept = [one for one in knobs if one.swept]
    some = _sampled(swept, samples, seed) if samples is not None else _gridded(swept, grid)
    return SweepPlan(
        base=dict(base), knobs=list(knobs), nudged=nudged, nudge=nudge, sets=[{}, *beside, *some]
    )


def _gridded(knobs: Sequence[Knob], grid: int) -> list[dict[str, float]]:
    if not knobs:
        return []
    values = [one.values or _between(one, np.linspace(0, 1, grid)) for one in knobs]
    many = int(np.prod([len(one) for one in values], dtype=np.float64))
    if many > MOST:
        raise UsageError(f"a grid of {many} sets: --samples plays as many as you say, or --grid")
    names = [one.name for one in knobs]
    return [dict(zip(names, one, strict=True)) for one in product(*values)]


def _between(knob: Knob, share: np.ndarray) -> tuple[float, ...]:
    low, high = knob.low or 0.0, knob.high or 0.0
    return tuple((low + share * (high - low)).tolist())


def _sampled(knobs: Sequence[Knob], samples: int, seed: int) -> list[dict[str, float]]:
    """Return sets of a Latin hypercube: each parameter's range is gone over evenly."""
    from scipy.stats import qmc

    if not knobs:
        return []
    if samples > MOST:
        raise UsageError(f"a sweep has at most {MOST} sets, not {samples}")
    drawn = qmc.LatinHypercube(d=len(knobs), rng=np.random.default_rng(seed)).random(samples)
    columns = [
        [one.values[int(share * len(one.values))] for share in drawn[:, k]]
        if one.values
        else list(_between(one, drawn[:, k]))
        for k, one in enumerate(knobs)
    ]
    names = [one.name for one in knobs]
    return [dict(zip(names, row, strict=True)) for row in zip(*columns, strict=True)]
