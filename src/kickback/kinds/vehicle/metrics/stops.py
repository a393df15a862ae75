"""How a vehicle comes to rest: coasting, braking, and what the engine brakes."""

from collections.abc import Callable

import numpy as np

from kickback.kinds.vehicle.laws.drive import straight_rows
from kickback.kinds.vehicle.metrics.pushes import NEARLY, going, tops_of
from kickback.kinds.vehicle.metrics.spans import (
    PEDAL,
    SLID,
    moment,
    speed_noise,
)
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.phases import before
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.motion.segments import IntArray, stretches
from kickback.takes.record import replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["braked", "engine_braking", "released", "stops"]

_STOPPED = 0.01
"""Share of the speed at a release below which it has stopped."""

_BEGINS = 0.25
"""Seconds after a release over which engine braking is taken."""

_AT_TOP = 0.97
"""Share of the top speed from which something begins at it."""


def released(motion: VehicleMotion) -> list[tuple[int, int]]:
    """Return where the throttle was let go while moving, up to the next pedal or turn."""
    gas = motion.pedals.throttle
    if gas is None:
        return []
    free = (gas == 0) & going(motion)
    was = np.abs(before(motion.forward.v))
    return [
        (a, b)
        for a, b in stretches(free)
        if a > 0 and gas[a - 1] != 0 and was[a] > motion.rest_speed
    ]


def braked(motion: VehicleMotion) -> list[tuple[int, int]]:
    """Return where a brake met a motion, or throttle against it in a take without brakes."""
    gas, brake = motion.pedals.throttle, motion.pedals.brake
    v, straight = before(motion.forward.v), straight_rows(motion, turning=NEARLY) & motion.usual
    against = np.zeros(len(v), dtype=bool)
    if gas is not None:
        against = (gas * v < 0) & (np.abs(gas) >= FULL)
    for stops in (against if brake is None else brake, against):
        spans = stretches(stops & straight)
        begun = [(a, b) for a, b in spans if a > 0 and not stops[a - 1]]
        found = [(a, b) for a, b in begun if abs(v[a]) > motion.rest_speed]
        if found:
            return found
    return []


def stops(
    scene: VehicleMotion,
    spans: Callable[[VehicleMotion], list[tuple[int, int]]],
    *,
    share: float,
    distance: bool,
) -> Occurrences:
    """Measure the time or the way from a release or a brake until a share of the speed is left."""
    motion = scene
    track, rows, begins = motion.forward, [], []
    found = spans(motion)
    for a, b in found:
        entry = float(track.v[a - 1])
        way = np.sign(entry)
        at = moment(motion, track, (a, min(b + 1, len(track.v))), share * entry, way=-way)
        if at is None:
            continue
        begin, time = float(motion.begin[a]), at[0]
        value, sure, later = time - begin, at[1], float(motion.step[a])
        if distance:
            there = float(np.interp(time, motion.t, track.p))
            value = abs(there - float(track.p[a - 1]))
            sure = 2 * max(share, _STOPPED) * abs(entry) * at[1] + 2 * track.quantum
            sure += 0.05 * abs(entry) * share * float(motion.step[a])
            later = abs(entry) * later
        rows.append(Row(value, begin, time, sure, later))
        begins.append(a)
    if not rows and found:
        return none("another pedal, a turn or the end of the take came before the stop")
    return _from_top(motion, rows, begins, "no such pedal met its motion")


def _from_top(
    motion: VehicleMotion, rows: list[Row], begins: list[int], reason: str
) -> Occurrences:
    """Return what began at top speed, where anything did; else all, which is then said.

    ``begins``: the frames with which they do.
    """
    at = np.array(begins, dtype=np.int64)
    given = _as_it_began(motion, at)
    entry = given["entry"]
    found = occurrences_of(rows, reason, given=given)
    tops = [top.value for _, top in tops_of(motion)]
    if not len(found.value):
        return found
    at_top = entry >= _AT_TOP * max(tops) if tops else np.zeros(len(entry), dtype=bool)
    return found.only(at_top) if at_top.any() else replace(found, remark="not from top speed")


def _as_it_began(motion: VehicleMotion, at: IntArray) -> dict[str, FloatArray]:
    """Return the speed before frames, how it slid, and whether they brake, each of shape (k,)."""
    entry = np.abs(motion.forward.v[at - 1])
    aside, brake = motion.sideways, motion.pedals.brake
    slid = np.zeros(len(at)) if aside is None else np.abs(aside.v[at - 1])
    return {
        "entry": entry,
        SLID.name: slid / np.maximum(entry, motion.rest_speed),
        PEDAL.name: np.zeros(len(at)) if brake is None else brake[at].astype(np.float64),
    }


def engine_braking(scene: VehicleMotion) -> Occurrences:
    """Measure the mean deceleration just after the throttle is let go."""
    motion = scene
    track, rows, begins = motion.forward, [], []
    noise = speed_noise(track)
    for a, b in released(motion):
        entry = float(track.v[a - 1])
        began = float(track.tv[a - 1])
        end = int(np.searchsorted(track.tv, began + _BEGINS))
        if end >= b or end <= a:
            continue
        time = _BEGINS
        later = float(np.interp(began + time, track.tv, track.v))
        loss = (entry - later) * np.sign(entry) / time
        rows.append(
            Row(
                loss,
                float(motion.begin[a]),
                float(motion.t[end]),
                max(2 * 2**0.5 * noise / time, 1e-9 * abs(loss), ARITHMETIC * abs(entry) / time),
                abs(loss) * float(motion.step[a]) / time,
            )
        )
        begins.append(a)
    return _from_top(motion, rows, begins, "no release of the throttle for a quarter of a second")
