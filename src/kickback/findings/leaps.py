"""Teleports and screen wraps."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.motion.segments import IntArray
from kickback.takes.take import Take

__all__ = ["FINDINGS", "check_leaps"]

SCREEN_WRAP = FindingKind(
    code="screen-wrap",
    severity="warning",
    advice="log the position before wrapping; each stretch is measured alone",
)

TELEPORT = FindingKind(
    code="teleport",
    severity="warning",
    advice="the take is measured on both sides of it, never across",
)

FINDINGS = (
    SCREEN_WRAP,
    TELEPORT,
)
"""What these checks may say."""

_ALIKE = 0.1
"""Share by which the motion before and after a wrap may differ: it goes on."""

_RANGE = 0.6
"""Share of an axis that a wrap crosses: from one end to the other, less the room of a step."""


def check_leaps(take: Take, breaks: IntArray) -> list[Finding]:
    """Return a finding for each frame at which the position leaps."""
    axes = [axis for axis in ("x", "y", "z") if axis in take]
    positions = {axis: take.numbers(axis) for axis in axes}
    unit = take.header.length_unit
    wraps = _wraps(take, breaks)
    found = []
    for row in breaks.tolist():
        leap = {axis: float(p[row] - p[row - 1]) for axis, p in positions.items()}
        axis = max(leap, key=lambda name: abs(leap[name]))
        kind = SCREEN_WRAP if row in wraps else TELEPORT
        what = (
            f"{axis} leaps by {leap[axis]:.4g} {unit} in one frame at"
            f" {take.numbers('t')[row]:.6g} s"
        )
        found.append(finding(kind, row, row + 1, what))
    return found


def _wraps(take: Take, breaks: IntArray) -> set[int]:
    """Return the breaks that go from one end of an axis to the other, against the motion."""
    wraps: set[int] = set()
    for axis in ("x", "y", "z"):
        if axis not in take or not len(breaks):
            continue
        p = take.numbers(axis)
        step = np.diff(p, prepend=p[0])
        inner = breaks[(breaks > 1) & (breaks < len(p) - 1)]
        before, after = step[inner - 1], step[np.minimum(inner + 1, len(p) - 1)]
        size = float(np.ptp(p))
        against = (before * step[inner] < 0) & (before * after > 0)
        far = np.abs(step[inner]) > _RANGE * size
        alike = np.abs(after - before) < _ALIKE * np.abs(before)
        wraps |= set(inner[against & far & alike].tolist())
    return wraps
