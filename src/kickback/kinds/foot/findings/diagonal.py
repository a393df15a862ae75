"""Diagonals that are quicker than runs along an axis: an input that nobody shortened."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.travel import plateaus_of
from kickback.takes.numeric import median

__all__ = ["FINDINGS", "check_diagonals"]

DIAGONAL_FASTER = FindingKind(
    code="diagonal-faster",
    severity="warning",
    advice="shorten the input to a length of 1 before it is multiplied by the speed,"
    " and limit the length of the velocity, not each axis",
)

FINDINGS = (DIAGONAL_FASTER,)
"""What these checks may say."""

_FASTER = 0.02
"""Share by which diagonals may be quicker, beside the noise: what dead zones leave of a stick."""


def check_diagonals(motion: FootMotion) -> list[Finding]:
    """Return that full presses between the input's axes lead to more speed than along them."""
    track = motion.across
    if motion.plane is None or track is None:
        return []
    plateaus = plateaus_of(motion, track)
    known = np.isfinite(plateaus.speed)
    odd = plateaus.toward % 2 == 1
    straight, diagonal = plateaus.speed[known & ~odd], plateaus.speed[known & odd]
    if not len(straight) or not len(diagonal):
        return []
    slow, fast = median(straight), median(diagonal)
    if fast - slow <= _FASTER * slow + 2 * track.noise:
        return []
    unit = motion.take.header.length_unit
    what = (
        f"diagonals settle at {fast:.4g} {unit}/s, runs along an axis at {slow:.4g} {unit}/s:"
        f" {fast / slow:.4g} times as fast"
    )
    first = int(np.argmax(known & odd))
    return [finding(DIAGONAL_FASTER, int(plateaus.start[first]), int(plateaus.stop[first]), what)]
