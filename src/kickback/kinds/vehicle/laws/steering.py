"""How the wheel turns a vehicle: by the time, by the way or in between, and how it gets there."""

import numpy as np

from kickback.kinds.vehicle.laws.turning import SHAPES, Turned, Turning, select_turning
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.phases import before
from kickback.kinds.vehicle.roles import YAW
from kickback.laws.families.code import clock_reason, factor
from kickback.laws.families.family import Family
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.motion.segments import BoolArray, stretches
from kickback.takes.numerals import plain
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import ANGLE, LENGTH, PER_TIME, RATIO, TIME
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["PACE", "RESPONSE", "STEERING", "steering_laws"]

STEER = PhaseKey("steer")
RESPOND = PhaseKey("steer", part="response")

_FEWEST = 12
"""Frames with the wheel turned below which nothing is told."""

_IDLE = 0.5
"""Seconds for which it goes straight before a turn that begins at rest."""

_MOST = 1_500
"""Frames that settle a rule: the first turns are read."""

_MOVES = 0.1
"""Share of the highest speed from which a wheel that is turned would show."""

_GRIDS = 1.01
"""Grids that a heading may change by in a frame through rounding."""

_VARIES = 0.05
"""Share by which speeds must differ to tell turning by the way from turning by the time."""

_ONE_SPEED = "at one speed only: whether it goes with the speed cannot be told"
_NONE = "how it turns goes with the wheel, the time and the speed in no known way"
_OF_WHEEL = "the wheel goes after what is pressed, and the turning goes with the wheel"
_EITHER = (
    "a wheel that goes after what is pressed, or a turning that goes after the wheel: alike here"
)


def steering_laws(motion: VehicleMotion) -> list[Law]:
    """Return the laws of the steering; nothing where the wheel was hardly turned."""
    yaw, wheel = motion.yaw, motion.pedals.steer
    if yaw is None or wheel is None:
        return []
    data = _turned(motion, wheel)
    if data is None:
        return []
    base = Law(
        take=motion.take.name,
        role=YAW,
        phase=STEER,
        start=float(motion.begin[0]),
        end=float(motion.t[-1]),
        axis="heading",
        frame=motion.clock.usual,
        frames=len(data.turn),
    )
    found = select_turning(data)
    if found is None:
        return [replace(base, reason=_NONE)]
    base = replace(base, frames=found.frames, misfit=found.misfit)
    unit = motion.take.header.length_unit
    return [_steered(base, data, found, unit), *_delayed(base, found, unit)]


def _turned(motion: VehicleMotion, wheel: FloatArray) -> Turned | None:
    """Return the frames of turns that begin from a straight way; None where there are too few."""
    turn = np.diff(motion.heading, prepend=motion.heading[0])
    grid = 0.0 if motion.yaw is None else motion.yaw.quantum
    idle = _idle(motion, wheel, _GRIDS * grid + ARITHMETIC * float(np.ptp(motion.heading)))
    kept, first = _spans(idle, motion.driven)
    if np.count_nonzero(wheel[kept]) < _FEWEST:
        return None
    speed = motion.forward
    of_speed = speed.printed / ROOT_12 if speed.source == "reported" else speed.noise
    return Turned(
        turn=turn[kept],
        wheel=wheel[kept],
        step=_steps(motion)[kept],
        speeds=_speeds(motion)[:, kept],
        first=first[kept],
        usual=motion.clock.usual,
        even=motion.clock.even,
        sigma=grid / ROOT_12,
        speed_error=of_speed,
        time_error=motion.clock.time_error,
    )


def _idle(motion: VehicleMotion, wheel: FloatArray, same: float) -> BoolArray:
    """Return where the wheel has been at rest for long: nothing of a turn is left, shape (n,).

    A vehicle that stands still shows none of what its wheel does.
    """
    pace, n = np.abs(motion.forward.v), len(wheel)
    moves = pace > _MOVES * float(np.max(pace, initial=0.0))
    turned, stood = (np.concatenate(([0], np.cumsum(one))) for one in (wheel != 0, ~moves))
    ago = np.maximum(np.arange(n) - round(_IDLE / motion.clock.usual), 0)
    now = np.arange(n)
    quiet = (turned[now + 1] == turned[ago]) & (stood[now + 1] == stood[ago]) & (ago > 0)
    straight = np.abs(motion.heading - motion.heading[ago]) <= same
    return np.asarray((quiet & straight) | ((turned[1:] == 0) & straight))


def _steps(motion: VehicleMotion) -> FloatArray:
    """Return the frames' lengths, s: rounded ones by their times, whose errors do not add up."""
    if not motion.clock.time_error:
        return motion.dt
    return np.diff(motion.t, prepend=motion.t[0] - motion.dt[0])


