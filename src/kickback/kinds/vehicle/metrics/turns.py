"""Turns at full lock: how quickly, how tight, and what they cost."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from kickback.kinds.vehicle.metrics.spans import (
    AT_SPEED,
    CHANGE,
    NINETY_FIVE,
    lasting,
    moment,
    presses,
    speed_noise,
)
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.segments import stretches
from kickback.takes.numeric import ROOT_12
from kickback.takes.take import FloatArray

__all__ = [
    "NO_PRESS",
    "NO_WHEEL",
    "Turn",
    "in_the_air",
    "moving",
    "of_turns",
    "radius",
    "radius_power",
    "return_time",
    "slip",
    "speed_lost",
    "standing",
    "time_to",
    "turns_of",
    "why",
    "yaw_rate",
]

_LATE = 2 / 3
"""Share of a press after which what it does is looked at as settled."""

_SHORTEST = 0.3
"""Seconds of full lock below which nothing settles."""

_STEADY = 0.03
"""Share by which a turning may change between the halves of its late part and be settled."""

_UNLIKE = 1.5
"""Times by which the speeds of turns differ at least where their radii are held over them."""

_FALLING = 0.25
"""Share of a loss that may come in the last third of a turn and be all that the turn costs."""

_THERE = 0.9
"""Share of the settled turning at which it is called there."""

_BACK = 0.1
"""Share of it below which it is called straight again."""

NO_WHEEL = "no steering was recorded (in_steer)"
UNSETTLED = "no full lock was held until its turning settled"
NO_PRESS = "full lock was never held for 0.3 s on the ground"


class Turn(NamedTuple):
    """A press of full lock: frames, side (of the heading), its settled turning, degrees/s, speed.

    ``sure``: how well the turning is known; NaN turning where it did not settle. ``mean``: the
    turning over the late part of the press, settled or not. ``change``: over which share of
    its highest the speed went in it.
    """

    start: int
    stop: int
    side: float
    turning: float
    sure: float
    speed: float
    mean: float
    change: float


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
        pace = np.abs(motion.forward.v)
        found.append(
            Turn(
                a,
                b,
                float(np.sign(turned) or 1.0),
                rate,
                max(sure, 1e-9 * abs(rate)),
                float(np.mean(pace[late:b])),
                mean,
                _change(pace[a:b], motion.rest_speed),
            )
        )
    return found


def _change(pace: FloatArray, rest: float) -> float:
    """Return over which share of the highest a speed goes."""
    return float(np.ptp(pace) / max(float(np.max(pace)), rest))


def moving(motion: VehicleMotion) -> list[Turn]:
    """Return the turns while moving: at rest nothing of them is told."""
    return [one for one in turns_of(motion) if one.speed > motion.rest_speed]


def given(turns: Sequence[Turn]) -> dict[str, FloatArray]:
    """Return what turns depend on, arrays of shape (k,), by its name."""
    return {
        AT_SPEED.name: np.array([one.speed for one in turns]),
        CHANGE.name: np.array([one.change for one in turns]),
    }


def why(motion: VehicleMotion) -> str:
    """Return why there are no turns."""
    if motion.pedals.steer is None:
        return NO_WHEEL
    return NO_PRESS if not moving(motion) else UNSETTLED


def of_turns(
    scene: VehicleMotion,
    one: Callable[[VehicleMotion, Turn], tuple[float, float] | None],
    later: str = "",
    unsettled: str = UNSETTLED,
) -> Occurrences:
    """Measure something of each press of full lock while moving, which is known so well.

    ``later``: what a frame more of the turn changes it by: its angle, or its way. ``unsettled``:
    why there may be none of a turn.
    """
    motion = scene
    rows, told = [], []
    for turn in moving(motion):
        found = one(motion, turn)
        if found is not None:
            step = float(motion.step[turn.stop - 1])
            slack = {"angle": abs(turn.mean) * step, "way": turn.speed * step}.get(later, 0.0)
            rows.append(
                Row(
                    found[0],
                    float(motion.begin[turn.start]),
                    float(motion.t[turn.stop - 1]),
                    found[1],
                    slack,
                )
            )
            told.append(turn)
    reason = unsettled if moving(motion) else why(motion)
    return occurrences_of(rows, reason, given=given(told))


def yaw_rate(_: VehicleMotion, turn: Turn) -> tuple[float, float]:
    """Return the settled turning of a turn, degrees/s, and how surely it is known."""
    return abs(turn.turning), turn.sure


def radius(motion: VehicleMotion, turn: Turn) -> tuple[float, float] | None:
    """Return the radius of a turn, and how surely it is known.

    None where neither it nor the turning settled: one that goes with the way is the same at any
    speed, and its turning settles only with that.
    """
    found = _radius(motion, turn)
    return None if found is None else (found[0], found[1] + found[2] + 1e-9 * found[0])


def _radius(motion: VehicleMotion, turn: Turn) -> tuple[float, float, float] | None:
    """Return the radius of a turn, how surely it is known, and how it changes in the turn."""
    late = turn.start + int(_LATE * (turn.stop - turn.start))
    half = (late + turn.stop) // 2
    parts = [_bend(motion, a, b) for a, b in ((late, half), (half, turn.stop), (late, turn.stop))]
    if not all(turned > 0 for _, turned in parts):
        return None
    first, second, value = (way / turned for way, turned in parts)
    way, turned = parts[2]
    yaw, change = motion.yaw, abs(second - first)
    quantum = 0.0 if yaw is None else float(np.deg2rad(yaw.quantum))
    noise = speed_noise(motion.forward) * float(np.mean(motion.step[late : turn.stop]))
    noise *= (turn.stop - late) ** 0.5
    sure = NINETY_FIVE * value * (2**0.5 * quantum / ROOT_12 / turned + noise / way)
    if change > _STEADY * value + 4 * sure and not np.isfinite(turn.turning):
        return None
    # a turning may go by the speed before its frame or after
    pace = np.abs(motion.velocity[[late - 1, turn.stop - 1]])
    return value, sure + value * abs(float(np.diff(pace)[0])) * motion.clock.usual / way, change


def _bend(motion: VehicleMotion, start: int, stop: int) -> tuple[float, float]:
    """Return the way of frames ``[start, stop)``, and by how much the heading turns, radians."""
    way = np.sum(np.abs(motion.velocity[start:stop]) * motion.step[start:stop])
    turned = motion.heading[stop - 1] - motion.heading[start - 1]
    return float(way), float(np.deg2rad(abs(turned)))


def radius_power(scene: VehicleMotion) -> Occurrences:
    """Measure with which power of the speed the radius goes, over turns at unlike speeds."""
    pairs = [(turn, _radius(scene, turn)) for turn in moving(scene)]
    known = [(turn, *found) for turn, found in pairs if found is not None]
    speeds = np.array([turn.speed for turn, *_ in known])
    if not known or speeds.max() < _UNLIKE * speeds.min():
        return none(f"no turns that settled at speeds {_UNLIKE:g} times apart")
    around = np.log(speeds) - np.mean(np.log(speeds))
    size = np.array([value for _, value, *_ in known])
    off = np.array([sure for _, _, sure, _ in known]) / size
    weights = around / np.sum(around**2)
    power = float(weights @ np.log(size))
    left = np.log(size) - np.mean(np.log(size)) - power * around
    scatter = float(np.sum(left**2)) / max(len(known) - 2, 1)
    beside = NINETY_FIVE * np.sqrt(scatter * (weights @ weights))
    sure = float(np.sqrt(weights**2 @ off**2) + beside)
    ends = known[0][0].start, known[-1][0].stop
    return occurrences_of([row_of(scene, power, ends, sure)], "")


def slip(motion: VehicleMotion, turn: Turn) -> tuple[float, float] | None:
    """Return the slip angle of a settled turn, degrees, and how surely it is known."""
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


def speed_lost(motion: VehicleMotion, turn: Turn) -> tuple[float, float] | None:
    """Return the share of its speed that a turn costs, and how surely it is known."""
    pace = np.abs(motion.velocity)
    entry = float(pace[turn.start - 1])
    if entry <= motion.rest_speed:
        return None
    noise = speed_noise(motion.forward)
    held = pace[turn.start : turn.stop]
    lost = 1 - float(np.min(held)) / entry
    falls = max(float(held[int(_LATE * len(held))] - held[-1]) / entry, 0.0)
    if falls > _FALLING * lost + 2 * NINETY_FIVE * noise / entry:
        return None
    noise *= 2 * NINETY_FIVE / entry
    return (lost if lost > 1e-9 else 0.0), noise + falls + 1e-9


def time_to(scene: VehicleMotion) -> Occurrences:
    """Measure the time from full lock to 90 % of the turning that it settles at."""
    motion = scene
    rows, told = [], []
    for turn in moving(motion):
        if not np.isfinite(turn.turning) or motion.yaw is None:
            continue
        at = moment(
            motion, motion.yaw, (turn.start, turn.stop), _THERE * turn.turning, way=turn.side
        )
        if at is None:
            continue
        begin = float(motion.begin[turn.start])
        # a turning is of the whole frame: at once means within the first
        step = float(motion.step[turn.start])
        rows.append(Row(max(at[0] - begin, 0.0), begin, at[0], max(at[1], step), step))
        told.append(turn)
    return occurrences_of(rows, why(motion), given=given(told))


def return_time(scene: VehicleMotion) -> Occurrences:
    """Measure the time from letting the wheel go until 10 % of the turning is left."""
    motion = scene
    wheel = motion.pedals.steer
    rows, told = [], []
    for turn in moving(motion):
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
        back = np.abs(motion.forward.v[end - 1 : int(np.searchsorted(motion.t, at[0])) + 1])
        told.append(turn._replace(change=_change(back, motion.rest_speed)))
    return occurrences_of(rows, "no full lock was let go and left", given=given(told))


def standing(scene: VehicleMotion) -> Occurrences:
    """Measure how quickly full lock turns it while it stands."""
    motion = scene
    rows = [
        row_of(motion, abs(one.mean), (one.start, one.stop), one.sure + 1e-9)
        for one in turns_of(motion)
        if one.speed <= motion.rest_speed
    ]
    return occurrences_of(rows, "full lock was never held while it stood")


def in_the_air(scene: VehicleMotion) -> Occurrences:
    """Measure how quickly full lock turns it in the air."""
    motion = scene
    wheel, yaw = motion.pedals.steer, motion.yaw
    if wheel is None or yaw is None:
        return none(NO_WHEEL)
    rows = []
    for a, b in stretches((np.abs(wheel) >= FULL) & ~motion.grounded, 4):
        time = float(motion.t[b - 1] - motion.t[a])
        turned = abs(float(motion.heading[b - 1] - motion.heading[a]))
        sure = NINETY_FIVE * 2**0.5 * yaw.quantum / ROOT_12 / time + 1e-9
        rows.append(Row(turned / time, float(motion.begin[a]), float(motion.t[b - 1]), sure))
    return occurrences_of(rows, "full lock was never held in the air")
