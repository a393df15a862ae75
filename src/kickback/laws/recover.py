"""Recovering the laws of a take: phase by phase, then what happens between phases."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.events import clamp, cuts, impulse
from kickback.laws.fit import Fit, fit_steps, split_by_speed
from kickback.laws.path import LAWLESS, PathFit, fit_path
from kickback.laws.position import law_track, position_rule
from kickback.laws.record import Constant, Law, Laws
from kickback.laws.steps import (
    Pool,
    Steps,
    inner,
    sides_of,
    stretches_of,
    travel_pools,
    vertical_pools,
)
from kickback.laws.timers import timers
from kickback.motion.analyse import Motion, analyse
from kickback.motion.breaks import find_breaks, pieces_of
from kickback.motion.kinematics import Track
from kickback.motion.thresholds import Thresholds
from kickback.takes.numeric import typical
from kickback.takes.record import replace
from kickback.takes.take import FloatArray, Take

__all__ = ["recover_laws"]

_MOST_STEPS = 50_000
_MOST_PATHS = 40
_FEWEST_POOR = 8
_ALIKE = 1e-6
_EVEN = 1e-3
_THERE = 0.05
_EXACT = 1e-9
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
    dt = take.numbers("dt")[1:]
    return Laws(rows=rows, even=float(np.ptp(dt)) <= _EVEN * typical(dt))


def _travel(motion: Motion) -> list[Law]:
    axis = "x" if motion.take.header.up[1] != "x" else "y"
    if motion.across is None:
        return []
    rule = position_rule(motion, motion.across, axis, "travel")
    track = law_track(motion, motion.across, axis, rule)
    rows: list[Law] = []
    for pool in travel_pools(motion, track):
        rows += _by_side(motion, track, pool)
    rows = rows if track.rounded else _told_apart(rows)
    return rows if rule is None else [*rows, rule]


def _by_side(motion: Motion, track: Track, pool: Pool) -> list[Law]:
    """Return a pool's laws; one for each side where the sides together have none."""
    together = _pooled(motion, track, pool)
    if not any(_unlike(row) for row in together):
        return together
    sides = sides_of(pool, track)
    apart = [row for side in sides for row in _pooled(motion, track, side)]
    if len(sides) < 2 or any(_unlike(row) for row in apart):
        return together
    return apart


def _unlike(row: Law) -> bool:
    """Whether a law is none, or one of phases that disagree."""
    reason = row.reason or ""
    return row.law == "none" or "disagree" in reason or "hold another speed" in reason


def _vertical(motion: Motion) -> list[Law]:
    axis = motion.take.header.up[1]
    if motion.up is None:
        return []
    rule = position_rule(motion, motion.up, axis, "vertical")
    track = law_track(motion, motion.up, axis, rule)
    rows: list[Law] = []
    for pool in vertical_pools(motion, track):
        rows += _pooled(motion, track, pool)
    rows = [_falling_drive(row) if row.law == "smoothing" else row for row in rows]
    gravity = next(
        (-row.value("acceleration") for row in rows if row.phase.startswith("rise")
         and row.law == "constant-acceleration"), None)  # fmt: skip
    if (thrown := impulse(motion, gravity)) is not None:
        rows.insert(0, thrown)
    if (cut := cuts(motion, gravity)) is not None:
        rows.append(cut)
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
        coast = by_name.get(alike) or by_name.get(alike.partition(" toward ")[0])
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
        same = coast is not None and coast.law == "friction" and _same_rate(row, coast)
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


def _pooled(motion: Motion, track: Track, pool: Pool) -> list[Law]:
    """Return the law of one pool of equal phases, and the limit that it runs into."""
    every = pool.steps if len(pool.steps) else pool.short if len(pool.short) else pool.level
    base = Law(
        take=motion.take.name,
        track=pool.track,
        phase=pool.phase,
        start=float(motion.begin[every.row[0]]),
        end=float(motion.t[every.row[-1]]),
        axis=pool.axis,
        law="none",
        frame=every.usual,
    )
    unit = motion.take.header.length_unit
    if not track.rounded:
        exact = _exactly(track, pool, base, unit)
        name = _limit_name(pool.phase)
        limit = clamp(motion, pool, name) if name else None
        if exact is not None:
            return [*exact, limit] if limit is not None else exact
    law, limit = _from_paths(motion, track, pool, base, unit)
    return [law, limit] if limit is not None else [law]


