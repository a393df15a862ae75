"""The laws of one motion on foot: phase by phase, then what happens between phases."""

import msgspec
import numpy as np

from kickback.kinds.foot.laws.consequences import clock_signs, follows
from kickback.kinds.foot.laws.dashes import dash_laws
from kickback.kinds.foot.laws.events import air_impulses, cuts, impulse, landing_order
from kickback.kinds.foot.laws.implied import implied_tracks, told_from_steps
from kickback.kinds.foot.laws.plane import plane_laws
from kickback.kinds.foot.laws.pools import directions_of, travel_pools, vertical_pools
from kickback.kinds.foot.laws.sustained import sustained
from kickback.kinds.foot.laws.timers import timers
from kickback.kinds.foot.laws.tracks import law_track, usable_steps
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.level import CLAMP
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.keys import PhaseKey
from kickback.laws.pooled import law_of_pool
from kickback.laws.position import position_rule
from kickback.laws.record import Constant, Law, Laws
from kickback.laws.steps import Pool, sides_of
from kickback.motion.tracks import Track
from kickback.takes.quantities import TIME
from kickback.takes.record import replace
from kickback.takes.roles import Role
from kickback.takes.tolerances import SURE

__all__ = ["foot_laws"]

RISE = PhaseKey("rise")
LET_GO = PhaseKey("rise", part="let go")

_ALIKE = 1e-6
"""Share by which constants of one rule may differ: what arithmetic leaves of them."""

_BELOW = 1e-3
"""Share by which a limit lies below the speed that a push goes toward, to be a clamp."""


def foot_laws(motion: FootMotion) -> Laws:
    """Return the update rule behind each phase of a motion, and between them.

    Equal phases are pooled. A phase that no rule explains, or that is too short or too
    noisy to tell, has the law ``none`` with the reason.
    """
    rows = [*_travel(motion), *_vertical(motion)]
    even = motion.clock.even
    return Laws(rows=rows, even=even, consequences=follows(rows), clock_signs=clock_signs(rows))


def _travel(motion: FootMotion) -> list[Law]:
    if motion.across is None:
        return []
    track, rows, rule = _best(motion, motion.across, ACROSS)
    rows = rows if track.rounded else _told_apart(rows)
    coast = next((row for row in rows if row.phase == PhaseKey("coast") and row.family), None)
    rows += dash_laws(motion, track, coast)
    return [*_with_rule(rows, rule), *plane_laws(motion, motion.across, rows)]


def _with_rule(rows: list[Law], rule: Law | None) -> list[Law]:
    """Return laws with the position rule, which says what their speeds are lengths by."""
    if rule is None:
        return rows
    if rule.family is POSITION_RULE and rule.clock == "frame":
        rows = [replace(row, by_frame=True) for row in rows]
    return [*rows, rule]


def _best(motion: FootMotion, track: Track, role: Role) -> tuple[Track, list[Law], Law | None]:
    """Return the track that laws are read from, with the laws of its pools and its rule.

    Without a velocity, that of the θ whose speed leaves the fewest pools without a law.
    """
    pooled = _travel_laws if role is ACROSS else _flight_laws
    rule = None
    if track.logged is not None:
        rule = position_rule(motion, track, role, usable_steps(motion, track.logged, role))
    candidates = implied_tracks(motion, track, role) if rule is None else []
    if not candidates:
        track = law_track(motion, track, rule)
        return track, pooled(motion, track), rule
    tried = [(theta, one, pooled(motion, one)) for theta, one in candidates]
    counts = [sum(row.family not in {None, CLAMP} for row in rows) for _, _, rows in tried]
    best = int(np.argmax(counts))
    theta, track, rows = tried[best]
    if sorted(counts)[-1] > sorted(counts)[-2]:
        frames = sum(row.frames for row in rows)
        rule = told_from_steps(motion, track.axis, role, theta, frames)
    return track, rows, rule


def _travel_laws(motion: FootMotion, track: Track) -> list[Law]:
    rows: list[Law] = []
    for pool in travel_pools(motion, track):
        rows += _by_side(motion, track, pool)
    return rows


def _flight_laws(motion: FootMotion, track: Track) -> list[Law]:
    held = sustained(motion, track)
    rows: list[Law] = [] if held is None else list(held.laws)
    for pool in vertical_pools(motion, track, None if held is None else held.mask):
        rows += law_of_pool(motion, track, pool)
    return rows


def _by_side(motion: FootMotion, track: Track, pool: Pool) -> list[Law]:
    """Return a pool's laws; one for each side where the sides together have none.

    In a plane the sides are the runs along the input's axes and those between them.
    """
    together = law_of_pool(motion, track, pool)
    if not any(_unlike(row) for row in together):
        return together
    sides = sides_of(pool, track) if motion.plane is None else directions_of(motion, track, pool)
    apart = [row for side in sides for row in law_of_pool(motion, track, side)]
    if len(sides) < 2 or any(_unlike(row) for row in apart):
        return together
    return apart


