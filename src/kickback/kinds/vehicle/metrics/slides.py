"""What is left of a turn: slides, drifts, and a change of lane."""

from collections.abc import Iterator

import numpy as np

from kickback.kinds.vehicle.metrics.spans import (
    AT_SPEED,
    NINETY_FIVE,
    lasting,
    moment,
    speed_noise,
)
from kickback.kinds.vehicle.metrics.turns import NO_WHEEL, moving, why
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.roles import SIDEWAYS
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of
from kickback.motion.segments import stretches
from kickback.takes.numeric import ROOT_12
from kickback.takes.take import FloatArray

__all__ = ["drifts", "lane_change", "slides"]

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


def slides(scene: VehicleMotion, *, distance: bool) -> Occurrences:
    """Measure how long, or how far aside, it still slides after the wheel is let go."""
    motion = scene
    aside, wheel = motion.sideways, motion.pedals.steer
    if aside is None or wheel is None:
        return none(NO_WHEEL)
    rows, speeds = [], []
    for turn in moving(motion):
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
        speeds.append(float(np.abs(motion.velocity[end - 1])))
    reason = "it went along its heading when the wheel was let go: no slide"
    return occurrences_of(
        rows,
        reason if moving(motion) else why(motion),
        given={AT_SPEED.name: np.array(speeds)},
    )


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


def lane_change(scene: VehicleMotion) -> Occurrences:
    """Measure the time of a swerve: wheel one way, then the other, until it goes as before."""
    motion = scene
    wheel, yaw = motion.pedals.steer, motion.yaw
    if wheel is None or yaw is None:
        return none(NO_WHEEL)
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
    return occurrences_of(rows, "the wheel never went to one side and then to the other and back")


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


def drifts(scene: VehicleMotion, *, what: str) -> Occurrences:
    """Measure drifts: their angle, how long they or their ends last, or the speed after them."""
    motion = scene
    aside = motion.sideways
    if aside is None:
        return none(SIDEWAYS.missing)
    pace = np.abs(motion.velocity)
    top = float(np.nanmax(pace, initial=0.0))
    angle = np.rad2deg(np.arctan2(np.abs(aside.v), np.abs(motion.forward.v)))
    rows, speeds = [], []
    for a, b in stretches((angle >= _DRIFT / 2) & (pace > _DRIFTS * top) & motion.driven, 2):
        if float(np.max(angle[a:b])) < _DRIFT or _unfinished(angle, b, what):
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
            "recovery": (_recovery(motion, a, b), step, step),
            "exit": (float(pace[b - 1]), change + 1e-9, change),
        }[what]
        end = float(motion.t[b - 1])
        begin = end - value if what == "recovery" else float(motion.begin[a])
        rows.append(Row(value, begin, end, sure, later))
        speeds.append(float(pace[a]))
    given = {AT_SPEED.name: np.array(speeds)}
    return occurrences_of(rows, "it never slipped by 10° for 0.2 s", given=given)


def _recovery(motion: VehicleMotion, a: int, b: int) -> float:
    """Return how long a drift in frames ``[a, b)`` lasts without the wheel held into it, s.

    NaN where it is held to the end, or where no wheel was recorded.
    """
    wheel = motion.pedals.steer
    turned = np.zeros(0) if wheel is None else np.flatnonzero(wheel[a:b])
    if wheel is None or not turned.size:
        return float("nan")
    into = np.flatnonzero(wheel[a:b] * wheel[a + turned[0]] > 0)
    release = a + int(into[-1]) + 1
    return float(motion.t[b - 1] - motion.begin[release]) if release < b else float("nan")


def _unfinished(angle: FloatArray, stop: int, what: str) -> bool:
    """Whether a drift's end is asked for and not shown: the take ends, or it stands."""
    return what != "angle" and (stop >= len(angle) or angle[stop] >= _DRIFT / 2)
