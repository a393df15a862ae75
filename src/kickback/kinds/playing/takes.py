"""Takes out of what a model played: one for each parameter set."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from kickback.kinds.playing.drills import Drill
from kickback.kinds.playing.steps import frame_steps
from kickback.takes.header import Header, ParameterSet, Value
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.record import Record
from kickback.takes.take import Column, FloatArray, Take

__all__ = ["Play", "Player"]

_AT_ONCE = 10_000
"""Sets that are played at once: more take memory and save no time."""

_BLOCK = 128
"""Sets whose columns are turned at once."""

Play = Callable[[Sequence[Mapping[str, Value]], Any, FloatArray], Mapping[str, FloatArray]]
"""Plays a drill with full parameter sets over time steps: columns of shape (n, m)."""


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


class Player(Record, frozen=True, kw_only=True):
    """What plays a kind's drills with its parameters: takes out of a model.

    ``play`` does it, ``drill`` is the class of its drills, ``drill_from`` builds one of a drill
    file's content and ``usual`` is the one without any; ``checked`` completes a parameter set's
    values, and ``header`` says what is particular to the kind's takes.
    """

    play: Play
    drill: type[Drill]
    drill_from: Callable[[PlainMap, str], Drill]
    usual: Callable[[], Drill]
    checked: Callable[[Mapping[str, Value], str], dict[str, Value]]
    header: Callable[[Any, ParameterSet], PlainDict]

    def simulate(
        self,
        parameters: ParameterSet | Mapping[str, Value] | None = None,
        drill: Drill | PlainMap | None = None,
        *,
        frame_rate: float = 60.0,
        jitter: float = 0.0,
        seed: int = 0,
    ) -> Take:
        """Play a drill with one parameter set; see ``models.parameters`` for the values.

        ``drill`` may be in the plain form of a drill file, ``{"input": [{"at": 0.5, "until":
        2.0, "move_x": 1.0}]}``; the usual one without. Raises InputError for parameters or a
        drill that make no sense, UsageError for a rate or a jitter that does not.
        """
        sets = [parameters or {}]
        return self.simulate_many(sets, drill, frame_rate=frame_rate, jitter=jitter, seed=seed)[0]

    def simulate_many(
        self,
        sets: Sequence[ParameterSet | Mapping[str, Value]],
        drill: Drill | PlainMap | None = None,
        *,
        frame_rate: float = 60.0,
        jitter: float = 0.0,
        seed: int = 0,
    ) -> list[Take]:
        """Play one drill with many parameter sets at once; one take each, in order."""
        if not isinstance(drill, self.drill):
            plain: Any = drill
            drill = self.drill_from(plain, "drill") if plain else self.usual()
        full = [self._full(one) for one in sets]
        dt = frame_steps(frame_rate, drill.length, jitter=jitter, seed=seed)
        t = np.cumsum(dt)
        inputs = drill.read(np.concatenate(([0.0], t[:-1])))
        for column in (t, *inputs.values()):
            column.flags.writeable = False  # all takes share them
        own = {"frame_rate": frame_rate, "view": drill.view, "drill": drill.name}
        own |= self.header(drill, full[0]) if full else {}
        takes: list[Take] = []
        for begin in range(0, len(full), _AT_ONCE):
            some = full[begin : begin + _AT_ONCE]
            played = self.play([one.values for one in some], drill, dt)
            # turned so that a set's frames lie side by side: a take's columns are then mere views
            columns = {name: _turned(column) for name, column in played.items()}
            takes += [
                _take(item, {"t": t, **{name: c[k] for name, c in columns.items()}, **inputs}, own)
                for k, item in enumerate(some)
            ]
        return takes

    def _full(self, item: ParameterSet | Mapping[str, Value]) -> ParameterSet:
        """Return a parameter set with all of its values, and a name where it has none."""
        if not isinstance(item, ParameterSet):
            item = ParameterSet(name="parameters", values=dict(item))
        values = self.checked(item.values, f"parameters '{item.name}'")
        return ParameterSet(name=item.name, values=values)


def _take(item: ParameterSet, columns: Mapping[str, Column], header: PlainMap) -> Take:
    name = f"{item.name}-{header['frame_rate']:g}"
    return Take(
        header=Header(parameters=item, **header), columns=columns, name=name, source="simulate"
    )
