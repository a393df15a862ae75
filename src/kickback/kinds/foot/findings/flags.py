"""A ground flag that comes late or stays, presses that do nothing, and bodies in the ground."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches, times
from kickback.kinds.foot.contact import inferred_contact
from kickback.kinds.foot.findings.landings import off_ground
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.throws import throws_of, usual_loss
from kickback.motion.segments import BoolArray, risings
from kickback.motion.tracks import Track
from kickback.takes.numeric import median

__all__ = ["FINDINGS", "check_late_flag", "check_sinking", "check_vain_presses"]

CONTACT_LATE = FindingKind(
    code="contact-late",
    severity="warning",
    advice="read the contact after the move, in every update: a jump asks for it",
    explains=("contact-flicker", "presses-in-vain"),
)

PRESSES_IN_VAIN = FindingKind(
    code="presses-in-vain",
    severity="note",
    advice="log what a jump needs (contact, timers) beside the button: something was missing",
)

SINKS_IN = FindingKind(
    code="sinks-in",
    severity="note",
    advice="put it back onto the floor before the frame is drawn",
)

FALLS_ON = FindingKind(
    code="falls-on",
    severity="note",
    advice="if no pit is there, the floor was missed",
)

FINDINGS = (CONTACT_LATE, PRESSES_IN_VAIN, SINKS_IN, FALLS_ON)
"""What these checks may say."""

_LATE_FRAMES, _LATE_TIME = 3, 0.05
"""Frames, and seconds, that a flag says the opposite of the motion, from which it is late."""

_BEFORE = 3
"""Frames before such a stretch in which it took off or landed."""

_OFTEN = 2
"""Changes at which it is late, to be no chance, where no press falls into one."""

_PULLED = 0.5
"""Share of gravity's usual step that a frame of free flight may lack."""

_SLOP = 1e-3
"""Share of the height range that ground may differ by: what solvers leave."""

_VAIN, _VAIN_SHARE = 3, 0.2
"""Presses on the ground that do nothing, and their share of all there, to be told."""

_ANSWERED = 0.35
"""Seconds within which a press may show: a takeoff may wait for an animation."""

_LANDED = 0.3
"""Seconds after a landing in which a game may mean to read no press."""

_DEEP = 0.02
"""Share of the tallest flight that a body is deep in the ground, to be seen."""

_AROUND = 5
"""Frames that show a dip in level ground, and the ground about it."""

_DRAWN = 3
"""Frames in which it is out of it again: solvers take longer."""

_FALLS, _FALLS_FAR = 0.6, 2.0
"""Seconds that a fall goes on below all ground, and how many of the tallest flights deep."""


def check_late_flag(motion: FootMotion) -> list[Finding]:
    """Return a ground flag that comes late after landings, or stays on after takeoffs."""
    up = motion.up
    if up is None or up.rounded or motion.contact_source != "recorded":
        return []
    flag = motion.take.numbers("touch_ground") > 0.5
    stands = inferred_contact(up.p, motion.t, up.quantum)
    if not np.any(flag & stands):
        return []
    near = off_ground(up.p[flag & stands], up.p) <= _SLOP * float(np.ptp(up.p)) + up.quantum
    sides = (
        (stands & ~flag & near, "comes up to {} s after it landed"),
        (flag & _pulled(motion, up), "stays on for up to {} s in the air"),
    )
    return [one for wrong, words in sides for one in _told_late(motion, wrong, stands, words)]


def _told_late(
    motion: FootMotion, wrong: BoolArray, stands: BoolArray, words: str
) -> list[Finding]:
    """Return the finding on stretches of a ``wrong`` flag beside a landing or a takeoff."""
    late = [
        (a, b)
        for a, b in stretches(wrong, _LATE_FRAMES)
        if float(motion.t[b - 1] - motion.begin[a]) >= _LATE_TIME
        and np.any(stands[max(a - _BEFORE, 0) : a] != stands[max(a - _BEFORE, 0) + 1 : a + 1])
    ]
    presses = sum(_presses(motion, a, b) for a, b in late)
    if len(late) < _OFTEN and not presses:
        return []
    longest = max(float(motion.t[b - 1] - motion.begin[a]) for a, b in late)
    what = f"the ground flag {words.format(f'{longest:.2g}')}, {times(len(late))}"
    what += f", and jump was pressed {times(presses)} meanwhile" if presses else ""
    return [finding(CONTACT_LATE, late[0][0], late[-1][1], what)]


def _presses(motion: FootMotion, a: int, b: int) -> int:
    """Return how many presses of jump begin in frames ``[a, b)``."""
    jump = motion.inputs.jump
    return 0 if jump is None else len(risings(jump[a - 1 : b]))


def _pulled(motion: FootMotion, up: Track) -> BoolArray:
    """Return the frames, shape (n,), in which the upward speed falls as under gravity."""
    usual = usual_loss(motion)
    lost = np.zeros(len(up.v))
    lost[1:] = (up.v[:-1] - up.v[1:]) * motion.clock.usual / motion.step[1:]
    return np.asarray((usual > 0) & (lost >= (1 - _PULLED) * usual))


