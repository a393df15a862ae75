"""Smoothness: frame times, hitches, frames that show nothing new, and how uneven a motion looks."""

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.smoothness.shown import Path, Shown, shown_of
from kickback.metrics.metric import LARGEST, SUM, Combine, Metric
from kickback.metrics.record import Occurrences, none
from kickback.motion.segments import IntArray
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import ROOT_12, median, quantile
from kickback.takes.quantities import LENGTH, RATIO, TIME, Dimension
from kickback.takes.take import FloatArray

__all__ = ["METRICS"]

_OVER = 1.1
"""Nominal frames from which a frame is over its budget."""

_STANDS = 1e-6
"""Share of a usual step below which a frame shows nothing new."""

_NINETY_FIVE = 2.0

_SIX = 6.0
"""Variances of one place that a second difference has: 1 + 4 + 1."""

_COARSE = 0.1
"""Share of a frame that times may be rounded to, for speeds between two of them to mean much."""

_ARITHMETIC = 1e-12
"""Share of the largest place that arithmetic may leave of a second difference."""

_FEWEST = 8
"""Frames at a constant speed that show how even it is."""

_UNHELD = "nothing moved at one speed for 0.2 s"


def _one(shown: Shown, value: float, sure: float, row: int | None = None) -> Occurrences:
    """Return one occurrence: of the whole take, or of a frame."""
    first, last = (0, len(shown.t) - 1) if row is None else (row, row)
    return Occurrences(
        value=np.array([value]),
        start=np.array([shown.t[first] - shown.step[first]]),
        end=shown.t[last : last + 1],
        resolution=np.array([sure]),
        frame_shift=np.zeros(1),
    )


def _times(shown: Shown) -> FloatArray:
    return 1e3 * shown.step[shown.counts]


def _frame_time(analysis: AnyAnalysis, *, share: float) -> Occurrences:
    shown = shown_of(analysis)
    times = _times(shown)
    if not len(times):
        return none("too few frames")
    sure = _NINETY_FIVE * 1e3 * shown.grid * 2**0.5 / ROOT_12
    return _one(shown, quantile(times, share), sure)


def over_budget(analysis: AnyAnalysis) -> Occurrences:
    """Measure the share of frames that last a tenth longer than the nominal one, or more."""
    shown = shown_of(analysis)
    times = _times(shown)
    if not len(times):
        return none("too few frames")
    limit = _OVER * 1e3 * shown.usual
    near = np.abs(times - limit) <= 1e3 * shown.grid
    return _one(shown, float(np.mean(times > limit)), float(np.mean(near)))


def hitches(analysis: AnyAnalysis) -> Occurrences:
    """Count the frames that last far longer than the others."""
    shown = shown_of(analysis)
    return _one(shown, float(len(shown.hitches)), 0.0)


def _paths(shown: Shown, *, screen: bool) -> Path | str:
    path = shown.on_screen if screen else shown.subject
    if path is None:
        return "no camera was recorded" if screen else "no position was recorded"
    return path


@computed_once
def _held(shown: Shown, *paths: Path) -> IntArray:
    return shown.held(*paths)


def repeats(analysis: AnyAnalysis) -> Occurrences:
    """Measure the share of frames in a motion that show the place of the frame before."""
    shown = shown_of(analysis)
    path = _paths(shown, screen=False)
    if isinstance(path, str):
        return none(path)
    rows = _held(shown, path)
    rows = rows[shown.counts[rows]]
    if len(rows) < _FEWEST:
        return none(_UNHELD)
    step = np.sqrt(np.sum((path.place[:, rows] - path.place[:, rows - 1]) ** 2, axis=0))
    if path.grid and median(step) <= 2 * path.grid:
        return none("places are rounded: their steps hide which frames repeat one")
    return _one(shown, float(np.mean(step <= _STANDS * step.max())), 0.0)


def _judder(analysis: AnyAnalysis, *, share: bool, screen: bool = False) -> Occurrences:
    shown = shown_of(analysis)
    path, moving = _paths(shown, screen=screen), _paths(shown, screen=False)
    if isinstance(path, str) or isinstance(moving, str):
        return none(str(path) if isinstance(path, str) else str(moving))
    if shown.grid > _COARSE * median(shown.step):
        return none("times are rounded too coarsely to tell how even it is")
    paths = (moving, path) if screen else (moving,)
    rows = _held(shown, *paths)
    rows = rows[(rows > 0) & (rows < len(shown.t) - 1)]
    rows = rows[shown.counts[rows] & shown.counts[rows + 1]]
    gone = moving.place[:, rows + 1] - moving.place[:, rows - 1]
    usual = median(np.sqrt(np.sum(gone**2, axis=0))) / 2 if len(rows) >= _FEWEST else 0.0
    if usual <= 0:
        return none(_UNHELD)
    value, sure = _uneven(shown, path, rows)
    return _one(shown, value / usual, sure / usual) if share else _one(shown, value, sure)


