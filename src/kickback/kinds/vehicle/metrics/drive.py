"""How a vehicle drives: top speeds, how long it takes there, and how it comes to a stop."""

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from kickback.kinds.vehicle.laws.drive import straight_rows
from kickback.kinds.vehicle.metrics.spans import (
    ENTRY,
    ENTRY_SQUARED,
    NINETY_FIVE,
    Settled,
    moment,
    motion_of,
    presses,
    settled,
    speed_noise,
)
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.phases import before
from kickback.kinds.vehicle.roles import FORWARD
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.telling import Row, row_of, told
from kickback.motion.segments import BoolArray, stretches
from kickback.takes.numeric import median
from kickback.takes.quantities import ACCELERATION, LENGTH, RATIO, SPEED, TIME
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = ["METRICS", "tops_of"]

_STOPPED = 0.01
"""Share of the speed at a release below which it has stopped."""

_BEGINS = 0.25
"""Seconds after a release over which engine braking is taken."""

_ALIKE = 0.2
"""Share by which a speed on the ground may differ from one in the air to be held beside it."""

_AT_TOP = 0.97
"""Share of the top speed from which something begins at it."""

_UNSURE = 0.02
"""Share by which a push in the air may be off for the bend of the drag."""

_NEARLY = 1.0
"""Degrees/s that go for straight: what is left of a turn when the wheel is let go."""

_NO_PEDAL = "no throttle was recorded (in_throttle)"


def _going(motion: VehicleMotion) -> BoolArray:
    """Return where nothing but the throttle acts, shape (n,): straight, level, no brake."""
    ok = straight_rows(motion, turning=_NEARLY) & motion.usual
    return ok if motion.pedals.brake is None else ok & ~motion.pedals.brake


def _pushes(motion: VehicleMotion, way: float) -> list[tuple[int, int]]:
    return presses(motion.pedals.throttle, way, _going(motion))


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


def _top_speed(scene: Any, *, way: float) -> Occurrences:
    motion = motion_of(scene)
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
    return told(rows, reason)


def _time_to(scene: Any, *, share: float) -> Occurrences:
    """Measure the time from a press at rest to a share of the top speed."""
    motion = motion_of(scene)
    if motion.pedals.throttle is None:
        return none(_NO_PEDAL)
    tops = dict(tops_of(motion))
    if not tops:
        return none(_top_speed(scene, way=1.0).reason)
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
        begin = float(motion.begin[a])
        rows.append(Row(at[0] - begin, begin, at[0], at[1] + _of_top(motion, at[0], top, share),
                        float(motion.step[a])))  # fmt: skip
    return told(rows, "no full press from rest reached it")


def _of_top(motion: VehicleMotion, time: float, top: Settled, share: float) -> float:
    """Return what an unsure top speed makes of the moment of a share of it, s."""
    row = int(np.clip(np.searchsorted(motion.t, time), 1, len(motion.t) - 1))
    v = motion.forward.v
    slope = abs(float(v[row] - v[row - 1])) / float(motion.step[row])
    return share * top.sure / slope if slope > 0 else 0.0


def _acceleration(scene: Any) -> Occurrences:
    """Measure the mean acceleration from a press at rest to half the top speed."""
    motion, found = motion_of(scene), _time_to(scene, share=0.5)
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
    return told(rows, "the top speed is there at once")


def _response(scene: Any) -> Occurrences:
    """Measure the time from a press at rest to the update that first moves it."""
    motion, rows = motion_of(scene), []
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
            rows.append(Row(float(motion.begin[row]) - begin, begin, float(motion.t[row]),
                            float(motion.step[row]) if motion.forward.rounded else 0.0,
                            float(motion.step[row])))  # fmt: skip
    return told(rows, "no throttle was pressed at rest")


def _released(motion: VehicleMotion) -> list[tuple[int, int]]:
    """Return where the throttle was let go while moving, up to the next pedal or turn."""
    gas = motion.pedals.throttle
    if gas is None:
        return []
    free = (gas == 0) & _going(motion)
    was = np.abs(before(motion.forward.v))
    return [
        (a, b)
        for a, b in stretches(free)
        if a > 0 and gas[a - 1] != 0 and was[a] > motion.rest_speed
    ]


def _braked(motion: VehicleMotion) -> list[tuple[int, int]]:
    """Return where a brake met a motion, or throttle against it in a take without brakes."""
    gas, brake = motion.pedals.throttle, motion.pedals.brake
    v, straight = before(motion.forward.v), straight_rows(motion, turning=_NEARLY) & motion.usual
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


