"""Inputs and contact of a foreign log, told by what they do: an input is what changes first."""

from collections.abc import Mapping as Map

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.throws import thrown_up
from kickback.motion.segments import BoolArray
from kickback.takes.numeric import quantile
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.take import FloatArray

__all__ = ["told_by_motion"]

_SOON = 6
"""Frames before a takeoff within which its press changes."""

_MOSTLY = 0.7
"""Share of the takeoffs that a button precedes, or of the pushes that a stick goes with."""

_CONTACT = 0.9
"""Share of the frames in which a flag says what the heights do."""

_PUSHED = 0.2
"""Share of a usual push from which a frame is pushed."""

_LEANS = 0.3
"""How far a stick leans, to push."""

_PUSHES = 5
"""Pushed frames that tell a side."""

_FEWEST = 2
"""Takeoffs that tell a button."""


def told_by_motion(
    motion: FootMotion, unused: Map[str, FloatArray], have: PlainMap
) -> tuple[PlainDict, list[str]]:
    """Return columns for what a mapping lacks, and what to say of each guess.

    ``unused``: the log's numbers that nothing reads yet, shape (n,) each; ``have``: the
    columns that the mapping has.
    """
    found: PlainDict = {}
    said: list[str] = []
    flags = {name: c for name, c in unused.items() if set(np.unique(c)) == {0.0, 1.0}}
    for ours, tell in (("in_jump", _button), ("touch_ground", _contact), ("in_move_x", _stick)):
        if ours in have:
            continue
        told = tell(motion, flags if ours != "in_move_x" else unused)
        if told is not None:
            found[ours], what = told
            said.append(f"{ours} is taken from {what}, by what it does alone")
            taken = str(found[ours])
            flags = {name: c for name, c in flags.items() if f"'{name}'" not in taken}
            unused = {name: c for name, c in unused.items() if f"'{name}'" not in taken}
    return found, said


def _button(motion: FootMotion, flags: Map[str, FloatArray]) -> tuple[object, str] | None:
    """Return the flag that is pressed shortly before takeoffs."""
    takeoffs = motion.flights.start[motion.flights.jump]
    if motion.up is not None and not motion.up.rounded:
        takeoffs = np.union1d(takeoffs, thrown_up(motion.up.v))
    if len(takeoffs) < _FEWEST:
        return None
    best, share = "", _MOSTLY
    for name, column in flags.items():
        edges = np.flatnonzero(np.diff(column) > 0) + 1
        before = [np.any((edges <= row + 1) & (edges >= row - _SOON)) for row in takeoffs]
        if edges.size and float(np.mean(before)) >= share and len(edges) <= 3 * len(takeoffs):
            best, share = name, float(np.mean(before))
    return ({"from": best}, f"'{best}'") if best else None


def _contact(motion: FootMotion, flags: Map[str, FloatArray]) -> tuple[object, str] | None:
    """Return the flag that goes with standing, or with being in the air."""
    if motion.contact_source == "recorded" or not (~motion.grounded).any():
        return None
    for name, column in flags.items():
        agrees = float(np.mean((column > 0.5) == motion.grounded))
        if agrees > _CONTACT:
            return {"from": name}, f"'{name}'"
        if agrees < 1 - _CONTACT:
            return {"from": name, "invert": True}, f"'{name}', turned round"
    return None


def _stick(motion: FootMotion, columns: Map[str, FloatArray]) -> tuple[object, str] | None:
    """Return the column, or the pair of flags, whose side the sideways speed follows."""
    track = motion.across
    if track is None or not np.any(np.diff(track.v)):
        return None
    gain = np.diff(track.v, append=track.v[-1:])
    pushed = np.abs(gain) > _PUSHED * quantile(np.abs(gain[gain != 0]), 0.9)
    way = np.sign(gain)
    ahead = {name: np.roll(column, -1) for name, column in columns.items()}  # of the next step
    for name, column in ahead.items():
        two_sided = -1 <= float(column.min()) < 0 < float(column.max()) <= 1
        if two_sided and _goes(np.sign(column) == way, pushed & (np.abs(column) > _LEANS)):
            return {"from": name}, f"'{name}'"
    return _two_keys(ahead, way, pushed)


def _two_keys(
    ahead: Map[str, FloatArray], way: FloatArray, pushed: BoolArray
) -> tuple[object, str] | None:
    """Return the pair of keys that push to either side."""
    keys = {name: c for name, c in ahead.items() if float(c.min()) >= 0 and float(c.max()) == 1}
    right, left = (_key(keys, way == side, pushed) for side in (1.0, -1.0))
    if right is None or left is None or right == left:
        return None
    return [right, {"from": left, "scale": -1}], f"'{right}' and '{left}'"


def _key(keys: Map[str, FloatArray], own: BoolArray, pushed: BoolArray) -> str | None:
    """Return the key under which pushes go one way most often, or None."""
    shares = {
        name: float(np.mean(own[held]))
        for name, column in keys.items()
        if np.count_nonzero(held := pushed & (column > 0.5)) >= _PUSHES
    }
    best = max(shares, key=lambda name: shares[name], default=None)
    return best if best is not None and shares[best] > _MOSTLY else None


def _goes(alike: BoolArray, where: BoolArray) -> bool:
    """Whether most frames of a mask, and enough of them, are alike."""
    return bool(np.count_nonzero(where) >= _PUSHES and np.mean(alike[where]) > _MOSTLY)
