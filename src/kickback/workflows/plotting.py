"""``plot``: what a figure of takes needs, worked out before anything is drawn."""

from collections.abc import Sequence

import numpy as np

from kickback.integrity.finding import Finding
from kickback.laws.recover import recover_laws
from kickback.laws.residuals import Residuals, residuals_of
from kickback.motion.analyse import Motion, analyse
from kickback.motion.breaks import find_breaks
from kickback.motion.events import Event, events_of
from kickback.project.settings import Settings
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take
from kickback.workflows.inspecting import find_in

__all__ = ["Arc", "PlotData", "plot_data"]


class Arc(Record, frozen=True, kw_only=True):
    """One jump's path from its takeoff, lengths; ``top`` is the index of its apex."""

    x: FloatArray
    y: FloatArray
    top: int


class PlotData(Record, frozen=True, kw_only=True):
    """One take's motion, events, arcs, and what was found wrong with it.

    ``speed`` is the sideways speed, shape (n,), unknown (NaN) where the position leaps;
    None where the take has no sideways position. ``residuals`` is what the recovered laws
    leave, where they were asked for.
    """

    motion: Motion
    speed: FloatArray | None
    findings: Sequence[Finding]
    events: Sequence[Event]
    arcs: Sequence[Arc]
    residuals: Sequence[Residuals] | None = None


def plot_data(take: Take, settings: Settings | None = None, *, law: bool = False) -> PlotData:
    """Work out what the figure of a take shows; raises InputError for other views."""
    settings = settings or Settings()
    motion = analyse(take, settings.thresholds)
    return PlotData(
        motion=motion,
        speed=_speed(motion),
        findings=find_in(take, settings),
        events=events_of(motion),
        arcs=_arcs(motion),
        residuals=residuals_of(motion, recover_laws(take, settings.thresholds)) if law else None,
    )


def _speed(motion: Motion) -> FloatArray | None:
    if motion.across is None:
        return None
    speed = motion.across.v.copy()
    if motion.across.source != "reported":
        speed[find_breaks(motion.take)] = np.nan
    return speed


def _arcs(motion: Motion) -> list[Arc]:
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
