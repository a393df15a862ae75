"""The labels of a game beside its subject, as they go with any kind."""

from kickback.kinds.aspect import Aspect, Measured, Ruled
from kickback.kinds.state.labels import STATE, labels_of, state_tracks
from kickback.motion.motion import Motion, Phase

__all__ = ["STATES"]


def _phases(motion: Motion) -> list[Phase]:
    """Return the labels as phases of a track of their own."""
    if STATE.name not in motion.tracks:
        return []
    return [
        Phase(
            track=STATE.name,
            name=one.name or "none",
            start=one.start,
            stop=one.stop,
            inferred=False,
        )
        for one in labels_of(motion).stretches
    ]


def _measured() -> Measured:
    from kickback.kinds.state.findings import FINDINGS, check_labels
    from kickback.kinds.state.metrics import METRICS

    return Measured(metrics=METRICS, checks=(check_labels,), findings=FINDINGS)


def _rules() -> Ruled:
    from kickback.kinds.state.thresholds import THRESHOLD, threshold_laws

    return Ruled(laws=threshold_laws, moved=lambda _: ("state",), families=(THRESHOLD,))


STATES = Aspect(
    name="state",
    roles=(STATE,),
    tracks=state_tracks,
    phases=_phases,
    load_measured=_measured,
    load_rules=_rules,
)
