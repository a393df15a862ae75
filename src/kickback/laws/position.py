"""The position rule: which speed moves the position, and whether the time step is in it."""

import numpy as np

from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.keys import PhaseKey
from kickback.laws.least_squares import linear, solved
from kickback.laws.record import Constant, Law
from kickback.motion.clock import EVEN, uneven_share
from kickback.motion.motion import Motion
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.quantities import RATIO
from kickback.takes.record import replace
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import TELLS

__all__ = ["POSITION", "position_rule"]

_KEPT = 0.6
"""Share of the steps that a robust fit must keep."""

_ROUND = 1e-3
"""Share by which a scale may miss 1, or the rate, and be it."""

_BEYOND = 6
"""Usual misses beyond which a step is of another rule: a landing, a stop."""

POSITION = PhaseKey("position")

_FEWEST = 4
"""Steps below which no rule is told: two coefficients, and as many again to hold them to."""

_ROUNDS = 6
"""Regressions at most: leaving steps out one way and another could go on for ever."""

_EXACT = 1e-12
"""Share of the largest speed that arithmetic alone leaves."""

_MOST = 20_000
"""Steps that settle the rule: of more, an even share is read."""

_AGREE = 0.005
"""Share of the displacements' range that a rule may leave, beside the noise."""

_BETTER = 0.1
"""Share of the miss of one reading that another must leave to be the better one."""

_MOST_MISSED = 4
"""Times what tells by which one step may count against a reading at most."""

_NO_STEP = "the position moves by the speed itself each frame: no time step"


def position_rule(motion: Motion, track: Track, role: Role, rows: IntArray) -> Law | None:
    """Return θ and the scale of ``Δx = scale·dt·((1 − θ)·v[n] + θ·v[n+1])``.

    ``rows``: the steps whose speed changes by the laws alone: they tell θ; one step in ten
    may miss it (landings, stops). None without a velocity column.
    """
    take, v, dt = motion.take, track.logged, motion.dt[1:]
    if v is None or len(rows) < _FEWEST:
        return None
    rows = rows[:: max(1, len(rows) // _MOST)]
    usual, moved = motion.clock.usual, np.diff(track.p)[rows]
    step, step_error = dt[rows], motion.clock.step_error
    u = moved / step
    before, after = v[:-1][rows], v[1:][rows]
    base = Law(
        take=take.name,
        role=role,
        phase=POSITION,
        start=float(motion.begin[rows[0]]),
        end=float(motion.t[rows[-1] + 1]),
        axis=track.axis,
        frame=usual,
    )
    found, keep, misfit = _robust(before, after, u)
    per_frame = False
    if not motion.clock.even:
        fixed = moved / usual
        other = _robust(before, after, fixed)
        error, error_fixed = (
            np.hypot(track.quantum / 6**0.5, one) / step
            for one, step in ((u * step_error, step), (0 * u, usual))
        )
        likelier = _likelier(
            (before, after, fixed, other[0], error_fixed), (before, after, u, found, error)
        )
        per_frame = likelier or _plainly(other, misfit, step)
        if per_frame:
            u, (found, keep, misfit) = fixed, other
    noise = 2 * track.noise + 2 * track.blur / usual
    if float(found.sum()) == 0 or misfit > _AGREE * float(np.ptp(u)) + noise:
        reason = "no mix of the speeds before and after explains the displacements"
        return replace(base, reason=reason, misfit=misfit)
    theta, scale = _constants(found, np.stack((before, after), axis=1)[keep], misfit)
    known = _scale_reason(scale.value, scale.stderr or 0.0, 1 / usual)
    why = _NO_STEP if per_frame else known
    return replace(
        base,
        family=POSITION_RULE,
        constants=(theta, scale),
        reason=why,
        clock="frame" if why == _NO_STEP else "even",
        frames=int(keep.sum()),
        misfit=misfit,
    )


_Reading = tuple[FloatArray, FloatArray, FloatArray, FloatArray, FloatArray]
"""Speeds before and after, displacements by the step, coefficients and errors of a reading."""


def _plainly(one: tuple[FloatArray, BoolArray, float], misfit: float, dt: FloatArray) -> bool:
    """Whether a reading leaves far less than ``misfit``, and not of even frames alone."""
    return one[2] < _BETTER * misfit and uneven_share(dt[one[1]]) > EVEN


def _likelier(one: _Reading, other: _Reading) -> bool:
    """Whether a reading is likelier than another by three standard errors.

    What neither explains is of another rule; what one alone does not counts against it.
    """
    off = []
    for before, after, u, found, error in (one, other):
        if not np.all(error > 0):
            return False
        off.append(((u - before * found[0] - after * found[1]) / error) ** 2)
    own = np.minimum(*off) <= TELLS
    scores = [
        float(np.sum(np.minimum(miss, _MOST_MISSED * TELLS)[own] + 2 * np.log(reading[4][own])))
        for miss, reading in zip(off, (one, other), strict=True)
    ]
    return scores[0] < scores[1] - TELLS


def _constants(found: FloatArray, x: FloatArray, misfit: float) -> tuple[Constant, Constant]:
    """Return θ and the scale from the coefficients of the speeds before and after.

    Their errors follow from the coefficients' covariance ``s²·(XᵀX)⁻¹``.
    """
    first, second = float(found[0]), float(found[1])
    total = first + second
    spread = solved(x, np.zeros(len(x))).spread
    cov = spread * (misfit**2 * len(x) / max(1, len(x) - 2))
    slope = np.array([-second, first]) / total**2
    theta_error = max(0.0, float(slope @ cov @ slope)) ** 0.5
    scale_error = max(0.0, float(cov.sum())) ** 0.5
    return (
        Constant(name="theta", value=second / total, unit=RATIO.within(""), stderr=theta_error),
        Constant(name="scale", value=total, unit=RATIO.within(""), stderr=scale_error),
    )


def _robust(
    before: FloatArray, after: FloatArray, u: FloatArray
) -> tuple[FloatArray, BoolArray, float]:
    """Regress on both speeds; steps that miss by far more than the usual are left out.

    Returns the coefficients, the steps that were used, and their root mean square miss.
    """
    x = np.stack((before, after), axis=1)
    keep = np.ones(len(u), dtype=bool)
    found: FloatArray = np.zeros(2)
    for _ in range(_ROUNDS):
        found = linear(x[keep], u[keep])
        miss = np.abs(u - x @ found)
        usual = median(miss[keep]) if keep.any() else 0.0
        better = miss <= _BEYOND * usual + _EXACT * float(np.max(np.abs(u), initial=0.0))
        if better.sum() < max(_FEWEST, _KEPT * len(u)) or np.array_equal(better, keep):
            break
        keep = better
    left = (u - x @ found)[keep]
    return found, keep, float(left @ left / max(1, len(left))) ** 0.5


def _scale_reason(scale: float, error: float, rate: float) -> str | None:
    if abs(scale - 1) <= max(3 * error, _ROUND):
        return None
    if abs(scale / rate - 1) <= max(3 * error / rate, _ROUND):
        return _NO_STEP
    return f"the position moves {scale:.6g} times as fast as the velocity says"
