"""What comes before a jump and after it: the squat before its takeoff, the lag of its landing."""

import numpy as np

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.delays import asked_by, lags_of
from kickback.kinds.foot.metrics.jump_entry import JumpEntry, Triple
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.takes.quantities import FRAMES, TIME

__all__ = ["EDGES"]


def _squat(scene: Scene, arcs: Arcs) -> Triple:
    motion, start = scene.motion, arcs.throws.start
    row = asked_by(scene.motion, start)
    value = np.where(row >= 0, motion.begin[start] - motion.begin[np.maximum(row, 0)], np.nan)
    sure = NINETY_FIVE * motion.clock.span_error(np.nan_to_num(value))
    return value, np.where(value > 0, sure, 0.0), motion.step[start]


def _squat_frames(scene: Scene, arcs: Arcs) -> Triple:
    start = arcs.throws.start
    row = asked_by(scene.motion, start)
    value = np.where(row >= 0, (start - row).astype(np.float64), np.nan)
    return value, np.zeros(len(value)), np.ones(len(value))


def _landing_lag(scene: Scene, arcs: Arcs) -> Triple:
    motion, track = scene.motion, scene.track
    n, stop = len(motion.t), arcs.throws.stop
    if track is None or motion.inputs.source != "recorded" or track.rounded:
        nothing = np.zeros(len(stop))
        return np.full(len(stop), np.nan), nothing, nothing
    row = np.minimum(stop, n - 1)
    top = scene.top_speed(motion.toward(row, np.sign(motion.inputs.move[row]).astype(np.float64)))
    usual = float(np.nanmax(top)) if np.isfinite(top).any() else 0.0
    _, first = lags_of(motion, track, stop, usual)
    known = arcs.throws.landed & (first >= 0) & np.isfinite(top)
    lag = np.maximum(motion.begin[np.maximum(first, 0)] - motion.t[row], 0.0)
    sure = NINETY_FIVE * motion.clock.span_error(lag)
    return np.where(known, lag, np.nan), sure, motion.step[row]


_ALL = ("jump",)

EDGES = (
    JumpEntry(
        part="squat_time",
        detail=True,
        dimension=TIME,
        title="squat before takeoff",
        definition="From the press on the ground to the takeoff that it asked for.",
        formula="t(start of the first airborne frame) − t(press)",
        of=_squat,
        whole_frames=True,
        held=False,
        groups=_ALL,
    ),
    JumpEntry(
        part="squat_frames",
        detail=True,
        dimension=FRAMES,
        title="squat before takeoff in frames",
        definition="Frames from the one that read the press, on the ground, to the first airborne"
        " one.",
        formula="frame(first airborne) − frame(press)",
        of=_squat_frames,
        held=False,
        groups=_ALL,
    ),
    JumpEntry(
        part="landing_lag",
        dimension=TIME,
        title="lag after landing",
        definition="From a landing, with a direction held full through it, until that direction"
        " moves it: the speed grows, or is the top speed.",
        formula="t(start of the first frame that speeds up or runs at 99 % of v_top) − t(landing)",
        of=_landing_lag,
        whole_frames=True,
        held=False,
        groups=_ALL,
    ),
)
"""Quantities of what comes before and after jumps from the ground."""
