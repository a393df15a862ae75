"""How a vehicle turns: at full lock, after it, and how much it slides."""

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any, NamedTuple

import numpy as np

from kickback.kinds.vehicle.metrics.spans import (
    AT_SPEED,
    NINETY_FIVE,
    lasting,
    moment,
    motion_of,
    presses,
    speed_noise,
)
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.kinds.vehicle.roles import SIDEWAYS, YAW
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.telling import Row, row_of, told
from kickback.motion.segments import stretches
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import ANGLE, LENGTH, RATIO, SPEED, TIME
from kickback.takes.take import FloatArray

__all__ = ["METRICS", "Turn", "turns_of"]

_LATE = 2 / 3
"""Share of a press after which what it does is looked at as settled."""

_SHORTEST = 0.3
"""Seconds of full lock below which nothing settles."""

_STEADY = 0.03
"""Share by which a turning may change between the halves of its late part and be settled."""

_THERE = 0.9
"""Share of the settled turning at which it is called there."""

_BACK = 0.1
"""Share of it below which it is called straight again."""

_SLID = 0.05
"""Share of a sideways speed below which a slide is over."""

_DRIFT = 10.0
"""Degrees of slip from which a vehicle drifts, until half of them."""

_DRIFTS = 0.2
"""Share of the highest speed below which nothing drifts, and seconds that it lasts at least."""

_SWERVE = 1.0
"""Seconds within which the wheel goes to the other side in a lane change."""

_ALIGNED = 0.1
"""Share of the largest turn within which it goes as before."""

_NO_WHEEL = "no steering was recorded (in_steer)"
_NO_PRESS = "full lock was never held for 0.3 s on the ground"


class Turn(NamedTuple):
    """A press of full lock: frames, side (of the heading), its settled turning, degrees/s, speed.

    ``sure``: how well the turning is known; NaN turning where it did not settle. ``mean``: the
    turning over the late part of the press, settled or not.
    """

    start: int
    stop: int
    side: float
    turning: float
    sure: float
    speed: float
    mean: float


def turns_of(motion: VehicleMotion) -> list[Turn]:
    """Return the presses of full lock on the ground, while moving or not."""
    yaw, wheel = motion.yaw, motion.pedals.steer
    if yaw is None or wheel is None:
        return []
    found = []
    ok = motion.driven & motion.usual
    spans = [(a, b) for way in (1.0, -1.0) for a, b in presses(wheel, way, ok)]
    for a, b in sorted(spans):
        if lasting(motion, a, b) < _SHORTEST or b - a < 6:
            continue
        late = a + int(_LATE * (b - a))
        heading, t = motion.heading, motion.t
        time = float(t[b - 1] - t[late - 1])
        turned = float(heading[b - 1] - heading[late - 1])
        half = (late + b) // 2
        parts = [
            float(heading[q - 1] - heading[p - 1]) / float(t[q - 1] - t[p - 1])
            for p, q in ((late, half), (half, b))
        ]
        mean = rate = turned / time
        sure = NINETY_FIVE * 2**0.5 * yaw.quantum / ROOT_12 / time
        change = abs(parts[1] - parts[0])
        if change > _STEADY * abs(rate) + 2 * NINETY_FIVE * sure:
            rate = float("nan")
        else:
            sure += change  # what it still gains is less than what it gained between the halves
        found.append(Turn(a, b, float(np.sign(turned) or 1.0), rate, max(sure, 1e-9 * abs(rate)),
                          float(np.mean(np.abs(motion.forward.v[late:b]))), mean))  # fmt: skip
    return found


def _moving(motion: VehicleMotion) -> list[Turn]:
    return [one for one in turns_of(motion) if one.speed > motion.rest_speed]


def _why(motion: VehicleMotion) -> str:
    if motion.pedals.steer is None:
        return _NO_WHEEL
    return _NO_PRESS if not _moving(motion) else "no full lock was held until its turning settled"


