"""Events of law: impulses at takeoff, cuts by letting go, clamps at a top or terminal speed."""

from typing import NamedTuple

import numpy as np

from kickback.kinds.foot.arcs import arcs_of
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.throws import GROUND_JUMP, JUMP_KINDS, throws_of
from kickback.laws.families.family import Family
from kickback.laws.families.moments import CUT, IMPULSE, ORDER
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.motion.clock import EVEN, uneven_share
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.quantities import FRAMES, SPEED, Unit
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC, SURE, TELLS

__all__ = ["air_impulses", "cuts", "impulse", "landing_order", "scaled_by_step"]

_ALIKE = 1e-3
"""Share by which numbers may differ and be one."""

_PLAINLY = 0.1
"""Share of their own difference to which numbers must shrink, divided by the time step, to go
with it."""

_DIFFER = 0.01
"""Share by which speeds that were printed differ plainly."""

_CLEARLY = 3.0
"""How many times as much speeds must differ as what they are per second of step."""

_TOLD = 0.1
"""Share of a step of gravity below which an error lets it be seen."""

_MIXED = 0.75
"""The θ beyond which a displacement hardly shows the speed before the step."""

_FARTHEST = 4.0
"""Standard errors of a rounded time that a step is off at most: two times are, by half a grid."""

_UNCUT = 1e-6
"""Share of a speed by which letting go changes nothing: what arithmetic leaves."""

_STILL = 3
"""Frames of rest that show the height at which a landing ends."""


def _event(motion: FootMotion, rows: IntArray, phase: str, family: Family) -> Law:
    """Return a law of the vertical track that stands at frames, without its constants."""
    return Law(
        take=motion.take.name,
        role=UP,
        phase=PhaseKey(phase),
        start=float(motion.begin[rows[0]]),
        end=float(motion.t[rows[-1]]),
        axis=motion.take.header.up[1],
        family=family,
        frames=len(rows),
        frame=motion.clock.usual,
    )


def impulse(motion: FootMotion, gravity: float | None) -> Law | None:
    """Return the upward speed that a takeoff gives; None for a take without jumps.

    ``gravity``: the deceleration of the rise, length/s²: whether it acts in the frame of
    the takeoff already is said where the take shows it.
    """
    if motion.up is None or not motion.flights.jump.any():
        return None
    arcs = arcs_of(motion)
    from_ground = arcs.throws.of(GROUND_JUMP)
    speed, error = arcs.speed[from_ground], arcs.speed_resolution[from_ground]
    known = np.isfinite(speed) & ~(arcs.cut & _button_up(motion, arcs.throws.start))[from_ground]
    if not known.any():
        return None
    rows = arcs.throws.start[from_ground]
    unit = SPEED.within(motion.take.header.length_unit)
    value = median(speed[known])
    spread = float(np.ptp(speed[known]))
    by_step = scaled_by_step(speed[known], motion.dt[rows[known]], motion.clock.step_error)
    return replace(
        _event(motion, rows, "takeoff", IMPULSE),
        constants=(Constant(name="speed", value=value, unit=unit, stderr=median(error[known])),),
        clock="step" if by_step else "even",
        reason=by_step
        or _unlike(spread, value, median(error[known]))
        or _order(motion, gravity, value, median(error[known])),
        frames=int(known.sum()),
        misfit=spread,
    )


def _button_up(motion: FootMotion, rows: IntArray) -> BoolArray:
    """Return which frames, shape (k,), read the button up: what is thrown there is cut at once."""
    jump = motion.inputs.jump
    return np.zeros(len(rows), dtype=bool) if jump is None else ~jump[rows]


def scaled_by_step(speed: FloatArray, dt: FloatArray, step_error: float = 0.0) -> str | None:
    """Say where speeds that are given at uneven steps go with the step.

    ``step_error``: the standard error of a step, s. Then speeds must differ plainly, ``c·dt`` must
    leave no more than that error, and one speed for all more by what tells.
    """
    if len(dt) < 2 or uneven_share(dt) <= EVEN or not np.any(speed):
        return None
    share = speed / dt
    differ, differs = (float(np.ptp(one)) / float(np.max(np.abs(one))) for one in (share, speed))
    goes = differ <= min(_ALIKE, _PLAINLY * differs) and differs >= _CLEARLY * differ
    if step_error and differs > _DIFFER and not goes:
        least = float(speed @ dt / (dt @ dt))
        left, alike = (
            float(np.sum((one / (least * step_error)) ** 2))
            for one in (speed - least * dt, speed - np.mean(speed))
        )
        goes = left <= len(dt) + SURE * (2 * len(dt)) ** 0.5 and alike >= left + TELLS
    return "it is multiplied by the time step" if goes else None


