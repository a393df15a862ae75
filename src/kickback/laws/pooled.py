"""The law of one pool of equal phases: from exact steps, else from the paths of its stretches."""

import numpy as np

from kickback.laws.events import clamp
from kickback.laws.fit import Fit, fit_steps, split_by_speed
from kickback.laws.record import UNITS, Constant, Law
from kickback.laws.steps import Pool, inner, limit_name
from kickback.laws.stretches import FEWEST_POOR, law_of_stretches
from kickback.motion.analyse import Motion
from kickback.motion.kinematics import Track
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["law_of_pool"]

_MOST_STEPS = 50_000


def law_of_pool(motion: Motion, track: Track, pool: Pool) -> list[Law]:
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
        name = limit_name(pool.phase)
        limit = clamp(motion, pool, name) if name else None
        if exact is not None:
            return [*exact, limit] if limit is not None else exact
    law, limit = law_of_stretches(motion, track, pool, base, unit)
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
    if len(pool.every) < FEWEST_POOR or not (even or track.noise):
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


_CLOCKS = {
    "frame": "belongs to the frame: it is not multiplied by the time step",
    "square": "is multiplied by the time step twice",
    "first-order": "the factor is 1 − rate·dt, not exp(−rate·dt)",
}


def _clock_reason(fit: Fit) -> str | None:
    """Say what constants belong to where that is not the second, and a drive's order."""
    if fit.law != "drive":
        return _CLOCKS.get(fit.clock)
    parts = []
    if fit.gain == "square":
        parts.append("the acceleration is multiplied by the time step twice")
    if fit.gain == "frame":
        parts.append("the acceleration belongs to the frame")
    if fit.clock == "frame":
        parts.append("the friction belongs to the frame")
    elif fit.clock == "first-order":
        parts.append(_CLOCKS["first-order"])
    if fit.friction_first:
        parts.append("the friction acts before the acceleration")
    return "; ".join(parts) or None


def _with_fit(base: Law, fit: Fit, unit: str, frames: int) -> Law:
    constants = [
        Constant(name=name, value=value, unit=UNITS[name].format(unit), stderr=fit.stderr[name])
        for name, value in fit.values.items()
    ]
    if fit.exponent is not None:
        p, error = fit.exponent
        constants.append(Constant(name="exponent", value=p, unit="", stderr=error))
    return replace(
        base,
        law=fit.law,
        constants=tuple(constants),
        reason=_clock_reason(fit),
        clock=fit.clock,
        gain=fit.gain,
        friction_first=fit.friction_first,
        frames=frames,
        misfit=fit.misfit,
    )


def _grain(v: FloatArray) -> float:
    """Return the spacing of single-precision numbers at the highest speed, where all are such."""
    single = v.astype(np.float32)
    if not np.array_equal(single.astype(np.float64), v):
        return 0.0
    return float(np.spacing(np.max(np.abs(single), initial=np.float32(0.0))))
