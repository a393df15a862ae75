"""Everything slow below one frame rate: a clamped time step, or a fixed physics rate."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.causes.constants import ConstantRow
from kickback.takes.numeric import median
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take

__all__ = ["Pace", "pace_below"]

_SLOWED = 0.985
"""Pace below which a game runs slow: clocks that are read at other moments differ by less."""

_ALIKE = 0.01
"""Share by which constants may fall apart and fall by one share."""

_POWERS = {"acceleration": 1, "gravity": 1, "rate": 1, "scale": 1, "time": -1}
"""How a constant goes with the pace of the game, where the log has no ``dt`` of its own."""


class Pace(Record, frozen=True, kw_only=True):
    """The pace of game time in wall-clock time by rate, arrays of shape (k,), and the knee, 1/s.

    ``in_constants``: the constants were read with the wall clock's step, and go with it.
    """

    rate: FloatArray
    pace: FloatArray
    knee: float
    in_constants: bool

    @property
    def text(self) -> str:
        """Say where it is slow and by how much."""
        slow = self.pace < _SLOWED
        parts = ", ".join(
            f"{pace:.0%} of its pace at {rate:.4g} frames/s"
            for rate, pace in zip(self.rate[slow], self.pace[slow], strict=True)
        )
        return f"the game runs at {parts}: slow below {self.knee:.4g} frames/s"

    def corrected(self, row: ConstantRow) -> ConstantRow:
        """Return a constant in the game's own time, over the rates of the steps that it used."""
        pace = np.interp(row.rate, self.rate, self.pace)
        power = _POWERS.get(row.sort, 0) if self.in_constants else 0
        scale = pace**power
        return replace(
            row,
            rate=row.rate / pace,
            frame=row.frame * pace,
            value=row.value / scale,
            stderr=row.stderr / scale,
        )


def pace_below(rows: Sequence[ConstantRow], by_rate: Mapping[float, Sequence[Take]]) -> Pace | None:
    """Return how slow a group's game is below which rate, or None where it is not.

    From the steps that the game used, where the takes have them; else from constants that
    all fall by one share at the lowest rates and stay at two or more others.
    """
    rate = np.array(list(by_rate))
    pace = _paces(by_rate)
    if pace is not None:
        return _slow(rate, pace, in_constants=False) if pace.min() < _SLOWED else None
    share = _common_share(rows, rate)
    if share is None:
        return None
    stays = np.abs(share - 1) <= _ALIKE
    first = int(np.argmax(stays))
    if stays.sum() < 2 or first == 0 or not np.all(stays[first:]) or np.any(share[:first] >= 1):
        return None
    return _slow(rate, np.where(stays, 1.0, share), in_constants=True)


def _common_share(rows: Sequence[ConstantRow], rate: FloatArray) -> FloatArray | None:
    """Return the share of their last value that constants of two sorts all have, or None."""
    moved = [row for row in rows if row.sort in _POWERS and np.array_equal(row.rate, rate)]
    exact = [row for row in moved if float(np.max(row.stderr / np.abs(row.value))) < _ALIKE]
    if len(rate) < 3 or len({row.sort for row in exact}) < 2:
        return None
    shares = [(np.abs(row.value) / np.abs(row.value[-1])) ** _POWERS[row.sort] for row in exact]
    share = np.asarray(np.median(shares, axis=0))
    alike = all(float(np.max(np.abs(one - share))) <= _ALIKE for one in shares)
    return share if alike else None


def _paces(by_rate: Mapping[float, Sequence[Take]]) -> FloatArray | None:
    """Return the median of ``dt`` over the wall clock's step at each rate; None without ``dt``."""
    paces = []
    for takes in by_rate.values():
        own = [take for take in takes if "dt" not in take.derived]
        if not own:
            return None
        paces.append(
            median(
                np.concatenate(
                    [take.numbers("dt")[1:] / np.diff(take.numbers("t")) for take in own]
                )
            )
        )
    return np.array(paces)


def _slow(rate: FloatArray, pace: FloatArray, *, in_constants: bool) -> Pace | None:
    """Return the paces with their knee: where it is slow, the step is one and the same."""
    slow = pace < _SLOWED
    if slow.all() and np.ptp(pace) <= _ALIKE:
        return None  # slow motion at every rate alike
    return Pace(rate=rate, pace=pace, knee=median((rate / pace)[slow]), in_constants=in_constants)