def _of_turns(
    scene: Any, one: Callable[[VehicleMotion, Turn], tuple[float, float] | None], later: str = ""
) -> Occurrences:
    """Measure something of each press of full lock while moving, which is known so well.

    ``later``: what a frame more of the turn changes it by: its angle, or its way.
    """
    motion = motion_of(scene)
    rows, speeds = [], []
    for turn in _moving(motion):
        found = one(motion, turn)
        if found is not None:
            step = float(motion.step[turn.stop - 1])
            slack = {"angle": abs(turn.mean) * step, "way": turn.speed * step}.get(later, 0.0)
            rows.append(Row(found[0], float(motion.begin[turn.start]),
                            float(motion.t[turn.stop - 1]), found[1], slack))  # fmt: skip
            speeds.append(turn.speed)
    return told(rows, _why(motion), given={"speed": np.array(speeds)})


def _yaw_rate(_: VehicleMotion, turn: Turn) -> tuple[float, float]:
    return abs(turn.turning), turn.sure


def _radius(motion: VehicleMotion, turn: Turn) -> tuple[float, float] | None:
    rate = np.deg2rad(abs(turn.turning))
    if not rate > 0:
        return None
    late = turn.start + int(_LATE * (turn.stop - turn.start))
    pace = np.abs(motion.velocity[late : turn.stop])
    speed = float(np.mean(pace))
    noise = speed_noise(motion.forward) / (turn.stop - late) ** 0.5
    value = speed / rate
    change = float(np.ptp(pace)) / 4 if turn.stop - late > 1 else 0.0
    return value, value * (turn.sure / abs(turn.turning) + (NINETY_FIVE * noise + change) / speed)


