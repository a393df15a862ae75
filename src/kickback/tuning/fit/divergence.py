"""How far a take and the model that plays its inputs run apart."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.fitting import Played
from kickback.kinds.measuring import measure
from kickback.kinds.table import all_metrics
from kickback.motion.segments import stretches
from kickback.takes.channels import channel_of
from kickback.takes.numeric import median
from kickback.takes.quantities import LENGTH, SPEED
from kickback.takes.record import replace
from kickback.takes.take import Column, FloatArray, Take
from kickback.tuning.fit.record import Divergence, MetricApart

__all__ = ["Held", "held_against"]

_ERRORS = 4.0
"""Standard errors by which a place or a speed may be off and be the same."""

_SHARE = 1e-4
"""Share of a column's extent that an exact take and the model may differ by."""

_MOSTLY = 0.98
"""Share of the frames that must agree: an event may come a frame apart."""

_LONGEST = 3
"""Frames on end that may be apart: more is a jump, a dash or a fall that the model does not make,
however long the take is."""


class Held(NamedTuple):
    """A take held against the model that plays its inputs."""

    divergence: list[Divergence]
    metrics: list[MetricApart]


def held_against(analysis: AnyAnalysis, rate: float, played: Sequence[Played]) -> Held:
    """Return how far a take and the model that played its motions' inputs differ."""
    return Held(_apart(analysis, played, rate), _metrics_apart(analysis, played))


def _apart(analysis: AnyAnalysis, played: Sequence[Played], rate: float) -> list[Divergence]:
    """Return how far each column of a take runs apart from the model's."""
    missing = ", ".join(dict.fromkeys(one.missing for one in played if one.missing))
    rows = []
    for name in played[0].own:
        gaps = np.concatenate([np.abs(one.model[name][:, 0] - one.own[name]) for one in played])
        own = np.concatenate([one.own[name] for one in played])
        noise = np.concatenate([one.noise[name] for one in played])
        off = gaps > _ERRORS * noise + _SHARE * (float(np.ptp(own)) or 1.0)
        worst = int(np.argmax(gaps))
        dimension = SPEED if channel_of(name).kind == "velocity" else LENGTH
        rows.append(
            Divergence(
                take=analysis.take.name,
                rate=rate,
                column=name,
                unit=dimension.within(analysis.take.header.length_unit),
                usual=median(gaps),
                largest=float(gaps[worst]),
                time=_time_of(analysis, worst),
                phase=_phase_at(analysis, worst),
                noise=median(noise),
                missing=missing,
                within=float(np.mean(off)) <= 1 - _MOSTLY and not stretches(off, _LONGEST + 1),
            )
        )
    return rows


def _time_of(analysis: AnyAnalysis, row: int) -> float:
    t = np.concatenate([motion.t for motion in analysis.motions])
    return float(t[row])


def _phase_at(analysis: AnyAnalysis, row: int) -> str:
    """Return what the subject does in a frame, on all tracks."""
    return ", ".join(one.name for one in analysis.phases if one.start <= row < one.stop)


def _metrics_apart(analysis: AnyAnalysis, played: Sequence[Played]) -> list[MetricApart]:
    """Return the metrics of a take, and of the model that plays its inputs.

    Of a take in several pieces only its longest is played.
    """
    longest = max(range(len(played)), key=lambda k: len(analysis.motions[k].t))
    take = analysis.motions[longest].take
    own = measure(take, options=analysis.options).by_metric()
    model = measure(_as_take(take, played[longest]), options=analysis.options).by_metric()
    shown = {metric.name for metric in all_metrics() if metric.display}
    return [
        MetricApart(
            take=analysis.take.name,
            metric=name,
            unit=row.unit,
            own=row.value,
            model=model[name].value,
            resolution=row.resolution or 0.0,
        )
        for name, row in own.items()
        if row.value is not None and name not in shown
    ]


def _as_take(take: Take, played: Played) -> Take:
    """Return a take with places and speeds that the model played."""
    columns: dict[str, Column] = dict(take.columns)
    for name, column in played.model.items():
        values: FloatArray = column[:, 0]
        if name in columns:
            columns[name] = values
    for name in ("touch_ground", "touch_side"):
        if name in columns and name in played.contact:
            columns[name] = played.contact[name][:, 0]
    return replace(take, columns=columns, name=f"{take.name}, replayed", source="fit")
