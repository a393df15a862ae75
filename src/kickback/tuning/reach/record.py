"""What comes of looking for what can be cleared."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from kickback.kinds.clearing import Reached
from kickback.takes.header import Value
from kickback.takes.plain import PlainDict
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = [
    "ALWAYS",
    "GAP_VERDICTS",
    "NEVER",
    "SOMETIMES",
    "Envelope",
    "Gap",
    "Judged",
    "Level",
    "Reach",
]

ALWAYS, SOMETIMES, NEVER = "always", "sometimes", "never"
"""Whether a gap is cleared however the frames of a run-up fall, where they fall well, or not."""

GAP_VERDICTS = ("clears", "tight", "cannot")
"""Verdicts on a level's gaps: enough frames, fewer than are asked for, none for sure."""


class Reach(Record, frozen=True, kw_only=True):
    """Which gaps and steps a parameter set clears, by each way, at each frame rate.

    Gaps ``across``, shape (g,), steps ``up``, (s,), and the ``ceiling`` are in the length unit
    ``length``, and so is the ``tile``; ``missing`` says why a way is not there. ``edges`` are the
    widest gaps that are surely cleared, at the steps ``finely``, shape (f,), NaN without one.
    """

    kind: str
    values: Mapping[str, Value]
    across: FloatArray
    up: FloatArray
    ceiling: float | None
    length: str
    tile: float
    rates: Sequence[float]
    ways: Sequence[str]
    missing: Mapping[str, str]
    found: Mapping[tuple[str, float], Reached]
    finely: FloatArray
    edges: Mapping[tuple[str, float], FloatArray]

    def differs(self, way: str) -> npt.NDArray[np.bool_]:
        """Whether a place is surely cleared at one rate and not at another, shape (s, g)."""
        sure = np.array([self.found[way, rate].surely > 0 for rate in self.rates])
        return np.asarray(sure.any(axis=0) & ~sure.all(axis=0))

    def state(self, way: str, rate: float, row: int, column: int) -> str:
        """Return whether a place is cleared always, sometimes or never."""
        one = self.found[way, rate]
        if one.surely[row, column] > 0:
            return ALWAYS
        return SOMETIMES if one.at_best[row, column] > 0 else NEVER


class Gap(Record, frozen=True, kw_only=True):
    """A gap of a level: how wide, how far up its other side lies, under which ceiling.

    ``by`` is the way that must do; any without one. ``frames`` are asked for.
    """

    name: str
    across: float
    up: float
    ceiling: float | None = None
    by: str | None = None
    frames: int = 1


class Judged(Record, frozen=True, kw_only=True):
    """A gap's verdict: the humblest ``way`` with enough frames at every rate, else the best one.

    ``frames`` are those of its worst rate ``rate``, ``by_rate`` those of all; ``sometimes`` says
    that a run-up whose frames fall well would do.
    """

    gap: Gap
    way: str
    rate: float
    frames: int
    by_rate: Mapping[float, int]
    sometimes: bool

    @property
    def verdict(self) -> str:
        """Return one of ``GAP_VERDICTS``."""
        if self.frames >= self.gap.frames:
            return "clears"
        return "tight" if self.frames else "cannot"


class Envelope(Record, frozen=True, kw_only=True):
    """How high shots of one speed get at distances ``across``, shape (k,), NaN beyond their reach.

    By frame rate; ``elevation`` is the one that gets there highest, degrees, at the first of them.
    ``level`` is how far shots go that come down to the height of their launch.
    """

    across: FloatArray
    highest: Mapping[float, FloatArray]
    elevation: FloatArray
    level: Mapping[float, float]
    length: str


class Level(Record, frozen=True, kw_only=True):
    """A level's gaps with their verdicts, in the length unit ``length``; ``tile`` is in it too."""

    gaps: Sequence[Judged]
    length: str
    tile: float

    @property
    def failed(self) -> bool:
        """Whether a gap cannot be cleared, or by too few frames."""
        return any(one.verdict != "clears" for one in self.gaps)

    @property
    def unsure(self) -> bool:
        """Never: a model tells."""
        return False

    def to_records(self) -> list[PlainDict]:
        """Return a flat record for each gap and frame rate."""
        rows = []
        for one in self.gaps:
            gap, way = one.gap, one.way if one.frames else None
            base = {
                "gap": gap.name,
                "across": gap.across,
                "up": gap.up,
                "ceiling": gap.ceiling,
                "unit": self.length,
                "way": way,
                "asked": gap.frames,
                "verdict": one.verdict,
            }
            rows += [base | {"rate": rate, "frames": count} for rate, count in one.by_rate.items()]
        return rows
