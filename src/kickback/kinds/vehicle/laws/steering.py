"""How the wheel turns a vehicle: at full lock by the time or by the way, and how it gets there."""

from collections.abc import Iterable

import numpy as np

from kickback.kinds.vehicle.laws.response import select_response
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.phases import before, pressed
from kickback.kinds.vehicle.roles import YAW
from kickback.laws.families.code import clock_reason, factor
from kickback.laws.families.family import Family
from kickback.laws.fitter import Fitter
from kickback.laws.followed import Followed
from kickback.laws.following import following_laws
from kickback.laws.keys import PhaseKey
from kickback.laws.observations import Observations, Stretch
from kickback.laws.record import Constant, Law
from kickback.laws.select import Selected
from kickback.laws.step_model import StepModel, toward
from kickback.motion.segments import IntArray, stretches
from kickback.takes.numerals import plain
from kickback.takes.numeric import ROOT_12, least_between, median
from kickback.takes.quantities import ANGLE, LENGTH, PER_TIME, RATIO, SPEED, TIME
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import SURE

__all__ = ["RESPONSE", "STEERING", "steady_rows", "steering_laws"]

STEER = PhaseKey("steer")
RESPOND = PhaseKey("steer", part="response")

_LATE = 0.5
"""Share of a press after which turning has settled, where it settles at all."""

_AFTER = 60
"""Frames after a press in which its turning goes back."""

_FEWEST = 4
"""Rows of a press below which it tells nothing."""

_EXACT = 1e-6
"""Share of the largest turn that arithmetic leaves."""

_VARIES = 0.05
"""Share by which speeds must differ to tell turning by the way from turning by the time."""

_STEADY = 0.01
"""Share by which a turning may change over the late part of a press and be settled."""

_PLACES = 24
"""Speeds that a search for the one of full turning begins from."""

_NEVER = 1e30
"""What a form that cannot be fitted leaves, degrees/s."""

_ONE_SPEED = "at one speed only: whether it goes with the speed cannot be told"

_BETTER = 0.3
"""Share of what another rule leaves that the better one leaves at most."""


def steady_rows(motion: VehicleMotion) -> IntArray:
    """Return the frames in which full lock has been held for long enough to settle."""
    rows = [
        np.arange(a + max(_FEWEST, int(_LATE * (b - a))), b)
        for a, b, _ in pressed(motion.pedals.steer)
        if b - a >= 2 * _FEWEST
    ]
    found = np.concatenate(rows) if rows else np.zeros(0, dtype=np.int64)
    return found[motion.driven[found]]


class _Reading(Record, frozen=True, kw_only=True):
    """One form of the steady rule: the constant, its error, what it leaves, degrees.

    ``full``: the speed up to which the turning grows, where it does.
    """

    constant: str
    clock: str
    value: float
    error: float
    misfit: float
    leader: FloatArray
    full: float = 0.0


def steering_laws(motion: VehicleMotion) -> list[Law]:
    """Return the laws of the steering; nothing where no full lock was held."""
    yaw, wheel = motion.yaw, motion.pedals.steer
    if yaw is None or wheel is None:
        return []
    rows = steady_rows(motion)
    base = Law(
        take=motion.take.name,
        role=YAW,
        phase=STEER,
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis="heading",
        frame=motion.clock.usual,
        frames=len(rows),
    )
    if len(rows) < 2 * _FEWEST:
        return []
    readings = _readings(motion, wheel, rows)
    best = min(readings, key=lambda one: one.misfit)
    turn = np.diff(motion.heading, prepend=motion.heading[0])[rows]
    noise = 2**0.5 * yaw.quantum / ROOT_12 + _EXACT * float(np.max(np.abs(turn), initial=0.0))
    settled = _STEADY * float(np.max(np.abs(turn), initial=0.0))
    if best.misfit <= SURE * noise + settled:
        response = _response(motion, base, best)
        if not response:  # it is there at once
            return [_steady(motion, base, best, readings, rows)]
    found = _of_headings(motion, base, wheel) if yaw.quantum else None
    if found is None:
        found = _on_the_way(motion, base, wheel)
    if found is not None:
        return found
    reason = "at full lock it turns neither by the time nor by the way"
    return [replace(base, reason=reason)]


