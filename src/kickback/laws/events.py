"""Events of law: impulses at takeoff, cuts by letting go, clamps at a top or terminal speed."""

import numpy as np

from kickback.laws.record import Constant, Law
from kickback.laws.steps import Pool
from kickback.motion.analyse import Motion
from kickback.motion.arcs import arcs_of
from kickback.takes.numeric import median

__all__ = ["clamp", "cuts", "impulse"]

_ALIKE = 1e-3
_TOLD = 0.1


def impulse(motion: Motion, gravity: float | None) -> Law | None:
    """Return the upward speed that a takeoff gives; None for a take without jumps.

    ``gravity``: the deceleration of the rise, length/s²: whether it acts in the frame of
    the takeoff already is said where the take shows it.
    """
    if motion.up is None or not motion.flights.jump.any():
        return None
    arcs = arcs_of(motion)
    speed, error = arcs.speed, arcs.speed_resolution
    known = np.isfinite(speed)
    if not known.any():
        return None
    rows = motion.flights.start[motion.flights.jump]
    unit = f"{motion.take.header.length_unit}/s"
    value = median(speed[known])
    spread = float(np.ptp(speed[known]))
    return Law(
        take=motion.take.name,
        track="vertical",
        phase="takeoff",
        start=float(motion.begin[rows[0]]),
        end=float(motion.t[rows[-1]]),
        axis=motion.take.header.up[1],
        law="impulse",
        constants=(Constant(name="speed", value=value, unit=unit, stderr=median(error[known])),),
        reason=_unlike(spread, value, median(error[known]))
        or _order(motion, gravity, value, median(error[known])),
        frames=int(known.sum()),
        misfit=spread,
    )


def _unlike(spread: float, value: float, error: float) -> str | None:
    if spread <= max(_ALIKE * abs(value), 4 * error):
        return None
    return f"takeoffs differ by {spread:.4g}"


def _order(motion: Motion, gravity: float | None, speed: float, error: float) -> str | None:
    """Say whether gravity acts in the frame of the takeoff, where its row shows that."""
    up = motion.up
    if up is None or gravity is None or up.source != "reported":
        return None
    rows = motion.flights.start[motion.flights.jump]
    step = gravity * motion.take.numbers("dt")[rows]
    if error > _TOLD * float(step.min()):
        return None
    lost = speed - up.v[rows]
    if np.all(np.abs(lost) <= _ALIKE * step):
        return "gravity acts from the frame after the takeoff on"
    if np.all(np.abs(lost - step) <= _ALIKE * step):
        return "gravity acts in the frame of the takeoff already"
    return None


def clamp(motion: Motion, pool: Pool, name: str) -> Law | None:
    """Return the speed that a pool's steps stay at, where they reach one and stay."""
    if len(pool.level) < 2 or not len(pool.steps):
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
        track=pool.track,
        phase=name,
        start=float(motion.begin[row[0]]),
        end=float(motion.t[row[-1]]),
        axis=pool.axis,
        law="clamp",
        constants=(
            Constant(
                name="speed",
                value=value,
                unit=f"{motion.take.header.length_unit}/s",
                stderr=float(np.std(speed[~unlike]) / np.sqrt(np.count_nonzero(~unlike))),
            ),
        ),
        reason=f"{np.mean(unlike):.0%} of the frames hold another speed" if unlike.any() else None,
        frames=len(speed),
        misfit=float(np.std(speed[~unlike])),
        unlike=bool(unlike.any()),
    )


def cuts(motion: Motion, gravity: float | None) -> Law | None:
    """Return what letting go of jump does to the rise: a factor, or a speed that it sets.

    ``gravity``: the deceleration of the rise, length/s², which acts after the cut. None
    where no rise was let go.
    """
    up, jump = motion.up, motion.inputs.jump
    if up is None or jump is None or up.source != "reported" or gravity is None:
        return None
    rows = np.flatnonzero(~jump[1:] & jump[:-1]) + 1
    air = ~motion.grounded[rows] & ~motion.grounded[rows - 1]
    rows = rows[air & (up.v[rows - 1] > 0)]
    if not len(rows):
        return None
    dt = motion.take.numbers("dt")[rows]
    before, after = up.v[rows - 1], up.v[rows] + gravity * dt
    share = after / before
    if np.all(np.abs(share - 1) <= 1e-6):
        return None
    factor, unit = median(share), f"{motion.take.header.length_unit}/s"
    same_factor = float(np.ptp(share)) <= _ALIKE
    same_speed = float(np.ptp(after)) <= _ALIKE * float(np.max(np.abs(after)))
    reason = None
    if len(rows) == 1 or (same_factor and same_speed):
        reason = f"or the speed is set to {after[0]:.4g} {unit}: one height of release cannot tell"
    constant = Constant(name="factor", value=factor, unit="", stderr=float(np.std(share)))
    if same_speed and not same_factor:
        constant = Constant(
            name="speed", value=median(after), unit=unit, stderr=float(np.std(after))
        )
    elif not same_factor:
        reason = f"the factor differs, {share.min():.4g} to {share.max():.4g}"
    return Law(
        take=motion.take.name,
        track="vertical",
        phase="release",
        start=float(motion.begin[rows[0]]),
        end=float(motion.t[rows[-1]]),
        axis=motion.take.header.up[1],
        law="cut",
        constants=(constant,),
        reason=reason,
        frames=len(rows),
        misfit=float(np.std(share)),
    )
