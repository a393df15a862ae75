"""Recovering the laws of a take: phase by phase, then what happens between phases."""

import numpy as np

from kickback.laws.dashes import dash_laws
from kickback.laws.events import air_impulse, cuts, impulse, landing_order
from kickback.laws.implied import implied_tracks, told_from_steps
from kickback.laws.pooled import law_of_pool
from kickback.laws.position import law_track, position_rule
from kickback.laws.record import Constant, Law, Laws
from kickback.laws.steps import Pool, sides_of, travel_pools, vertical_pools
from kickback.laws.sustained import sustained
from kickback.laws.timers import timers
from kickback.motion.analyse import Motion, analyse
from kickback.motion.breaks import find_breaks, pieces_of
from kickback.motion.kinematics import Track
from kickback.motion.thresholds import Thresholds
from kickback.takes.numeric import typical
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["recover_laws"]

_ALIKE = 1e-6
_EVEN = 1e-3
_DISAGREE = 3.0


def recover_laws(take: Take, thresholds: Thresholds | None = None) -> Laws:
    """Return the update rule behind each phase of a take, and between them.

    Equal phases are pooled. A phase that no rule explains, or that is too short or too
    noisy to tell, has the law ``none`` with the reason. Where the position leaps, the
    longest stretch alone is read. Raises InputError for a take that cannot be measured.
    """
    breaks = find_breaks(take)
    if len(breaks):
        take = max((piece for _, piece in pieces_of(take, breaks)), key=len, default=take)
    motion = analyse(take, thresholds)
    rows: list[Law] = []
    rows += _travel(motion)
    rows += _vertical(motion)
    dt = motion.dt[1:]
    return Laws(rows=rows, even=float(np.ptp(dt)) <= _EVEN * typical(dt))


def _travel(motion: Motion) -> list[Law]:
    axis = "x" if motion.take.header.up[1] != "x" else "y"
    if motion.across is None:
        return []
    rule = position_rule(motion, motion.across, axis, "travel")
    track, rows, rule = _best(motion, motion.across, axis, "travel", rule)
    rows = rows if track.rounded else _told_apart(rows)
    coast = next((row for row in rows if row.phase == "coast" and row.law != "none"), None)
    rows += dash_laws(motion, track, axis, coast)
    return rows if rule is None else [*rows, rule]


def _best(
    motion: Motion, track: Track, axis: str, side: str, rule: Law | None
) -> tuple[Track, list[Law], Law | None]:
    """Return the track that laws are read from, with the laws of its pools and its rule.

    Without a velocity, that of the θ whose speed leaves the fewest pools without a law.
    """
    pooled = _travel_laws if side == "travel" else _flight_laws
    candidates = implied_tracks(motion, track, side) if rule is None else []
    if not candidates:
        track = law_track(motion, track, axis, rule)
        return track, pooled(motion, track), rule
    tried = [(theta, one, pooled(motion, one)) for theta, one in candidates]
    counts = [sum(row.law not in {"none", "clamp"} for row in rows) for _, _, rows in tried]
    best = int(np.argmax(counts))
    theta, track, rows = tried[best]
    if sorted(counts)[-1] > sorted(counts)[-2]:
        rule = told_from_steps(motion, axis, side, theta, sum(row.frames for row in rows))
    return track, rows, rule


def _travel_laws(motion: Motion, track: Track) -> list[Law]:
    rows: list[Law] = []
    for pool in travel_pools(motion, track):
        rows += _by_side(motion, track, pool)
    return rows


def _flight_laws(motion: Motion, track: Track) -> list[Law]:
    held = sustained(motion, track)
    rows: list[Law] = [] if held is None else list(held.laws)
    for pool in vertical_pools(motion, track, None if held is None else held.mask):
        rows += law_of_pool(motion, track, pool)
    return rows


def _by_side(motion: Motion, track: Track, pool: Pool) -> list[Law]:
    """Return a pool's laws; one for each side where the sides together have none."""
    together = law_of_pool(motion, track, pool)
    if not any(_unlike(row) for row in together):
        return together
    sides = sides_of(pool, track)
    apart = [row for side in sides for row in law_of_pool(motion, track, side)]
    if len(sides) < 2 or any(_unlike(row) for row in apart):
        return together
    return apart


