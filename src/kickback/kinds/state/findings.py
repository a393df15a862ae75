"""Labels that flicker, and labels that the motion contradicts."""

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.kinds.state.labels import STATE
from kickback.kinds.state.metrics import contradicted, flickers
from kickback.motion.motion import Motion

__all__ = ["FINDINGS", "check_labels"]

STATE_FLICKER = FindingKind(
    code="state-flicker",
    severity="warning",
    advice="give the speeds at which it begins and ends some room between them, or hold it a while",
)
STATE_CONTRADICTS = FindingKind(
    code="state-contradicts",
    severity="note",
    advice="its label and its motion are told apart by more than three frames",
)

_MOST = 5
"""Flickers that are named."""


def check_labels(motion: Motion) -> list[Finding]:
    """Return labels that flicker, and those that say other than the motion does."""
    if STATE.name not in motion.tracks:
        return []
    found = [
        finding(STATE_FLICKER, a, b, f"'{name}' is shown for one frame", column="state")
        for a, b, name in flickers(motion)[:_MOST]
    ]
    wrong, name = contradicted(motion)
    spans = stretches(wrong)
    if spans:
        a, b = spans[0]
        share = float(wrong.mean())
        what = f"'{name}' and others say other than the motion in {share:.0%} of the frames"
        found.append(finding(STATE_CONTRADICTS, a, b, what, column="state"))
    return found


FINDINGS = (STATE_FLICKER, STATE_CONTRADICTS)
