"""Seams of a floor: where a runner is stopped or slowed at a place that it passes elsewhere."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.kinds.foot.motion import FootMotion
from kickback.motion.segments import IntArray
from kickback.takes.numeric import median

__all__ = ["FINDINGS", "check_seams"]

SEAM_STOP = FindingKind(
    code="seam-stop",
    severity="warning",
    advice="join the floor's pieces into one shape, or leave contacts with inner edges out",
)

FINDINGS = (SEAM_STOP,)
"""What these checks may say."""

_LOST = 0.3
"""Share of its speed that a runner loses at once, to be caught."""

_FAST = 0.3
"""Share of the highest speed from which it runs."""

_CALM = 3.0
"""Usual losses of speed in a step that one at a seam is more than."""

_LONG = 1.5
"""Usual frames from which a frame may hide what slowed it."""

_LEVEL = 2e-3
"""Share of the height range within which a floor is one."""


def check_seams(motion: FootMotion) -> list[Finding]:
    """Return where a push along the ground is stopped at a place that is passed at another time."""
    track, up, inputs = motion.across, motion.up, motion.inputs
    if track is None or track.rounded or inputs.source != "recorded" or motion.plane is not None:
        return []
    size = np.abs(track.v)
    top = float(np.max(size, initial=0.0))
    move = np.sign(inputs.move)
    ground = motion.grounded[1:] & motion.grounded[:-1]
    pushed = (move[1:] == move[:-1]) & (move[1:] * track.v[:-1] > 0)
    lost = size[:-1] - size[1:]
    usual = median(np.abs(lost[lost != 0])) if np.any(lost) else 0.0
    caught = ground & pushed & (size[:-1] > _FAST * top) & (lost > _LOST * size[:-1])
    caught &= motion.step[1:] < _LONG * median(motion.step)
    caught &= (lost > _CALM * usual) & ~motion.dashing[1:] & ~motion.dashing[:-1]
    found = []
    for row in (np.flatnonzero(caught) + 1).tolist():
        passed = _passes(motion, row, float(move[row]))
        if len(passed):
            unit = motion.take.header.length_unit
            height = "" if up is None else f", height {up.p[row]:.4g}"
            what = (
                f"at {motion.t[row]:.6g} s it is slowed from {size[row - 1]:.4g} to"
                f" {size[row]:.4g} {unit}/s at {track.p[row]:.4g} {unit}{height}, a place that it"
                f" passes at {motion.t[passed[0]]:.6g} s"
            )
            found.append(finding(SEAM_STOP, row, row + 1, what))
    return found


def _passes(motion: FootMotion, row: int, side: float) -> IntArray:
    """Return the frames that pass the place of one on the same ground, the same way, unslowed."""
    track, up = motion.across, motion.up
    if track is None:
        return np.zeros(0, dtype=np.int64)
    p, size = track.p, np.abs(track.v)
    place = p[row] + side * float(size[row - 1]) * float(motion.step[row]) / 2
    over = (p[:-1] - place) * (p[1:] - place) <= 0
    over &= motion.grounded[1:] & motion.grounded[:-1] & (track.v[1:] * side > 0)
    over &= size[1:] > (1 - _LOST) * size[row - 1]
    over &= size[1:] > (1 - _LOST) * size[:-1]
    if up is not None:
        over &= np.abs(up.p[1:] - up.p[row]) <= _LEVEL * float(np.ptp(up.p)) + up.quantum
    rows = np.flatnonzero(over) + 1
    return rows[np.abs(rows - row) > 1]
