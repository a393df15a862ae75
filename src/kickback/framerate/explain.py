"""Which metrics a cause moves, so that an effect is told with its cause and not again."""

from collections.abc import Callable, Collection, Sequence

import numpy as np

from kickback.causes.cause import Cause
from kickback.causes.kinds.unexplained import ADVICE, UNEXPLAINED
from kickback.framerate.record import OverRate
from kickback.kinds.kind import AnyKind, itself
from kickback.laws.keys import PhaseKey
from kickback.takes.record import replace

__all__ = ["explained"]

_MOST_LIMITS = 4
"""Metrics whose limit is told, at most."""


def explained(
    rows: Sequence[OverRate],
    causes: Sequence[Cause],
    kind: AnyKind,
    steady: Collection[PhaseKey] = (),
    again: Callable[[OverRate], OverRate] = itself,
) -> tuple[list[OverRate], list[Cause]]:
    """Tie metrics that do not hold to the causes that move them.

    ``steady``: the phases of constants that hold: they are not what a cause moves. ``again``
    judges a metric that fails and that none explains once more.
    Returns the metrics with their causes, and the causes with their metrics; where metrics
    fail that none explains, also the cause ``unexplained``. The order of integration is a
    finding only against a budget that the user wrote; it explains no more than it can move.
    """
    out = []
    for row in rows:
        covering = [cause for cause in causes if _covers(cause, row, kind, steady)]
        tied = _tied(row, covering)
        out.append(again(tied) if tied.beyond and not tied.causes else tied)
    told = [_with_limits(_with_metrics(cause, out), out) for cause in causes]
    left = [row for row in out if row.beyond and not row.causes]
    return out, [*told, _unexplained(left)] if left else told


def _tied(row: OverRate, covering: Sequence[Cause]) -> OverRate:
    """Return a metric with the causes that move it, of those that can."""
    if row.verdict not in {"breaks", "drifts"}:
        return row
    names = [cause.name for cause in covering if cause.verdict != "note"]
    noted = _noted(row, covering)
    if not names and row.verdict == "drifts":
        names = noted
    beyond = row.beyond and (row.budgeted or names != noted or not noted)
    return replace(row, causes=tuple(names), beyond=beyond)


def _noted(row: OverRate, covering: Sequence[Cause]) -> list[str]:
    """Return the notes that may explain a metric, as far as it moves."""
    notes = [cause for cause in covering if cause.verdict == "note"]
    return [cause.name for cause in notes if row.budgeted or _within_order(cause, row)]


def _within_order(cause: Cause, row: OverRate) -> bool:
    """Whether the order of integration can move a metric as far as it moves.

    By two of the slowest rate's frames' worth; where acceleration and friction act in turns,
    by as large a share again as the speed where they balance.
    """
    if row.spread is None or row.budget is None:
        return False
    size = max((abs(item.value) for item in row.values if item.value is not None), default=0.0)
    share = max(
        (float(np.ptp(term.row.value) / np.abs(term.row.value).min()) for term in cause.terms),
        default=0.0,
    )
    return row.spread <= 2 * (row.budget + share * size)


def _with_metrics(cause: Cause, rows: Sequence[OverRate]) -> Cause:
    metrics = tuple(row.name for row in rows if cause.name in row.causes)
    failed = any(row.beyond for row in rows if cause.name in row.causes)
    verdict = "drifts" if cause.verdict == "note" and failed else cause.verdict
    return replace(cause, metrics=metrics, verdict=verdict)


def _with_limits(cause: Cause, rows: Sequence[OverRate]) -> Cause:
    """Say what midpoint integration makes of the metrics that an order of integration moves.

    The midpoint is exact for constant accelerations: every rate then has the limit.
    """
    if not cause.kind.by_order:
        return cause
    moved = [row for row in rows if row.name in cause.metrics and row.limit is not None]
    moved.sort(key=lambda row: not row.beyond)
    parts = [f"{row.name} {row.limit:.4g} {row.unit}" for row in moved[:_MOST_LIMITS]]
    if not parts:
        return cause
    at_all = f"; with the speeds as they are it gives at every rate about {', '.join(parts)}"
    return replace(cause, fix=cause.fix + at_all)


def _unexplained(rows: Sequence[OverRate]) -> Cause:
    """Return the cause of metrics that no known cause moves, with their order in the step."""
    parts = [
        f"{row.name} ∝ dt^{-row.exponent + 0.0:+.2f}" if row.exponent is not None else row.name
        for row in rows
    ]
    return Cause(
        kind=UNEXPLAINED,
        verdict="breaks" if any(row.verdict == "breaks" for row in rows) else "drifts",
        evidence=", ".join(parts),
        metrics=tuple(row.name for row in rows),
        fix=ADVICE,
    )


def _covers(cause: Cause, row: OverRate, kind: AnyKind, steady: Collection[PhaseKey]) -> bool:
    """Whether a cause moves a metric."""
    if cause.kind.everything:
        return True
    if cause.kind.by_order:
        moved = kind.rules.by_order(bool(cause.terms))
        return row.metric_group in moved or row.name in moved
    return any(
        row.metric_group in moved or row.name in moved
        for moved in (kind.rules.moved(term.row, steady) for term in cause.terms)
    )
