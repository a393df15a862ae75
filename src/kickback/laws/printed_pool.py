"""The law of equal phases whose speeds, or times, were printed to a few digits."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.exact import FEWEST
from kickback.laws.families.level import CLAMP
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.families.table import changing, choices_of
from kickback.laws.observations import Observations
from kickback.laws.record import Constant, Law
from kickback.laws.select import Selected, select
from kickback.laws.selected_law import combined, law_of
from kickback.laws.steps import Pool, Steps, stretches_of
from kickback.laws.stretches import FEWEST_POOR
from kickback.motion.motion import Motion
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.quantities import SPEED
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC, SURE

__all__ = ["is_printed", "printed_laws"]

_MOST = 40
"""Stretches that settle a law, the longest first."""

_HELD = 3
"""Speeds at the end of a stretch that must be one, within the printing, for a limit."""

_WITHIN = 1.01
"""Grids within which printed speeds may be one: a half either way, and arithmetic."""


class _Parts(Record, frozen=True, kw_only=True):
    """A pool's stretches as far as they change, and the speeds that they settle at."""

    changing: Sequence[Steps]
    held: Sequence[FloatArray]


def is_printed(motion: Motion, track: Track) -> bool:
    """Whether a track's speeds are the game's own, and they or their times were rounded."""
    rounded = bool(track.logged_grid or motion.clock.time_error)
    return track.source == "reported" and rounded


def printed_laws(motion: Motion, track: Track, pool: Pool, base: Law) -> list[Law] | None:
    """Return the law of a pool of printed speeds, and the limit that it runs into.

    None where nothing was printed to a few digits, nothing changes, or the speeds vary by
    more than their printing explains: they have noise of their own.
    """
    if not is_printed(motion, track):
        return None
    grid, time_error = track.logged_grid, motion.clock.time_error
    slack = _WITHIN * grid + ARITHMETIC * float(np.max(np.abs(pool.every.v1), initial=0.0))
    parts = _parted(pool, slack)
    unit = motion.take.header.length_unit
    frames = sum(len(part) for part in parts.changing)
    stays = any(len(v) > FEWEST_POOR for v in parts.held)
    if frames < FEWEST and not stays:
        reason = f"fewer than {FEWEST} frames away from limits"
        return [replace(base, reason=reason, frames=frames)]
    law = _law(parts.changing, base, grid, time_error, unit)
    if law is None:
        return None
    limit = _limit(parts.held, law, base, pool, grid, unit)
    return [law] if limit is None else [law, limit]


def _parted(pool: Pool, slack: float) -> _Parts:
    """Part each stretch where its speed comes to stay within ``slack`` of where it ends.

    The step into a limit, or to rest, may have been cut short by it: it is in neither part.
    """
    changing, held = [], []
    for a, b in stretches_of(pool.every):
        part = pool.every.between(a, b)
        v = np.append(part.v0[:1], part.v1)
        away = np.flatnonzero(np.abs(v - v[-1]) > slack)
        settles = int(away[-1]) + 1 if away.size else 0
        moves = len(part)
        if pool.settles and len(v) - settles >= _HELD:
            held.append(v[settles:])
            moves = max(0, settles - 1)
        elif abs(v[-1]) <= slack:
            moves -= 1
        if moves >= 2:
            changing.append(part.between(0, moves))
    changing.sort(key=len, reverse=True)
    return _Parts(changing=_unlike(changing)[:_MOST], held=held)


def _unlike(parts: Sequence[Steps]) -> list[Steps]:
    """Return stretches without those that repeat another's rounding: they add no knowledge."""
    kept: dict[bytes, Steps] = {}
    for part in parts:
        kept.setdefault(np.concatenate((part.v0[:1], part.v1, part.dt)).tobytes(), part)
    return list(kept.values())


def _law(
    parts: Sequence[Steps], base: Law, grid: float, time_error: float, unit: str
) -> Law | None:
    """Return the law of stretches together; where they have none, that of most alone."""
    frames = sum(len(part) for part in parts)
    if frames < FEWEST:
        return None
    found = _together(parts, grid, time_error)
    if not found.lawless:
        return law_of(base, found, unit, frames)
    alone = [_selected([part], grid, time_error) for part in parts if len(part) >= FEWEST_POOR]
    if len(alone) < 2 or all(fit.lawless for fit in alone):
        return None
    return combined(base, alone, unit, frames)


def _together(parts: Sequence[Steps], grid: float, time_error: float) -> Selected:
    """Return what stretches tell together; without their edges where those are of two rules."""
    found = _selected(parts, grid, time_error)
    inner = [part.between(1, len(part) - 1) for part in parts if len(part) > FEWEST_POOR]
    return _selected(inner, grid, time_error) if found.lawless and inner else found


def _selected(parts: Sequence[Steps], grid: float, time_error: float) -> Selected:
    data = Observations.printed(parts, grid, time_error)
    return select(data, choices_of(changing(), data))


def _limit(
    held: Sequence[FloatArray], law: Law, base: Law, pool: Pool, grid: float, unit: str
) -> Law | None:
    """Return the speed that stretches settle at; not one that their law goes toward anyway.

    Near the goal of a smoothing the speed changes by less than it is printed to.
    """
    speeds = np.array([median(v) for v in held])
    speeds = speeds[np.abs(speeds) > 2 * grid]
    if pool.limit is None or not len(speeds):
        return None
    value = median(speeds)
    unlike = np.abs(speeds - value) > 2 * grid + ARITHMETIC * abs(value)
    if law.family is SMOOTHING:
        goal = law.constant("goal")
        near = 2 * grid / (1 - law.value("factor")) + SURE * (goal.stderr or 0.0)
        if abs(value - goal.value) <= near:
            return None
    return replace(
        base,
        phase=pool.limit,
        family=CLAMP,
        constants=(
            Constant(name="speed", value=value, unit=SPEED.within(unit), stderr=grid / ROOT_12),
        ),
        reason=f"{np.mean(unlike):.0%} of its stretches hold another speed"
        if unlike.any()
        else None,
        unlike=bool(unlike.any()),
        frames=sum(len(v) for v in held),
        misfit=grid / ROOT_12,
    )