def _slip(motion: VehicleMotion, turn: Turn) -> tuple[float, float] | None:
    aside = motion.sideways
    if aside is None or not np.isfinite(turn.turning):
        return None
    late = turn.start + int(_LATE * (turn.stop - turn.start))
    angle = np.rad2deg(np.arctan2(np.abs(aside.v), np.abs(motion.forward.v)))[late : turn.stop]
    yaw = motion.yaw
    noise = np.rad2deg(speed_noise(aside) / turn.speed)
    noise = float(np.hypot(noise, 0.0 if yaw is None else yaw.quantum / ROOT_12))
    wanders = abs(float(np.mean(angle[len(angle) // 2 :]) - np.mean(angle[: len(angle) // 2])))
    return float(np.mean(angle)), NINETY_FIVE * noise / len(angle) ** 0.5 + wanders / 2 + 1e-9


def _speed_lost(motion: VehicleMotion, turn: Turn) -> tuple[float, float] | None:
    pace = np.abs(motion.velocity)
    entry = float(pace[turn.start - 1])
    if entry <= motion.rest_speed:
        return None
    noise = speed_noise(motion.forward)
    lost = 1 - float(np.min(pace[turn.start : turn.stop])) / entry
    return (lost if lost > 1e-9 else 0.0), 2 * NINETY_FIVE * noise / entry + 1e-9


def _time_to(scene: Any) -> Occurrences:
    """Measure the time from full lock to 90 % of the turning that it settles at."""
    motion = motion_of(scene)
    rows, speeds = [], []
    for turn in _moving(motion):
        if not np.isfinite(turn.turning) or motion.yaw is None:
            continue
        at = moment(motion, motion.yaw, (turn.start, turn.stop), _THERE * turn.turning,
                    way=turn.side)  # fmt: skip
        if at is None:
            continue
        begin = float(motion.begin[turn.start])
        # a turning is of the whole frame: at once means within the first
        step = float(motion.step[turn.start])
        rows.append(Row(max(at[0] - begin, 0.0), begin, at[0], max(at[1], step), step))
        speeds.append(turn.speed)
    return told(rows, _why(motion), given={"speed": np.array(speeds)})


def _return_time(scene: Any) -> Occurrences:
    """Measure the time from letting the wheel go until 10 % of the turning is left."""
    motion = motion_of(scene)
    wheel = motion.pedals.steer
    rows, speeds = [], []
    for turn in _moving(motion):
        if wheel is None or motion.yaw is None or not np.isfinite(turn.turning):
            continue
        end = turn.stop
        if end >= len(motion.t) or wheel[end] != 0:
            continue
        still = np.flatnonzero(wheel[end:] != 0)
        stop = end + int(still[0]) if still.size else len(motion.t)
        at = moment(motion, motion.yaw, (end, stop), _BACK * turn.turning, way=-turn.side)
        if at is None:
            continue
        begin, step = float(motion.begin[end]), float(motion.step[end])
        rows.append(Row(max(at[0] - begin, 0.0), begin, at[0], max(at[1], step), step))
        speeds.append(turn.speed)
    return told(rows, "no full lock was let go and left", given={"speed": np.array(speeds)})


def _slides(scene: Any, *, distance: bool) -> Occurrences:
    """Measure how long, or how far aside, it still slides after the wheel is let go."""
    motion = motion_of(scene)
    aside, wheel = motion.sideways, motion.pedals.steer
    if aside is None or wheel is None:
        return none(_NO_WHEEL)
    rows, speeds = [], []
    for turn in _moving(motion):
        end = turn.stop
        if end >= len(motion.t) or wheel[end] != 0:
            continue
        entry = float(aside.v[end - 1])
        found = _slide(motion, end, entry)
        if found is None:
            continue
        time, sure, way = found
        begin, step = float(motion.begin[end]), float(motion.step[end])
        noise = speed_noise(aside)
        if distance:
            sure = _SLID * abs(entry) * sure + NINETY_FIVE * noise * (time * step) ** 0.5
            rows.append(Row(way, begin, begin + time, sure + 1e-9, abs(entry) * step))
        else:
            rows.append(Row(time, begin, begin + time, sure, step))
        speeds.append(turn.speed)
    reason = "it went along its heading when the wheel was let go: no slide"
    return told(rows, reason if _moving(motion) else _why(motion),
                given={"speed": np.array(speeds)})  # fmt: skip


def _slide(motion: VehicleMotion, end: int, entry: float) -> tuple[float, float, float] | None:
    """Return how long a slide lasts from a frame on, how well that is known, and its way aside."""
    aside, wheel = motion.sideways, motion.pedals.steer
    if aside is None or wheel is None:
        return None
    noise = speed_noise(aside)
    yaw = motion.yaw
    turn = 0.0 if yaw is None else float(np.deg2rad(yaw.quantum)) / ROOT_12
    noise = float(np.hypot(noise, turn * float(np.abs(motion.forward.v[end - 1]))))
    if abs(entry) * _SLID <= max(NINETY_FIVE * noise, 0.1 * motion.rest_speed):
        return None
    steered = np.flatnonzero(wheel[end:] != 0)
    stop = end + int(steered[0]) if steered.size else len(motion.t)
    side = float(np.sign(entry))
    at = moment(motion, aside, (end, stop), _SLID * entry, way=-side)
    if at is None:
        return None
    rows = slice(end, int(np.searchsorted(motion.t, at[0])) + 1)
    way = abs(float(np.sum(aside.v[rows] * motion.dt[rows])))
    return max(at[0] - float(motion.begin[end]), 0.0), at[1], way


def _standing(scene: Any) -> Occurrences:
    """Measure how quickly full lock turns it while it stands."""
    motion = motion_of(scene)
    rows = [
        row_of(motion, abs(one.mean), (one.start, one.stop), one.sure + 1e-9)
        for one in turns_of(motion)
        if one.speed <= motion.rest_speed
    ]
    return told(rows, "full lock was never held while it stood")


def _in_the_air(scene: Any) -> Occurrences:
    """Measure how quickly full lock turns it in the air."""
    motion = motion_of(scene)
    wheel, yaw = motion.pedals.steer, motion.yaw
    if wheel is None or yaw is None:
        return none(_NO_WHEEL)
    rows = []
    for a, b in stretches((np.abs(wheel) >= FULL) & ~motion.grounded, 4):
        time = float(motion.t[b - 1] - motion.t[a])
        turned = abs(float(motion.heading[b - 1] - motion.heading[a]))
        sure = NINETY_FIVE * 2**0.5 * yaw.quantum / ROOT_12 / time + 1e-9
        rows.append(Row(turned / time, float(motion.begin[a]), float(motion.t[b - 1]), sure))
    return told(rows, "full lock was never held in the air")


def _lane_change(scene: Any) -> Occurrences:
    """Measure the time of a swerve: wheel one way, then the other, until it goes as before."""
    motion = motion_of(scene)
    wheel, yaw = motion.pedals.steer, motion.yaw
    if wheel is None or yaw is None:
        return none(_NO_WHEEL)
    rows = []
    for a, c, stop in _swerves(motion, wheel):
        turned = motion.heading[a:stop] - motion.heading[a - 1]
        largest = float(np.max(np.abs(turned)))
        done = np.abs(turned) <= max(_ALIGNED * largest, 2 * yaw.quantum)
        open_ = np.flatnonzero(~done)
        if not open_.size or open_[-1] + 1 >= len(turned) or open_[-1] < c - a:
            continue
        row = a + int(open_[-1]) + 1
        begin, step = float(motion.begin[a]), float(motion.step[row])
        rows.append(Row(float(motion.t[row]) - begin, begin, float(motion.t[row]), step, step))
    return told(rows, "the wheel never went to one side and then to the other and back")


def _swerves(motion: VehicleMotion, wheel: FloatArray) -> Iterator[tuple[int, int, int]]:
    """Yield where the wheel goes to one side, then to the other, and is next held after."""
    held = _held(wheel)
    ends = [a for a, _ in held[2:]] + [len(motion.t)] * 2
    for (a, b), (c, _), stop in zip(held, held[1:], ends, strict=False):
        if a > 0 and wheel[a] * wheel[c] < 0 and motion.t[c] - motion.t[b - 1] <= _SWERVE:
            yield a, c, stop


def _held(wheel: FloatArray) -> list[tuple[int, int]]:
    """Return the frames of each press of the wheel to one side."""
    return sorted([*stretches(wheel > 0), *stretches(wheel < 0)])


def _drifts(scene: Any, *, what: str) -> Occurrences:
    motion = motion_of(scene)
    aside = motion.sideways
    if aside is None:
        return none(SIDEWAYS.missing)
    pace = np.abs(motion.velocity)
    top = float(np.nanmax(pace, initial=0.0))
    angle = np.rad2deg(np.arctan2(np.abs(aside.v), np.abs(motion.forward.v)))
    rows = []
    for a, b in stretches((angle >= _DRIFT / 2) & (pace > _DRIFTS * top) & motion.driven, 2):
        if float(np.max(angle[a:b])) < _DRIFT:
            continue
        time = lasting(motion, a, b)
        if time < _DRIFTS:
            continue
        step = float(motion.step[b - 1])
        noise = NINETY_FIVE * float(np.rad2deg(speed_noise(aside) / pace[a:b].min()))
        turned = abs(float(motion.heading[b - 1] - motion.heading[a])) / (b - 1 - a)
        change = abs(float(pace[b - 1] - pace[max(b - 2, 0)]))
        value, sure, later = {
            "angle": (float(np.max(angle[a:b])), noise + 1e-9, turned),
            "time": (time, step, step),
            "exit": (float(pace[b - 1]), change + 1e-9, change),
        }[what]
        rows.append(Row(value, float(motion.begin[a]), float(motion.t[b - 1]), sure, later))
    return told(rows, "it never slipped by 10° for 0.2 s")


def _metric(part: str, measure: Callable[[Any], Occurrences], **own: Any) -> Metric:
    needs = own.pop("needs", (YAW,))
    return Metric(group="steer", part=part, measure=measure, needs=needs, **own)


_AT_SPEED = (AT_SPEED,)

METRICS = (
    _metric(
        "yaw_rate",
        partial(_of_turns, one=_yaw_rate),
        dimension=ANGLE / TIME,
        title="Turning at full lock",
        definition="How quickly the heading turns at full lock once that is steady: over the last"
        " third of the press.",
        formula="|Δheading| / Δt",
        phrases=("turns {} quicker", "turns {} more slowly", "turns"),
        depends=_AT_SPEED,
    ),
    _metric(
        "time_to_yaw_rate",
        _time_to,
        dimension=TIME,
        title="Time to full turning",
        definition="From full lock to 90 % of the turning that it settles at.",
        formula="t(ω = 0.90·ω_full) − t(press); ln(10)/k for a smoothing of rate k",
        depends=_AT_SPEED,
    ),
    _metric(
        "return_time",
        _return_time,
        detail=True,
        dimension=TIME,
        title="Return to straight",
        definition="From letting the wheel go at full lock until a tenth of the turning is left.",
        formula="t(ω = 0.10·ω_full) − t(release)",
        depends=_AT_SPEED,
    ),
    _metric(
        "radius",
        partial(_of_turns, one=_radius, later="way"),
        dimension=LENGTH,
        title="Turning radius",
        definition="The radius of the circle that full lock drives once the turning is steady.",
        formula="|v| / ω, ω in radians/s",
        phrases=("turns {} wider", "turns {} tighter", "turns"),
        depends=_AT_SPEED,
    ),
    _metric(
        "slip_angle",
        partial(_of_turns, one=_slip, later="angle"),
        needs=(YAW, SIDEWAYS),
        dimension=ANGLE,
        title="Slip angle",
        definition="By how much the motion points away from the heading at full lock, once that"
        " is steady.",
        formula="arctan(|sideways| / |forward|)",
        depends=_AT_SPEED,
    ),
    _metric(
        "slide_time",
        partial(_slides, distance=False),
        needs=(YAW, SIDEWAYS),
        dimension=TIME,
        title="Slide after straightening: time",
        definition="From letting the wheel go until a twentieth of the sideways speed is left.",
        formula="t(s = 0.05·s0) − t(release); ln(20)/k for a grip of rate k",
        phrases=("slides {} longer", "slides {} shorter", "slides"),
        depends=_AT_SPEED,
    ),
    _metric(
        "slide_distance",
        partial(_slides, distance=True),
        needs=(YAW, SIDEWAYS),
        dimension=LENGTH,
        title="Slide after straightening: distance",
        definition="How far it goes aside of its heading in that time.",
        formula="|Σ s·dt|; 0.95·s0/k for a grip of rate k",
        depends=_AT_SPEED,
    ),
    _metric(
        "speed_lost",
        partial(_of_turns, one=_speed_lost),
        dimension=RATIO,
        title="Speed lost in a turn",
        definition="How much of its speed it loses while full lock is held.",
        formula="1 − min(|v|) / |v| at the press",
        depends=_AT_SPEED,
    ),
    _metric(
        "standing_yaw_rate",
        _standing,
        detail=True,
        dimension=ANGLE / TIME,
        title="Turning while it stands",
        definition="How quickly full lock turns it without any speed: 0 where it needs some.",
        formula="|Δheading| / Δt at rest",
    ),
    _metric(
        "air_yaw_rate",
        _in_the_air,
        detail=True,
        dimension=ANGLE / TIME,
        title="Turning in the air",
        definition="How quickly the heading turns at full lock in the air.",
        formula="|Δheading| / Δt in the air",
    ),
    _metric(
        "lane_change_time",
        _lane_change,
        detail=True,
        dimension=TIME,
        title="Lane change",
        definition="From the wheel to one side, then to the other, until it goes as before: the"
        " heading within a tenth of the largest turn.",
        formula="t(heading as before) − t(first press)",
    ),
    _metric(
        "drift_angle",
        partial(_drifts, what="angle"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=ANGLE,
        title="Drift: angle",
        definition="The largest slip of a drift: from 5° of slip up to 10° or more and back, for at"
        " least 0.2 s.",
        formula="max arctan(|sideways| / |forward|)",
        combine=LARGEST,
    ),
    _metric(
        "drift_time",
        partial(_drifts, what="time"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=TIME,
        title="Drift: duration",
        definition="How long a drift lasts.",
        formula="time with 5° of slip or more, of which 10° are reached",
    ),
    _metric(
        "drift_exit_speed",
        partial(_drifts, what="exit"),
        needs=(YAW, SIDEWAYS),
        detail=True,
        dimension=SPEED,
        title="Drift: speed at its end",
        definition="The speed over the ground with which it leaves a drift.",
        formula="|v| at the last frame of the drift",
    ),
)
