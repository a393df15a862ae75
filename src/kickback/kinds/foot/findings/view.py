"""A view that looks wrong: nothing falls in what is said to be seen from the side."""

import numpy as np

from kickback.findings.finding import Finding, finding
from kickback.findings.views import VIEW_UNLIKELY
from kickback.kinds.foot.motion import FootMotion
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray, Take

__all__ = ["FINDINGS", "check_view"]

FINDINGS = (VIEW_UNLIKELY,)
"""What these checks may say."""

_OVER = 0.05
"""Seconds over which the bend of heights is looked at."""

_FALLS = (0.4, 2.5)
"""Shares of the usual bend within which a frame falls alike."""

_MOST = 0.4
"""Share of the moving frames that fall alike where there is gravity."""

_MOVES = 0.05
"""Share of the largest vertical step from which a frame moves."""

_ENOUGH = 60
"""Moving frames that tell."""

_STEERED = ("in_throttle", "in_steer", "in_move_y", "heading")
"""Columns that a subject has which is steered about a plane."""


def _steered(take: Take) -> list[str]:
    """Return the columns of a take by which a subject is steered about a plane."""
    return [name for name in _STEERED if name in take and np.ptp(take.numbers(name)) > 0]


def _falling(down: FloatArray, noise: float) -> float:
    """Return the share of downward accelerations, shape (k,), that are one within their noise."""
    falls = down > 0
    pull = median(down[falls]) if falls.any() else 0.0
    alike = (down > _FALLS[0] * pull - noise) & (down < _FALLS[1] * pull + noise)
    return float(np.mean(alike & falls))


def check_view(motion: FootMotion) -> list[Finding]:
    """Return that the vertical axis shows no gravity, in a take without ground contact."""
    up, take = motion.up, motion.take
    if up is None or motion.across is None or motion.contact_source == "recorded":
        return []
    if motion.plane is not None:  # it may swim or fly there
        return []
    step = median(motion.step)
    lag = max(1, round(_OVER / step))
    if len(up.p) < 4 * lag + _ENOUGH:
        return []
    bend = (up.p[2 * lag :] - 2 * up.p[lag:-lag] + up.p[: -2 * lag]) / (lag * step) ** 2
    moved = np.abs(up.p[2 * lag :] - up.p[: -2 * lag])
    moving = moved > _MOVES * float(np.max(moved, initial=0.0))
    if np.count_nonzero(moving) < _ENOUGH:
        return []
    steered = _steered(take)
    falls = _falling(-bend[moving], 4 * up.quantum / (lag * step) ** 2)
    if falls > _MOST and not (steered and falls < 2 * _MOST):
        return []
    unit, height = take.header.length_unit, float(np.ptp(up.p))
    what = f"'{up.axis}' goes over {height:.4g} {unit} and nothing in it falls as under gravity"
    what += "".join(f", and there is '{name}'" for name in steered)
    return [finding(VIEW_UNLIKELY, 0, len(up.p), what)]
