"""How a body goes after the slope under it, and how it leaves the ground at a crest."""

from functools import partial

import numpy as np

from kickback.kinds.vehicle.laws.tilt import slope_followed
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.roles import PITCH, UP
from kickback.metrics.metric import LARGEST, Metric
from kickback.metrics.record import Occurrences, none
from kickback.metrics.rows import Row, occurrences_of, row_of
from kickback.motion.segments import stretches
from kickback.takes.numeric import median
from kickback.takes.quantities import LENGTH, RATIO, TIME

__all__ = ["METRICS"]

_LEAST = 2.0
"""Degrees by which a slope must change to tell a lag."""

_THERE = 0.01
"""Share of the slopes' range within which the body lies on the slope."""

_FEWEST = 3


def _lag(scene: VehicleMotion) -> Occurrences:
    """Measure the lag: what is missing of the tilt over time, over the change of the slope."""
    motion = scene
    followed = slope_followed(motion)
    if followed is None:
        return none(PITCH.missing)
    slope, pitch = followed.leader, followed.follower
    apart = slope - pitch
    rest = median(apart)
    apart = apart - (rest if abs(rest) > 2 * followed.grid else 0.0)
    away = np.abs(apart) > _THERE * float(np.ptp(slope)) + 2 * followed.grid
    rows = []
    for a, b in stretches(away, _FEWEST):
        if a == 0 or b >= len(slope):
            continue
        change = float(slope[b] - slope[a - 1])
        step = np.diff(slope[a - 1 : b + 1]) * np.sign(change)
        if abs(change) < _LEAST or np.any(step < -2 * followed.grid):
            continue
        if not motion.grounded[a:b].all():
            continue
        missing = float(np.sum(apart[a:b] * motion.dt[a:b]))
        usual = motion.clock.usual
        lag = missing / change + usual / 2  # rows show what is left after a frame's own part
        left = _THERE * float(np.ptp(slope)) / abs(change)
        sure = left * max(lag, usual) + usual / 2
        sure += 2 * followed.grid * (b - a) ** 0.5 * usual / abs(change)
        rows.append(Row(lag, float(motion.begin[a]), float(motion.t[b - 1]), sure, usual))
    return occurrences_of(rows, "no change of the slope by 2° that the body followed on the ground")


def _overshoot(scene: VehicleMotion) -> Occurrences:
    """Measure by how much the body tilts beyond a slope that stays, as a share of its change."""
    motion = scene
    followed = slope_followed(motion)
    if followed is None:
        return none(PITCH.missing)
    slope, pitch, rows = followed.leader, followed.follower, []
    steps = np.concatenate(([0.0], np.diff(slope)))
    for a, b in stretches(np.abs(steps) <= 2 * followed.grid + 1e-9, 2 * _FEWEST):
        if a < 2:
            continue
        to_go = float(slope[a] - pitch[a - 1])
        if abs(to_go) < _LEAST:
            continue
        beyond = float(np.max((pitch[a:b] - slope[a:b]) * np.sign(to_go)))
        share = max(beyond, 0.0) / abs(to_go)
        rows.append(
            Row(
                share if share > 1e-9 else 0.0,
                float(motion.begin[a]),
                float(motion.t[b - 1]),
                2 * followed.grid / abs(to_go),
            )
        )
    return occurrences_of(rows, "no slope stayed after a change of 2°")


def _grounded(scene: VehicleMotion) -> Occurrences:
    motion = scene
    if motion.contact_source != "recorded":
        return none("no ground contact was recorded (touch_ground)")
    share = float(np.mean(motion.grounded))
    return occurrences_of(
        [Row(share, float(motion.begin[0]), float(motion.t[-1]), 1 / len(motion.t))], ""
    )


def _hops(scene: VehicleMotion) -> Occurrences:
    """Measure how high it hops: the highest point of a flight over where it left the ground."""
    motion = scene
    if motion.contact_source != "recorded":
        return none("no ground contact was recorded (touch_ground)")
    track, rows = motion.tracks[UP.name], []
    for a, b in stretches(~motion.grounded):
        if a == 0:
            continue
        height = track.p[a:b]
        top = int(np.argmax(height))
        near = height[max(top - 1, 0) : top + 2]
        value = max(float(height[top] - track.p[a - 1]), 0.0)
        sure = 2 * track.quantum + float(np.ptp(near)) / 4
        later = abs(float(track.v[a])) * float(motion.step[a])
        rows.append(row_of(motion, value, (a, b), sure)._replace(frame_shift=later))
    return occurrences_of(rows, "it never left the ground")


_metric = partial(Metric, group="tilt")


METRICS = (
    _metric(
        part="lag_time",
        measure=_lag,
        needs=(PITCH,),
        dimension=TIME,
        title="Lag of the tilt",
        definition="How far in time the body is behind the slope under it: what its tilt misses,"
        " summed over the time of a change of the slope, over that change.",
        formula="Σ(slope − pitch)·dt / Δslope + dt/2; 1/k for a smoothing of rate k",
        phrases=("tilts {} later", "tilts {} sooner", "tilts"),
    ),
    _metric(
        part="overshoot",
        measure=_overshoot,
        needs=(PITCH,),
        detail=True,
        dimension=RATIO,
        title="Overshoot of the tilt",
        definition="By how much the body tilts beyond a slope that stays, as a share of the change"
        " that it still had to make.",
        formula="max(pitch − slope) / (slope − pitch before), along the change",
        combine=LARGEST,
    ),
    _metric(
        part="grounded_share",
        measure=_grounded,
        needs=(UP,),
        dimension=RATIO,
        title="Share on the ground",
        definition="The share of the frames in which it touches the ground.",
        formula="mean(touch_ground)",
    ),
    _metric(
        part="hop_height",
        measure=_hops,
        needs=(UP,),
        dimension=LENGTH,
        title="Hops at a crest: height",
        definition="How high it flies over the place where it left the ground.",
        formula="max(height) − height at takeoff",
        combine=LARGEST,
    ),
)