def _paces(v: FloatArray) -> tuple[tuple[str, FloatArray], ...]:
    """Return what turning may go with, by the constant of each: the time, or the way."""
    return (("yaw_rate", np.ones_like(v)), ("curvature", before(v)), ("curvature", v))


def _readings(motion: VehicleMotion, wheel: FloatArray, rows: IntArray) -> list[_Reading]:
    turn = np.diff(motion.heading, prepend=motion.heading[0])
    dt, usual = motion.dt, np.full(len(motion.t), motion.clock.usual)
    v = motion.forward.v
    found = []
    for constant, pace in _paces(v):
        for clock, step in (("second", dt), ("frame", usual)):
            x, y = (wheel * pace * step)[rows], turn[rows]
            power = float(x @ x)
            if not power:
                continue
            value = float(x @ y) / power
            left = y - value * x
            misfit = float(np.sqrt(np.mean(left**2)))
            error = float(np.sqrt(left @ left / max(1, len(y) - 1) / power))
            leader = value * wheel * pace * step / dt
            found.append(
                _Reading(
                    constant=constant,
                    clock=clock,
                    value=value,
                    error=error,
                    misfit=misfit,
                    leader=leader,
                )
            )
    return found


def _of_headings(motion: VehicleMotion, base: Law, wheel: FloatArray) -> list[Law] | None:
    """Return what rounded headings tell of the gain and of the response; None if nothing."""
    yaw = motion.yaw
    if yaw is None:
        return None
    spans, turning = _around_presses(motion, wheel), _turning(motion)
    if not spans:
        return None
    presses = [Stretch(v=turning[a:b], dt=motion.dt[a:b], p=motion.heading[a:b]) for a, b in spans]
    v, usual = motion.forward.v, motion.clock.usual
    best: tuple[str, Selected] | None = None
    for constant, pace in _paces(v):
        asked = {constant: [(wheel * pace)[a:b] for a, b in spans]}
        found = select_response(presses, asked, yaw.quantum / ROOT_12, usual, RESPONSE)
        if found is not None and (best is None or found[1].misfit < best[1].misfit):
            best = found
    if best is None:
        return None
    constant, told = best
    unit, clock = motion.take.header.length_unit, told.clocks["rate"]
    gain = Constant(
        name=constant,
        value=abs(told.values[constant]),
        stderr=told.stderr[constant],
        unit=STEERING.constants[constant].within(unit),
    )
    rate = [
        Constant(
            name=name,
            value=told.values[name],
            stderr=told.stderr[name],
            unit=RESPONSE.constants[name].within(unit),
        )
        for name in ("rate", "factor")
    ]
    base = replace(base, frames=told.frames, misfit=told.misfit)
    return [
        replace(base, family=STEERING, constants=(gain,), clock="even"),
        replace(
            base,
            phase=RESPOND,
            family=RESPONSE,
            constants=tuple(rate),
            clock=clock,
            reason=clock_reason(clock),
        ),
    ]


def _around_presses(motion: VehicleMotion, wheel: FloatArray) -> list[tuple[int, int]]:
    """Return the frames around each press of the wheel, up to the next, on the ground."""
    spans = []
    starts = [a for a, _ in stretches(wheel != 0)]
    for a, after in zip(starts, [*starts[1:], len(wheel)], strict=True):
        held = np.flatnonzero(wheel[a:after] == 0)
        end = min(after, a + int(held[0]) + _AFTER if held.size else after)
        off = np.flatnonzero(~motion.driven[a:end])
        end = a + int(off[0]) if off.size else end
        if a > 0 and end - a >= 2 * _FEWEST:
            spans.append((a - 1, end))
    return spans


