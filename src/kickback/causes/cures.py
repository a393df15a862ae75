"""What to write instead: each cause's remedy, with constants that keep the feel at one rate.

A constant's value in its per-second form, as the laws read it at the kept rate, is what
makes code with the time step do there what the code without it did.
"""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from kickback.causes.cause import Cause, Term
from kickback.causes.constants import FIRST_ORDER, ConstantRow, value_at
from kickback.takes.numeric import median
from kickback.takes.record import Record, replace

__all__ = ["Bench", "kept_value", "number", "unchanged", "with_cures"]

_MOVING = {"acceleration", "gravity", "speed", "impulse"}
"""Sorts of constants that move the position, in whatever unit its speed is."""


class Bench(Record, frozen=True, kw_only=True):
    """What remedies are made with: ``keep`` is the rate, 1/s, at which they change nothing.

    ``values``: the per-second constants of the cause that is being cured; ``scale``: how many
    times faster than its speed the position moves there; ``rows``: all constants of the group.
    ``advice`` is what the kind of subject says beside midpoint integration.
    """

    keep: float
    scale: float
    rows: Sequence[ConstantRow]
    powers: Mapping[str, int]
    advice: Callable[[Sequence[ConstantRow], float, float], str]
    values: Mapping[str, float] = {}


def with_cures(causes: Sequence[Cause], bench: Bench) -> list[Cause]:
    """Return causes with their remedies; nothing changes at the bench's rate."""
    scale = _position_scale(causes, bench)
    out = []
    for cause in causes:
        values = {
            term.row.name: kept_value(term, bench.keep) * (scale if _moving(term.row) else 1.0)
            for term in cause.terms
            if term.row.sort != "scale"
        }
        if scale != 1 and _by_frame(cause):
            values |= _rescaled(bench, scale)
        given = replace(bench, values=values, scale=scale)
        out.append(replace(cause, fix=cause.kind.cure(cause, given), corrected=values))
    return out


def _by_frame(cause: Cause) -> bool:
    """Whether a cause is that positions move by the frame, or includes it."""
    return any(term.row.sort == "scale" and term.power == 1 for term in cause.terms)


def _rescaled(bench: Bench, scale: float) -> dict[str, float]:
    """Return every constant that moves the position, in the unit in which it then counts."""
    return {
        row.name: value_at(row, bench.keep, bench.powers.get(row.name, 0)) * scale
        for row in bench.rows
        if _moving(row) and row.constant != "push" and row.name in bench.powers
    }


def _moving(row: ConstantRow) -> bool:
    return row.sort in _MOVING


def kept_value(term: Term, keep: float) -> float:
    """Return a constant's value at the kept rate; of a first-order factor, its exact rate."""
    row = term.row
    if term.power == 0 and row.sort == "rate":
        own = row.clock == FIRST_ORDER  # as it stands in the code
        each = row.value if own else -np.expm1(-row.value * row.frame) / row.frame
        linear = median(each)
        return float(-np.log1p(-min(linear / keep, 1 - 1e-9)) * keep)
    return value_at(row, keep, term.power)


def _position_scale(causes: Sequence[Cause], bench: Bench) -> float:
    """Return how many times faster the position moves at the kept rate than its speed says."""
    if not any(map(_by_frame, causes)):
        return 1.0
    scales = [value_at(row, bench.keep, 1) for row in bench.rows if row.sort == "scale"]
    return median(scales) if scales else 1.0


def number(value: float) -> str:
    """Return a number as remedies print it."""
    return f"{value:.4g}"


def unchanged(bench: Bench) -> str:
    """Say at which rate a remedy changes nothing."""
    return f"at {bench.keep:g} frames/s nothing changes"
