"""Ground and falls: flicker, speed that grows on the ground, thin floors, what falls through."""

import numpy as np

from kickback.findings.finding import Finding, FindingKind, finding, stretches
from kickback.kinds.foot.contact import inferred_contact
from kickback.kinds.foot.motion import FootMotion
from kickback.motion.segments import BoolArray, IntArray, runs
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["FINDINGS", "check_contact", "check_fell_through", "check_floor", "check_probe"]

_REACH = 1.05
"""How many of the longest steps ground reaches to either side of where it was stood on."""

_ON_GRID = (0.02, 0.05)
"""Shares of a tile that levels may differ by, and must lie off its edges by."""

CONTACT_DISAGREES = FindingKind(
    code="contact-disagrees",
    severity="warning",
    advice="map the flag that each update ends with; invert = true turns one round",
    explains=("no-fall", "constant-fall", "straight-jump", "fell-through", "falls-on", "sinks-in"),
)

CONTACT_FLICKER = FindingKind(
    code="contact-flicker",
    severity="note",
    advice="the flag is cleaned here; a coyote time hides it from the player",
)

FELL_THROUGH = FindingKind(
    code="fell-through",
    severity="error",
    advice="the floor was missed: check the largest step against its thickness",
    explains=("falls-on",),
)

FLOOR_THIN = FindingKind(
    code="floor-thin",
    severity="warning",
    advice="move in smaller steps, sweep the motion, or make the floor thicker",
)

PROBE_CENTRE = FindingKind(
    code="probe-centre",
    severity="note",
    advice="give the feet: an offset in the mapping, or probe in the header",
)

SPEED_ON_GROUND = FindingKind(
    code="speed-on-ground",
    severity="warning",
    advice="set the vertical speed to 0 on the ground, or the next fall begins with it",
    explains=("constant-fall",),
)

FINDINGS = (
    CONTACT_DISAGREES,
    CONTACT_FLICKER,
    FELL_THROUGH,
    FLOOR_THIN,
    PROBE_CENTRE,
    SPEED_ON_GROUND,
)
"""What these checks may say."""

_FLICKERS = 6
"""Flickers below which a flag is not called one that flickers."""

_A_SECOND = 1.0
"""Flickers in two seconds from which it is."""

_GROWING = 5
"""Frames in a row that vertical speed grows on the ground, to be no contact noise."""

_SLOP = 1e-3
"""Share of the height range that ground may differ by: what solvers leave."""

_STOOD = 0.5
"""Seconds on the ground that a flag must have seen."""

_SELDOM = 0.1
"""Share of those in which it may still be on."""


def check_contact(motion: FootMotion) -> list[Finding]:
    """Return a ground flag that flickers, and vertical speed that grows on the ground."""
    take, up = motion.take, motion.up
    found = []
    if "touch_ground" in take:
        flag = take.numbers("touch_ground") > 0.5
        if up is not None and (wrong := _wrong_flag(motion, flag, up)):
            return [wrong]
        changed = flag != motion.grounded
        starts, stops = runs(flag)
        brief = (stops - starts <= 2) & (starts > 0) & (stops < len(flag))
        flickers = [
            int(a) for a, b in zip(starts[brief], stops[brief], strict=True) if changed[a:b].all()
        ]
        seconds = float(motion.t[-1] - motion.begin[0])
        if len(flickers) >= _FLICKERS and len(flickers) > _A_SECOND * seconds / 2:
            what = (
                f"the ground flag flickers {len(flickers)} times without any motion to go with it"
            )
            found.append(finding(CONTACT_FLICKER, flickers[0], flickers[-1] + 1, what))
    if up is None or up.logged is None:
        return found
    vy = up.logged
    level = motion.grounded & (
        np.abs(np.diff(up.p, prepend=up.p[0])) <= ARITHMETIC * float(np.ptp(up.p)) + up.quantum
    )
    growing = np.zeros(len(vy), dtype=bool)
    growing[1:] = (
        level[1:]
        & level[:-1]
        & (np.diff(vy) < -ARITHMETIC * float(np.max(np.abs(vy))))
        & (vy[1:] < 0)
    )
    for start, stop in stretches(growing, _GROWING):
        what = f"the vertical speed grows to {vy[stop - 1]:.4g} on the ground"
        found.append(finding(SPEED_ON_GROUND, start, stop, what))
    return found


def _wrong_flag(motion: FootMotion, flag: BoolArray, up: Track) -> Finding | None:
    """Return the finding on a flag that is off wherever the height says ground."""
    stands = inferred_contact(up.p, motion.t, up.quantum)
    seconds = float(np.sum(motion.step[stands]))
    if seconds < _STOOD or float(np.mean(flag[stands])) > _SELDOM:
        return None
    air = ~stands
    turned = air.any() and float(np.mean(flag[air])) > 1 - _SELDOM
    what = "the ground flag is off wherever it stands"
    what += " and on in the air: it says the opposite" if turned else f", {seconds:.3g} s in all"
    return finding(
        CONTACT_DISAGREES, 0, len(flag), what, column="touch_ground", opposite=bool(turned)
    )


