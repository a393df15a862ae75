"""What a look at a camera beside its subject finds."""

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.kinds.camera.filmed import band_of, followed
from kickback.motion.motion import Motion

__all__ = ["FINDINGS", "check_camera"]

CAMERA_LATE = FindingKind(
    code="camera-late",
    severity="warning",
    advice="move the camera after its subject in a frame: the picture trembles at uneven frames",
)

FINDINGS = (CAMERA_LATE,)
"""What these checks may say."""


def check_camera(motion: Motion) -> list[Finding]:
    """Return a camera that reads its subject's place of the frame before."""
    axes = [one for one in followed(motion) if band_of(one) is None]
    if not axes:
        return []
    from kickback.kinds.camera.follow import FOLLOW
    from kickback.laws.following import rules_of

    late = [one.axis for one in axes if any(rule.late for rule in rules_of(motion, one, FOLLOW))]
    if not late:
        return []
    what = f"the camera follows where its subject was a frame before, along {' and '.join(late)}"
    return [finding(CAMERA_LATE, 0, len(motion.t), what)]