def _exactly(track: Track, pool: Pool, base: Law, unit: str) -> list[Law] | None:
    """Return the laws of steps whose speeds are exact, or None where noise may hide them."""
    at_once = _instant(pool, base, unit)
    if at_once is not None:
        return [at_once]
    steps = pool.steps if track.source == "reported" else inner(pool.steps)
    stride = max(1, len(steps) // _MOST_STEPS)
    thin = steps if stride == 1 else steps.only(np.arange(len(steps)) % stride == 0)
    noise = max(track.noise, _grain(track.v))
    fit = fit_steps(thin, noise)
    if fit.law != "none":
        return [_with_fit(base, fit, unit, len(steps))]
    if pool.track == "vertical" and (split := split_by_speed(thin, noise)) is not None:
        return _near_apex(base, split, unit)
    even = float(np.ptp(pool.every.dt)) <= 0.01 * base.frame
    if len(pool.every) < _FEWEST_POOR or not (even or track.noise):
        return [replace(base, reason=fit.reason, frames=len(steps))]
    return None


def _near_apex(base: Law, split: tuple[Fit, Fit, float, int, int], unit: str) -> list[Law]:
    """Return the laws of a flight away from its apex and near it, with the speed between."""
    far, near, speed, many, few = split
    limit = Constant(name="below", value=speed, unit=f"{unit}/s")
    slow = _with_fit(replace(base, phase=f"{base.phase} near the apex"), near, unit, few)
    return [
        _with_fit(base, far, unit, many),
        replace(slow, constants=(*slow.constants, limit)),
    ]


def _instant(pool: Pool, base: Law, unit: str) -> Law | None:
    """Return the law of a speed that is there at once."""
    if len(pool.steps) or not len(pool.short):
        return None
    speed = pool.short.v1
    value = float(np.median(speed))
    if float(np.ptp(speed)) > 1e-3 * float(np.max(np.abs(pool.short.v0 - speed))):
        return replace(base, reason="fewer than 4 frames away from limits")
    return replace(
        base,
        law="instant",
        constants=(
            Constant(name="speed", value=value, unit=f"{unit}/s", stderr=float(np.std(speed))),
        ),
        frames=len(speed),
        misfit=float(np.std(speed)),
    )


_UNITS = {"acceleration": "{0}/s²", "goal": "{0}/s", "speed": "{0}/s", "rate": "1/s", "factor": ""}
_CLOCKS = {
    "frame": "belongs to the frame: it is not multiplied by the time step",
    "square": "is multiplied by the time step twice",
    "first-order": "the factor is 1 − rate·dt, not exp(−rate·dt)",
    "gain": "the acceleration belongs to the frame: it is not multiplied by the time step",
    "both": "both belong to the frame: neither is multiplied by the time step",
}


def _with_fit(base: Law, fit: Fit, unit: str, frames: int) -> Law:
    constants = [
        Constant(name=name, value=value, unit=_UNITS[name].format(unit), stderr=fit.stderr[name])
        for name, value in fit.values.items()
    ]
    if fit.exponent is not None:
        p, error = fit.exponent
        constants.append(Constant(name="exponent", value=p, unit="", stderr=error))
    return replace(
        base,
        law=fit.law,
        constants=tuple(constants),
        reason=_CLOCKS.get(fit.clock),
        frames=frames,
        misfit=fit.misfit,
    )


def _from_paths(
    motion: Motion, track: Track, pool: Pool, base: Law, unit: str
) -> tuple[Law, Law | None]:
    """Fit each stretch of poor data as a path, and pool what the stretches say.

    Returns the law of what comes before the speed settles, and the speed that it settles
    at, where it does. Stretches that are level from their start only count where all are.
    """
    path = _Paths(motion, track)
    ranges = stretches_of(pool.every)
    ranges.sort(key=lambda item: item[0] - item[1])
    changing: list[PathFit] = []
    level: list[PathFit] = []
    limits: list[PathFit] = []
    frames = held = 0
    for a, b in ranges[:_MOST_PATHS]:
        part = pool.every.only(np.isin(np.arange(len(pool.every)), np.arange(a, b)))
        settles = 0 if pool.phase.startswith("rise") else _unsettled(part.v1, track.noise)
        end = len(part) if settles is None or pool.phase.startswith("rise") else settles
        (changing if end else level).append(path.fit(part, 0, end or len(part)))
        frames += end or len(part)
        if settles is not None and 0 < end < len(part):
            limits.append(path.fit(part, end, len(part)))
            held += len(part) - end
    law = _combined(base, changing or level, unit, frames)
    limits = [fit for fit in limits if fit.law == "constant-speed"]
    if not limits:
        return law, None
    speed = _combined(base, limits, unit, held)
    if law.law == "smoothing" and abs(speed.value("speed") / law.value("goal") - 1) < _THERE:
        return law, None  # the speed that it goes toward, reached within the noise
    return law, replace(speed, law="clamp", phase=_limit_name(pool.phase) or pool.phase)


def _limit_name(phase: str) -> str:
    """Return the name of the limit that a phase runs into, or nothing."""
    if phase.startswith("speed-up"):
        return phase.replace("speed-up", "cruise")
    return "terminal" if phase == "fall" else ""


class _Paths:
    """One axis's positions, or speeds where the game tells them, and their noise."""

    def __init__(self, motion: Motion, track: Track) -> None:
        self._t, self._v = motion.t, track.v
        self._position = track.source != "reported"
        self._y = track.p if self._position else track.v
        quantum = track.quantum if self._position else 2 * track.noise
        own = 0.0 if self._position else _noise(track.v, motion.rest_speed)
        self._rounding = float(quantum / np.sqrt(12))
        self._sigma = max(self._rounding, own)

    def fit(self, steps: Steps, start: int, stop: int) -> PathFit:
        """Fit the path of steps ``[start, stop)``; a stretch's edges may be another rule's."""
        rows = steps.row[start:stop]
        if len(rows) > 2 * _FEWEST_POOR:
            rows = rows[1:-1]
        if len(rows) < _FEWEST_POOR:
            return PathFit(law="none", reason="too few frames away from limits, with such noise")
        turn = -1.0 if float(self._v[rows] @ steps.v1[start:stop][: len(rows)]) < 0 else 1.0
        return fit_path(
            self._t[rows],
            turn * self._y[rows],
            self._sigma,
            position=self._position,
            rounding=self._rounding,
        )


def _grain(v: FloatArray) -> float:
    """Return the spacing of single-precision numbers at the highest speed, where all are such."""
    single = v.astype(np.float32)
    if not np.array_equal(single.astype(np.float64), v):
        return 0.0
    return float(np.spacing(np.max(np.abs(single), initial=np.float32(0.0))))


def _noise(v: FloatArray, rest: float) -> float:
    """Return the noise of a speed while it moves, from third differences, or 0.

    The median of their sizes, over ``0.6745·√20`` for noise of a bell shape.
    """
    moving = np.abs(v) > rest
    inside = moving[3:] & moving[:-3]
    third = np.abs(np.diff(v, 3))[inside]
    return float(np.median(third)) / (0.6745 * np.sqrt(20)) if third.size else 0.0


def _unsettled(v: FloatArray, noise: float) -> int | None:
    """Return how many frames of a stretch pass before its speed stays where it ends.

    None where it never settles: where the last third still changes.
    """
    n = len(v)
    late = v[2 * n // 3 :]
    if len(late) < 4:
        return None
    sigma = noise or float(np.sqrt(np.mean(np.diff(v, 3) ** 2) / 20))
    level = float(np.median(late))
    half = len(late) // 2
    drift = abs(float(np.mean(late[half:]) - np.mean(late[:half])))
    if drift > _DISAGREE * max(sigma * np.sqrt(4 / len(late)), 1e-3 * abs(level)):
        return None
    away = np.flatnonzero(np.abs(v - level) > _DISAGREE * sigma + 1e-3 * abs(level))
    return int(away[-1]) + 1 if away.size else 0


_PATH_NAMES = {"a": "acceleration", "k": "rate", "g": "goal", "c": "speed"}


def _combined(base: Law, fits: Sequence[PathFit], unit: str, frames: int) -> Law:
    """Return the law that most of the told stretches have, its constants weighted together."""
    told = [fit for fit in fits if fit.law != "none"]
    if not told:
        reason = fits[0].reason if fits else "too few frames away from limits"
        return replace(base, reason=reason, frames=frames)
    names = [fit.law for fit in told]
    law = max(dict.fromkeys(names), key=names.count)
    if names.count(law) <= len(told) / 2:
        return replace(base, reason="its phases read as different rules", frames=frames)
    chosen = [fit for fit in told if fit.law == law]
    lawless = [fit for fit in fits if fit.reason == LAWLESS]
    if len(lawless) >= len(chosen):
        return replace(base, reason="most of its phases follow no known rule", frames=frames)
    constants: list[Constant] = []
    unlike: str | None = None
    for key in chosen[0].values:
        value = np.array([fit.values[key] for fit in chosen])
        floor = _EXACT * float(np.max(np.abs(value))) + 1e-15
        error = np.maximum(np.array([fit.stderr[key] for fit in chosen]), floor)
        mean, size = _weighted(value, error)
        if float(np.max(np.abs(value - mean) / error)) > _DISAGREE + np.log(len(value)):
            unlike = (
                f"its phases disagree: {_PATH_NAMES[key]} {value.min():.4g} to {value.max():.4g}"
            )
            size = max(size, float(np.std(value)))
        name = _PATH_NAMES[key]
        constants.append(
            Constant(name=name, value=mean, unit=_UNITS[name].format(unit), stderr=size)
        )
    by_name = {item.name: item for item in constants}
    if "rate" in by_name:
        rate = by_name["rate"]
        factor = float(np.exp(-rate.value * base.frame))
        error = factor * base.frame * (rate.stderr or 0.0)
        constants.append(Constant(name="factor", value=factor, unit="", stderr=error))
    misfit = float(np.sqrt(np.mean([fit.misfit**2 for fit in chosen])))
    return replace(
        base, law=law, constants=tuple(constants), reason=unlike, frames=frames, misfit=misfit
    )


def _weighted(value: FloatArray, error: FloatArray) -> tuple[float, float]:
    """Return the mean weighted by 1/σ², and its standard error."""
    weight = 1 / error**2
    return float(np.sum(weight * value) / np.sum(weight)), float(1 / np.sqrt(np.sum(weight)))
