"""The frames that a player saw: when each was shown, and where the subject was in it."""

from typing import NamedTuple

import numpy as np

from kickback.findings.clock import check_frames
from kickback.kinds.analysis import AnyAnalysis
from kickback.motion.clock import clock_of
from kickback.motion.grids import printed_grid
from kickback.motion.interruptions import PAUSE, interrupted_frames
from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.axes import ground_axes, up_axis
from kickback.takes.computed_once import computed_once
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray, Take

__all__ = ["Path", "Shown", "shown_of"]

_AROUND = 0.12
"""Seconds either way over which a speed is that of a path, whatever its frames do."""

_EVEN = 0.02
"""Share by which the speeds before and after a frame may differ, for it to be constant."""

_UNLIKE = 0.7
"""Share of the longest step less the shortest by which lines through some of them differ."""

_ENOUGH, _BLOCK = 100_000, 1_000
"""Frames that settle how even a motion is, and in blocks of how many they are taken."""

_MOST = 4_000_000
"""Frames in all windows together that are looked at: at high rates a window has many."""

_SUMS = 1e-9
"""Seconds that sums of steps may miss each other by."""

_MOVES = 0.1
"""Share of the highest speed from which something moves."""


class Path(Record, frozen=True, kw_only=True):
    """A path as it was shown: places, shape (axes, n), and what they were rounded to, or 0."""

    place: FloatArray
    grid: float


