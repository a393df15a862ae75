"""``plot``: what a figure of takes needs, worked out before anything is drawn."""

from collections.abc import Sequence

from kickback.findings.finding import Finding
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.examining import examine
from kickback.kinds.picture import Picture
from kickback.kinds.recovering import residuals_of
from kickback.laws.residuals import Residuals
from kickback.motion.motion import Motion, Phase
from kickback.takes.record import Record

__all__ = ["PlotData", "plot_data"]


class PlotData(Record, frozen=True, kw_only=True):
    """One take's motion, what is drawn of it, and what was found wrong with it.

    ``roles`` are those that may have phases. ``residuals`` is what the recovered laws leave,
    where they were asked for.
    """

    motion: Motion
    picture: Picture
    roles: Sequence[str]
    findings: Sequence[Finding]
    phases: Sequence[Phase]
    residuals: Sequence[Residuals] | None = None


def plot_data(analysis: AnyAnalysis, *, law: bool = False) -> PlotData:
    """Work out what the figure of a take shows; raises InputError for a take of no known kind."""
    kind = analysis.kind
    return PlotData(
        motion=analysis.whole,
        picture=kind.showing.picture(analysis.whole, analysis.events),
        roles=[role.name for role in kind.roles],
        findings=examine(analysis),
        phases=analysis.phases,
        residuals=residuals_of(analysis) if law else None,
    )
