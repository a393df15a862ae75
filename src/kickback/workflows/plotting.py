"""``plot``: what a figure of takes needs, worked out before anything is drawn."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from kickback.findings.finding import Finding
from kickback.kinds.examining import examine
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.recovering import residuals_of
from kickback.laws.residuals import Residuals
from kickback.motion.analysis import Analysis
from kickback.motion.motion import Event, Phase
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Arc", "PlotData", "plot_data"]


class Arc(Record, frozen=True, kw_only=True):
    """One jump's path from its takeoff, lengths; ``top`` is the index of its apex."""

    x: FloatArray
    y: FloatArray
    top: int


class PlotData(Record, frozen=True, kw_only=True):
    """One take's motion, events, arcs, and what was found wrong with it.

    ``speed`` is the sideways speed, shape (n,), on neither side of a leap that of the leap;
    None where the take has no sideways position. ``residuals`` is what the recovered laws
    leave, where they were asked for.
    """

    motion: FootMotion
    speed: FloatArray | None
    findings: Sequence[Finding]
    phases: Sequence[Phase]
    events: Sequence[Event]
    arcs: Sequence[Arc]
    residuals: Sequence[Residuals] | None = None


def plot_data(analysis: Analysis[Any], *, law: bool = False) -> PlotData:
    """Work out what the figure of a take shows; raises InputError for a take of no known kind."""
    motion = analysis.whole
    return PlotData(
        motion=motion,
        speed=None if motion.across is None else motion.across.v,
        findings=examine(analysis),
        phases=analysis.phases,
        events=analysis.events,
        arcs=_arcs(motion),
        residuals=residuals_of(analysis) if law else None,
    )


def _arcs(motion: FootMotion) -> list[Arc]:
    if motion.up is None:
        return []
    flights = motion.flights
    y = motion.up.p
    x = motion.across.p if motion.across is not None else motion.t
    arcs = []
    for k in np.flatnonzero(flights.jump).tolist():
        first, last = int(flights.start[k]) - 1, min(int(flights.stop[k]), len(y) - 1)
        path = slice(first, last + 1)
        way = -1.0 if x[last] < x[first] else 1.0
        arcs.append(
            Arc(
                x=(x[path] - x[first]) * way,
                y=y[path] - y[first],
                top=int(flights.top[k]) - first,
            )
        )
    return arcs