def _stops(
    scene: Any, spans: Callable[[VehicleMotion], list[tuple[int, int]]], *, share: float,
    distance: bool,
) -> Occurrences:  # fmt: skip
    """Measure the time or the way from a release or a brake until a share of the speed is left."""
    motion = motion_of(scene)
    track, rows, entries = motion.forward, [], []
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
        entries.append(abs(entry))
    if not rows and found:
        return none("another pedal, a turn or the end of the take came before the stop")
    return _from_top(motion, rows, entries, "no such pedal met its motion")


def _from_top(
    motion: VehicleMotion, rows: list[Row], entries: list[float], reason: str
) -> Occurrences:
    """Return what began at top speed, where anything did; else all, which is then said."""
    entry = np.array(entries)
    found = told(rows, reason, given={"entry": entry})
    tops = [top.value for _, top in tops_of(motion)]
    if not len(found.value):
        return found
    at_top = entry >= _AT_TOP * max(tops) if tops else np.zeros(len(entry), dtype=bool)
    return found.only(at_top) if at_top.any() else replace(found, remark="not from top speed")


def _engine_braking(scene: Any) -> Occurrences:
    """Measure the mean deceleration just after the throttle is let go."""
    motion = motion_of(scene)
    track, rows, entries = motion.forward, [], []
    noise = speed_noise(track)
    for a, b in _released(motion):
        entry = float(track.v[a - 1])
        began = float(track.tv[a - 1])
        end = int(np.searchsorted(track.tv, began + _BEGINS))
        if end >= b or end <= a:
            continue
        time = _BEGINS
        later = float(np.interp(began + time, track.tv, track.v))
        loss = (entry - later) * np.sign(entry) / time
        rows.append(Row(loss, float(motion.begin[a]), float(motion.t[end]),
                        max(2 * 2**0.5 * noise / time, 1e-9 * abs(loss)),
                        abs(loss) * float(motion.step[a]) / time))  # fmt: skip
        entries.append(abs(entry))
    return _from_top(motion, rows, entries, "no release of the throttle for a quarter of a second")


def _throttle_ratio(scene: Any) -> Occurrences:
    """Measure what partial throttle settles at, as a share of the top speed over that pressed."""
    motion = motion_of(scene)
    gas = motion.pedals.throttle
    if gas is None:
        return none(_NO_PEDAL)
    tops = tops_of(motion)
    if not tops:
        return none(_top_speed(scene, way=1.0).reason)
    top = median(np.array([one.value for _, one in tops]))
    track, rows, amounts = motion.forward, [], []
    noise = speed_noise(track)
    rounded: FloatArray = np.round(gas, 2)
    for amount in np.unique(rounded[(rounded > 0) & (rounded < FULL)]).tolist():
        for a, b in stretches((rounded == amount) & _going(motion)):
            one = settled(motion, track.v, (a, b), noise)
            if one is not None:
                share = one.value / top / amount
                sure = one.sure / top / amount + share * tops[0][1].sure / top
                rows.append(Row(share, float(motion.begin[a]), float(motion.t[b - 1]), sure))
                amounts.append(amount)
    return told(rows, "no partial throttle was held until it settled",
                given={"throttle": np.array(amounts)})  # fmt: skip


def _air_ratio(scene: Any) -> Occurrences:
    """Measure the push of full throttle in the air, as a share of that on the ground."""
    motion = motion_of(scene)
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
    near = _going(motion) & (np.abs(np.abs(v) - middle) <= _ALIKE * middle)
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
    return told([row_of(motion, there / here, (int(row[0]), min(int(row[-1]) + 1, n)), sure)], "")


def _at_speed(v: FloatArray, gain: FloatArray, middle: float) -> tuple[float, float]:
    """Return the gain at a speed and its slope, of a line through gains at speeds around it."""
    slope, base = np.polyfit(np.abs(v) - middle, gain, 1)
    return float(base), float(slope)


def _metric(part: str, measure: Callable[[Any], Occurrences], **own: Any) -> Metric:
    return Metric(group="drive", part=part, measure=measure, needs=(FORWARD,), **own)


