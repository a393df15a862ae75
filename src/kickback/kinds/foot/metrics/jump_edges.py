"""What comes before a jump and after it: the squat before its takeoff, the lag of its landing."""

import numpy as np

from kickback.kinds.foot.arcs import Arcs
from kickback.kinds.foot.metrics.jump_entry import JumpEntry, Triple
from kickback.kinds.foot.scene import NINETY_FIVE, Scene
from kickback.motion.segments import BoolArray, IntArray, first_where
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12
from kickback.takes.quantities import FRAMES, TIME
from kickback.takes.take import FloatArray

__all__ = ["EDGES"]

_WAITS = 0.5
"""Seconds that a press may be before the takeoff that it asked for."""

_THERE = 0.99
"""Share of the top speed at which a run is free after a landing."""

_GROWS = 1e-6
"""Share of the top speed that a run grows by in a frame: more than arithmetic leaves."""


def _asked(scene: Scene, arcs: Arcs) -> IntArray:
    """Return the frame of the press on the ground that asked for each takeoff, or -1."""
    motion, jump = scene.motion, scene.motion.inputs.jump
    start = arcs.throws.start
    if jump is None:
        return np.full(len(start), -1, dtype=np.int64)
    press = np.flatnonzero(jump[1:] & ~jump[:-1]) + 1
    if not len(press):
        return np.full(len(start), -1, dtype=np.int64)
    at = np.searchsorted(press, start, side="right") - 1
    row = press[np.maximum(at, 0)]
    stood = np.concatenate(([0], np.cumsum(~motion.grounded)))
    fine = (at >= 0) & (stood[start] == stood[np.maximum(row - 1, 0)])
    fine &= motion.begin[start] - motion.begin[row] <= _WAITS
    return np.where(fine, row, -1)


def _squat(scene: Scene, arcs: Arcs) -> Triple:
    motion, start = scene.motion, arcs.throws.start
    row = _asked(scene, arcs)
    value = np.where(row >= 0, motion.begin[start] - motion.begin[np.maximum(row, 0)], np.nan)
    grid = NINETY_FIVE * motion.clock.grid * 2**0.5 / ROOT_12
    return value, np.where(value > 0, grid, 0.0), motion.step[start]


def _squat_frames(scene: Scene, arcs: Arcs) -> Triple:
    start, row = arcs.throws.start, _asked(scene, arcs)
    value = np.where(row >= 0, (start - row).astype(np.float64), np.nan)
    return value, np.zeros(len(value)), np.ones(len(value))


def _landing_lag(scene: Scene, arcs: Arcs) -> Triple:
    motion, track = scene.motion, scene.track
    n, stop = len(motion.t), arcs.throws.stop
    if track is None or motion.inputs.source != "recorded" or track.rounded:
        nothing = np.zeros(len(stop))
        return np.full(len(stop), np.nan), nothing, nothing
    row = np.minimum(stop, n - 1)
    move, lined = motion.inputs.move, motion.inputs.lined
    side = np.sign(move[row]).astype(np.float64)
    held = arcs.throws.landed & (stop < n) & (np.abs(move[row]) == 2) & (row > 0)
    held &= (lined[row] == lined[row - 1]) & motion.straight[row]
    top = scene.top_speed(motion.toward(row, side))
    free = _free(scene, track, top)
    ends = np.append(np.flatnonzero(np.diff(lined) != 0) + 1, n)
    until = ends[np.searchsorted(ends, row, side="right")]
    first = first_where(free, row + 1, until)
    known = held & (first >= 0) & np.isfinite(top)
    lag = np.maximum(motion.begin[np.maximum(first, 0)] - motion.t[row], 0.0)
    grid = NINETY_FIVE * motion.clock.grid * 2**0.5 / ROOT_12
    return np.where(known, lag, np.nan), np.full(len(lag), grid), motion.step[row]


def _free(scene: Scene, track: Track, top: FloatArray) -> BoolArray:
    """Return the frames in which a held direction moves it, shape (n,)."""
    usual = float(np.nanmax(top)) if np.isfinite(top).any() else 0.0
    along = track.v * np.sign(scene.motion.inputs.move)
    grows = along - scene.motion.before * np.sign(scene.motion.inputs.move)
    return np.asarray((along >= _THERE * usual) | (grows > _GROWS * usual + 2 * track.noise))


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
        held=False,
        groups=_ALL,
    ),
)
"""Quantities of what comes before and after jumps from the ground."""