def _uneven(shown: Shown, path: Path, rows: IntArray) -> tuple[float, float]:
    """Return how far a path is from even at some frames, and how well that is known, length."""
    p, step = path.place, shown.step
    after = (p[:, rows + 1] - p[:, rows]) / step[rows + 1]
    before = (p[:, rows] - p[:, rows - 1]) / step[rows]
    bend = np.sqrt(np.sum((after - before) ** 2, axis=0)) * (step[rows + 1] + step[rows]) / 2
    late = shown.grid * median(np.sqrt(np.sum(before**2, axis=0)))  # what a rounded time moves
    rounding = float(np.sqrt(_SIX * (len(p) * path.grid**2 + late**2))) / ROOT_12
    power = float(np.mean(bend**2))
    value = float(np.sqrt(max(power - rounding**2, 0.0)))
    # the error of a root mean square of so many, and what is left of the rounding
    sure = 0.0
    if rounding:
        sure = _NINETY_FIVE * rounding / float(len(rows)) ** (0.5 if value > rounding else 0.25)
    least = max(sure, _ARITHMETIC * float(np.max(np.abs(p))))
    return (value if value > least else 0.0), sure


def drawn_late(analysis: AnyAnalysis) -> Occurrences:
    """Measure how late a motion is shown that is drawn between steps of the physics."""
    steps = analysis.fixed_step
    if steps is None or not steps.between:
        return none("it is not drawn between steps of a slower physics")
    return _one(shown_of(analysis), 1e3 * steps.step, 0.0)


def _metric(
    part: str,
    measure: Callable[[Any], Occurrences],
    dimension: Dimension,
    *words: str,
    detail: bool = True,
    milli: bool = False,
    combine: Combine = LARGEST,
) -> Metric:
    title, definition, formula = words
    return Metric(
        group="smoothness",
        part=part,
        measure=measure,
        dimension=dimension,
        title=title,
        definition=definition,
        formula=formula,
        detail=detail,
        milli=milli,
        combine=combine,
        framed=True,
        display=True,
    )


METRICS = (
    _metric(
        "frame_time", partial(_frame_time, share=0.5), TIME, "Frame time",
        "How long a frame stands, in the median; pauses are left out.", "median(Δt)", milli=True,
    ),
    _metric(
        "frame_time_95", partial(_frame_time, share=0.95), TIME, "Frame time of 95 %",
        "How long 19 of 20 frames stand at most.", "95 % quantile of Δt", milli=True,
    ),
    _metric(
        "frame_time_99", partial(_frame_time, share=0.99), TIME, "Frame time of 99 %",
        "How long 99 of 100 frames stand at most.", "99 % quantile of Δt", milli=True,
        detail=False,
    ),
    _metric(
        "longest_frame", partial(_frame_time, share=1.0), TIME, "Longest frame",
        "How long the longest frame stands.", "max(Δt)", milli=True,
    ),
    _metric(
        "over_budget", over_budget, RATIO, "Frames over their budget",
        "The share of frames that stand a tenth longer than the header's frame rate asks for, or"
        " more.", "mean(Δt > 1.1 / frame_rate)",
    ),
    _metric(
        "hitches", hitches, RATIO, "Hitches",
        "How many frames last far longer than the others, as 'inspect' finds them.",
        "count of frames of 2.5 usual ones or more", combine=SUM,
    ),
    _metric(
        "repeats", repeats, RATIO, "Repeated frames",
        "The share of frames at one speed that show the place of the frame before: a slow physics"
        " step under a faster display.", "mean(Δp = 0) while it moves at one speed",
    ),
    _metric(
        "judder", partial(_judder, share=True), RATIO, "Judder",
        "How far a motion at one speed is from even as it is shown, as a share of its way in a"
        " frame: 0 where each frame's way goes with the time that it stands.",
        "√mean(|v[n+1] − v[n]|²·Δt²) / median(|Δp|), v = Δp/Δt", detail=False,
    ),
    _metric(
        "judder_length", partial(_judder, share=False), LENGTH, "Judder as a length",
        "How far a motion at one speed is from even as it is shown.",
        "√mean(|v[n+1] − v[n]|²·Δt²), v = Δp/Δt: the second difference where frames are even",
    ),
    _metric(
        "screen_judder", partial(_judder, share=True, screen=True), RATIO,
        "Judder on the screen",
        "The same of the subject against its camera, as a share of the subject's way in a frame:"
        " what trembles in the picture where the two move by different clocks.",
        "√mean(|Δ(Δq/Δt)|²·Δt²) / median(|Δp|), q = p − camera",
    ),
    _metric(
        "drawn_late", drawn_late, TIME, "Shown late",
        "How late a motion is shown that is drawn between the last two steps of a slower physics:"
        " a step.", "the physics step", milli=True,
    ),
)  # fmt: skip
