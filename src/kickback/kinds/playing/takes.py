"""Takes out of what a model played: one for each parameter set."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from kickback.kinds.playing.drills import Drill
from kickback.kinds.playing.steps import frame_steps
from kickback.takes.header import Header, ParameterSet, Value
from kickback.takes.plain import PlainMap
from kickback.takes.take import Column, FloatArray, Take

__all__ = ["Play", "named", "played"]

_AT_ONCE = 10_000
"""Sets that are played at once: more take memory and save no time."""

_BLOCK = 128
"""Sets whose columns are turned at once."""

Play = Callable[[Sequence[Mapping[str, Value]], Any, FloatArray], Mapping[str, FloatArray]]
"""Plays a drill with full parameter sets over time steps: columns of shape (n, m)."""


def named(item: ParameterSet | Mapping[str, Value]) -> ParameterSet:
    """Return a parameter set, with a name where it has none."""
    if isinstance(item, ParameterSet):
        return item
    return ParameterSet(name="parameters", values=dict(item))


def _turned(column: FloatArray) -> FloatArray:
    """Return a column of shape (n, m) as one of (m, n): block by block, which caches hold."""
    frames, many = column.shape
    if (column == column[:, :1]).all():  # of all sets alike: one will do
        return np.broadcast_to(column[:, 0].copy(), (many, frames))
    out = np.empty((many, frames), dtype=column.dtype)
    for begin in range(0, many, _BLOCK):
        out[begin : begin + _BLOCK] = column[:, begin : begin + _BLOCK].T
    out.flags.writeable = False
    return out


def played(
    play: Play,
    sets: Sequence[ParameterSet],
    drill: Drill,
    header: PlainMap,
    *,
    frame_rate: float,
    jitter: float,
    seed: int,
) -> list[Take]:
    """Play one drill with many parameter sets, checked and full; one take each, in order.

    ``header``: what is particular to the kind. Raises UsageError for a rate or a jitter that
    makes no sense.
    """
    dt = frame_steps(frame_rate, drill.length, jitter=jitter, seed=seed)
    t = np.cumsum(dt)
    inputs = drill.read(np.concatenate(([0.0], t[:-1])))
    for column in (t, *inputs.values()):
        column.flags.writeable = False  # all takes share them
    own = {"frame_rate": frame_rate, "view": drill.view, "drill": drill.name, **header}
    takes: list[Take] = []
    for begin in range(0, len(sets), _AT_ONCE):
        some = sets[begin : begin + _AT_ONCE]
        # turned so that a set's frames lie side by side: a take's columns are then mere views
        columns = {
            name: _turned(c) for name, c in play([one.values for one in some], drill, dt).items()
        }
        takes += [
            _take(item, {"t": t, **{name: c[k] for name, c in columns.items()}, **inputs}, own)
            for k, item in enumerate(some)
        ]
    return takes


def _take(item: ParameterSet, columns: Mapping[str, Column], header: PlainMap) -> Take:
    name = f"{item.name}-{header['frame_rate']:g}"
    return Take(
        header=Header(parameters=item, **header), columns=columns, name=name, source="simulate"
    )