def check_vain_presses(motion: FootMotion) -> list[Finding]:
    """Return presses of jump that did nothing on the ground, where others jumped."""
    jump = motion.inputs.jump
    if jump is None or motion.up is None or motion.up.rounded:
        return []
    presses = risings(jump)
    t, n = motion.t, len(motion.t)
    landed = np.concatenate(([0.0], t[np.minimum(motion.flights.stop, n - 1)]))
    since = t[presses] - landed[np.searchsorted(landed, t[presses], side="right") - 1]
    soon = np.searchsorted(t, t[presses] + _ANSWERED)
    stands = np.cumsum(~motion.grounded)
    free = (stands[np.minimum(soon, n - 1)] == stands[presses - 1]) & (since > _LANDED) & (soon < n)
    vain = presses[free & motion.grounded[presses - 1]]
    jumped = len(throws_of(motion))
    if len(vain) < _VAIN or not jumped or len(vain) < _VAIN_SHARE * (len(vain) + jumped):
        return []
    what = f"{len(vain)} presses of jump on the ground did nothing, and {jumped} others jumped"
    return [finding(PRESSES_IN_VAIN, int(vain[0]), int(vain[-1]) + 1, what)]


def check_sinking(motion: FootMotion) -> list[Finding]:
    """Return landings that are drawn into the ground for some frames, and falls that never end."""
    up, flights = motion.up, motion.flights
    if up is None or up.rounded or not len(flights) or not motion.grounded.any():
        return []
    tall = max((float(np.ptp(up.p[a - 1 : b])) for a, b in _spans(motion)), default=0.0)
    depths = [(_depth(motion, up, stop, tall), stop) for stop in flights.stop.tolist()]
    least = _DEEP * tall + 2 * up.quantum
    deep = [(d, row) for d, row in depths if d > least]
    found = _dips(motion, up, least)
    if deep:
        what = (
            f"at {len(deep)} of {len(depths)} landings it is drawn up to {max(deep)[0]:.3g}"
            f" {motion.take.header.length_unit} into the ground for a frame or two"
        )
        found.append(finding(SINKS_IN, deep[0][1], deep[-1][1] + _DRAWN, what))
    return found + _falls_on(motion, up)


def _dips(motion: FootMotion, up: Track, least: float) -> list[Finding]:
    """Return frames that are drawn lower than level ground before and behind them."""
    y = up.p
    if len(y) < _AROUND:
        return []
    level = np.stack([y[:-4], y[1:-3], y[3:-1], y[4:]])
    flat = np.ptp(level, axis=0) <= _SLOP * float(np.ptp(y)) + up.quantum
    depth = level.min(axis=0) - y[2:-2]
    rows = np.flatnonzero(flat & (depth > least)) + 2
    if not rows.size:
        return []
    what = (
        f"it is drawn up to {float(depth[rows - 2].max()):.3g} {motion.take.header.length_unit}"
        f" into level ground for a frame, {times(len(rows))}"
    )
    return [finding(SINKS_IN, int(rows[0]), int(rows[-1]) + 1, what)]


def _depth(motion: FootMotion, up: Track, stop: int, tall: float) -> float:
    """Return how deep below where it then stands a landing is drawn; 0 where it stands nowhere."""
    last = stop + 2 * _DRAWN + 2
    after = up.p[stop + _DRAWN : last]
    stands = last <= len(up.p) and motion.grounded[stop:last].all()
    if not stands or np.ptp(after) > _SLOP * tall + up.quantum:
        return 0.0
    return median(after) - float(np.min(up.p[stop : stop + _DRAWN]))


def _spans(motion: FootMotion) -> list[tuple[int, int]]:
    """Return the frames of the flights that begin in the take."""
    flights = motion.flights
    pairs = zip(flights.start.tolist(), flights.stop.tolist(), strict=True)
    return [(a, b) for a, b in pairs if a > 0]


def _falls_on(motion: FootMotion, up: Track) -> list[Finding]:
    """Return a fall that goes on below all ground until the take ends."""
    start, stop = int(motion.flights.start[-1]), int(motion.flights.stop[-1])
    tall = max((float(np.ptp(up.p[a - 1 : b])) for a, b in _spans(motion)[:-1]), default=0.0)
    lowest = float(np.min(up.p[motion.grounded]))
    rows = np.flatnonzero(up.p[start:] < lowest - _SLOP * tall) + start
    if stop < len(up.p) or not rows.size or motion.t[-1] - motion.begin[rows[0]] < _FALLS:
        return []
    depth = lowest - float(up.p[-1])
    what = (
        f"it falls on for {motion.t[-1] - motion.begin[rows[0]]:.2g} s below all ground that it"
        f" stood on, {depth:.3g} {motion.take.header.length_unit} deep, until the take ends"
    )
    return [finding(FALLS_ON, int(rows[0]), len(up.p), what)] if depth > _FALLS_FAR * tall else []