def check_floor(motion: FootMotion) -> list[Finding]:
    """Return the stretches in which a step downward is thicker than the thinnest floor."""
    thin = motion.take.header.extra.get("floor_thickness", motion.options.floor_thickness)
    if not isinstance(thin, int | float) or motion.up is None:
        return []
    thickness = float(thin)
    drop = -np.diff(motion.up.p, prepend=motion.up.p[0])
    found = []
    unit = motion.take.header.length_unit
    for start, stop in stretches((drop > thickness) & ~motion.grounded):
        worst = int(start + np.argmax(drop[start:stop]))
        speed = float(drop[worst] / motion.step[worst])
        begins = thickness / motion.step[worst]
        what = (
            f"a fall of {drop[worst]:.4g} {unit} in one frame is more than the thinnest floor,"
            f" {thickness:g} {unit}: it begins at {begins:.4g} {unit}/s at this frame rate,"
            f" and at this speed below {speed / thickness:.4g} frames/s"
        )
        found.append(finding(FLOOR_THIN, start, stop, what))
    return found


def check_fell_through(motion: FootMotion) -> list[Finding]:
    """Return flights that sink through ground on which the subject stood at that place."""
    if motion.up is None or motion.across is None or motion.plane is not None:
        return []
    x, y = motion.across.p, motion.up.p
    stood = np.flatnonzero(motion.grounded)
    if len(stood) < 2:
        return []
    order = stood[np.argsort(x[stood], kind="stable")]
    xs, ys = x[order], y[order]
    reach = float(np.ptp(np.maximum(y, ys.min())))  # a fall out of the world is no height
    longest = float(np.max(np.abs(np.diff(x)), initial=0.0))
    near, no = _REACH * longest, ARITHMETIC * longest
    fall = np.maximum(-np.diff(y, prepend=y[0]), 0.0)
    flights, found = motion.flights, []
    for a, b in zip(flights.start.tolist(), flights.stop.tolist(), strict=True):
        if fall[min(b, len(y)) - 1] < 0.5 * float(fall[a:b].max()) or not _ends_low(y, a, b):
            continue
        rows = np.arange(max(a - 1, 0), min(b, len(y)))
        at = np.clip(np.searchsorted(xs, x[rows]), 1, len(xs) - 1)
        # ground on both sides of the place, at one height: no ledge lies between
        before, after = x[rows] - xs[at - 1], xs[at] - x[rows]
        known = (before >= -no) & (before <= near) & (after >= -no) & (after <= near)
        known &= np.abs(ys[at - 1] - ys[at]) <= _SLOP * reach
        level = np.minimum(ys[at - 1], ys[at])
        depth = level - y[rows]
        # a landing that is told a frame late lies a step below; physics libraries sink in
        below = known & (depth > 2 * np.maximum.accumulate(fall[rows]) + _SLOP * reach)
        above = _latest(known & (depth <= _SLOP * reach))
        same = np.abs(level - level[above]) <= _SLOP * reach  # one floor, not the one below it
        through = below & same & (above > _latest(~known))
        if through.any():
            row = int(np.argmax(through))
            what = (
                f"at {motion.t[rows[row]]:.6g} s it is {depth[row]:.3g}"
                f" {motion.take.header.length_unit} below ground that it stood on"
            )
            found.append(finding(FELL_THROUGH, int(rows[row]), min(b, len(y)), what))
    return found


def _latest(mask: BoolArray) -> IntArray:
    """Return for each index the latest one up to it at which a mask holds, or -1."""
    latest: IntArray = np.maximum.accumulate(np.where(mask, np.arange(len(mask)), -1))
    return latest


def _ends_low(y: FloatArray, start: int, stop: int) -> bool:
    """Whether a flight ends with the take, or below where it began."""
    return stop >= len(y) or bool(y[stop] < y[max(start - 1, 0)])


def check_probe(motion: FootMotion) -> list[Finding]:
    """Return where the ground lies off the tiles' edges by one amount everywhere."""
    tile = motion.options.tile
    if tile is None or motion.up is None or motion.take.header.probe == "feet":
        return []
    y = motion.up.p
    starts, stops = runs(motion.grounded)
    levels = np.array(
        [
            median(y[a:b])
            for a, b in zip(starts.tolist(), stops.tolist(), strict=True)
            if motion.grounded[a] and b - a >= 4
        ]
    )
    if not len(levels):
        return []
    over = np.mod(levels, tile)
    offset = median(over)
    spread = float(np.max(np.abs(over - offset)))
    alike, apart = _ON_GRID
    if spread > alike * tile or min(offset, tile - offset) < apart * tile:
        return []
    several = float(np.ptp(levels)) > tile / 2  # one height alone may be any
    if not several and abs(offset / tile - 0.5) > apart:
        return []
    unit = motion.take.header.length_unit
    what = f"the ground lies {offset:.4g} {unit} above a tile's edge wherever it stands"
    return [finding(PROBE_CENTRE, 0, len(y), what)]
