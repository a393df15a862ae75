"""Landings: bodies that bounce, and a ground flag that sticks, with the presses it swallows."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches, times
from kickback.kinds.foot.contact import inferred_contact
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.throws import thrown_in_the_air, throws_of
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.take import FloatArray

__all__ = ["FINDINGS", "check_bounces", "check_stuck", "off_ground"]

CONTACT_STUCK = FindingKind(
    code="contact-stuck",
    severity="warning",
    advice="set the flag anew in each update: a press that it swallows does nothing",
)

LANDING_BOUNCE = FindingKind(
    code="landing-bounce",
    severity="note",
    advice="a rebound is counted as no jump; set the body's bounce to 0 if it should stand",
)

FINDINGS = (
    CONTACT_STUCK,
    LANDING_BOUNCE,
)
"""What these checks may say."""

_SOON = 3
"""Frames after a landing within which what leaves the ground rebounds."""

_PRESSED = 3
"""Frames before a takeoff within which a press is its own."""

_HIGH = 0.02
"""Share of the tallest flight that a rebound is high, to be seen."""

_STICKS = 0.5
"""Seconds that a flag says the opposite of the height, from which it sticks."""

_SLOP = 1e-3
"""Share of the height range that ground may differ by: what solvers leave."""

_USUALLY = 0.6
"""Share of the time on the ground that the flag is on, for its being off to stick."""


def check_bounces(motion: FootMotion) -> list[Finding]:
    """Return landings after which a body is thrown up again with no press of a button."""
    up, jump = motion.up, motion.inputs.jump
    if up is None or jump is None or up.rounded or motion.contact_source != "recorded":
        return []
    unit = motion.take.header.length_unit
    found = []
    for rows, height in _rebounds(motion, up, jump):
        what = (
            f"after the landing at {motion.t[rows[0] - 1]:.6g} s it bounces {times(len(rows))},"
            f" {height:.3g} {unit} high"
        )
        found.append(finding(LANDING_BOUNCE, rows[0], min(rows[-1] + 1, len(up.p)), what))
    return found


def _rebounds(motion: FootMotion, up: Track, jump: BoolArray) -> list[tuple[list[int], float]]:
    """Return the throws that nobody asked for, those between two presses together, how high."""
    presses = np.flatnonzero(np.diff(jump.astype(np.int8), prepend=np.int8(0)) > 0)
    flights, n = motion.flights, len(up.p)
    starts = flights.start[1:][flights.start[1:] - flights.stop[:-1] <= _SOON]
    rows = np.sort(np.concatenate((starts, _at_ground(motion, thrown_in_the_air(motion)))))
    ends = np.sort(np.concatenate((rows, flights.stop, [n])))
    groups: dict[int, tuple[list[int], float]] = {}
    jumps = throws_of(motion).start  # a press before the landing may have been kept for it
    for row in rows.tolist():
        asked = row in jumps or bool(np.any((presses >= row - _PRESSED) & (presses <= row)))
        end = int(ends[np.searchsorted(ends, row, side="right")])
        height = float(np.max(up.p[row:end]) - up.p[row - 1])
        if asked or jump[row - 1] or height < _HIGH * float(np.ptp(up.p)):
            continue
        key = int(np.searchsorted(presses, row))
        first = groups.setdefault(key, ([], height))
        first[0].append(row)
    return list(groups.values())


def _at_ground(motion: FootMotion, rows: IntArray) -> IntArray:
    """Return those of some throws in the air that begin on a height where it stood."""
    up = motion.up
    if up is None or not motion.grounded.any():
        return rows[:0]
    off = off_ground(up.p[motion.grounded], np.minimum(up.p[rows], up.p[rows - 1]))
    return rows[off <= _SLOP * float(np.ptp(up.p))]


def off_ground(stood: FloatArray, y: FloatArray) -> FloatArray:
    """Return how far heights ``y``, shape (k,), are from the nearest that was stood on."""
    levels = np.sort(stood)
    above = np.clip(np.searchsorted(levels, y), 0, len(levels) - 1)
    below = np.maximum(above - 1, 0)
    return np.minimum(np.abs(levels[above] - y), np.abs(levels[below] - y))


def check_stuck(motion: FootMotion) -> list[Finding]:
    """Return where a ground flag stays off on ground, with the presses that did nothing."""
    up = motion.up
    if up is None or motion.contact_source != "recorded":
        return []
    flag = motion.take.numbers("touch_ground") > 0.5
    stands = inferred_contact(up.p, motion.t, up.quantum)
    if not stands.any() or np.mean(flag[stands]) < _USUALLY:
        return []
    slop = _SLOP * float(np.ptp(up.p)) + up.quantum
    known = off_ground(up.p[flag & stands], up.p) <= slop
    jump = motion.inputs.jump
    found = []
    for a, b in stretches(stands & ~flag & known):
        seconds = float(motion.t[b - 1] - motion.begin[a])
        if seconds < _STICKS:
            continue
        presses = 0 if jump is None else int(np.count_nonzero(jump[a:b][1:] & ~jump[a:b][:-1]))
        swallowed = f", and {presses} presses of jump did nothing" if presses else ""
        what = f"the ground flag is off for {seconds:.3g} s on ground that it stood on{swallowed}"
        found.append(finding(CONTACT_STUCK, a, b, what))
    return found
