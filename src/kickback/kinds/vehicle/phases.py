"""What a vehicle does in each frame: along its heading, and about it."""

import numpy as np

from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.roles import FORWARD, YAW
from kickback.motion.motion import Event, Phase
from kickback.motion.segments import BoolArray, IntArray, runs, stretches
from kickback.takes.take import FloatArray

__all__ = [
    "DRIVE",
    "STEER",
    "before",
    "drive_codes",
    "pressed",
    "steer_codes",
    "vehicle_events",
    "vehicle_phases",
]

DRIVE = ("rest", "speed-up", "coast", "brake", "reverse", "airborne")
"""Phases along the heading by code."""

STEER = ("straight", "steer", "slide")
"""Phases about it; ``slide``: straightened, and still going sideways."""

REST, SPEED_UP, COAST, BRAKE, REVERSE, AIRBORNE = range(6)
STRAIGHT, STEERED, SLIDE = range(3)

_SLIDES = 0.02
"""Share of the highest speed from which a sideways speed is a slide."""


def before(values: FloatArray) -> FloatArray:
    """Return what each frame began with, shape (n,): the value of the frame before."""
    return np.concatenate((values[:1], values[:-1]))


def drive_codes(motion: VehicleMotion) -> IntArray:
    """Return the phase of each frame along the heading, shape (n,), as an index into ``DRIVE``."""
    v, rest, n = motion.forward.v, motion.rest_speed, len(motion.t)
    was = before(v)
    moving = (np.abs(v) > rest) | (np.abs(was) > rest)
    gas = np.zeros(n) if motion.pedals.throttle is None else motion.pedals.throttle
    against = (gas * was < 0) & (np.abs(was) > rest)
    stops = np.zeros(n, dtype=bool) if motion.pedals.brake is None else motion.pedals.brake
    code = np.full(n, COAST, dtype=np.int64)
    code[gas > 0] = SPEED_UP
    code[gas < 0] = REVERSE
    code[moving & (against | stops)] = BRAKE
    code[~moving] = REST
    code[~motion.grounded] = AIRBORNE
    return code


def slides(motion: VehicleMotion) -> BoolArray:
    """Return where it goes sideways more than its noise and a share of its speed, shape (n,)."""
    aside = motion.sideways
    if aside is None:
        return np.zeros(len(motion.t), dtype=bool)
    top = float(np.nanmax(np.abs(motion.forward.v), initial=0.0))
    return np.asarray(np.abs(aside.v) > max(_SLIDES * top, 3 * aside.noise, motion.rest_speed))


def steer_codes(motion: VehicleMotion) -> IntArray:
    """Return the phase of each frame about the heading, shape (n,), as an index into ``STEER``."""
    n = len(motion.t)
    wheel = np.zeros(n) if motion.pedals.steer is None else motion.pedals.steer
    code = np.full(n, STRAIGHT, dtype=np.int64)
    code[slides(motion)] = SLIDE
    code[wheel != 0] = STEERED
    return code


def pressed(amount: FloatArray | None, *, way: float = 0.0) -> list[tuple[int, int, float]]:
    """Return the stretches ``[start, stop)`` of a full press, with its side.

    ``way``: of one side only. A press that the take begins with is none.
    """
    if amount is None:
        return []
    full = np.where(np.abs(amount) >= FULL, np.sign(amount), 0.0)
    starts, stops = runs(full)
    return [
        (a, b, float(full[a]))
        for a, b in zip(starts.tolist(), stops.tolist(), strict=True)
        if full[a] and a > 0 and (not way or full[a] == way)
    ]


def vehicle_phases(motion: VehicleMotion) -> list[Phase]:
    """Return the phases of both tracks."""
    found = []
    inferred = motion.pedals.throttle is None
    for role, names, codes in (
        (FORWARD, DRIVE, drive_codes(motion)),
        (YAW, STEER, steer_codes(motion)),
    ):
        if role.name not in motion.tracks:
            continue
        starts, stops = runs(codes)
        found += [
            Phase(track=role.name, name=names[codes[a]], start=a, stop=b, inferred=inferred)
            for a, b in zip(starts.tolist(), stops.tolist(), strict=True)
        ]
    return found


def vehicle_events(motion: VehicleMotion) -> list[Event]:
    """Return presses of throttle and wheel, takeoffs and landings, in the order of time."""
    found = []
    for name, amount in (("throttle", motion.pedals.throttle), ("steer", motion.pedals.steer)):
        if amount is not None:
            for a, _ in stretches(amount != 0):
                found.append((name, float(motion.begin[a]), a, False))
    guessed = motion.contact_source != "recorded"
    for a, b in stretches(~motion.grounded):
        found.append(("takeoff", float(motion.begin[a]), a, guessed))
        if b < len(motion.t):
            found.append(("landing", float(motion.t[b]), b, guessed))
    found.sort(key=lambda one: one[1])
    return [Event(name=n, time=t, frame=f, inferred=i) for n, t, f, i in found]
