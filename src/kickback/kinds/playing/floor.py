"""What a drill is played on: a floor in pieces that may slope or move, walls, and a ceiling."""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["Ceiling", "Floor"]

_STEP = 1e-9
"""Height from which an edge between two pieces is a wall or a ledge."""


class Ceiling(Record, frozen=True, kw_only=True):
    """A ceiling in steps: ``heights[i]`` holds from ``edges[i]`` on; none before the first."""

    edges: FloatArray
    heights: FloatArray

    def height(self, x: FloatArray) -> FloatArray:
        """Return the ceiling's height over positions ``x``, shape (m,); infinite without one."""
        index = np.searchsorted(self.edges, x, side="right") - 1
        return np.where(index >= 0, self.heights[np.maximum(index, 0)], np.inf)

    def to_rows(self) -> list[dict[str, float]]:
        """Return the plain form, that of a drill file."""
        pairs = zip(self.edges.tolist(), self.heights.tolist(), strict=True)
        return [{"x": x, "height": height} for x, height in pairs]

    @staticmethod
    def of_rows(rows: Sequence[Mapping[str, float]]) -> "Ceiling":
        """Return a ceiling from its plain form, checked before."""
        edges, heights = (np.array([row[name] for row in rows]) for name in ("x", "height"))
        return Ceiling(edges=edges, heights=heights)


class _Edge(NamedTuple):
    """Where two pieces meet at unlike heights: the later one's number, its place, both heights."""

    piece: int
    x: float
    near: float
    far: float


class Floor(Record, frozen=True, kw_only=True, dict=True):
    """A floor in pieces along the first axis; arrays of shape (k,).

    Piece i begins at ``edges[i]`` with the height ``heights[i]``, rises by ``slopes[i]``
    degrees and carries what stands on it along at ``moves[i]``, length/s. The first one is
    level before its edge.
    """

    edges: FloatArray
    heights: FloatArray
    slopes: FloatArray
    moves: FloatArray

    @cached_property
    def even(self) -> bool:
        """Whether no piece slopes and none moves."""
        return not (self.slopes.any() or self.moves.any())

    @cached_property
    def _ledges(self) -> list[_Edge]:
        """Return the edges that are walls one way and ledges the other."""
        before, later = np.arange(len(self.edges) - 1), self.edges[1:]
        rows = zip(later.tolist(), self.on(before, later), self.heights[1:].tolist(), strict=True)
        edges = [_Edge(k, x, float(near), far) for k, (x, near, far) in enumerate(rows, 1)]
        return [one for one in edges if abs(one.near - one.far) > _STEP]

    def to_rows(self) -> list[dict[str, float]]:
        """Return the plain form, that of a drill file."""
        columns = {"x": self.edges, "height": self.heights}
        columns |= {"slope": self.slopes} if self.slopes.any() else {}
        columns |= {"moves": self.moves} if self.moves.any() else {}
        many = len(self.edges)
        return [{name: float(c[i]) for name, c in columns.items()} for i in range(many)]

    def piece(self, x: FloatArray) -> npt.NDArray[np.int64]:
        """Return the piece under positions ``x``, shape (m,)."""
        return np.maximum(self.edges.searchsorted(x, side="right") - 1, 0)

    def on(self, piece: npt.NDArray[np.int64], x: FloatArray) -> FloatArray:
        """Return the height of pieces, carried on to positions ``x``, shape (m,)."""
        beyond = np.where(piece > 0, x - self.edges[piece], np.maximum(x - self.edges[0], 0.0))
        return self.heights[piece] + self.gradient(piece) * beyond

    def height(self, x: FloatArray) -> FloatArray:
        """Return the floor's height under positions ``x``, shape (m,)."""
        if self.even:
            return (
                self.heights[self.piece(x)]
                if len(self.edges) > 1
                else np.full_like(x, self.heights[0])
            )
        return self.on(self.piece(x), x)

    def gradient(self, piece: npt.NDArray[np.int64]) -> FloatArray:
        """Return how far pieces rise in a unit of length, shape (m,)."""
        return np.tan(np.deg2rad(self.slopes[piece]))

    def belt(self, x: FloatArray) -> FloatArray:
        """Return the speed of what lies under positions ``x``, shape (m,)."""
        return self.moves[self.piece(x)]

    def stopped(self, old: FloatArray, new: FloatArray, low: FloatArray) -> FloatArray:
        """Return where ways from ``old`` to ``new`` end: before a wall that is higher than ``low``.

        Shape (m,). A wall is an edge whose far side lies higher than its near one.
        """
        first, last = self.piece(old), self.piece(new)
        if not np.count_nonzero(first != last):
            return new
        end = new
        for k, edge, near, far in self._ledges:
            if far > near:
                stops = (first < k) & (last >= k) & (low < far - _STEP)
                end = np.where(stops, np.minimum(end, np.nextafter(edge, -np.inf)), end)
            else:
                stops = (first >= k) & (last < k) & (low < near - _STEP)
                end = np.where(stops, np.maximum(end, edge), end)
        return end

    def joined(self, old: FloatArray, new: FloatArray) -> npt.NDArray[np.bool_]:
        """Whether the floor goes on without a step from ``old`` to ``new``, shape (m,)."""
        first, last = self.piece(old), self.piece(new)
        whole = np.ones(len(old), dtype=bool)
        if not np.count_nonzero(first != last):
            return whole
        low, high = np.minimum(first, last), np.maximum(first, last)
        for k, *_ in self._ledges:
            whole &= ~((low < k) & (high >= k))
        return whole

    @staticmethod
    def of_rows(rows: Sequence[Mapping[str, float]]) -> "Floor":
        """Return a floor from its plain form, checked before."""
        names = ("x", "height", "slope", "moves")
        columns = [np.array([row.get(name, 0.0) for row in rows]) for name in names]
        for k in range(1, len(rows)):  # one without a height goes on from the last
            if "height" not in rows[k]:
                rise = float(np.tan(np.deg2rad(columns[2][k - 1])))
                ahead = columns[0][k] - columns[0][k - 1]
                columns[1][k] = columns[1][k - 1] + rise * ahead
        return Floor(edges=columns[0], heights=columns[1], slopes=columns[2], moves=columns[3])
