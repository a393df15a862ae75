"""The law of one pool of equal phases: from exact steps, else from the paths of its stretches."""

import msgspec
import numpy as np

from kickback.laws.exact import FEWEST, fit_steps, split_by_speed
from kickback.laws.families.level import CLAMP, INSTANT
from kickback.laws.families.table import changing, simple
from kickback.laws.printed_pool import is_printed, printed_laws
from kickback.laws.record import Constant, Law
from kickback.laws.select import Selected
from kickback.laws.selected_law import law_of, with_time_error
from kickback.laws.steps import Pool, inner
from kickback.laws.stretches import FEWEST_POOR, law_of_stretches
from kickback.motion.motion import Motion
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.quantities import SPEED
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["clamp", "law_of_pool"]

_MOST_STEPS = 50_000
"""Steps that settle a rule: of more, an even share is read."""

_AT_ONCE = 1e-3
"""Share of the change by which speeds that are there at once may differ."""

_ALIKE = 1e-3
"""Share by which speeds at a limit may differ and be one."""


def law_of_pool(motion: Motion, track: Track, pool: Pool) -> list[Law]:
    """Return the law of one pool of equal phases, and the limit that it runs into."""
    every = next((one for one in (pool.steps, pool.short) if len(one)), pool.level)
    base = Law(
        take=motion.take.name,
        role=pool.role,
        phase=pool.phase,
        start=float(motion.begin[every.row[0]]),
        end=float(motion.t[every.row[-1]]),
        axis=pool.axis,
        frame=every.usual,
    )
    unit = motion.take.header.length_unit
    laws = _of_steps(motion, track, pool, base, unit)
    if laws is None:
        law, limit = law_of_stretches(motion, track, pool, base, unit)
        laws = [law] if limit is None else [law, limit]
    error = motion.clock.rate_error if track.source == "reported" else 0.0
    return [with_time_error(law, error) for law in laws]


def _of_steps(motion: Motion, track: Track, pool: Pool, base: Law, unit: str) -> list[Law] | None:
    """Return the laws that a pool's steps tell, or None where only whole stretches might."""
    if track.rounded:
        return None
    at_once = _instant(pool, base, unit)
    printed = is_printed(motion, track)
    told = [at_once] if at_once is not None else None
    if told is None and not (printed and track.logged_grid):
        told = _exactly(motion, track, pool, base, unit)
    if told is None and printed:
        told = printed_laws(motion, track, pool, base)
        return told if told is not None else _split(track, pool, base, unit)
    limit = clamp(motion, pool) if told is not None else None
    return told if told is None or limit is None else [*told, limit]


def _split(track: Track, pool: Pool, base: Law, unit: str) -> list[Law] | None:
    """Return the laws of a flight whose gravity is another near the apex, or None."""
    split = split_by_speed(pool.steps, track.noise) if pool.role.gravity else None
    return _near_apex(base, split, unit) if split is not None else None


def _exactly(motion: Motion, track: Track, pool: Pool, base: Law, unit: str) -> list[Law] | None:
    """Return the laws of steps whose speeds are exact, or None where noise may hide them."""
    steps = pool.steps if track.source == "reported" else inner(pool.steps)
    stride = max(1, len(steps) // _MOST_STEPS)
    thin = steps if stride == 1 else steps.only(np.arange(len(steps)) % stride == 0)
    printed = is_printed(motion, track)
    noise = max(track.noise, _grain(track.v))
    fit = fit_steps(thin, noise, simple() if printed else changing())
    if fit.family is not None:
        return [law_of(base, fit, unit, len(steps))]
    if pool.role.gravity and (split := split_by_speed(thin, noise)) is not None:
        return _near_apex(base, split, unit)
    if printed:
        return None
    if len(pool.every) >= FEWEST_POOR and _path_may_tell(track, pool):
        return None
    return [replace(base, reason=fit.reason, frames=len(steps))]


def _path_may_tell(track: Track, pool: Pool) -> bool:
    """Whether whole stretches may tell what no step does: noise, or a speed that stays."""
    stays = pool.limit is None and 2 * len(pool.level) > len(pool.every)
    return pool.every.even or bool(track.noise) or stays


def _near_apex(
    base: Law, split: tuple[Selected, Selected, float, int, int], unit: str
) -> list[Law]:
    """Return the laws of a flight away from its apex and near it, with the speed between."""
    far, near, speed, many, few = split
    limit = Constant(name="below", value=speed, unit=SPEED.within(unit))
    apart = msgspec.structs.replace(base.phase, near_apex=True)
    slow = law_of(replace(base, phase=apart), near, unit, few)
    return [
        law_of(base, far, unit, many),
        replace(slow, constants=(*slow.constants, limit)),
    ]


def _instant(pool: Pool, base: Law, unit: str) -> Law | None:
    """Return the law of a speed that is there at once."""
    if len(pool.steps) or not len(pool.short):
        return None
    speed = pool.short.v1
    value = median(speed)
    if float(np.ptp(speed)) > _AT_ONCE * float(np.max(np.abs(pool.short.v0 - speed))):
        return replace(base, reason=f"fewer than {FEWEST} frames away from limits")
    return replace(
        base,
        family=INSTANT,
        constants=(
            Constant(
                name="speed", value=value, unit=SPEED.within(unit), stderr=float(np.std(speed))
            ),
        ),
        frames=len(speed),
        misfit=float(np.std(speed)),
    )


def _grain(v: FloatArray) -> float:
    """Return the spacing of single-precision numbers at the highest speed, where all are such."""
    with np.errstate(over="ignore"):  # such speeds are no single ones
        single = v.astype(np.float32)
    if not np.array_equal(single.astype(np.float64), v):
        return 0.0
    return float(np.spacing(np.max(np.abs(single), initial=np.float32(0.0))))


def clamp(motion: Motion, pool: Pool) -> Law | None:
    """Return the speed that a pool's steps stay at, where they reach one and stay."""
    if pool.limit is None or len(pool.level) < 2 or not len(pool.steps):
        return None
    speed = pool.level.v1
    moving = np.abs(speed) > motion.rest_speed
    if np.count_nonzero(moving) < 2:
        return None
    speed, row = speed[moving], pool.level.row[moving]
    value = median(speed)
    unlike = np.abs(speed - value) > _ALIKE * abs(value)
    if np.count_nonzero(~unlike) < 2:
        return None
    return Law(
        take=motion.take.name,
        role=pool.role,
        phase=pool.limit,
        start=float(motion.begin[row[0]]),
        end=float(motion.t[row[-1]]),
        axis=pool.axis,
        family=CLAMP,
        constants=(
            Constant(
                name="speed",
                value=value,
                unit=SPEED.within(motion.take.header.length_unit),
                stderr=float(np.std(speed[~unlike]) / np.sqrt(np.count_nonzero(~unlike))),
            ),
        ),
        reason=f"{np.mean(unlike):.0%} of the frames hold another speed" if unlike.any() else None,
        frames=len(speed),
        misfit=float(np.std(speed[~unlike])),
        unlike=bool(unlike.any()),
    )