def _speeds(motion: VehicleMotion) -> FloatArray:
    """Return the speeds that a turning may go with, each once, shape (s, n).

    Those along the heading: before a frame, after it, and after it along the heading before;
    those over the ground.
    """
    turned = np.exp(-1j * np.deg2rad(before(motion.heading)))
    v, size = motion.forward.v, np.abs(motion.velocity)
    found = [before(v)]
    same = ARITHMETIC * float(np.max(size, initial=0.0))
    for one in (v, (motion.velocity * turned).real, before(size), size):
        if all(np.max(np.abs(one - other), initial=0.0) > same for other in found):
            found.append(one)
    return np.stack(found)


def _spans(idle: BoolArray, driven: BoolArray) -> tuple[BoolArray, BoolArray]:
    """Return which frames turns are made of, and with which each begins, shapes (n,)."""
    n = len(idle)
    kept, first = (np.zeros(n, dtype=bool) for _ in range(2))
    for a, b in stretches(driven):
        rests = stretches(idle[a:b])
        for (_, start), (end, _) in zip(rests, [*rests[1:], (b - a, b - a)], strict=True):
            if end - start < 1 or np.count_nonzero(kept) >= _MOST:
                continue
            kept[a + start : min(a + end, a + start + _MOST)] = True
            first[a + start] = True
    return kept, first


def _steered(base: Law, data: Turned, found: Turning, unit: str) -> Law:
    """Return the law of what the wheel asks for."""
    speeds = np.abs(data.speeds[0][data.wheel != 0])
    varies = float(np.ptp(speeds)) > _VARIES * float(np.max(speeds))
    reasons = (None if varies else _ONE_SPEED, clock_reason(found.clock))
    return replace(
        base,
        family=STEERING,
        constants=_constants(STEERING, found, unit),
        clock=found.clock,
        reason="; ".join(filter(None, reasons)) or None,
    )


def _delayed(base: Law, found: Turning, unit: str) -> list[Law]:
    """Return the law of what delays a turning, if anything does."""
    delay, clock = found.delay, found.rate_clock
    if not delay.name:
        return []
    family = PACE if delay.paced else RESPONSE
    constants = _constants(family, found, unit)
    if not delay.paced:
        constants = (*constants, _factor(constants[0], base.frame, clock, unit))
    which = _EITHER if found.either else _OF_WHEEL if delay.of_wheel else None
    law = replace(
        base,
        phase=RESPOND,
        family=family,
        constants=constants,
        clock=clock,
        reason="; ".join(filter(None, (which, clock_reason(clock)))) or None,
    )
    return [law]


def _factor(rate: Constant, frame: float, clock: str, unit: str) -> Constant:
    """Return what a usual frame keeps of what is still to go."""
    acts = rate.value * frame
    kept = 1 - acts if clock == "first-order" else float(np.exp(-acts))
    error = (rate.stderr or 0.0) * frame * abs(kept)
    return Constant(name="factor", value=kept, unit=RATIO.within(unit), stderr=error)


def _constants(family: Family, found: Turning, unit: str) -> tuple[Constant, ...]:
    """Return the constants of a rule that a family has."""
    return tuple(
        Constant(
            name=name,
            value=found.values[name],
            stderr=found.stderr[name],
            unit=dimension.within(unit),
        )
        for name, dimension in family.constants.items()
        if name in found.values
    )


def _turns(law: Law) -> str:
    gain, *others = law.constants
    names = tuple(one.name for one in law.constants)
    code = next(shape.code for shape in SHAPES if shape.names == names)
    for one in others:
        code = code.replace("#", plain(one.value))
    if law.clock == "frame":
        return f"heading += {plain(gain.value * law.frame)}·{code}"
    return f"heading += {plain(gain.value)}·{code}·dt"


def _paced(law: Law) -> str:
    return f"wheel moves toward steer by {plain(law.value('pace'))}·dt"


def _responds(law: Law) -> str:
    of_wheel = law.reason is not None and law.reason.startswith(_OF_WHEEL)
    name, goal = ("wheel", "steer") if of_wheel else ("turning", "wanted")
    return f"{name} += ({goal} − {name})·(1 − {factor(law)})"


STEERING = Family(
    name="steering",
    words="turning by the wheel",
    constants={
        "yaw_rate": ANGLE / TIME,
        "curvature": ANGLE / LENGTH,
        **{shape.other: shape.dimension for shape in SHAPES if shape.other},
    },
    scaling=("yaw_rate", "curvature"),
    code=_turns,
    stepped=True,
)

RESPONSE = Family(
    name="response",
    words="smoothing of the wheel, or of the turning",
    constants={"rate": PER_TIME, "factor": RATIO},
    scaling=("rate",),
    code=_responds,
    stepped=True,
)

PACE = Family(
    name="pace",
    words="a wheel that turns at a constant pace",
    constants={"pace": PER_TIME},
    code=_paced,
    stepped=True,
)
