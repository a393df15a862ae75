"""Time: what runs backwards, stands still, was dropped or doubled, and long frames."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.motion.clock import Clock
from kickback.takes.numeric import median, quantile
from kickback.takes.take import FloatArray, Take

__all__ = ["FINDINGS", "check_clock", "check_frames"]

FRAME_DOUBLED = FindingKind(
    code="frame-doubled",
    severity="warning",
    advice="write each frame once: a doubled one reads as a stop",
)

FRAMES_DROPPED = FindingKind(
    code="frames-dropped",
    severity="warning",
    advice="write every frame: what happens in a gap is not seen",
)

HITCH = FindingKind(
    code="hitch",
    severity="note",
    advice="play again without the load: what falls into a long frame is coarse",
)

TIME_BACKWARDS = FindingKind(
    code="time-backwards",
    severity="error",
    advice="write the time of the frame's end, and each frame once",
)

TIME_STILL = FindingKind(
    code="time-still",
    severity="error",
    advice="write each frame once, with a clock finer than a frame",
)

STEP_UNIT = FindingKind(
    code="step-unit",
    severity="error",
    advice='map it with its factor to seconds: dt = { from = "dt", scale = 0.001 } for ms',
)

TIME_UNIT = FindingKind(
    code="time-unit",
    severity="warning",
    advice='map it with its factor to seconds: t = { from = "t", scale = 0.001 } for ms',
)

FINDINGS = (
    FRAME_DOUBLED,
    FRAMES_DROPPED,
    HITCH,
    STEP_UNIT,
    TIME_BACKWARDS,
    TIME_STILL,
    TIME_UNIT,
)
"""What these checks may say."""

_GAP = 1.5
"""Usual steps from which a step is longer than one frame."""

_LONG = 2.5
"""Usual steps from which a frame is a hitch."""

_LONE = 3.0
"""Usual steps from which a frame of uneven ones is a hitch."""

_NEARLY_ALL = 0.99
"""Share of the frames that none may be near to, to be one."""

_SLOWEST, _QUICKEST = 1.0, 1e-5
"""Seconds that a game's frame lasts at most and at least: others are no seconds."""

_UNITS = (1e-9, 1e-6, 1e-3, 1e3, 1e6, 1e9)
"""Ratios of two columns of time of which one is in another unit."""

_NEAR_UNIT = 0.05
"""Share by which such a ratio may be off: games clamp a step, and timers drift."""

_WHOLE = 0.1
"""Frames by which a gap may miss a whole number of them."""


def check_clock(take: Take) -> list[Finding]:
    """Return where the clock goes back or stands still; nothing can be measured then."""
    t = take.numbers("t")
    step = np.diff(t)
    found = []
    for row in np.flatnonzero(step < 0).tolist():
        what = f"time goes from {t[row]:.6g} s back to {t[row + 1]:.6g} s"
        found.append(finding(TIME_BACKWARDS, row + 1, row + 2, what))
    for start, stop in stretches(step == 0):
        what = f"{stop - start + 1} frames have the time {t[start]:.6g} s"
        found.append(finding(TIME_STILL, start, stop + 1, what))
    return found


def check_frames(take: Take, clock: Clock) -> list[Finding]:
    """Return gaps, doubled frames and hitches of a take whose clock advances."""
    step = np.diff(take.numbers("t"))
    usual = median(step)
    found = [*_units(take, usual), *_doubled(take, usual)]
    if not clock.rhythmic:
        return sorted([*found, *_lone(take, step)], key=lambda item: item.start)
    for row in np.flatnonzero(step > _GAP * usual).tolist():
        one = _long_frame(take, row, float(step[row]), usual)
        if one is not None:
            found.append(one)
    return sorted(found, key=lambda item: item.start)


def _lone(take: Take, step: FloatArray) -> list[Finding]:
    """Return the frames of uneven ones that last far longer than nearly all of the others."""
    usual = median(step)
    long = max(_LONE * usual, _LONG / 2 * quantile(step, _NEARLY_ALL))
    return [
        finding(
            HITCH,
            row + 1,
            row + 2,
            f"a frame of {1e3 * step[row]:.3g} ms among ones of about {1e3 * usual:.3g} ms at"
            f" {take.numbers('t')[row + 1]:.6g} s",
        )
        for row in np.flatnonzero(step > long).tolist()
    ]


def _units(take: Take, usual: float) -> list[Finding]:
    """Return what says that a time is not in seconds."""
    found, n = [], len(take)
    if not _QUICKEST <= usual <= _SLOWEST:
        what = f"a frame lasts {usual:.3g} s, which makes {1 / max(usual, 1e-300):.3g} frames/s"
        found.append(finding(TIME_UNIT, 0, n, what))
    if "dt" not in take.derived and "t" not in take.derived:
        ratio = median(take.numbers("dt")) / usual
        if any(abs(ratio / unit - 1) <= _NEAR_UNIT for unit in _UNITS):
            what = f"'dt' is {ratio:.4g} times the spacing of 't'"
            found.append(finding(STEP_UNIT, 0, n, what))
    return found


def _long_frame(take: Take, row: int, step: float, usual: float) -> Finding | None:
    """Return what a step into frame ``row + 1`` is that is longer than usual: a gap, a hitch."""
    long = step / usual
    missing, at = round(long) - 1, float(take.numbers("t")[row + 1])
    own = float(take.numbers("dt")[row + 1]) if "dt" not in take.derived else None
    # a game's own step that is an ordinary one says that frames in between were not written
    whole = abs(long - round(long)) < _WHOLE
    unwritten = own is not None and own < _GAP * usual and whole
    if missing > 0 and (unwritten or _ticks(take, row) > _GAP):
        many = "1 frame is" if missing == 1 else f"{missing} frames are"
        what = f"{many} missing before {at:.6g} s"
        return finding(FRAMES_DROPPED, row + 1, row + 2, what)
    if long <= _LONG:
        return None
    what = f"a frame of {1e3 * step:.3g} ms among ones of {1e3 * usual:.3g} ms at {at:.6g} s"
    return finding(HITCH, row + 1, row + 2, what)


def _ticks(take: Take, row: int) -> float:
    """Return how many physics steps lie between frames ``row`` and ``row + 1``, 0 if unknown."""
    if "tick" not in take:
        return 0.0
    tick = take.numbers("tick")
    return float(tick[row + 1] - tick[row])


def _doubled(take: Take, usual: float) -> list[Finding]:
    """Return frames that repeat the one before in everything but the time."""
    moving = [take.numbers(name) for name in ("x", "y", "z", "vx", "vy", "vz") if name in take]
    if not any(f"v{axis}" in take for axis in "xyz"):
        return []
    same = np.all([np.diff(column) == 0 for column in moving], axis=0)
    speed = np.max([np.abs(take.numbers(f"v{a}")[1:]) for a in "xyz" if f"v{a}" in take], axis=0)
    if "tick" in take:
        same &= np.diff(take.numbers("tick")) == 0
    short = np.diff(take.numbers("t")) < 0.5 * usual
    found = []
    for start, stop in stretches(same & (speed > 0) & short):
        what = f"{stop - start} frames repeat the one before, position and velocity alike"
        found.append(finding(FRAME_DOUBLED, start + 1, stop + 1, what))
    return found
