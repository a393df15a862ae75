"""Teleports and screen wraps."""

from collections.abc import Mapping

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding
from kickback.motion.segments import IntArray
from kickback.takes.take import FloatArray, Take

__all__ = ["FINDINGS", "check_leaps"]

POSITION_GLITCH = FindingKind(
    code="position-glitch",
    severity="warning",
    advice="it comes back at once: put it where it belongs before the frame is drawn",
)

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
    POSITION_GLITCH,
    SCREEN_WRAP,
    TELEPORT,
)
"""What these checks may say."""

_ALIKE = 0.1
"""Share by which the motion before and after a wrap may differ: it goes on."""

_BACK = 3
"""Frames within which a glitch is over."""

_SAME = 0.3
"""Share of a leap that the leap back may differ by: the motion went on."""

_RANGE = 0.6
"""Share of an axis that a wrap crosses: from one end to the other, less the room of a step."""


def check_leaps(take: Take, breaks: IntArray) -> list[Finding]:
    """Return a finding for each frame at which the position leaps."""
    axes = [axis for axis in ("x", "y", "z") if axis in take]
    positions = {axis: take.numbers(axis) for axis in axes}
    unit, t = take.header.length_unit, take.numbers("t")
    wraps = _wraps(take, breaks)
    leaps = [_leap(positions, row) for row in breaks.tolist()]
    found: list[Finding] = []
    for k, (row, axis, far) in enumerate(leaps):
        last_is_open = k > 0 and found[-1].start == leaps[k - 1][0]
        if last_is_open and _comes_back(leaps[k - 1], leaps[k]):
            first, _, off = leaps[k - 1]
            frames = "a frame" if row - first == 1 else f"{row - first} frames"
            what = f"{axis} is off by {off:.4g} {unit} for {frames} at {t[first]:.6g} s"
            found[-1] = finding(POSITION_GLITCH, first, row, what)
            continue
        kind = SCREEN_WRAP if row in wraps else TELEPORT
        what = f"{axis} leaps by {far:.4g} {unit} in one frame at {t[row]:.6g} s"
        found.append(finding(kind, row, row + 1, what))
    return found


def _leap(positions: Mapping[str, FloatArray], row: int) -> tuple[int, str, float]:
    """Return the frame of a leap, the axis along which it is the farthest, and how far."""
    leap = {axis: float(p[row] - p[row - 1]) for axis, p in positions.items()}
    axis = max(leap, key=lambda name: abs(leap[name]))
    return row, axis, leap[axis]


def _comes_back(one: tuple[int, str, float], other: tuple[int, str, float]) -> bool:
    """Whether a leap undoes the one shortly before it."""
    soon = other[0] - one[0] <= _BACK and other[1] == one[1]
    return soon and abs(one[2] + other[2]) <= _SAME * abs(one[2])


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
