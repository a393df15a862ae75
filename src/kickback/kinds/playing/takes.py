"""Takes out of what a model played: one for each parameter set."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from kickback.kinds.playing.drills import Drill
from kickback.kinds.playing.steps import frame_steps
from kickback.takes.header import Header, ParameterSet, Value
from kickback.takes.take import Column, FloatArray, Take

__all__ = ["Play", "named", "played"]

Play = Callable[[Sequence[Mapping[str, Value]], Any, FloatArray], Mapping[str, FloatArray]]
"""Plays a drill with full parameter sets over time steps: columns of shape (n, m)."""


def named(item: ParameterSet | Mapping[str, Value]) -> ParameterSet:
    """Return a parameter set, with a name where it has none."""
    if isinstance(item, ParameterSet):
        return item
    return ParameterSet(name="parameters", values=dict(item))


def played(
    play: Play, sets: Sequence[ParameterSet], drill: Drill, header: Mapping[str, Any], *,
    frame_rate: float, jitter: float, seed: int,
) -> list[Take]:  # fmt: skip
    """Play one drill with many parameter sets, checked and full; one take each, in order.

    ``header``: what is particular to the kind. Raises UsageError for a rate or a jitter that
    makes no sense.
    """
    dt = frame_steps(frame_rate, drill.length, jitter=jitter, seed=seed)
    t = np.cumsum(dt)
    inputs = drill.read(np.concatenate(([0.0], t[:-1])))
    # turned so that a set's frames lie side by side: a take's columns are then mere views
    columns = {
        name: np.ascontiguousarray(c.T)
        for name, c in play([one.values for one in sets], drill, dt).items()
    }
    takes = []
    for index, item in enumerate(sets):
        own: dict[str, Column] = {"t": t}
        own |= {name: column[index] for name, column in columns.items()}
        own |= inputs
        head = Header(
            view=drill.view, frame_rate=frame_rate, parameters=item, drill=drill.name, **header
        )
        takes.append(Take(header=head, columns=own, name=f"{item.name}-{frame_rate:g}",
                          source="simulate"))  # fmt: skip
    return takes
