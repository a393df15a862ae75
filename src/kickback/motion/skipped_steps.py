"""A physics step of its own under a slower display: rows that show every second step, or third.

How far such a row goes from the one before goes with the steps between them, a whole number that
changes from row to row, and not with the time between them. So does how much a speed changes.
"""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from kickback.motion.segments import BoolArray
from kickback.takes.numeric import median
from kickback.takes.take import FloatArray, Take

if TYPE_CHECKING:
    from kickback.motion.grids import Printed

__all__ = ["PHYSICS_RATES", "Skipped", "find_skipped_steps"]

PHYSICS_RATES = (20, 24, 25, 30, 40, 45, 48, 50, 60, 64, 72, 75, 80, 90, 100, 120, 128, 144)
"""Rates that physics runs at, steps/s, where counting does not tell it."""

_FASTER = 0.98
"""Frames to the step up to which the physics is faster than the display."""

_TRIED = 1.5
"""Frames to the step up to which one is tried: a slower physics is none that skips."""

_ROUNDED = 0.2
"""Share by which rounding may make two rows of an even pace differ, to be looked at."""

_PHASES = 24
"""Moments of a step that are tried for its end."""

_EVEN = 0.03
"""Share by which two rows of an even pace may differ, beside what rounding makes of them."""

_UNLIKE = 1.2
"""Natural logarithm of the ratio of two rows' paces beyond which something else happened."""

_ROUNDINGS = 4.0
"""Grids that a row goes by at most through rounding."""

_SHARE = 0.08
"""Share of the pairs of rows that go unevenly by their times, for steps of their own."""

_FEWEST = 12
"""Pairs of rows that must become even by the steps' count."""

_MENDED = 0.5
"""Share of the uneven pairs that they are at least: the pace itself changes in some."""

_WORSE = 0.1
"""Share of these by which others may become uneven."""

_POORLY = 0.5
"""The same where it is only asked whether places go by times or by steps."""

_ENOUGH = 1_500
"""Pairs of rows that tell it."""

_SOME = 240
"""Pairs of rows by which the likeliest step is found."""

_START = 20_000
"""Rows at a take's start that are looked at."""


class Skipped(NamedTuple):
    """A physics ``step``, s, of which one ended at ``first``, s; whether places are ``drawn``."""

    step: float
    first: float
    drawn: bool


class _Pairs(NamedTuple):
    """Pairs of rows in which something went the same way, arrays of shape (k,).

    ``row``: the second row's number, ``ratio``: the logarithm of how much more it went than the
    first, ``slack``: what rounding may make of that.
    """

    row: np.ndarray
    ratio: FloatArray
    slack: FloatArray

    def uneven(self, last: FloatArray) -> BoolArray:
        """Return which pairs are uneven where rows ``last`` so long, in any unit."""
        with np.errstate(divide="ignore", invalid="ignore"):
            by = self.ratio - np.log(last[self.row]) + np.log(last[self.row - 1])
        return np.asarray(~(np.abs(by) <= self.slack))


def find_skipped_steps(
    take: Take, places: Sequence[str], prints: "Mapping[str, Printed]"
) -> Skipped | None:
    """Return the physics step of which a take's rows skip some; None where they skip none."""
    t = take.numbers("t")[:_START]
    lasts, usual = np.diff(t, prepend=2 * t[0] - t[1]), median(np.diff(t))
    speeds = [f"v{axis}" for axis in places if f"v{axis}" in take]
    for names in (speeds, places):
        found = _told_by([_pairs(take, one, prints, lasts, _ROUNDED) for one in names], t, usual)
        if found is not None:
            poor = _joined([_pairs(take, name, prints, lasts, _POORLY) for name in places])
            return Skipped(*found, _drawn(poor, t, lasts, *found))
    return None