def _unlike(spread: float, value: float, error: float) -> str | None:
    if spread <= max(_ALIKE * abs(value), 4 * error):
        return None
    return f"takeoffs differ by {spread:.4g}"


def _order(motion: FootMotion, gravity: float | None, speed: float, error: float) -> str | None:
    """Say whether gravity acts in the frame of the takeoff, where its row shows that."""
    up = motion.up
    if up is None or gravity is None or up.source != "reported":
        return None
    rows = motion.flights.start[motion.flights.jump]
    step = gravity * motion.dt[rows]
    if error > _TOLD * float(step.min()):
        return None
    lost = speed - up.v[rows]
    if np.all(np.abs(lost) <= _ALIKE * step):
        return "gravity acts from the frame after the takeoff on"
    if np.all(np.abs(lost - step) <= _ALIKE * step):
        return "gravity acts in the frame of the takeoff already"
    return None


def air_impulses(motion: FootMotion, gravity: float | None) -> list[Law]:
    """Return the upward speed that each kind of jump gives that is not from the ground.

    ``gravity`` as for the takeoff; where it acts in that frame is taken from the displacement:
    ``Δy/dt = (1 − θ)·(v + g·dt) + θ·v`` if it does.
    """
    up, throws = motion.up, throws_of(motion)
    if up is None or up.rounded:
        return []
    unit, pull = SPEED.within(motion.take.header.length_unit), gravity or 0.0
    found = []
    for kind in JUMP_KINDS:
        rows = throws.start[throws.of(kind)]
        if kind is GROUND_JUMP or not len(rows):
            continue
        dt = motion.dt[rows]
        speed, error = up.v[rows], pull * dt
        if up.source == "reported" and up.theta is not None and up.theta <= _MIXED:
            lost = (up.p[rows] - up.p[rows - 1]) / dt - speed
            acted = np.abs(lost - (1 - up.theta) * pull * dt) < np.abs(lost)
            speed, error = np.where(acted, speed + pull * dt, speed), up.noise + 0 * dt
        value, spread = median(speed), float(np.ptp(speed))
        law = replace(
            _event(motion, rows, kind.phase, IMPULSE),
            constants=(Constant(name="speed", value=value, unit=unit, stderr=median(error)),),
            reason=_unlike(spread, value, median(error)),
            misfit=spread,
        )
        found.append(law)
    return found


def landing_order(motion: FootMotion) -> Law | None:
    """Return whether the frame that reaches the floor also stops there; None where it is unclear.

    ``lag`` 0: the move comes first, and the collision puts the body on the floor in the same
    frame. 1: the collision comes first, and the body sinks in for a frame.
    """
    up, rows = motion.up, motion.flights.stop
    if up is None or up.source != "reported" or motion.contact_source != "recorded":
        return None
    rows = rows[(rows > 1) & (rows + _STILL < len(up.p))]
    dt = motion.dt
    lags = set()
    for row in rows.tolist():
        after = up.p[row + 1 : row + 1 + _STILL]
        step = abs(float(up.v[row - 1])) * float(dt[row])
        if not motion.grounded[row : row + _STILL].all() or np.ptp(after) > _ALIKE * step:
            continue
        sunk = float(after[0] - up.p[row])
        if abs(sunk) <= _ALIKE * step:
            lags.add(0)
        else:
            lags.add(1 if _TOLD * step < sunk <= 2 * step else -1)
    if len(lags) != 1 or -1 in lags:
        return None
    return replace(
        _event(motion, rows, "landing", ORDER),
        constants=(Constant(name="lag", value=float(lags.pop()), unit=FRAMES.within("")),),
    )