def _on_the_way(motion: VehicleMotion, base: Law, wheel: FloatArray) -> list[Law] | None:
    """Return what a turning that never settles goes toward, and its response; None if untold.

    The turning after a frame is regressed on that before it and on what the wheel asks for:
    ``ω1 = f·ω0 + (1 − f)·g·wheel``, with the speed in it or not, and ``f`` of the second or of
    the frame.
    """
    rows = np.flatnonzero(motion.driven & ((wheel != 0) | (before(wheel) != 0)))
    best = _best_reading(motion, wheel, rows)
    if best is None:
        return None
    response = [law for law in _response(motion, base, best) if law.family is not None]
    if not response:
        return None
    law = _steady(motion, base, best, [best], rows)
    return [replace(law, clock="even"), *response]


def _best_reading(motion: VehicleMotion, wheel: FloatArray, rows: IntArray) -> _Reading | None:
    """Return what leaves least: full at every speed, or, where far better, from one on."""
    v, turning = motion.forward.v, _turning(motion)
    steps = (motion.dt, np.full(len(v), motion.clock.usual))
    always = _least(
        _goes_toward(constant, wheel * pace, turning, step, rows)
        for constant, pace in _paces(v)
        for step in steps
    )
    limited = _least(
        _limited(wheel, pace, turning, step, rows) for pace in (before(v), v) for step in steps
    )
    if limited is None or (always is not None and limited.misfit >= _BETTER * always.misfit):
        return always
    return limited


def _least(readings: Iterable[_Reading | None]) -> _Reading | None:
    """Return the reading that leaves least; of those that do as well the first."""
    found = [one for one in readings if one is not None]
    least = min((one.misfit for one in found), default=0.0)
    return next((one for one in found if one.misfit <= least / _BETTER + _EXACT), None)


def _limited(
    wheel: FloatArray, pace: FloatArray, turning: FloatArray, step: FloatArray, rows: IntArray
) -> _Reading | None:
    """Return a turning that grows with the speed up to one from which it is full."""
    top = float(np.max(np.abs(pace[rows]), initial=0.0))
    if not top:
        return None

    def at(full: float) -> _Reading | None:
        asked = wheel * np.clip(pace / full, -1, 1)
        return _goes_toward("yaw_rate", asked, turning, step, rows)

    def misfit(full: float) -> float:
        reading = at(full)
        return _NEVER if reading is None else reading.misfit

    tried = np.linspace(0.03, 0.97, _PLACES) * top
    best = int(np.argmin([misfit(float(one)) for one in tried]))
    low, high = tried[max(best - 1, 0)], tried[min(best + 1, _PLACES - 1)]
    full = least_between(misfit, float(low), float(high), 1e-9)
    reading = at(full)
    return None if reading is None else replace(reading, full=full)


def _goes_toward(
    constant: str, asked: FloatArray, turning: FloatArray, step: FloatArray, rows: IntArray
) -> _Reading | None:
    """Return the gain of a turning that goes toward what is asked for by ``exp(−k·step)``."""
    y0, y1, dt = before(turning)[rows], turning[rows], step[rows]
    noise = _EXACT * float(np.max(np.abs(y1), initial=1.0))
    inputs = {"asked": np.stack((asked[rows], asked[rows]), axis=1)}
    data = Observations.each(y0, y1, dt, noise, median(dt), inputs=inputs)
    model = StepModel(terms=(toward((constant, "asked")),), clocks=("second",))
    fit = Fitter(data, model).fit()
    if fit is None or fit.value("rate") <= 0:
        return None
    value = fit.value(constant)
    return _Reading(
        constant=constant,
        clock="second",
        value=value,
        error=float(fit.stderr[0]),
        misfit=fit.misfit,
        leader=value * asked,
    )


