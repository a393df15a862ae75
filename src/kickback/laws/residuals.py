"""What the laws of a take leave unexplained, step by step."""

import numpy as np

from kickback.laws.position import law_track
from kickback.laws.record import Law, Laws
from kickback.laws.steps import Pool, Steps, inner, sides_of, travel_pools, vertical_pools
from kickback.laws.sustained import sustained
from kickback.motion.analyse import Motion
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Residuals", "foretold", "residuals_of"]


class Residuals(Record, frozen=True, kw_only=True):
    """A law's residuals, arrays of shape (k,): times, s, and speeds less foretold ones."""

    phase: str
    track: str
    t: FloatArray
    v: FloatArray


def residuals_of(motion: Motion, laws: Laws) -> list[Residuals]:
    """Return ``v1`` less what each law makes of ``v0``, for the steps that it was read from.

    Sideways speeds that were fitted to rounded positions have none: they settle in noise.
    """
    known = {(law.track, law.phase): law for law in laws}
    up = motion.take.header.up[1]
    pools = []
    if motion.across is not None and not motion.across.rounded:
        axis, rule = "x" if up != "x" else "y", known.get(("travel", "position"))
        pools += travel_pools(motion, law_track(motion, motion.across, axis, rule))
    if motion.up is not None:
        rule = known.get(("vertical", "position"))
        rising = law_track(motion, motion.up, up, rule)
        held = sustained(motion, rising)
        pools += vertical_pools(motion, rising, None if held is None else held.mask)
    found = []
    for pool in _as_told(pools, known, motion):
        law = known.get((pool.track, pool.phase))
        track = motion.up if pool.track == "vertical" else motion.across
        steps = pool.steps
        if track is not None and track.source == "displacement":
            steps = inner(steps)
        elif track is not None and track.rounded:
            steps = pool.every
        ahead = foretold(law, steps) if law is not None else None
        if ahead is not None and len(steps):
            left = steps.v1 - ahead
            found.append(
                Residuals(phase=pool.phase, track=pool.track, t=motion.t[steps.row], v=left)
            )
    return found


def _as_told(pools: list[Pool], known: dict[tuple[str, str], Law], motion: Motion) -> list[Pool]:
    """Return the pools, by side where the laws are."""
    told = []
    for pool in pools:
        sides = sides_of(pool, motion.across) if motion.across is not None else []
        split = [side for side in sides if (side.track, side.phase) in known]
        told += split or [pool]
    return told


def foretold(law: Law, steps: Steps) -> FloatArray | None:
    """Return the speeds after the steps that a law foretells, shape (k,)."""
    values = {item.name: item.value for item in law.constants}
    fixed = np.full(len(steps), law.frame)
    if law.law == "constant-acceleration":
        square = steps.dt**2 / law.frame
        step = {"frame": fixed, "square": square}.get(law.clock, steps.dt)
        return steps.v0 + values["acceleration"] * step
    if law.law not in {"friction", "smoothing", "drive"}:
        return None
    step = fixed if law.clock == "frame" else steps.dt
    fading = np.exp(-values["rate"] * step)
    kept = 1 - values["rate"] * step if law.clock == "first-order" else fading
    goal = values.get("goal", 0.0)
    gains = {"frame": fixed, "square": steps.dt**2 / law.frame}
    push = values.get("acceleration", 0.0) * gains.get(law.gain, steps.dt)
    if law.friction_first:
        return steps.v0 * kept + push
    after: FloatArray = goal + (steps.v0 + push - goal) * kept
    return after
