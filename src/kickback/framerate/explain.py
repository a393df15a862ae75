"""Which metrics a cause moves, so that an effect is told with its cause and not again."""

from collections.abc import Sequence

from kickback.framerate.causes import Cause
from kickback.framerate.constants import ConstantRow
from kickback.framerate.record import OverRate
from kickback.takes.record import replace

__all__ = ["explained"]

_FLIGHT = ("jump.", "hop.", "fall.")
_PUSH = ("run.", "reverse.", "turn.")
_EVERYTHING = {"position-per-frame", "all-in-frames", "dt-clamped"}
_BY_ORDER = (*_FLIGHT, "coast.stop_distance", "brake.stop_distance")
_SETTLED = ("coast.", "brake.", "jump.distance", "hop.distance")
_IN_THE_AIR = ("jump.distance", "hop.distance")
_BY_PHASE = {
    "dash": ("dash.", "run.highest_speed"),
    "coast": ("coast.",),
    "brake": ("brake.", "reverse.", "turn."),
    "speed-up in the air": _IN_THE_AIR,
    "brake in the air": _IN_THE_AIR,
    "coast in the air": _IN_THE_AIR,
}
_TIMERS = {"hold": ("jump.", "hop."), "dash time": ("dash.", "run.highest_speed")}


def explained(
    rows: Sequence[OverRate], causes: Sequence[Cause]
) -> tuple[list[OverRate], list[Cause]]:
    """Tie metrics that do not hold to the causes that move them.

    Returns the metrics with their causes, and the causes with their metrics; where metrics
    fail that none explains, also the cause ``unexplained``. The order of integration is a
    finding against a budget only: that of a metric which fails.
    """
    causes = list(causes)
    out = []
    for row in rows:
        moved = row.verdict in {"breaks", "drifts"}
        names = [
            cause.name
            for cause in causes
            if moved and cause.verdict != "note" and _covers(cause, row.name)
        ]
        if moved and not names:
            names = [c.name for c in causes if c.verdict == "note" and _covers(c, row.name)]
            names = names if row.verdict == "drifts" else []
        out.append(replace(row, causes=tuple(names)))
    told = [_with_metrics(cause, out) for cause in causes]
    left = [row for row in out if row.beyond and not row.causes]
    if left:
        told.append(_unexplained(left))
    return out, told


def _with_metrics(cause: Cause, rows: Sequence[OverRate]) -> Cause:
    metrics = tuple(row.name for row in rows if cause.name in row.causes)
    failed = any(row.beyond for row in rows if cause.name in row.causes)
    verdict = "drifts" if cause.verdict == "note" and failed else cause.verdict
    return replace(cause, metrics=metrics, verdict=verdict)


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


def _covers(cause: Cause, metric: str) -> bool:
    if cause.name in _EVERYTHING:
        return True
    if cause.name == "integration-order":
        return metric.startswith(_BY_ORDER)
    return any(metric.startswith(_moved(term.row)) for term in cause.terms)


def _moved(row: ConstantRow) -> tuple[str, ...]:
    """Return what the names of the metrics begin with that a constant moves."""
    if row.kind == "time":
        return _TIMERS.get(row.phase, ())
    if row.track == "vertical":
        return _FLIGHT
    phase = row.phase.partition(" at ")[0].partition(" toward ")[0]
    moved = _BY_PHASE.get(phase, _PUSH)
    if phase == "speed-up" and row.law in {"smoothing", "drive"}:
        return (*moved, *_SETTLED)  # the speed that it settles at may move too
    return moved