def _told_by(parts: Sequence[_Pairs], t: FloatArray, usual: float) -> tuple[float, float] | None:
    """Return the step that pairs of rows tell, and when one ended, s; None where they tell none."""
    pairs, lasts = _joined(parts), np.diff(t, prepend=2 * t[0] - t[1])
    jerky = pairs.uneven(lasts)
    many = int(np.count_nonzero(jerky))
    tried = [1 / rate for rate in PHYSICS_RATES if 1 / rate < _TRIED * usual]
    if not tried or many < max(_FEWEST, _SHARE * len(jerky)):
        return None
    some = _Pairs(*(column[:_SOME] for column in pairs))
    _, step, _ = max(_mended(some, jerky[:_SOME], t, step) for step in tried)
    best, step, first = _mended(pairs, jerky, t, step)
    told = best >= max(_FEWEST, _MENDED * many) and step < _FASTER * usual
    return (step, first) if told and _not_by_rows(pairs, t, step, first) else None


def _not_by_rows(pairs: _Pairs, t: FloatArray, step: float, first: float) -> bool:
    """Whether what goes on goes by steps rather than as far in every row, however long it is."""
    by_steps, by_rows = pairs.uneven(_steps(t, step, first)), pairs.uneven(np.ones(len(t)))
    return bool(np.count_nonzero(by_steps) < np.count_nonzero(by_rows))


def _pairs(
    take: Take, name: str, prints: "Mapping[str, Printed]", lasts: FloatArray, most: float
) -> _Pairs:
    """Return the pairs of rows in which a column went the same way by more than rounding.

    ``most``: the share by which rounding may make them differ.
    """
    value = take.numbers(name)[: len(lasts)]
    gone = np.diff(value, prepend=value[0])
    size = np.abs(gone)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        ratio = np.log(gone[1:] / gone[:-1])
        share = prints[name].grid / size + prints["t"].grid / lasts
        slack = _EVEN + _ROUNDINGS * (share[1:] + share[:-1]) / 2
    row = np.flatnonzero(np.isfinite(ratio) & (np.abs(ratio) < _UNLIKE) & (slack < most))
    row = row[:_ENOUGH]
    return _Pairs(row + 1, ratio[row], slack[row])


def _joined(parts: Sequence[_Pairs]) -> _Pairs:
    if not parts:
        return _Pairs(np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0))
    row, ratio, slack = (np.concatenate(column) for column in zip(*parts, strict=True))
    return _Pairs(row, ratio, slack)


def _mended(
    pairs: _Pairs, jerky: BoolArray, t: FloatArray, step: float
) -> tuple[int, float, float]:
    """Return how many pairs a step makes even at best, beyond those that it makes uneven.

    With that, the step and when one ended, s: the middle of the moments that do as well.
    """
    gains, t = [], t[: int(pairs.row.max(initial=0)) + 1]
    for part in range(_PHASES):
        steps = _steps(t, step, t[0] + step * (part + 0.5) / _PHASES)
        uneven = pairs.uneven(steps)
        better, worse = np.count_nonzero(jerky & ~uneven), np.count_nonzero(uneven & ~jerky)
        gains.append(int(better) if worse <= _WORSE * better else 0)
    best = max(gains)
    alike = np.flatnonzero(np.array(gains) == best)
    turned = np.exp(2j * np.pi * (alike + 0.5) / _PHASES).sum()
    return best, step, float(t[0]) + step * (float(np.angle(turned)) / (2 * np.pi) % 1.0)


def _steps(t: FloatArray, step: float, first: float) -> FloatArray:
    """Return how many steps each row is behind the one before, shape (n,)."""
    index = np.floor((t - first) / step)
    return np.asarray(np.diff(index, prepend=index[0] - 1))


def _drawn(places: _Pairs, t: FloatArray, lasts: FloatArray, step: float, first: float) -> bool:
    """Whether places go by the rows' times, drawn between steps, and not by whole steps."""
    by_time = np.count_nonzero(places.uneven(lasts))
    return bool(by_time < np.count_nonzero(places.uneven(_steps(t, step, first))))
