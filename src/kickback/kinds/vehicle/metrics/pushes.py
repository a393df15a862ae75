"""What the throttle does: speeds and times to them, its response, on what and in the air."""

import numpy as np

from kickback.kinds.vehicle.laws.drive import straight_rows
from kickback.kinds.vehicle.metrics.spans import (
    NINETY_FIVE,
    Settled,
    moment,
    presses,
    settled,
    speed_noise,
)
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.phases import before
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.segments import BoolArray, stretches
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray

__all__ = [
    "NEARLY",
    "acceleration",
    "air_ratio",
    "going",
    "response",
    "throttle_ratio",
    "time_to",
    "top_speed",
    "tops_of",
]

_ALIKE = 0.2
"""Share by which a speed on the ground may differ from one in the air to be held beside it."""

_UNSURE = 0.02
"""Share by which a push in the air may be off for the bend of the drag."""

NEARLY = 1.0
"""Degrees/s that go for straight: what is left of a turn when the wheel is let go."""

_NO_PEDAL = "no throttle was recorded (in_throttle)"


def going(motion: VehicleMotion) -> BoolArray:
    """Return where nothing but the throttle acts, shape (n,): straight, level, no brake."""
    ok = straight_rows(motion, turning=NEARLY) & motion.usual
    return ok if motion.pedals.brake is None else ok & ~motion.pedals.brake


def _pushes(motion: VehicleMotion, way: float) -> list[tuple[int, int]]:
    return presses(motion.pedals.throttle, way, going(motion))


def tops_of(motion: VehicleMotion, way: float = 1.0) -> list[tuple[tuple[int, int], Settled]]:
    """Return the speeds that full presses settle at, each with its frames."""
    track = motion.forward
    noise = speed_noise(track)
    found = []
    for a, b in _pushes(motion, way):
        top = settled(motion, track.v * way, (a, b), noise)
        if top is not None and top.value > motion.rest_speed:
            found.append(((a, b), top))
    return found