class Shown(Record, frozen=True, kw_only=True, weakref=True):
    """The frames of a take as a display showed them; arrays of shape (n,).

    ``t``: when each was there, s, ``step`` how long the frame before it had stood, ``grid``
    what times are rounded to. ``counts``: frames that count, without pauses. ``hitches`` are the
    frames that took far longer than the others. ``usual``: the nominal frame, s. ``subject``,
    and ``on_screen``: the same against the camera, where one was recorded.
    """

    t: FloatArray
    step: FloatArray
    grid: float
    counts: BoolArray
    hitches: IntArray
    usual: float
    subject: Path | None
    on_screen: Path | None

    def held(self, *paths: Path) -> IntArray:
        """Return the frames at which paths go on as before, whatever single frames do.

        The first of them moves; none changes its speed by more than a share of that one's.
        """
        t, n = self.t, len(self.t)
        every = np.arange(n)
        inside = (t - _AROUND >= t[0]) & (t + _AROUND <= t[-1])
        rows: IntArray = every[inside & (every // _BLOCK % -(-n // _ENOUGH) == 0)]
        low = np.searchsorted(t, t[rows] - _AROUND)
        high = np.searchsorted(t, t[rows] + _AROUND, side="right") - 1
        sane = (low < rows) & (high > rows)  # of a sane clock all are
        wide = int(np.max(high - low, initial=1))
        rows = rows[sane]
        if len(rows) * wide > _MOST:
            rows = rows[np.linspace(0, len(rows) - 1, max(_MOST // wide, 2)).astype(np.int64)]
        if not len(rows):
            return rows
        halves = [_window(t, rows, -_AROUND, 0.0), _window(t, rows, 0.0, _AROUND)]
        ends = [_window(t, rows, -_AROUND, -_AROUND / 2), _window(t, rows, _AROUND / 2, _AROUND)]
        first, last = rows + halves[0].low, rows + halves[1].high
        p = paths[0].place
        size = _lengths(p[:, last] - p[:, first]) / (t[last] - t[first])
        keep = (size > 0) & (size >= _MOVES * float(np.max(size)))
        for number, path in enumerate(paths):
            spread = _spread(_lengths(np.diff(path.place)), first, last) + 4 * path.grid
            before, after = (_speeds(path.place, t, rows, window) for window in halves)
            if not number:  # a start is no motion that goes on
                keep &= np.minimum(_lengths(before), _lengths(after)) >= size / 2
            # where steps are unlike, a window has a long one more or less
            keep &= _lengths(after - before) <= _EVEN * size + _UNLIKE * spread / _AROUND
            for window, near in zip(ends, (before, after), strict=True):  # nor did it begin there
                off = _lengths(_speeds(path.place, t, rows, window) - near)
                keep &= off <= _EVEN * size + spread / (_AROUND / 2)
        kept: IntArray = rows[keep]
        return kept


class _Window(NamedTuple):
    """Frames about each of some others: ``offsets`` from it, and which count, shape (k, w)."""

    offsets: IntArray
    counts: BoolArray

    @property
    def low(self) -> IntArray:
        """Return the first frame of each, counted from its own."""
        return np.asarray(np.min(np.where(self.counts, self.offsets, 0), axis=1))

    @property
    def high(self) -> IntArray:
        """Return the last frame of each, counted from its own."""
        return np.asarray(np.max(np.where(self.counts, self.offsets, 0), axis=1))


def _window(t: FloatArray, rows: IntArray, low: float, high: float) -> _Window:
    """Return the frames from ``low`` to ``high``, s, about each of some."""
    begin = np.searchsorted(t, t[rows] + low - _SUMS) - rows
    end = np.searchsorted(t, t[rows] + high + _SUMS, side="right") - rows
    offsets = np.arange(int(np.min(begin)), max(int(np.max(end)), int(np.min(begin)) + 2))
    counts = (offsets >= begin[:, None]) & (offsets < end[:, None])
    return _Window(offsets, counts)


def _speeds(p: FloatArray, t: FloatArray, rows: IntArray, window: _Window) -> FloatArray:
    """Return the slopes of lines through a path in windows, shape (axes, k)."""
    at = np.clip(rows[:, None] + window.offsets, 0, len(t) - 1)
    weight = window.counts / np.maximum(np.sum(window.counts, axis=1), 1)[:, None]
    time = (t[at] - t[rows][:, None]) * window.counts
    time = (time - np.sum(weight * time, axis=1)[:, None]) * window.counts
    power = np.maximum(np.sum(time * time, axis=1), 1e-300)
    return np.stack([np.sum(time * (one[at] - one[rows][:, None]), axis=1) / power for one in p])


def _spread(step: FloatArray, first: IntArray, last: IntArray) -> FloatArray:
    """Return by how much steps ``[first, last)`` differ, shape (k,)."""
    if not len(first):
        return np.zeros(0)
    edges = np.stack((first, last), axis=1).ravel()
    padded = np.append(step, step[-1:])
    most, least = (find.reduceat(padded, edges)[::2] for find in (np.maximum, np.minimum))
    return np.asarray(most - least)


def _lengths(vectors: FloatArray) -> FloatArray:
    """Return the lengths of vectors, shape (axes, k)."""
    return np.asarray(np.sqrt(np.sum(vectors**2, axis=0)))


@computed_once
def shown_of(analysis: AnyAnalysis) -> Shown:
    """Return the frames of a take as they were shown, or as a slower display would show them."""
    take = analysis.shown
    prints = analysis.prints
    clock = clock_of(take, prints["t"], prints["dt"])
    t, step = clock.t, clock.step
    counts = np.ones(len(t), dtype=bool)
    counts[0] = False  # nothing tells when the frame before it was shown
    if analysis.fixed_step is None:
        counts &= ~interrupted_frames(
            [one for one in analysis.interruptions if one.kind is PAUSE], len(t)
        )
    hitches = [one.start for one in check_frames(take, clock) if one.code == "hitch"]
    rows = np.array([row for row in hitches if counts[row]], dtype=np.int64)
    nominal = take.header.frame_rate
    subject, on_screen = _paths(take, analysis)
    shown = Shown(
        t=t,
        step=step,
        grid=clock.grid,
        counts=counts,
        hitches=rows,
        usual=1 / nominal if nominal else median(step),
        subject=subject,
        on_screen=on_screen,
    )
    display = analysis.options.display
    return shown if display is None else _at(shown, display)


def _paths(take: Take, analysis: AnyAnalysis) -> tuple[Path | None, Path | None]:
    axes = ground_axes(take.header)
    if take.header.view != "top":
        axes += up_axis(take.header)
    names = [axis for axis in axes if axis in take]
    if not names:
        return None, None
    prints = analysis.prints
    place = np.stack([take.numbers(name) for name in names])
    grid = max(printed_grid(prints, name) for name in names)
    filmed = [name for name in names if f"camera_{name}" in take]
    if not filmed:
        return Path(place=place, grid=grid), None
    beside = np.stack([take.numbers(name) - take.numbers(f"camera_{name}") for name in filmed])
    both = float(np.hypot(grid, max(printed_grid(prints, f"camera_{name}") for name in filmed)))
    return Path(place=place, grid=grid), Path(place=beside, grid=both)


def _at(shown: Shown, rate: float) -> Shown:
    """Return what a display shows at a rate of its own: at each refresh the last whole frame."""
    ticks = np.arange(shown.t[0], shown.t[-1], 1 / rate)
    row = np.searchsorted(shown.t, ticks + 1e-9, side="right") - 1
    paths = [
        None if path is None else Path(place=path.place[:, row], grid=path.grid)
        for path in (shown.subject, shown.on_screen)
    ]
    counts = shown.counts[row].copy()
    counts[0] = False
    return Shown(
        t=ticks,
        step=np.full(len(ticks), 1 / rate),
        grid=shown.grid,
        counts=counts,
        hitches=shown.hitches,
        usual=1 / rate,
        subject=paths[0],
        on_screen=paths[1],
    )
