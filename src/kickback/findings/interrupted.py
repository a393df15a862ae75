"""What interrupts a take: said, with its frames and seconds."""

from collections.abc import Sequence

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.motion.interruptions import (
    CUT_SCENE,
    HIT_STOP,
    LEAP,
    PAUSE,
    RESPAWN,
    SLOW_MOTION,
    Interruption,
)

__all__ = ["FINDINGS", "check_interruptions"]

_LEFT_OUT = "what it touches is left out of the medians"

FINDINGS = (
    FindingKind(
        code=CUT_SCENE.name,
        severity="warning",
        advice=f"{_LEFT_OUT}; where it is no scene, the input column is not what the update read",
        explains=("motion-without-input",),
    ),
    FindingKind(code=HIT_STOP.name, severity="note", advice=_LEFT_OUT),
    FindingKind(
        code=PAUSE.name,
        severity="warning",
        advice=f'{_LEFT_OUT}; with clock = "game" durations leave it out',
    ),
    FindingKind(
        code=RESPAWN.name,
        severity="note",
        advice=f"{_LEFT_OUT}: the flight that it ends is none",
    ),
    FindingKind(
        code=SLOW_MOTION.name,
        severity="warning",
        advice=f'{_LEFT_OUT}; with clock = "game" durations are in the game\'s own time',
    ),
)
"""What these checks may say."""

_BY_CODE = {kind.code: kind for kind in FINDINGS}


def check_interruptions(found: Sequence[Interruption], frames: int) -> list[Finding]:
    """Return a finding for each interruption; leaps on the ground have findings of their own."""
    return [
        finding(_BY_CODE[one.kind.name], one.start, min(one.stop, frames), _what(one))
        for one in found
        if one.kind is not LEAP
    ]


def _what(one: Interruption) -> str:
    lasts = one.end - one.begin
    frames = one.stop - one.start
    many = "1 frame" if frames == 1 else f"{frames} frames"
    if one.kind is RESPAWN:
        return f"the position leaps in mid-air at {one.begin:.2f} s"
    return f"{one.text}: {many}, {lasts:.3g} s"
