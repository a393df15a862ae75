"""A physics step of its own under the display's: found, and a take made of its steps.

Such a game shows one and the same state in several frames, or places between the last two
states. What moves does so by steps of one length; what is shown tells which frame showed each
step first, from a column ``tick``, from repeated places, or from a velocity that repeats while
the places go on.
"""

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from kickback.motion.between_steps import misfit_between, states_of
from kickback.motion.own_steps import goes_by_frame
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.skipped_steps import PHYSICS_RATES, find_skipped_steps
from kickback.takes.numeric import median, quantile, typical
from kickback.takes.record import Record, replace
from kickback.takes.take import Column, FloatArray, Take

if TYPE_CHECKING:
    from kickback.motion.grids import Printed

__all__ = ["FixedStep", "find_fixed_step", "take_of_steps"]

_AXES = ("x", "y", "z")
_SPEEDS = {f"v{axis}" for axis in _AXES}

_REST = 12
"""Frames without a change from which the subject rests: no display shows a step as often."""

_REPEATS = 0.08
"""Share of the moving frames that repeat a state, for a step of its own."""

_FEWEST = 12
"""Steps in motion below which a rhythm is chance."""

_GRIDS = 2.5
"""Grids that a value must move by, for its repeats to be none of rounding."""

_NEAR = 0.04
"""Share by which the step is looked for about what a first count gives."""

_TRIED = 2.0
"""Trials for each turn by which a step a little longer would be off at the take's end."""

_SETTLES = 20_000
"""Frames that settle that none repeats."""

_ENOUGH = 1_000
"""Changes whose rhythm is looked for at once; the others are followed on from them."""

_FIT = 0.93
"""Share of the changes that must be shown by the first frame after their step."""

_CHANGES = 0.3
"""Share of the frames without a new step that may show a new state: rounded times misplace some."""

_WAVERS = 3e-4
"""Share of the highest speed below which a speed is the same: what printed steps leave."""

_LIKE = 0.05
"""Share of the largest change of a speed nearby that one is, to be of a step of its own."""

_NEARLY = 1e-4
"""Share of a path's extent that it may miss straight lines between steps by."""

_WHOLE = 1e-6
"""Share of a step by which a time may fall short of its end and have reached it."""

_FASTER = 1.02
"""Frames to the step from which a display is faster than it."""

_ROUND = 0.5
"""Frames that a whole number of steps a second may be off over a take, and be the rate."""

_PHASES = 12
"""Moments of a step that are tried for its end."""

_THIRDS = 24
"""Times that a bracket loses a third of its width."""

_WINDOW = 120
"""Frames that tell the kinks of a path."""

_BENDS = 0.2
"""Share of the usual bend from which a path bends."""

_ABOVE = 8.0
"""How many times the speed that rounding makes a bend is, to be none of rounding."""

_JERKS = 0.3
"""Share of the bending frames that bend by less than half of those about them."""

_ROUNDED = 0.5
"""Grids that rounding leaves, as a root mean square (1/√12), and some to spare."""

_EXACT = 1e-7
"""Share of a path's extent that arithmetic leaves at most."""

_FAR_LESS = 0.3
"""Share of what another step leaves that the right one does."""

_BETWEEN = 0.5
"""Share of the quickly moving frames without a step in which places drawn between move on."""

_AROUND = 6
"""Frames either way over which a place moves by many grids, where it moves quickly."""


class FixedStep(Record, frozen=True, kw_only=True):
    """A physics step of its own: its length ``step``, s, of which ``first`` ended at that time, s.

    ``index``: the number of steps made by the end of each frame, shape (n,). ``repeats``: the
    share of the moving frames that show no new state, ``between`` whether places are drawn
    between steps, which shows each of them a step late. ``skips``: frames are longer than steps,
    so that some are never shown.
    """

    step: float
    first: float
    index: IntArray
    repeats: float
    between: bool
    skips: bool = False

    @property
    def rate(self) -> float:
        """Return the steps per second."""
        return 1 / self.step

    def time(self, number: IntArray) -> FloatArray:
        """Return when steps ended, s."""
        return np.asarray(self.first + self.step * number, dtype=np.float64)