def top_speed(scene: VehicleMotion, *, way: float) -> Occurrences:
    """Measure the top speeds of pushes ahead, or back with ``way`` −1."""
    motion = scene
    if motion.pedals.throttle is None:
        return none(_NO_PEDAL)
    pushes = _pushes(motion, way)
    rows = [
        Row(top.value, float(motion.begin[a]), float(motion.t[b - 1]), top.sure)
        for (a, b), top in tops_of(motion, way)
    ]
    reason = "no full throttle on straight, level ground"
    if pushes:
        a, b = max(pushes, key=lambda push: push[1] - push[0])
        last = max(1, (b - a) // 10)  # there is a frame before any press
        gain = way * float(motion.forward.v[b - 1] - motion.forward.v[b - 1 - last])
        gain /= float(motion.t[b - 1] - motion.t[b - 1 - last])
        unit = motion.take.header.length_unit
        reason = f"it was still gaining {gain:.3g} {unit}/s² at the end: hold the throttle longer"
    return occurrences_of(rows, reason)


def time_to(scene: VehicleMotion, *, share: float, distance: bool = False) -> Occurrences:
    """Measure the time, or the way, from a press at rest to a share of the top speed."""
    motion = scene
    if motion.pedals.throttle is None:
        return none(_NO_PEDAL)
    tops = dict(tops_of(motion))
    if not tops:
        return none(top_speed(scene, way=1.0).reason)
    usual = median(np.array([top.value for top in tops.values()]))
    track, rows = motion.forward, []
    was = before(track.v)
    for a, b in _pushes(motion, 1.0):
        if abs(was[a]) > motion.rest_speed:
            continue
        top = tops.get((a, b), Settled(usual, 0.0, 0.0))
        at = moment(motion, track, (a, b), share * top.value, way=1.0)
        if at is None:
            continue
        begin, step = float(motion.begin[a]), float(motion.step[a])
        value, sure = at[0] - begin, at[1] + _of_top(motion, at[0], top, share)
        if distance:
            there = float(np.interp(at[0], motion.t, track.p))
            value = there - float(track.p[a - 1])
            sure, step = top.value * sure + 2 * track.quantum, top.value * step
        rows.append(Row(value, begin, at[0], sure, step))
    return occurrences_of(rows, "no full press from rest reached it")


def _of_top(motion: VehicleMotion, time: float, top: Settled, share: float) -> float:
    """Return what an unsure top speed makes of the moment of a share of it, s."""
    row = int(np.clip(np.searchsorted(motion.t, time), 1, len(motion.t) - 1))
    v = motion.forward.v
    slope = abs(float(v[row] - v[row - 1])) / float(motion.step[row])
    return share * top.sure / slope if slope > 0 else 0.0


def acceleration(scene: VehicleMotion) -> Occurrences:
    """Measure the mean acceleration from a press at rest to half the top speed."""
    motion, found = scene, time_to(scene, share=0.5)
    if not len(found.value):
        return found
    usual = median(np.array([top.value for _, top in tops_of(motion)]))
    rows = [
        Row(0.5 * usual / time, start, end, 0.5 * usual / time**2 * sure, 0.0)
        for time, start, end, sure in zip(
            found.value, found.start, found.end, found.resolution, strict=True
        )
        if time > 0
    ]
    return occurrences_of(rows, "the top speed is there at once")


def response(scene: VehicleMotion) -> Occurrences:
    """Measure the time from a press at rest to the update that first moves it."""
    motion, rows = scene, []
    if motion.pedals.throttle is None:
        return none(_NO_PEDAL)
    v = np.abs(motion.forward.v)
    was = before(v)
    slow = motion.rest_speed
    for a, b in stretches(motion.pedals.throttle != 0):
        if a == 0 or was[a] > slow:
            continue
        moved = np.flatnonzero(v[a:b] > slow)
        if moved.size:
            row = a + int(moved[0])
            begin = float(motion.begin[a])
            rows.append(
                Row(
                    float(motion.begin[row]) - begin,
                    begin,
                    float(motion.t[row]),
                    float(motion.step[row]) if motion.forward.rounded else 0.0,
                    float(motion.step[row]),
                )
            )
    return occurrences_of(rows, "no throttle was pressed at rest")


def throttle_ratio(scene: VehicleMotion) -> Occurrences:
    """Measure what partial throttle settles at, as a share of the top speed over that pressed."""
    motion = scene
    gas = motion.pedals.throttle
    if gas is None:
        return none(_NO_PEDAL)
    tops = tops_of(motion)
    if not tops:
        return none(top_speed(scene, way=1.0).reason)
    top = median(np.array([one.value for _, one in tops]))
    track, rows, amounts = motion.forward, [], []
    noise = speed_noise(track)
    rounded: FloatArray = np.round(gas, 2)
    for amount in np.unique(rounded[(rounded > 0) & (rounded < FULL)]).tolist():
        for a, b in stretches((rounded == amount) & going(motion)):
            one = settled(motion, track.v, (a, b), noise)
            if one is not None:
                share = one.value / top / amount
                sure = one.sure / top / amount + share * tops[0][1].sure / top
                rows.append(Row(share, float(motion.begin[a]), float(motion.t[b - 1]), sure))
                amounts.append(amount)
    return occurrences_of(
        rows, "no partial throttle was held until it settled", given={"throttle": np.array(amounts)}
    )


def air_ratio(scene: VehicleMotion) -> Occurrences:
    """Measure the push of full throttle in the air, as a share of that on the ground."""
    motion = scene
    gas = motion.pedals.throttle
    if gas is None:
        return none(_NO_PEDAL)
    if motion.contact_source != "recorded":
        return none("no ground contact was recorded")
    v, n = motion.forward.v, len(motion.t)
    gains = np.diff(v, prepend=v[0]) / motion.dt
    full = gas >= FULL
    full &= np.concatenate(([False], full[:-1]))
    grounded = motion.grounded
    air = full & ~grounded & ~np.concatenate((grounded[:1], grounded[:-1]))
    if np.count_nonzero(air) < 4:
        return none("no full throttle in the air")
    middle = median(np.abs(v[air]))
    near = going(motion) & (np.abs(np.abs(v) - middle) <= _ALIKE * middle)
    pushed, free = near & full, near & (gas == 0) & np.concatenate(([False], gas[:-1] == 0))
    if min(np.count_nonzero(pushed), np.count_nonzero(free)) < 4:
        return none("no full throttle and no coasting on level ground at the speeds of the flight")
    # drag acts with and without ground: what coasting loses at such a speed is taken off both
    lost, slope = _at_speed(v[free], gains[free], middle)
    here = _at_speed(v[pushed], gains[pushed], middle)[0] - lost
    there = median(gains[air] - slope * (np.abs(v[air]) - middle)) - lost
    if here <= 0:
        return none("full throttle gains no more than coasting at such speeds")
    row = np.flatnonzero(air)
    noise = NINETY_FIVE * 2**0.5 * speed_noise(motion.forward) / motion.clock.usual
    sure = 2 * noise / here / len(row) ** 0.5 + _UNSURE
    return occurrences_of(
        [row_of(motion, there / here, (int(row[0]), min(int(row[-1]) + 1, n)), sure)], ""
    )


def _at_speed(v: FloatArray, gain: FloatArray, middle: float) -> tuple[float, float]:
    """Return the gain at a speed and its slope, of a line through gains at speeds around it."""
    slope, base = np.polyfit(np.abs(v) - middle, gain, 1)
    return float(base), float(slope)
