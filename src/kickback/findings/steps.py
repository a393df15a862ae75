"""A physics step of its own under a display: what it does to what is shown and logged."""

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.motion.fixed_step import FixedStep

__all__ = ["FINDINGS", "check_steps"]

_EXPLAINS = ("velocity-disagrees", "velocity-scale", "position-frozen")

POSITIONS_INTERPOLATED = FindingKind(
    code="positions-interpolated",
    severity="note",
    advice="motion and laws are read per step, moments are known to a step",
    explains=_EXPLAINS,
)

POSITIONS_REPEATED = FindingKind(
    code="positions-repeated",
    severity="note",
    advice="motion and laws are read per step, moments are known to a step; draw between the"
    " steps if it judders",
    explains=_EXPLAINS,
)

STEPS_SKIPPED = FindingKind(
    code="steps-skipped",
    severity="note",
    advice="times are those of the steps; a log with a row a step shows more",
    explains=_EXPLAINS,
)

FINDINGS = (
    POSITIONS_INTERPOLATED,
    POSITIONS_REPEATED,
    STEPS_SKIPPED,
)
"""What these checks may say."""


def check_steps(found: FixedStep | None, rate: float, frames: int) -> list[Finding]:
    """Return the finding on a physics step under a display at ``rate`` frames/s."""
    if found is None:
        return []
    what = f"the physics makes {found.rate:.4g} steps/s under {rate:.4g} frames/s"
    if found.skips:
        what += ": some steps are never shown"
        if found.between:
            what += ", and positions are drawn between steps, so that speeds are taken from them"
        return [finding(STEPS_SKIPPED, 0, frames, what)]
    if found.between:
        what += (
            f": positions are drawn between the last two steps, which shows each of them"
            f" {1000 * found.step:.3g} ms late"
        )
        return [finding(POSITIONS_INTERPOLATED, 0, frames, what)]
    what += f": {found.repeats:.0%} of the moving frames repeat the position before"
    return [finding(POSITIONS_REPEATED, 0, frames, what)]