def find_fixed_step(take: Take, prints: "Mapping[str, Printed]") -> FixedStep | None:
    """Return the physics step under a take's frames; None where each frame is a step."""
    t = take.numbers("t")
    if len(t) < 2 * _FEWEST or not np.all(np.diff(t) > 0):
        return None
    places = [axis for axis in _AXES if axis in take]
    moved = _changed(take, places)
    found, drawn = _rhythm(take, places, moved, prints)
    if found is None:
        return _skipped(take, places, prints)
    step, first = found
    index = _counted(t, step, first)
    late = (np.diff(index, prepend=index[0] - 1) == 0) & _about(moved)
    if not len(index) > _FASTER * len(np.unique(index)):
        return None
    if not drawn and _moves_on(take, places, prints, moved, late):
        told = None
        if not goes_by_frame(take, places, prints, late):
            told = _drawn_from(take, places, step, first, prints)
        if told is None:
            return None
        drawn, first = True, told
        index = _counted(t, step, first)
    still = float(np.mean(late[_about(moved)])) if moved.any() else 0.0
    return FixedStep(step=step, first=first, index=index, repeats=still, between=drawn)


def _skipped(take: Take, places: list[str], prints: "Mapping[str, Printed]") -> FixedStep | None:
    """Return the physics step of which frames skip some, or None."""
    found = find_skipped_steps(take, places, prints)
    if found is None:
        return None
    index = _counted(take.numbers("t"), found.step, found.first)
    return FixedStep(
        step=found.step,
        first=found.first,
        index=index,
        repeats=0.0,
        between=found.drawn,
        skips=True,
    )


def _moves_on(
    take: Take,
    places: list[str],
    prints: "Mapping[str, Printed]",
    moved: BoolArray,
    late: BoolArray,
) -> bool:
    """Whether places that move quickly move on in frames that show no new step."""
    quick = late & _quick(take, places, prints)
    return bool(quick.any()) and float(np.mean(moved[quick])) > _BETWEEN


def _counted(t: FloatArray, step: float, first: float) -> IntArray:
    """Return how many steps are made by the end of each frame, shape (n,)."""
    return np.floor((t - first) / step + _WHOLE).astype(np.int64)


def _rhythm(
    take: Take, places: list[str], moved: BoolArray, prints: "Mapping[str, Printed]"
) -> tuple[tuple[float, float] | None, bool]:
    """Return the step and when one ended, s, and whether places alone told it by their kinks."""
    t = take.numbers("t")
    speeds = [f"v{axis}" for axis in places if f"v{axis}" in take]
    counted = "tick" in take and take.columns["tick"].dtype.kind == "f"
    found = None
    if counted:
        stepped = np.diff(take.numbers("tick"), prepend=-np.inf) > 0
        return _by_rhythm(t, stepped), False
    if _never_repeats(take, [*places, *speeds]):
        return None, False
    if _plain(take, places, prints):
        found = _by_rhythm(t, moved)
    if found is None and speeds and _plain(take, speeds, prints):
        found = _by_rhythm(t, _changed(take, speeds))
    if found is None and not speeds:
        found = _by_kinks(take, places, prints)
        return found, found is not None
    return found, False


def _never_repeats(take: Take, names: list[str]) -> bool:
    """Whether the start of a long take settles that no frame of it repeats a state.

    Of a take without velocities nothing is settled: its places may be drawn between steps.
    """
    if len(take) <= _SETTLES or not any(name.startswith("v") for name in names):
        return False
    for part in (names, [name for name in names if name.startswith("v")]):
        changed = np.zeros(_SETTLES - 1, dtype=bool)
        for name in part:
            changed |= np.diff(take.numbers(name)[:_SETTLES]) != 0
        gaps = np.diff(np.flatnonzero(changed))
        near = gaps[gaps < _REST]
        if len(near) < _ENOUGH or np.mean(near > 1) > _REPEATS / 2:
            return False
    return True


