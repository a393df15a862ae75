"""The position rule: which speed moves the position, and whether the time step is in it."""

import numpy as np

from kickback.laws.implied import implied_tracks
from kickback.laws.linear import least_squares, unscaled
from kickback.laws.record import Constant, Law
from kickback.laws.steps import thrown_in_the_air
from kickback.motion.analyse import Motion
from kickback.motion.kinematics import Track
from kickback.motion.rounding import quantum
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.numeric import typical
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["law_track", "position_rule"]

_FEWEST = 4
_MOST = 20_000
_BENT = 1e-6
_AGREE = 0.005
_UNEVEN = 0.01
_NO_STEP = "the position moves by the speed itself each frame: no time step"


def position_rule(motion: Motion, track: Track, axis: str, side: str) -> Law | None:
    """Return θ and the scale of ``Δx = scale·dt·((1 − θ)·v[n] + θ·v[n+1])``.

    ``axis`` names the position's column, ``side`` the track. Steps whose speed changes tell
    θ; one step in ten may miss it (landings, stops). None without a velocity column.
    """
    take = motion.take
    if f"v{axis}" not in take:
        return None
    v, dt = take.numbers(f"v{axis}"), motion.dt[1:]
    rows = _usable(motion, v, side)
    if len(rows) < _FEWEST:
        return None
    usual = typical(dt)
    u, fixed = np.diff(track.p) / dt, np.diff(track.p) / usual
    before, after = v[:-1][rows], v[1:][rows]
    base = Law(
        take=take.name,
        track=side,
        phase="position",
        start=float(motion.begin[rows[0]]),
        end=float(motion.t[rows[-1] + 1]),
        axis=axis,
        law="none",
        frame=usual,
    )
    found, keep, misfit = _robust(before, after, u[rows])
    per_frame = False
    if float(np.ptp(dt)) > _UNEVEN * usual:
        other = _robust(before, after, fixed[rows])
        per_frame = other[2] < 0.1 * misfit
        if per_frame:
            u, (found, keep, misfit) = fixed, other
    noise = 2 * track.noise + 2 * track.blur / usual
    if float(found.sum()) == 0 or misfit > _AGREE * float(np.ptp(u[rows])) + noise:
        reason = "no mix of the speeds before and after explains the displacements"
        return replace(base, reason=reason, misfit=misfit)
    theta, scale = _constants(found, np.stack((before, after), axis=1)[keep], misfit)
    known = _scale_reason(scale.value, scale.stderr or 0.0, take.frame_rate)
    return replace(
        base,
        law="position-rule",
        constants=(theta, scale),
        reason=_NO_STEP if per_frame else known,
        frames=int(keep.sum()),
        misfit=misfit,
    )


def _usable(motion: Motion, v: FloatArray, side: str) -> IntArray:
    """Return the steps whose speed changes by the laws alone, an even share of very many."""
    before, after = v[:-1], v[1:]
    scale = float(np.max(np.abs(v), initial=0.0))
    usable = (np.abs(after - before) > _BENT * scale) & ((before != 0) | (after != 0))
    usable &= ~motion.dashing[1:]
    if side == "vertical":
        usable[thrown_in_the_air(motion) - 1] = False
        usable &= ~motion.grounded[1:] & ~motion.grounded[:-1]
        if motion.inputs.jump is not None:  # a cut comes between the rows
            usable &= ~(motion.inputs.jump[:-1] & ~motion.inputs.jump[1:])
    rows = np.flatnonzero(usable)
    return rows[:: max(1, len(rows) // _MOST)]


def _constants(found: FloatArray, x: FloatArray, misfit: float) -> tuple[Constant, Constant]:
    """Return θ and the scale from the coefficients of the speeds before and after.

    Their errors follow from the coefficients' covariance ``s²·(XᵀX)⁻¹``.
    """
    first, second = float(found[0]), float(found[1])
    total = first + second
    cov = unscaled(x) * (misfit**2 * len(x) / max(1, len(x) - 2))
    slope = np.array([-second, first]) / total**2
    theta_error = max(0.0, float(slope @ cov @ slope)) ** 0.5
    scale_error = max(0.0, float(cov.sum())) ** 0.5
    return (
        Constant(name="theta", value=second / total, unit="", stderr=theta_error),
        Constant(name="scale", value=total, unit="", stderr=scale_error),
    )


def law_track(motion: Motion, track: Track, axis: str, rule: Law | None) -> Track:
    """Return the track whose speed the rules are about: the game's own where it moves anything.

    A velocity that is not the motion still is the speed of the code where the position
    follows it by another rule, such as one without a time step: its positions are then those
    that the speed makes with one. Without a velocity, the one
    that the rule's θ implies.
    """
    named = f"v{axis}"
    if track.source == "reported":  # its speeds are those seen on the wall clock
        return replace(track, v=motion.take.numbers(named)) if named in motion.take else track
    if rule is None or rule.law != "position-rule":
        return track
    if named not in motion.take:
        told = rule.value("theta")
        implied = implied_tracks(motion, track, rule.track)
        return next((one for theta, one in implied if theta == told), track)
    v, p = motion.take.numbers(named), track.p / rule.value("scale")
    noise, theta = quantum(v) / 2, rule.value("theta")
    return replace(track, p=p, v=v, theta=theta, source="reported", noise=noise, window=0)


def _robust(
    before: FloatArray, after: FloatArray, u: FloatArray
) -> tuple[FloatArray, BoolArray, float]:
    """Regress on both speeds; steps that miss by far more than the usual are left out.

    Returns the coefficients, the steps that were used, and their root mean square miss.
    """
    x = np.stack((before, after), axis=1)
    keep = np.ones(len(u), dtype=bool)
    found: FloatArray = np.zeros(2)
    for _ in range(6):
        found = least_squares(x[keep], u[keep])
        miss = np.abs(u - x @ found)
        usual = float(np.median(miss[keep])) if keep.any() else 0.0
        better = miss <= 6 * usual + 1e-12 * float(np.max(np.abs(u), initial=0.0))
        if better.sum() < max(_FEWEST, 0.6 * len(u)) or np.array_equal(better, keep):
            break
        keep = better
    left = (u - x @ found)[keep]
    return found, keep, float(left @ left / max(1, len(left))) ** 0.5


def _scale_reason(scale: float, error: float, rate: float) -> str | None:
    if abs(scale - 1) <= max(3 * error, 1e-3):
        return None
    if abs(scale / rate - 1) <= max(3 * error / rate, 1e-3):
        return _NO_STEP
    return f"the position moves {scale:.6g} times as fast as the velocity says"