def _steady(
    motion: VehicleMotion, base: Law, best: _Reading, readings: list[_Reading], rows: IntArray
) -> Law:
    """Return the law of full lock; what cannot be told from it is said."""
    speeds = np.abs(motion.forward.v[rows])
    varies = float(np.ptp(speeds)) > _VARIES * float(np.max(speeds))
    if not varies and best.constant != "yaw_rate":
        best = _least(one for one in readings if one.constant == "yaw_rate") or best
    clock = "even" if motion.clock.even or not _sure_of_clock(best, readings) else best.clock
    reasons = (None if varies else _ONE_SPEED, clock_reason(clock))
    return replace(
        base,
        family=STEERING,
        constants=_constants(best, motion.take.header.length_unit),
        clock=clock,
        misfit=best.misfit,
        reason="; ".join(filter(None, reasons)) or None,
    )


def _sure_of_clock(best: _Reading, readings: list[_Reading]) -> bool:
    """Whether no reading by the same constant explains it as well by another clock."""
    own = [one for one in readings if one.constant == best.constant and one.clock != best.clock]
    return all(one.misfit * _BETTER > best.misfit + 1e-12 for one in own)


def _constants(best: _Reading, length: str) -> tuple[Constant, ...]:
    """Return the constants of a reading: its gain, and the speed from which it is full."""
    unit, size = STEERING.constants[best.constant].within(length), abs(best.value)
    error = max(best.error, 1e-12 * size)
    gain = Constant(name=best.constant, value=size, unit=unit, stderr=error)
    if not best.full:
        return (gain,)
    limit = Constant(
        name="full_speed",
        value=best.full,
        unit=SPEED.within(length),
        stderr=best.full * best.error / size,
    )
    return (gain, limit)


def _turning(motion: VehicleMotion) -> FloatArray:
    """Return how much the heading turns in each frame, degrees/s, shape (n,), not smoothed."""
    return np.diff(motion.heading, prepend=motion.heading[0]) / motion.dt


def _response(motion: VehicleMotion, base: Law, best: _Reading) -> list[Law]:
    """Return how turning goes after the wheel: at once, or by a smoothing."""
    yaw = motion.yaw
    if yaw is None:
        return []
    mask = motion.driven
    followed = Followed(
        follower=np.where(mask, _turning(motion), 0.0),
        leader=np.where(mask, best.leader, 0.0),
        grid=2**0.5 * yaw.quantum / motion.clock.usual,
        ends=("rising", "falling"),
    )
    respond = replace(base, phase=RESPOND)
    top = float(np.max(np.abs(best.leader), initial=0.0))
    apart = float(np.max(np.abs(followed.follower - followed.leader)))
    if apart <= 2 * followed.grid + _STEADY * top:
        return []  # it is there at once
    rates = ANGLE / TIME
    return list(following_laws(motion, followed, respond, RESPONSE, rates))


def _turns(law: Law) -> str:
    one = law.constants[0]
    by = "" if one.name == "yaw_rate" else "·speed"
    if len(law.constants) > 1:
        by = f"·min(1, speed/{plain(law.value('full_speed'))})"
    if law.clock == "frame":
        return f"heading += {plain(one.value * law.frame)}·steer{by}"
    return f"heading += {plain(one.value)}·steer{by}·dt"


def _responds(law: Law) -> str:
    return f"turning += (wanted − turning)·(1 − {factor(law)})"


STEERING = Family(
    name="steering",
    words="turning by the wheel",
    constants={"yaw_rate": ANGLE / TIME, "curvature": ANGLE / LENGTH, "full_speed": SPEED},
    scaling=("yaw_rate", "curvature"),
    code=_turns,
    stepped=True,
)

RESPONSE = Family(
    name="response",
    words="smoothing of the turning toward what the wheel asks for",
    constants={"offset": ANGLE / TIME, "rate": PER_TIME, "factor": RATIO},
    scaling=("rate",),
    code=_responds,
    stepped=True,
)
