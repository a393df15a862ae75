"""Everything slow below one frame rate: a clamped time step, or a fixed physics rate."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.causes.constants import ConstantRow
from kickback.takes.numeric import median
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray, Take
from kickback.takes.tolerances import SURE

__all__ = ["Pace", "pace_below"]

_SLOWED = 0.985
"""Pace below which a game runs slow: clocks that are read at other moments differ by less."""

_ALIKE = 0.01
"""Share by which constants may fall apart and fall by one share."""

_BETWEEN = 1.05
"""Share by which the game's own step at the lower of two rates lies off both of theirs."""

_POWERS = {"acceleration": 1, "gravity": 1, "rate": 1, "scale": 1, "time": -1}
"""How a constant goes with the pace of the game, where the log has no ``dt`` of its own."""

_OF_MOTION = {"acceleration": 2, "gravity": 2, "speed": 1, "impulse": 1, "rate": 1, "time": -1}
"""The same where speeds are those of the motion, as the log has none of the game's own."""


class Pace(Record, frozen=True, kw_only=True):
    """The pace of game time in wall-clock time by rate, arrays of shape (k,), and the knee, 1/s.

    ``powers``: how constants go with it, by sort, where they were read with the wall clock's step.
    """

    rate: FloatArray
    pace: FloatArray
    knee: float
    powers: Mapping[str, int] = {}

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
        """Return a constant in the game's own time, over the rates of the steps that it used.

        Where one of these is all that there is, uneven frames tell nothing of the time step.
        """
        pace = np.interp(row.rate, self.rate, self.pace)
        scale = pace ** self.powers.get(row.sort, 0)
        return replace(
            row,
            rate=row.rate / pace,
            frame=row.frame * pace,
            value=row.value / scale,
            stderr=row.stderr / scale,
            clock="" if np.any(pace < _SLOWED) and row.sort != "time" else row.clock,
        )


def pace_below(rows: Sequence[ConstantRow], by_rate: Mapping[float, Sequence[Take]]) -> Pace | None:
    """Return how slow a group's game is below which rate, or None where it is not.

    From the steps that the game used, where the takes have them; else from constants that all
    fall by one share at the lowest rates and stay at the others. Of two rates alone, where the step
    of the game at the lower one is no other's: between theirs.
    """
    rate = np.array(list(by_rate))
    pace = _paces(by_rate)
    if pace is not None:
        return _slow(rate, pace, rate / pace, {}) if pace.min() < _SLOWED else None
    powers = _POWERS if any(row.sort == "scale" for row in rows) else _OF_MOTION
    found = _common_share(rows, powers)
    if found is None:
        return None
    rate, share, knee = found
    stays = np.abs(share - 1) <= _ALIKE
    first = int(np.argmax(stays))
    if first == 0 or not np.all(stays[first:]) or np.any(share[:first] >= 1):
        return None
    if stays.sum() < 2 and not rate[0] * _BETWEEN < knee[0] < rate[-1] / _BETWEEN:
        return None
    return _slow(rate, np.where(stays, 1.0, share), knee, powers)


def _common_share(
    rows: Sequence[ConstantRow], powers: Mapping[str, int]
) -> tuple[FloatArray, FloatArray, FloatArray] | None:
    """Return the share of their last value that most constants have, of two sorts, or None.

    Or that the scales of displacements have: these go with nothing but the step. With the rates at
    which they have it, and one over the step of the game there, 1/s.
    """
    exact = _exact(rows, powers)
    scales = [row for row in exact if row.sort == "scale"]
    of = scales or exact
    found = _middle_shares(of, powers)
    alike = [row for row in of if _has(row, found, powers)]
    enough = bool(scales) or len({row.sort for row in alike}) > 1
    if not enough or 2 * len(alike) <= len(of):
        return None
    share, frame = np.array(list(found.values())).T
    return np.array(list(found)), share, 1 / (share * frame)


def _exact(rows: Sequence[ConstantRow], powers: Mapping[str, int]) -> list[ConstantRow]:
    """Return the constants that go with the pace, are known well, and at the highest rate."""
    highest = max((row.rate[-1] for row in rows), default=0.0)
    moved = [row for row in rows if row.sort in powers and row.rate[-1] == highest]
    return [row for row in moved if float(np.max(row.stderr / np.abs(row.value))) < _ALIKE]


def _middle_shares(
    rows: Sequence[ConstantRow], powers: Mapping[str, int]
) -> dict[float, FloatArray]:
    """Return by rate the median share that constants have of their last value, and their step."""
    shares: dict[float, list[tuple[float, float]]] = {}
    for row in rows:
        for rate, one, frame in zip(row.rate, _share(row, powers), row.frame, strict=True):
            shares.setdefault(float(rate), []).append((float(one), float(frame)))
    return {rate: np.median(many, axis=0) for rate, many in sorted(shares.items())}


def _has(row: ConstantRow, found: Mapping[float, FloatArray], powers: Mapping[str, int]) -> bool:
    """Whether a constant has the shares of most, within its errors."""
    off = np.abs(_share(row, powers) - [found[rate][0] for rate in row.rate])
    return bool(np.all(off <= _ALIKE + SURE * row.stderr / np.abs(row.value)))


def _share(row: ConstantRow, powers: Mapping[str, int]) -> FloatArray:
    """Return the paces that a constant shows, over the last, shape (k,)."""
    shares: FloatArray = (np.abs(row.value) / np.abs(row.value[-1])) ** (1 / powers[row.sort])
    return shares


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


def _slow(
    rate: FloatArray, pace: FloatArray, knee: FloatArray, powers: Mapping[str, int]
) -> Pace | None:
    """Return the paces with their knee: where it is slow, the step is one and the same."""
    slow = pace < _SLOWED
    if slow.all() and np.ptp(pace) <= _ALIKE:
        return None  # slow motion at every rate alike
    return Pace(rate=rate, pace=pace, knee=median(knee[slow]), powers=powers)
