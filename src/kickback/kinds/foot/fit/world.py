"""The ground of a take: level pieces where its subject stood, with the ledges and walls between."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.playing.floor import Floor
from kickback.motion.segments import stretches
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["World", "world_of"]

_LEVEL = 1e-6
"""Share of the heights that a take goes through within which a floor is level."""

_SINKS = 0.1
"""The same of a body that sinks into the floor and is pushed out again, as physics libraries do."""

_HELD = 8
"""Frames for which a height is held that is a floor's."""

_MOST = 32
"""Level pieces from which it is no floor of pieces."""

_UNEVEN, _NEVER = "ground that is uneven", "a level floor to stand on"

_TALL = 10.0
"""A wall that is never climbed, in heights that a take goes through."""


class World(Record, frozen=True, kw_only=True):
    """What a take was played on as far as it shows it; ``missing``: what of it is no such floor.

    ``sinks``: how far a body sinks into it, which the model's never does.
    """

    floor: Floor
    sinks: float = 0.0
    missing: str = ""


class _Stood(Record, frozen=True, kw_only=True):
    """Level ground from ``low`` to ``high`` along the axis; ledges where it was left."""

    low: float
    high: float
    height: float
    left: float | None = None
    right: float | None = None


def world_of(motion: FootMotion) -> World:
    """Return the ground that a motion in a side view shows; over a plane one that is level."""
    across, up = motion.across, motion.up
    if up is None:
        return World(floor=_level(0.0))
    if across is None or motion.plane is not None:
        return World(floor=_level(_usual(motion, up.p)))
    return _world(motion, across.p, up)


def _usual(motion: FootMotion, y: FloatArray) -> float:
    """Return the usual height of contact; the lowest of all where there is none."""
    return float(np.median(y[motion.grounded]) if motion.grounded.any() else y.min())


def _world(motion: FootMotion, x: FloatArray, up: Track) -> World:
    """Return the pieces of ground that a motion along one axis shows."""
    fine, coarse = _slacks(up)
    slack = fine if _is_quiet(motion, up.p, fine, coarse) else coarse
    pieces, overlap = _joined(_stood(motion, x, up.p, slack), slack)
    if overlap and slack < coarse:  # no game has floors so close over each other: it sinks in
        slack = coarse
        pieces, overlap = _joined(_stood(motion, x, up.p, slack), slack)
    if not pieces or len(pieces) > _MOST:
        return World(floor=_level(_usual(motion, up.p)), missing=_UNEVEN if pieces else _NEVER)
    rows = _rows(pieces, _walls(motion, x), _TALL * (float(np.ptp(up.p)) or 1.0))
    return World(
        floor=Floor.of_rows(rows),
        sinks=_sunk(motion, up.p, pieces) if slack == coarse else 0.0,
        missing="floors over each other" if overlap else _unlevel(motion, slack),
    )


def _level(height: float) -> Floor:
    return Floor.of_rows([{"x": 0.0, "height": height}])


def _slacks(up: Track) -> tuple[float, float]:
    """Return by how much heights of one floor differ as numbers, and as bodies that sink in."""
    extent = float(np.ptp(up.p))
    return 1.01 * up.quantum + _LEVEL * extent, _SINKS * extent


def _is_quiet(motion: FootMotion, y: FloatArray, fine: float, coarse: float) -> bool:
    """Whether heights of contact change by steps of a floor alone, each held for a while."""
    both = motion.grounded[1:] & motion.grounded[:-1]
    steps = np.abs(np.diff(y))
    small = np.count_nonzero(both & (steps > fine) & (steps < coarse))
    return bool(small <= 2 * len(stretches(both & (steps <= fine), _HELD)))


def _sunk(motion: FootMotion, y: FloatArray, pieces: Sequence[_Stood]) -> float:
    """Return how far a body is off the levels that it stands on, at most."""
    heights = np.array([one.height for one in pieces])
    off = np.abs(y[motion.grounded][:, None] - heights).min(axis=1)
    return float(np.max(off, initial=0.0))