def _unlike(row: Law) -> bool:
    """Whether a law is none, or one of phases that disagree."""
    return row.law == "none" or row.unlike


def _vertical(motion: Motion) -> list[Law]:
    axis = motion.take.header.up[1]
    if motion.up is None:
        return []
    rule = position_rule(motion, motion.up, axis, "vertical")
    track, rows, rule = _best(motion, motion.up, axis, "vertical", rule)
    if track.source != "displacement":
        motion = replace(motion, up=track)  # the code's own speed
    rows = [_falling_drive(row) if row.law == "smoothing" else row for row in rows]
    gravity = next(
        (-row.value("acceleration") for row in rows if row.phase in {"rise", "rise let go"}
         and row.law == "constant-acceleration"), None)  # fmt: skip
    if (thrown := impulse(motion, gravity)) is not None:
        rows.insert(0, thrown)
    between = (air_impulse(motion, gravity), cuts(motion, gravity), landing_order(motion))
    rows += [row for row in between if row is not None]
    rows = [*_one_rise(rows), *timers(motion)]
    return rows if rule is None else [*rows, rule]


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
    by_name = {row.phase: row for row in rows}
    held, free = by_name.get("rise"), by_name.get("rise let go")
    if held is None or free is None:
        return rows
    nothing = free.law == "none"
    if nothing or (held.law == free.law and _agree(held, free)):
        return [row for row in rows if row is not free]
    return rows


def _agree(one: Law, other: Law) -> bool:
    for item in one.constants:
        if item.name == "exponent":
            continue
        twin = other.constant(item.name)
        slack = _DISAGREE * float(np.hypot(item.stderr or 0.0, twin.stderr or 0.0))
        if abs(item.value - twin.value) > slack + _ALIKE * abs(item.value):
            return False
    return True


def _told_apart(rows: list[Law]) -> list[Law]:
    """Say what a push toward a speed also reads as, or call it a drive where that is shown."""
    by_name = {row.phase: row for row in rows}
    out = []
    for row in rows:
        alike = row.phase.replace("speed-up", "coast")
        plain = alike.partition(" toward ")[0].partition(" at ")[0]
        coast = by_name.get(alike) or by_name.get(plain)
        limit = by_name.get(row.phase.replace("speed-up", "cruise"))
        if row.law != "smoothing" or not row.phase.startswith("speed-up"):
            out.append(row)
            continue
        goal, factor = row.value("goal"), row.value("factor")
        drive = goal * (1 - factor) / factor / row.frame
        clamped = limit is not None and limit.value("speed") < (1 - 1e-3) * goal
        if clamped:
            out.append(_as_drive(row, drive))
            continue
        one_map = row.clock in {"even", "frame"}  # else uneven times would tell a drive
        same = one_map and coast is not None and coast.law == "friction" and _same_rate(row, coast)
        text = None
        if same:
            text = f"or an acceleration of {drive:.6g} with the friction that coasting shows"
        out.append(replace(row, reason=_joined(row.reason, text)))
    return out


def _same_rate(one: Law, other: Law) -> bool:
    a, b = one.constant("rate"), other.constant("rate")
    slack = _DISAGREE * float(np.hypot(a.stderr or 0.0, b.stderr or 0.0))
    return abs(a.value - b.value) <= slack + _ALIKE * abs(a.value)


def _as_drive(row: Law, acceleration: float) -> Law:
    rate, unit = row.constant("rate"), row.constant("goal").unit
    error = (row.constant("goal").stderr or 0.0) * rate.value
    return replace(
        row,
        law="drive",
        constants=(
            Constant(name="acceleration", value=acceleration, unit=f"{unit}²", stderr=error),
            rate,
            row.constant("factor"),
        ),
    )


def _joined(*parts: str | None) -> str | None:
    return "; ".join(part for part in parts if part) or None
