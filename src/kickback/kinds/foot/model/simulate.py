"""Takes from the on-foot model: a parameter set, a drill and a frame rate in, a take out."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from kickback.errors import UsageError
from kickback.kinds.foot.model.body import run_foot
from kickback.kinds.foot.model.drills import Drill, drill_from_mapping
from kickback.kinds.foot.model.exercises import standard_drill
from kickback.kinds.foot.model.parameters import checked_values
from kickback.takes.header import Header, ParameterSet, Value
from kickback.takes.take import Column, FloatArray, Take

__all__ = ["frame_steps", "simulate", "simulate_many"]


def frame_steps(
    frame_rate: float, length: float, *, jitter: float = 0.0, seed: int = 0
) -> FloatArray:
    """Return time steps, shape (n,), s, that together last ``length`` seconds.

    With ``jitter`` j each step is uniform in ``(1 ± j)/frame_rate``, from the seed.
    Raises UsageError for a rate, length or jitter that makes no sense.
    """
    if not 1 <= frame_rate <= 100_000:
        raise UsageError(f"the frame rate must lie between 1 and 100000, not {frame_rate:g}")
    if not 0 <= jitter < 1:
        raise UsageError(f"the jitter must lie between 0 and 1 (1 excluded), not {jitter:g}")
    count = max(2, round(length * frame_rate))
    steps = np.full(count, 1.0 / frame_rate)
    if jitter:
        steps *= np.random.default_rng(seed).uniform(1 - jitter, 1 + jitter, count)
    return steps


def simulate(
    parameters: ParameterSet | Mapping[str, Value] | None = None,
    drill: Drill | Mapping[str, Any] | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> Take:
    """Play a drill with one parameter set; see ``models.parameters`` for the values.

    ``drill`` may be in the plain form of a drill file, ``{"input": [{"at": 0.5, "until":
    2.0, "move_x": 1.0}]}``; a short standard one without. Raises InputError for parameters
    or a drill that make no sense.
    """
    return simulate_many(
        [parameters or {}], drill, frame_rate=frame_rate, jitter=jitter, seed=seed
    )[0]


def simulate_many(
    sets: Sequence[ParameterSet | Mapping[str, Value]],
    drill: Drill | Mapping[str, Any] | None = None,
    *,
    frame_rate: float = 60.0,
    jitter: float = 0.0,
    seed: int = 0,
) -> list[Take]:
    """Play one drill with many parameter sets at once; one take each, in order."""
    if not isinstance(drill, Drill):
        drill = drill_from_mapping(drill, "drill") if drill else standard_drill()
    named = [_named(item) for item in sets]
    full = [checked_values(item.values, f"parameters '{item.name}'") for item in named]
    dt = frame_steps(frame_rate, drill.length, jitter=jitter, seed=seed)
    t = np.cumsum(dt)
    inputs = drill.read(np.concatenate(([0.0], t[:-1])))
    # turned so that a set's frames lie side by side: a take's columns are then mere views
    played = {
        name: np.ascontiguousarray(c.T)
        for name, c in _columns(run_foot(full, drill, dt), drill.view).items()
    }
    takes = []
    for index, (item, values) in enumerate(zip(named, full, strict=True)):
        header = Header(
            subject="lamplighter",
            view=drill.view,
            length_unit="m",
            frame_rate=frame_rate,
            parameters=ParameterSet(name=item.name, values=values),
            drill=drill.name,
            probe="feet",
        )
        columns: dict[str, Column] = {"t": t}
        columns |= {name: column[index] for name, column in played.items()}
        columns |= inputs
        name = f"{item.name}-{frame_rate:g}"
        takes.append(Take(header=header, columns=columns, name=name, source="simulate"))
    return takes


def _columns(played: Mapping[str, Any], view: str) -> dict[str, FloatArray]:
    """Return what was played as the columns of a view; over a plane there is a second axis."""
    if view == "side":
        return dict(played)
    second = "z" if view == "3d" else "y"
    hidden = {"x", "vx", "camera_x"}
    hidden |= set() if view == "3d" else {"y", "vy", "touch_side", "camera_y"}
    plain = {name: column for name, column in played.items() if name not in hidden}
    if "camera_x" in played:
        camera = played["camera_x"]
        plain |= {"camera_x": camera.real, f"camera_{second}": camera.imag}
    return {
        "dt": plain.pop("dt"),
        "x": played["x"].real,
        second: played["x"].imag,
        "vx": played["vx"].real,
        f"v{second}": played["vx"].imag,
        **plain,
    }


def _named(item: ParameterSet | Mapping[str, Value]) -> ParameterSet:
    if isinstance(item, ParameterSet):
        return item
    return ParameterSet(name="parameters", values=dict(item))