METRICS = (
    _metric(
        "top_speed",
        partial(_top_speed, way=1.0),
        dimension=SPEED,
        title="Top speed",
        definition="The speed that full throttle settles at on straight, level ground. What is"
        " still missing at the end is foretold where it is less than a twentieth.",
        formula="v + d2·r/(1 − r), r = d2/d1 the ratio of the last gains; √(a/q) for a push a"
        " against a quadratic resistance q",
        phrases=("drives {} faster", "drives {} slower", "drives"),
    ),
    _metric(
        "reverse_speed",
        partial(_top_speed, way=-1.0),
        dimension=SPEED,
        title="Top speed in reverse",
        definition="The speed that full throttle backward settles at.",
        formula="as drive.top_speed, backward",
    ),
    _metric(
        "time_to_50",
        partial(_time_to, share=0.5),
        detail=True,
        dimension=TIME,
        title="Time to 50 % of top speed",
        definition="From full throttle at rest to half the top speed.",
        formula="t(v = 0.50·v_top) − t(press)",
    ),
    _metric(
        "time_to_90",
        partial(_time_to, share=0.9),
        dimension=TIME,
        title="Time to 90 % of top speed",
        definition="From full throttle at rest to 90 % of the top speed.",
        formula="t(v = 0.90·v_top) − t(press); ln(10)/k against a linear resistance k,"
        " artanh(0.9)·v_top/a against a quadratic one",
        phrases=("speeds up {} more slowly", "speeds up {} sooner", "speeds up"),
    ),
    _metric(
        "time_to_top_speed",
        partial(_time_to, share=0.99),
        dimension=TIME,
        title="Time to top speed",
        definition="From full throttle at rest to 99 % of the top speed.",
        formula="t(v = 0.99·v_top) − t(press)",
    ),
    _metric(
        "acceleration",
        _acceleration,
        detail=True,
        dimension=ACCELERATION,
        title="Acceleration",
        definition="The mean acceleration from full throttle at rest to half the top speed.",
        formula="0.50·v_top / drive.time_to_50",
    ),
    _metric(
        "response_time",
        _response,
        detail=True,
        dimension=TIME,
        title="First response to the throttle",
        definition="From the press of the throttle at rest to the start of the update that moves"
        " it; 0 where that is the same update.",
        formula="t(first update with |v| above rest) − t(press)",
    ),
    _metric(
        "coast_time",
        partial(_stops, spans=_released, share=_STOPPED, distance=False),
        dimension=TIME,
        title="Coasting: time",
        definition="From letting the throttle go until 1 % of the speed is left.",
        formula="t(v = 0.01·v0) − t(release); ln(100)/k for a linear resistance k, 99/(q·v0) for"
        " a quadratic one",
        depends=(ENTRY,),
    ),
    _metric(
        "coast_distance",
        partial(_stops, spans=_released, share=_STOPPED, distance=True),
        dimension=LENGTH,
        title="Coasting: distance",
        definition="How far it rolls from letting the throttle go until 1 % of the speed is left.",
        formula="|p(v = 0.01·v0) − p(release)|; 0.99·v0/k for a linear resistance k, ln(100)/q for"
        " a quadratic one",
        phrases=("rolls {} further", "rolls {} less far", "rolls"),
        depends=(ENTRY_SQUARED,),
    ),
    _metric(
        "half_time",
        partial(_stops, spans=_released, share=0.5, distance=False),
        detail=True,
        dimension=TIME,
        title="Coasting: time to half the speed",
        definition="From letting the throttle go until half the speed is left.",
        formula="t(v = v0/2) − t(release); ln(2)/k for a linear resistance k",
        depends=(ENTRY,),
    ),
    _metric(
        "engine_braking",
        _engine_braking,
        detail=True,
        dimension=ACCELERATION,
        title="Engine braking",
        definition="The mean loss of speed over the first quarter of a second without throttle.",
        formula="(v0 − v(0.25 s)) / 0.25 s",
        depends=(ENTRY,),
    ),
    _metric(
        "brake_time",
        partial(_stops, spans=_braked, share=0.0, distance=False),
        dimension=TIME,
        title="Braking: time",
        definition="From the brake until it stands; from full throttle against the motion in a"
        " take without brakes.",
        formula="t(v = 0) − t(press); v0/a for a constant brake a",
        depends=(ENTRY,),
    ),
    _metric(
        "brake_distance",
        partial(_stops, spans=_braked, share=0.0, distance=True),
        dimension=LENGTH,
        title="Braking: distance",
        definition="How far it goes in that time.",
        formula="|p(v = 0) − p(press)|; about v0²/2a for a constant brake a",
        phrases=("brakes {} longer", "brakes {} shorter", "brakes"),
        depends=(ENTRY_SQUARED,),
    ),
    _metric(
        "throttle_ratio",
        _throttle_ratio,
        detail=True,
        dimension=RATIO,
        title="Response to partial throttle",
        definition="The speed that a partial throttle settles at, as a share of the top speed, over"
        " the share that is pressed: 1 where the two go together.",
        formula="(v_settled / v_top) / throttle",
    ),
    _metric(
        "air_ratio",
        _air_ratio,
        detail=True,
        dimension=RATIO,
        title="Throttle in the air",
        definition="The push of full throttle in the air, as a share of that on the ground: 0"
        " where it does not drive while airborne. A push is what is gained beyond coasting.",
        formula="(Δv/dt in the air − coasting) / (Δv/dt on the ground − coasting)",
        combine=LARGEST,
    ),
)