def _about(moved: BoolArray) -> BoolArray:
    """Return the frames, shape (n,), within a motion: those between changes close together."""
    rows = np.flatnonzero(moved)
    near = np.diff(rows) < _REST
    edges = np.zeros(len(moved) + 1, dtype=np.int64)
    np.add.at(edges, rows[:-1][near], 1)
    np.add.at(edges, rows[1:][near] + 1, -1)
    inside: BoolArray = np.cumsum(edges)[:-1] > 0
    return inside


def _quick(take: Take, names: list[str], prints: "Mapping[str, Printed]") -> BoolArray:
    """Return the frames, shape (n,), about which a place moves by more than a grid a frame."""
    n = len(take)
    quick = np.zeros(n, dtype=bool)
    for name in names:
        p = take.numbers(name)
        gone = np.abs(p[2 * _AROUND :] - p[: -2 * _AROUND])
        quick[_AROUND : n - _AROUND] |= gone > 2 * _AROUND * _GRIDS * prints[name].grid
    return quick


def _changed(take: Take, names: list[str]) -> BoolArray:
    """Return the frames, shape (n,), that show another state than the one before.

    A speed that was divided by a printed step wavers by less than any rule changes it: it shows
    another state where it changes by as much as beside that frame, and by enough at all.
    """
    changed = np.zeros(len(take), dtype=bool)
    for name in names:
        p = take.numbers(name)
        size = np.abs(np.diff(p, prepend=p[0]))
        least = np.zeros(1)
        if name.startswith("v"):
            near = np.lib.stride_tricks.sliding_window_view(np.pad(size, 3), 7)
            before, after = near[:, :3].max(axis=1), near[:, 4:].max(axis=1)
            enough = near.max(axis=1) > _WAVERS * float(np.max(np.abs(p)))
            # a takeoff or a landing lies on one side only
            least = np.where(enough, _LIKE * np.minimum(before, after), np.inf)
        changed |= size > least
    return changed


def _plain(take: Take, names: list[str], prints: "Mapping[str, Printed]") -> bool:
    """Whether most changes are of more than rounding makes: else rounding alone may repeat."""
    n = len(take)
    told = np.zeros(n, dtype=bool)
    for name in names:
        p = take.numbers(name)
        told |= np.abs(np.diff(p, prepend=p[0])) > _GRIDS * prints[name].grid
    return bool(2 * np.count_nonzero(told) >= np.count_nonzero(_changed(take, names)))


def _by_rhythm(t: FloatArray, changed: BoolArray) -> tuple[float, float] | None:
    """Return the step's length and when one ended, s, from the frames that show a new state.

    Each change is shown by the first frame after its step: its time lies within a frame
    behind a multiple of the step.
    """
    rows = np.flatnonzero(changed)
    gaps = np.diff(rows)
    near = gaps < _REST
    many = np.count_nonzero(near)
    if many < _FEWEST or np.mean(gaps[near] > 1) < _REPEATS:
        return None
    steps, frames = np.diff(t[rows])[near], gaps[near]
    usual = median(np.diff(t))
    # a step lasts for as many frames or one more; what lasts longer stayed for several steps
    paired = np.bincount(frames, minlength=_REST + 1)
    commonest = int(np.argmax(paired[:-1] + paired[1:]))
    alone = (frames == commonest) | (frames == commonest + 1)
    # a speed may stay for a step or two: then gaps of several steps are counted as such
    whole = np.maximum(1, np.round(steps / typical(steps)))
    starts = (np.mean(steps[alone]), np.mean(steps), np.sum(steps) / np.sum(whole))
    for start in map(float, starts):
        found = _settled(t[rows], start, usual) if start > _FASTER * usual else None
        if found is not None and _holds(t, changed, *found):
            return found
    return None


def _holds(t: FloatArray, changed: BoolArray, step: float, first: float) -> bool:
    """Whether frames that show no new step show no new state: any rhythm fits uneven frames."""
    late = np.diff(_counted(t, step, first), prepend=-1) == 0
    late &= _about(changed)
    return bool(late.any()) and float(np.mean(changed[late])) <= _CHANGES