def cuts(motion: FootMotion, gravity: float | None, after_it: float | None) -> Law | None:
    """Return what letting go of jump does to the rise: a factor, or a speed that it sets.

    ``gravity``: the deceleration of the rise, length/s²; ``after_it`` that of one that was let
    go of, where it is another: it acts after the cut. None where letting go changed nothing;
    where it did nothing at some heights, those are left out.
    """
    up, rows = motion.up, _let_go(motion)
    if up is None or up.source != "reported" or gravity is None or not len(rows):
        return None
    thrown = throws_of(motion).start
    rows = rows[~np.isin(rows, np.concatenate([thrown + k for k in range(-1, 2)]))]
    before = up.v[rows - 1]
    pull = np.array([g for g in (gravity, after_it) if g is not None])
    lost = np.abs(pull[:, None] * motion.dt[rows] + up.v[rows] - before)
    slack = (
        _UNCUT * float(np.max(np.abs(up.v)))
        + 2 * up.noise
        + np.abs(pull).max() * _FARTHEST * motion.clock.time_error
    )
    changed = np.all(lost > slack, axis=0) & (before > (1 - _UNCUT) * gravity * motion.dt[rows])
    rows, before = rows[changed], before[changed]
    if not len(rows):
        return None
    after = up.v[rows] + pull[-1] * motion.dt[rows]
    share, printed = after / before, up.printed / ROOT_12
    error = np.hypot(printed, abs(float(pull[-1])) * motion.clock.time_error * 2**0.5) + 0 * after
    factor = _same(share, np.hypot(error, share * printed) / before)
    speed = _same(after, error)
    constant, reason = _cut_by(factor, speed, SPEED.within(motion.take.header.length_unit))
    return replace(
        _event(motion, rows, "release", CUT),
        constants=(constant,),
        reason=reason,
        misfit=float(np.std(share)),
    )


def _let_go(motion: FootMotion) -> IntArray:
    """Return the frames, shape (k,), that read the button up while rising in the air."""
    up, jump = motion.up, motion.inputs.jump
    if up is None or jump is None:
        return np.zeros(0, dtype=np.int64)
    rows = np.flatnonzero(~jump[1:] & jump[:-1]) + 1
    air = ~motion.grounded[rows] & ~motion.grounded[rows - 1]
    let_go: IntArray = rows[air & (up.v[rows - 1] > 0)]
    return let_go


class _Same(NamedTuple):
    """A number that several have in common: with its standard error, and how far they are off it.

    ``chi2``: the sum of squares of that, each over its own error; ``fits``: it is what errors make.
    """

    value: float
    stderr: float
    chi2: float
    fits: bool
    text: str


def _same(numbers: FloatArray, error: FloatArray) -> _Same:
    """Return the number that several have in common, shape (k,), of ``error`` each."""
    value, many = median(numbers), len(numbers)
    off = np.abs(numbers - value)
    exact = float(off.max()) <= _ALIKE * float(np.max(np.abs(numbers)))
    chi2 = float(np.sum((off / np.maximum(error, ARITHMETIC * abs(value))) ** 2))
    fits = exact or chi2 <= many + SURE * (2 * many) ** 0.5
    # even frames round alike each time: the rounding of many is no smaller
    stderr = float(np.hypot(np.std(numbers) / many**0.5, median(error)))
    text = f"{float(numbers.min()):.4g} to {float(numbers.max()):.4g}"
    return _Same(value, stderr, 0.0 if exact else chi2, fits, text)


def _cut_by(factor: _Same, speed: _Same, unit: Unit) -> tuple[Constant, str | None]:
    """Return the factor of cuts or the speed that they set, whichever they have in common."""
    by = Constant(name="factor", value=factor.value, unit=unit / SPEED, stderr=factor.stderr)
    if factor.fits and speed.fits and abs(factor.chi2 - speed.chi2) <= TELLS:
        text = f"or the speed is set to {speed.value:.4g} {unit}: one height of release cannot tell"
        return by, text
    if speed.fits and not (factor.fits and factor.chi2 < speed.chi2):
        return Constant(name="speed", value=speed.value, unit=unit, stderr=speed.stderr), None
    return by, None if factor.fits else f"the factor differs, {factor.text}"
