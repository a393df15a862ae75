"""A time step that is clamped: everything is slow below one frame rate."""

from kickback.causes.cause import Cause, CauseKind
from kickback.causes.cures import Bench
from kickback.causes.evidence import Evidence

__all__ = ["DT_CLAMPED"]


def _tell(evidence: Evidence) -> Cause | None:
    pace = evidence.pace
    if pace is None:
        return None
    return Cause(kind=DT_CLAMPED, verdict=DT_CLAMPED.verdict, evidence=pace.text, pace=pace)


def _cure(cause: Cause, _: Bench) -> str:
    knee = cause.pace.knee if cause.pace is not None else 0.0
    return (
        f"split a long frame into several steps of at most {1000 / knee:.3g} ms, or allow longer"
        " steps, so that game time keeps up"
    )


DT_CLAMPED = CauseKind(
    name="dt-clamped",
    about="the time step is clamped, or the physics has a fixed rate",
    tell=_tell,
    cure=_cure,
    everything=True,
)