def _unlevel(motion: FootMotion, slack: float) -> str:
    """Say that the ground slopes, where more than single steps of it do."""
    up = motion.up
    if up is None:
        return ""
    both = motion.grounded[1:] & motion.grounded[:-1]
    climbs = both & (np.abs(np.diff(up.p)) > slack)
    return _UNEVEN if np.count_nonzero(climbs) > 0.05 * np.count_nonzero(both) else ""


def _stood(motion: FootMotion, x: FloatArray, y: FloatArray, slack: float) -> list[_Stood]:
    """Return the level ground under each stretch of contact."""
    found = []
    jumps = set(motion.flights.start[motion.flights.jump].tolist())
    for a, b in stretches(motion.grounded, 1):
        edges = a + 1 + np.flatnonzero(np.abs(np.diff(y[a:b])) > slack)
        for start, stop in zip([a, *edges], [*edges, b], strict=True):
            over = x[start:stop]
            ledge = None
            if stop == b and b < len(x) and b not in jumps:
                ledge = float(x[b - 1] + x[b]) / 2
            ahead = b < len(x) and x[b] >= x[b - 1]
            found.append(
                _Stood(
                    low=float(over.min()),
                    high=float(over.max()),
                    height=median(y[start:stop]),
                    right=ledge if ahead else None,
                    left=None if ahead else ledge,
                )
            )
    return found


def _joined(found: Sequence[_Stood], slack: float) -> tuple[list[_Stood], bool]:
    """Return the pieces of the ground along the axis, and whether any lie over another."""
    out: list[_Stood] = []
    overlap = False
    for one in sorted(found, key=lambda item: item.low):
        last = out[-1] if out else None
        if last is not None and abs(last.height - one.height) <= slack:
            ends = [edge for edge in (last.right, one.right) if edge is not None]
            out[-1] = _Stood(
                low=last.low,
                high=max(last.high, one.high),
                height=last.height,
                left=one.left if last.left is None else last.left,
                right=max(ends, default=None),
            )
            continue
        overlap = overlap or (last is not None and one.low < last.high)
        out.append(one)
    return out, overlap


def _walls(motion: FootMotion, x: FloatArray) -> list[tuple[float, int]]:
    """Return where walls are touched, and on which side of the subject."""
    across = motion.across
    if across is None or not motion.touches_side.any():
        return []
    found = []
    for a, b in stretches(motion.touches_side, 1):
        before = float(across.v[max(a - 1, 0)])
        pressed = float(np.sign(motion.inputs.move[a])) or float(np.sign(before))
        if pressed:
            found.append((float(x[a:b].max() if pressed > 0 else x[a:b].min()), int(pressed)))
    return sorted(set(found))


def _rows(
    pieces: Sequence[_Stood], walls: Sequence[tuple[float, int]], tall: float
) -> list[dict[str, float]]:
    """Return the rows of a floor: pieces, the edges between, and walls at either end."""
    rows = [{"x": pieces[0].low, "height": pieces[0].height}]
    for last, one in pairwise(pieces):
        between = [at for at, _ in walls if last.high <= at <= one.low]
        known = [at for at in (*between, last.right, one.left) if at is not None]
        edge = known[0] if known else (last.high + one.low) / 2
        rows.append({"x": max(edge, np.nextafter(rows[-1]["x"], np.inf)), "height": one.height})
    return _between_walls(rows, pieces, walls, max(one.height for one in pieces) + tall)


def _between_walls(
    rows: list[dict[str, float]],
    pieces: Sequence[_Stood],
    walls: Sequence[tuple[float, int]],
    top: float,
) -> list[dict[str, float]]:
    """Return rows of a floor with walls that were never climbed at its ends."""
    far = [at for at, side in walls if side > 0 and at >= pieces[-1].high]
    near = [at for at, side in walls if side < 0 and at <= pieces[0].low]
    if far:
        rows = [*rows, {"x": float(np.nextafter(max(far), np.inf)), "height": top}]
    if near:
        edge = min(near)
        rows = [{"x": edge - 1.0, "height": top}, {**rows[0], "x": edge}, *rows[1:]]
    return rows
