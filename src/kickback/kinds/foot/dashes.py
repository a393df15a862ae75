"""Dashes: stretches in which a press of the dash button, not the ordinary rule, sets the speed."""

import numpy as np

from kickback.kinds.foot.inputs import Inputs
from kickback.motion.segments import BoolArray, IntArray, risings
from kickback.motion.tracks import Track
from kickback.takes.numeric import median, quantile
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Dashes", "find_dashes"]

_REST = 0.25
"""Share of its peak from which a hump is counted, where it comes from rest."""

_DOWN = 0.1
"""Share of a hump at which it is over."""

_SOON = 3
"""Frames within which a press shows in the speed."""

_BEYOND = 1.5
"""How many times the usual step of speed one must be to be of another rule."""

_LEVEL = 1e-6
"""Share of a speed by which it may change and still be held: what arithmetic leaves."""

_HUMP = 1.25
"""How many times the speed before it a fitted peak must be: windows blur a dash by half."""


class Dashes(Record, frozen=True, kw_only=True):
    """Dashes of a take, arrays of shape (k,).

    Frames ``[start, stop)`` have the dash's ``speed`` (signed); ``press`` read the press.
    ``held`` says that the speed stays for more than a frame. ``presses``, shape (m,), are
    all presses of the button, those that did nothing too.
    """

    press: IntArray
    start: IntArray
    stop: IntArray
    speed: FloatArray
    held: BoolArray
    presses: IntArray

    def __len__(self) -> int:
        """Return the number of dashes."""
        return len(self.start)

    def mask(self, n: int) -> BoolArray:
        """Return which of ``n`` frames a dash moves, shape (n,)."""
        if not len(self.start):
            return np.zeros(n, dtype=bool)
        edge = np.zeros(n + 1, dtype=np.int64)
        np.add.at(edge, self.start, 1)
        np.add.at(edge, self.stop, -1)
        inside: BoolArray = np.cumsum(edge[:-1]) > 0
        return inside


def find_dashes(track: Track | None, inputs: Inputs) -> Dashes:
    """Find the dashes behind presses of the dash button.

    A press dashes where, within three frames, the speed steps up by half again of what
    steps are elsewhere. The dash lasts while the speed stays. Speeds that are fitted to
    rounded positions show no steps: there it is the hump after a press, and no law's.
    """
    rows: list[tuple[int, int, int, float, bool]] = []
    presses = np.zeros(0, dtype=np.int64)
    if track is not None and inputs.dash is not None:
        presses = risings(inputs.dash)
        find = _humps if track.rounded else _all_dashes
        rows = find(track, presses) if len(presses) else []
    press, start, stop, speed, held = zip(*rows, strict=True) if rows else ((),) * 5
    return Dashes(
        press=np.array(press, dtype=np.int64),
        start=np.array(start, dtype=np.int64),
        stop=np.array(stop, dtype=np.int64),
        speed=np.array(speed, dtype=np.float64),
        held=np.array(held, dtype=bool),
        presses=presses,
    )


def _all_dashes(track: Track, presses: IntArray) -> list[tuple[int, int, int, float, bool]]:
    """Return the dashes; where one is known, also those to its speed by a smaller step."""
    usual = _usual_step(track.v, presses)
    ends = np.append(presses[1:], len(track.v)).tolist()
    speed: float | None = None
    rows: list[tuple[int, int, int, float, bool]] = []
    for _ in range(2):
        rows = []
        for press, end in zip(presses.tolist(), ends, strict=True):
            if rows and press < rows[-1][2]:
                continue
            found = _dash(track, press, end, usual, speed)
            if found is not None:
                rows.append(found)
        if not rows:
            break
        speed = median([abs(row[3]) for row in rows])
    return rows


def _humps(track: Track, presses: IntArray) -> list[tuple[int, int, int, float, bool]]:
    """Return the humps of a fitted speed after presses, down to where it comes from."""
    size = np.abs(track.v)
    reach = 2 * track.window + 2
    rows: list[tuple[int, int, int, float, bool]] = []
    for press, end in zip(presses.tolist(), np.append(presses[1:], len(size)), strict=True):
        start = max(press - track.window, 1)
        peak = press + int(np.argmax(size[press : min(press + 4 * reach, len(size))]))
        before = max(float(size[max(start - 1, 0)]), _REST * float(size[peak]))
        if size[peak] <= _HUMP * before or (rows and press < rows[-1][2]):
            continue
        low = before + _DOWN * (float(size[peak]) - before)
        down = np.flatnonzero(size[peak:end] <= low)
        stop = peak + int(down[0]) if down.size else int(end)
        rows.append((press, start, max(stop, start + 1), float(track.v[peak]), False))
    return rows


def _usual_step(v: FloatArray, presses: IntArray) -> float:
    """Return the 95th percentile of the steps of speed away from the presses."""
    step = np.abs(np.diff(v))
    near = (presses[:, None] + np.arange(-1, _SOON)).ravel()
    step[near[near < len(step)]] = 0.0
    step = step[step > 0]
    return quantile(step, 0.95) if step.size else 0.0


def _dash(
    track: Track, press: int, end: int, usual: float, known: float | None
) -> tuple[int, int, int, float, bool] | None:
    """Return press, start, stop, speed and whether it stays, or None where nothing dashes."""
    v = track.v
    for row in range(press, min(press + _SOON, len(v) - 1)):
        step = abs(v[row] - v[row - 1])
        there = known is not None and abs(abs(v[row]) - known) <= _LEVEL * known + 4 * track.noise
        small = step <= (4 * track.noise if there else _BEYOND * usual + 4 * track.noise)
        if small or v[row] * (v[row] - v[row - 1]) <= 0:
            continue
        first = row + 1 if abs(v[row + 1]) > abs(v[row]) and track.source != "reported" else row
        slack = _LEVEL * abs(v[first]) + 4 * track.noise
        away = np.flatnonzero(np.abs(v[first:end] - v[first]) > slack)
        stop = first + int(away[0]) if away.size else end
        held = stop - first > 1
        if held or step > 2 * _BEYOND * usual:
            return press, row, max(stop, row + 1), float(v[first]), held
    return None