def _by_kinks(
    take: Take, places: list[str], prints: "Mapping[str, Printed]"
) -> tuple[float, float] | None:
    """Return the step and when one ended, s, from places that go straight between its ends.

    Of the rates that physics runs at, and of the moments that a step may end at, the one
    that leaves least, where that is no more than the places' rounding, and far less than the
    others do. Looked for where the path bends most.
    """
    t = take.numbers("t")
    usual = median(np.diff(t))
    for axis in places:
        speed = quantile(np.abs(np.diff(take.numbers(axis))), 0.95) / usual
        part = _kinked(take.numbers(axis), t, prints[axis].grid + speed * prints["t"].grid)
        if part is None:
            continue
        at, p = t[part], take.numbers(axis)[part]
        least = max(_ROUNDED * prints[axis].grid, _EXACT * float(np.ptp(p)))
        slower = np.inf
        for rate in PHYSICS_RATES:  # the lowest that explains it: its multiples do as well
            step = 1 / rate
            if step <= _FASTER * usual:
                break
            left, phase = min(
                (_left(at, p, step, part * step / _PHASES), part * step / _PHASES)
                for part in range(_PHASES)
            )
            if left < slower:
                left, phase = _finest(at, p, step, phase)
            clear = left <= least and left < _FAR_LESS * slower < np.inf
            if clear and _turns(at, p, step, phase, least) >= _FEWEST:
                return step, float(at[0]) + phase
            slower = min(slower, left)
    return None


