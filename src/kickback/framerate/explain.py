"""Which metrics a cause moves, so that an effect is told with its cause and not again."""

from collections.abc import Collection, Sequence

import numpy as np

from kickback.framerate.causes import Cause
from kickback.framerate.constants import ConstantRow
from kickback.framerate.record import OverRate
from kickback.takes.record import replace

__all__ = ["explained"]

_FLIGHT = ("jump.", "hop.", "fall.")
_PUSH = ("run.", "reverse.", "turn.")
_EVERYTHING = {"position-per-frame", "all-in-frames", "dt-clamped"}
_BY_ORDER = (*_FLIGHT, "coast.stop_distance", "brake.stop_distance")
_MOST_LIMITS = 4
_TRAVEL = ("run.", "coast.", "brake.", "reverse.", "turn.")
_IN_THE_AIR = ("jump.distance", "hop.distance")
_SETTLED = ("coast.", "brake.", *_IN_THE_AIR)
_BY_PHASE = {
    "speed-up": _PUSH,
    "coast": ("coast.",),
    "brake": ("brake.", "reverse.", "turn."),
}
_TIMERS = {
    "hold": ("jump.", "hop."),
    "dash time": ("dash.", *_TRAVEL, *_IN_THE_AIR),
    "lock-out": ("dash.", *_TRAVEL),
}


def explained(
    rows: Sequence[OverRate], causes: Sequence[Cause], steady: Collection[str] = ()
) -> tuple[list[OverRate], list[Cause]]:
    """Tie metrics that do not hold to the causes that move them.

    ``steady``: the names of constants that hold: their phases are not what a cause moves.
    Returns the metrics with their causes, and the causes with their metrics; where metrics
    fail that none explains, also the cause ``unexplained``. The order of integration is a
    finding only against a budget that the user wrote; it explains no more than it can move.
    """
    out = []
    for row in rows:
        moved = row.verdict in {"breaks", "drifts"}
        names = [
            cause.name
            for cause in causes
            if moved and cause.verdict != "note" and _covers(cause, row.name, steady)
        ]
        noted = [
            cause.name
            for cause in causes
            if cause.verdict == "note"
            and _covers(cause, row.name, steady)
            and (row.budgeted or _within_order(cause, row))
        ]
        if not names and noted and row.verdict == "drifts":
            names = noted
        beyond = row.beyond and (row.budgeted or names != noted or not noted)
        out.append(replace(row, causes=tuple(names), beyond=beyond))
    told = [_with_limits(_with_metrics(cause, out), out) for cause in causes]
    left = [row for row in out if row.beyond and not row.causes]
    return out, [*told, _unexplained(left)] if left else told


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
    if cause.name != "integration-order":
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
        name="unexplained",
        verdict="breaks" if any(row.verdict == "breaks" for row in rows) else "drifts",
        evidence=", ".join(parts),
        metrics=tuple(row.name for row in rows),
        fix="compare 'kickback law' of the slowest and the quickest take, phase by phase",
    )


def _covers(cause: Cause, metric: str, steady: Collection[str]) -> bool:
    if cause.name in _EVERYTHING:
        return True
    if cause.name == "integration-order":
        return metric.startswith((*_BY_ORDER, *_TRAVEL) if cause.terms else _BY_ORDER)
    return any(metric.startswith(_moved(term.row, steady)) for term in cause.terms)


def _moved(row: ConstantRow, steady: Collection[str]) -> tuple[str, ...]:
    """Return what the names of the metrics begin with that a constant moves.

    Phases that are too short at some rates have no constant of their own: what moves one
    phase is taken to move them too, unless a constant of theirs is known to hold.
    """
    if row.kind == "time":
        return _TIMERS.get(row.phase, ())
    if row.track == "vertical":
        return _FLIGHT
    phase = row.phase.partition(" at ")[0].partition(" toward ")[0]
    if phase not in _BY_PHASE:
        return _IN_THE_AIR if phase.endswith("in the air") else _TIMERS["dash time"]
    held = {name.partition(".")[0] for name in steady}
    moved = [prefix for one, prefixes in _BY_PHASE.items() if one == phase or one not in held
             for prefix in prefixes]  # fmt: skip
    if phase == "speed-up" and row.law in {"smoothing", "drive"}:
        return (*moved, *_SETTLED)  # the speed that it settles at may move too
    return tuple(moved)
