"""A physics step of its own under the display's rate: the display does not matter to it."""

from kickback.causes.cause import Cause, CauseKind
from kickback.causes.cures import Bench
from kickback.causes.evidence import Evidence

__all__ = ["FIXED_STEP"]

_ALIKE = 0.005
"""Share by which the steps of a group may differ and be one."""


def _tell(evidence: Evidence) -> Cause | None:
    steps = list(evidence.steps.values())
    if len(steps) < 2 or max(steps) > (1 + _ALIKE) * min(steps):
        return None
    told = f"{1 / max(steps):.4g} steps/s under {', '.join(f'{r:.4g}' for r in evidence.steps)}"
    return Cause(kind=FIXED_STEP, verdict=FIXED_STEP.verdict, evidence=f"{told} frames/s")


def _cure(_: Cause, __: Bench) -> str:
    return (
        "nothing, as far as the display goes; what the constants do at another physics rate"
        " takes at that rate would tell"
    )


FIXED_STEP = CauseKind(
    name="fixed-step",
    about="the physics has a step of its own, whatever the display's rate",
    tell=_tell,
    cure=_cure,
    verdict="note",
)
