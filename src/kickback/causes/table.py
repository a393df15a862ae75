"""The table of causes, and finding them in a group's constants."""

from collections.abc import Sequence

from kickback.causes.cause import VERDICTS, Cause, CauseKind
from kickback.causes.evidence import Evidence
from kickback.causes.kinds.clock import DT_CLAMPED
from kickback.causes.kinds.factors import FACTOR_PER_FRAME, FIRST_ORDER_FACTOR
from kickback.causes.kinds.fixed import FIXED_STEP
from kickback.causes.kinds.frames import ALL_IN_FRAMES, TIMER_IN_FRAMES
from kickback.causes.kinds.impulse import IMPULSE_TIMES_DT
from kickback.causes.kinds.order import INTEGRATION_ORDER
from kickback.causes.kinds.position import POSITION_PER_FRAME
from kickback.causes.kinds.steps import ACCELERATION_PER_FRAME, DT_TWICE, GRAVITY_PER_FRAME

__all__ = ["CAUSES", "find_causes"]

CAUSES: tuple[CauseKind, ...] = (
    ACCELERATION_PER_FRAME,
    GRAVITY_PER_FRAME,
    POSITION_PER_FRAME,
    IMPULSE_TIMES_DT,
    DT_TWICE,
    FACTOR_PER_FRAME,
    FIRST_ORDER_FACTOR,
    TIMER_IN_FRAMES,
    ALL_IN_FRAMES,
    DT_CLAMPED,
    FIXED_STEP,
    INTEGRATION_ORDER,
)
"""The causes, in the order in which equal ones are told."""


def find_causes(evidence: Evidence, own: Sequence[CauseKind] = ()) -> list[Cause]:
    """Return the causes behind a group's constants, worst first; ``own``: a kind's own causes."""
    found = [cause for kind in (*CAUSES, *own) if (cause := kind.tell(evidence)) is not None]
    names = {cause.name for cause in found}
    absorbed = {name for cause in found for name in cause.kind.absorbs}
    absorbed |= {cause.name for cause in found if names & set(cause.kind.part_of)}
    left = [cause for cause in found if cause.name not in absorbed]
    return sorted(left, key=lambda cause: (VERDICTS.index(cause.verdict), -len(cause.terms)))
