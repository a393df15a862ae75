"""The table of kinds, and which of them a take is of."""

from collections.abc import Sequence

from kickback.errors import InputError, nearest
from kickback.kinds.analysis import Analysis, AnyAnalysis
from kickback.kinds.aspect import Aspect, with_aspects
from kickback.kinds.camera.aspect import CAMERA
from kickback.kinds.foot.kind import FOOT
from kickback.kinds.kind import AnyKind
from kickback.kinds.shot.kind import SHOT
from kickback.kinds.smoothness.aspect import SMOOTHNESS
from kickback.kinds.state.aspect import STATES
from kickback.kinds.vehicle.kind import VEHICLE
from kickback.metrics.metric import Metric
from kickback.motion.options import Options
from kickback.takes.take import Take

__all__ = ["ASPECTS", "KINDS", "all_metrics", "analyse", "kind_of", "kinds_with"]

ASPECTS: tuple[Aspect, ...] = (CAMERA, STATES, SMOOTHNESS)
"""What goes beside every kind."""

KINDS: list[AnyKind] = [with_aspects(kind, ASPECTS) for kind in (FOOT, VEHICLE, SHOT)]
"""Every kind of subject; the first that applies to a take is its."""


def kind_of(take: Take) -> AnyKind:
    """Return the kind that a take's header names, or that its columns tell.

    Raises InputError for a name that is none, and for a take of no known kind.
    """
    named = take.header.kind
    if named is not None:
        known = {kind.name: kind for kind in KINDS}
        if named not in known:
            raise InputError(
                f"header 'kind' is '{named}'{nearest(named, known)}", take.source or take.name
            )
        return known[named]
    for kind in KINDS:
        if kind.applies(take):
            return kind
    names = ", ".join(kind.name for kind in KINDS)
    raise InputError(
        f"its columns tell no kind of subject; 'kind' in its header or mapping says one: {names}",
        take.source or take.name,
    )


def analyse(take: Take | AnyAnalysis, options: Options | None = None) -> AnyAnalysis:
    """Return the analysis of a take; an analysis is its own."""
    if isinstance(take, Analysis):
        return take
    if not isinstance(take, Take):
        raise TypeError(f"expected a take or its analysis, not {type(take).__name__}")
    return Analysis(take, options or Options(), kind_of)


def kinds_with(metric: Metric) -> list[AnyKind]:
    """Return the kinds that have a metric."""
    return [kind for kind in KINDS if metric in kind.measuring.metrics]


def all_metrics() -> Sequence[Metric]:
    """Return the catalogue: of all kinds in their order, then what goes beside them."""
    beside = [metric for aspect in ASPECTS for metric in aspect.measured.metrics]
    own = [metric for kind in KINDS for metric in kind.measuring.metrics if metric not in beside]
    return [*own, *beside]