def _unlike(row: Law) -> bool:
    """Whether a law is none, or one of phases that disagree."""
    return row.family is None or row.unlike


def _vertical(motion: FootMotion) -> list[Law]:
    if motion.up is None:
        return []
    track, rows, rule = _best(motion, motion.up, UP)
    if track.source != "displacement":  # the code's own speed
        motion = replace(motion, tracks={**motion.tracks, UP.name: track})
    rows = [_falling_drive(row) if row.family is SMOOTHING else row for row in rows]
    gravity = _pull(rows, {RISE, LET_GO})
    if (thrown := impulse(motion, gravity)) is not None:
        rows.insert(0, thrown)
    rows += air_impulses(motion, gravity)
    cut = cuts(motion, gravity, _pull(rows, {LET_GO}))
    rows += [row for row in (cut, landing_order(motion)) if row is not None]
    rows = [*_one_rise(rows), *timers(motion)]
    return _with_rule(rows, rule)


def _pull(rows: list[Law], phases: set[PhaseKey]) -> float | None:
    """Return the first constant deceleration of some phases, length/s², or None."""
    pulls = (
        -row.value("acceleration")
        for row in rows
        if row.phase in phases and row.family is CONSTANT_ACCELERATION
    )
    return next(pulls, None)


def _falling_drive(row: Law) -> Law:
    """Call a smoothing in the air what it is: gravity and drag together.

    At an even rate the order of the two cannot be told: both readings are given.
    """
    goal, factor = row.value("goal"), row.value("factor")
    first = goal * (1 - factor) / factor / row.frame
    text = f"or {first * factor:.6g} where the drag acts before gravity"
    return _as_drive(replace(row, reason=_joined(row.reason, text)), first)


def _one_rise(rows: list[Law]) -> list[Law]:
    """Leave out the rise after letting go where it follows the same law as before."""
    by_phase = {row.phase: row for row in rows}
    held, free = by_phase.get(RISE), by_phase.get(LET_GO)
    if held is None or free is None:
        return rows
    if free.family is None or (held.family is free.family and _agree(held, free)):
        return [row for row in rows if row is not free]
    return rows


def _agree(one: Law, other: Law) -> bool:
    for item in one.constants:
        if item.name == "exponent":
            continue
        twin = other.constant(item.name)
        slack = SURE * float(np.hypot(item.stderr or 0.0, twin.stderr or 0.0))
        if abs(item.value - twin.value) > slack + _ALIKE * abs(item.value):
            return False
    return True


def _told_apart(rows: list[Law]) -> list[Law]:
    """Say what a push toward a speed also reads as, or call it a drive where that is shown."""
    by_phase = {row.phase: row for row in rows}
    return [
        _push_told(row, by_phase)
        if row.family is SMOOTHING and row.phase.base == "speed-up"
        else row
        for row in rows
    ]


def _push_told(row: Law, by_phase: dict[PhaseKey, Law]) -> Law:
    alike = msgspec.structs.replace(row.phase, base="coast")
    plain = msgspec.structs.replace(alike, side="", amount=None)
    coast = by_phase.get(alike) or by_phase.get(plain)
    limit = by_phase.get(msgspec.structs.replace(row.phase, base="cruise"))
    goal, factor = row.value("goal"), row.value("factor")
    drive = goal * (1 - factor) / factor / row.frame
    if limit is not None and limit.value("speed") < (1 - _BELOW) * goal:
        return _as_drive(row, drive)
    one_map = row.clock in {"even", "frame"}  # else uneven times would tell a drive
    if not (one_map and coast is not None and coast.family is FRICTION and _same_rate(row, coast)):
        return row
    text = f"or an acceleration of {drive:.6g} with the friction that coasting shows"
    return replace(row, reason=_joined(row.reason, text))


def _same_rate(one: Law, other: Law) -> bool:
    a, b = one.constant("rate"), other.constant("rate")
    slack = SURE * float(np.hypot(a.stderr or 0.0, b.stderr or 0.0))
    return abs(a.value - b.value) <= slack + _ALIKE * abs(a.value)


def _as_drive(row: Law, acceleration: float) -> Law:
    rate, goal = row.constant("rate"), row.constant("goal")
    error = (goal.stderr or 0.0) * rate.value
    push = Constant(name="acceleration", value=acceleration, unit=goal.unit / TIME, stderr=error)
    return replace(row, family=DRIVE, constants=(push, rate, row.constant("factor")))


def _joined(*parts: str | None) -> str | None:
    return "; ".join(part for part in parts if part) or None