def _drawn_from(
    take: Take,
    places: list[str],
    step: float,
    first: float,
    prints: "Mapping[str, Printed]",
) -> float | None:
    """Return when a step ended, s, as the places that are drawn between steps tell it best.

    None where they do not lie on straight lines between its ends.
    """
    t = take.numbers("t")
    for axis in reversed(places):
        part = _kinked(take.numbers(axis), t, 0.0)
        if part is not None:
            at, p = t[part], take.numbers(axis)[part]
            near = (first - float(at[0])) % step
            left, phase = _finest(at, p, step, near)
            speed = float(np.max(np.abs(np.diff(p)))) / median(np.diff(at))
            allowed = prints[axis].grid + speed * prints["t"].grid
            allowed = max(allowed, _NEARLY * float(np.ptp(p)))
            for reach in (_PHASES // 4, _PHASES // 2):  # speeds may be ahead by part of a step
                if left <= allowed:
                    break
                phases = near + step * np.arange(-reach, reach + 1) / _PHASES
                best = min(phases.tolist(), key=lambda one: _left(at, p, step, one))
                left, phase = _finest(at, p, step, best)
            if left > allowed:
                return None
            return float(at[0]) + phase
    return first


def _finest(t: FloatArray, p: FloatArray, step: float, phase: float) -> tuple[float, float]:
    """Return what is left at best near a phase, and that phase, s."""
    low, high = phase - step / _PHASES, phase + step / _PHASES
    for _ in range(_THIRDS):
        a, b = low + (high - low) / 3, high - (high - low) / 3
        low, high = (low, b) if _left(t, p, step, a) < _left(t, p, step, b) else (a, high)
    return _left(t, p, step, (low + high) / 2), (low + high) / 2


def _left(t: FloatArray, p: FloatArray, step: float, phase: float) -> float:
    """Return what straight lines between the ends of steps leave of places."""
    whole = (t - t[0] - phase) / step
    index = np.floor(whole).astype(np.int64)
    return misfit_between(p, index, whole - index)


def _turns(t: FloatArray, p: FloatArray, step: float, phase: float, least: float) -> int:
    """Return at how many steps' ends a path turns by more than what is left of it."""
    whole = (t - t[0] - phase) / step
    index = np.floor(whole).astype(np.int64)
    return int(np.count_nonzero(np.abs(np.diff(states_of(p, index, whole - index), 2)) > 4 * least))


def _kinked(p: FloatArray, t: FloatArray, grid: float) -> slice | None:
    """Return the frames where a path bends most, if it bends by jerks; else None.

    Its rounding to ``grid`` makes jerks of its own: those of a physics step are far larger.
    """
    bend = np.abs(np.diff(np.diff(p) / np.diff(t)))
    if len(bend) < _WINDOW:
        return None
    padded = np.pad(bend, 2)
    near = np.lib.stride_tricks.sliding_window_view(padded, 5).max(axis=1)
    usual = quantile(near, 0.95)
    if usual <= _ABOVE * grid / median(np.diff(t)):
        return None
    active = near > _BENDS * usual
    load = np.convolve(active.astype(np.float64), np.ones(_WINDOW), mode="valid")
    start = int(np.argmax(load))
    window = slice(start, start + _WINDOW)
    bends = active[window]
    jerks = bend[window][bends] < near[window][bends] / 2
    even = bool(np.count_nonzero(bends) < 2 * _FEWEST or np.mean(jerks) < _JERKS)
    return None if even else window


def _settled(times: FloatArray, near: float, usual: float) -> tuple[float, float] | None:
    """Return the step near a first count whose multiples the changes follow best, and one end."""
    span, first = float(times[-1] - times[0]), times[:_ENOUGH]
    turns = 2 * _NEAR * float(first[-1] - first[0]) / near
    trials = near * np.linspace(1 - _NEAR, 1 + _NEAR, int(_TRIED * turns) + 9)
    waves = np.exp(2j * np.pi * np.outer(1 / trials, first)).sum(axis=1)
    best = float(trials[int(np.argmax(np.abs(waves)))])
    many = len(first)
    while True:  # twice as many each time: the step is known too little to count on far ahead
        some = times[:many]
        phase = float(np.angle(np.exp(2j * np.pi * some / best).sum())) / (2 * np.pi) * best
        number = np.round((some - phase) / best)
        if len(np.unique(number)) < _FEWEST:
            return None
        best, phase = (float(one) for one in np.polyfit(number, some, 1))
        if many >= len(times):
            break
        many *= 2
    whole = round(1 / best)
    if whole and abs(best * whole - 1) * span < _ROUND * usual:  # a whole number of steps a second
        best, phase = 1 / whole, phase + float(np.mean(number)) * (best - 1 / whole)
    late = times - phase - best * number
    low = quantile(late, (1 - _FIT) / 2)
    within = (late >= low - 1e-9) & (late <= low + 1.05 * usual)
    if np.mean(within) < _FIT or best <= _FASTER * usual:
        return None
    begins = phase + float(late[within].min())
    return best, begins + float(number[0]) * best


def take_of_steps(take: Take, found: FixedStep) -> Take:
    """Return a take with a row a physics step: the first frame's that shows it.

    Times are those of the steps on the display's clock, ``dt`` is the step. Places that are
    drawn between steps are worked back to the states that they lie between; where some of these
    are never shown they stay as they are, and the speeds, which are those of a step, go.
    """
    if found.between and found.skips:
        own = {name: one for name, one in take.columns.items() if name not in _SPEEDS}
        return replace(take, columns=own)
    index = found.index
    rows = np.flatnonzero(np.diff(index, prepend=index[0] - 1) > 0)
    number = index[rows]
    columns: dict[str, Column] = {name: column[rows] for name, column in take.columns.items()}
    if found.between:
        share = (take.numbers("t") - found.time(index)) / found.step
        for axis in _AXES:
            if axis in take:
                states = states_of(take.numbers(axis), index, np.clip(share, 0.0, 1.0))
                columns[axis] = states[number - index[0]]
        keep = slice(0, len(rows) - 1)  # of the last step too little was shown
        columns = {name: column[keep] for name, column in columns.items()}
        number = number[keep]
    columns["t"] = found.time(number)
    columns["dt"] = found.step * np.diff(number, prepend=number[0] - 1).astype(np.float64)
    return replace(take, columns=columns, shown_rate=take.frame_rate)
