"""How high shots of one speed get over each distance: played at many elevations, at some rates."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.errors import UsageError
from kickback.kinds.shot.model.body import fire_shots
from kickback.kinds.shot.model.drills import drill_from_mapping
from kickback.kinds.shot.model.parameters import checked_values
from kickback.takes.header import Value
from kickback.takes.take import FloatArray
from kickback.tuning.reach.record import Envelope

__all__ = ["envelope"]

_ELEVATIONS = np.concatenate((np.arange(-89.0, 80.0, 0.25), 90.0 - np.geomspace(10.0, 0.01, 240)))
"""Elevations that are played, degrees: between two the highest place is hardly higher.

Steep ones lie closer: what is near is reached by them, and each goes through it quickly.
"""

_LONG = 6.0
"""Times ``v/g`` for which flights are followed."""

_DEPTH = 3.0
"""Tiles below the launch down to which distances are told."""

_PLACES = 400
"""Distances that are told where nobody says which."""


def envelope(
    parameters: Mapping[str, Value],
    *,
    rates: Sequence[float] = (60.0,),
    tile: float = 1.0,
    length_unit: str = "m",
) -> Envelope:
    """Return how high shots get at distances from their launch, in steps of the model.

    Raises UsageError where nothing pulls them down, InputError for parameters that make no sense.
    """
    values = checked_values(parameters, "parameters")
    if not float(values["gravity"]) > 0:
        raise UsageError("without gravity shots go on for ever: there is no envelope")
    played = {rate: _played(values, rate) for rate in rates}
    highest, low = {}, -_DEPTH * tile
    level = {rate: _level(*paths) for rate, paths in played.items()}
    far = max(float(np.max(x[y >= low])) for x, y in played.values())
    across = np.linspace(far / _PLACES, far, _PLACES)
    elevation = np.zeros(_PLACES)
    for rate, (x, y) in played.items():
        up = np.array(
            [np.interp(across, x[:, k], y[:, k], right=-np.inf) for k in range(x.shape[1])]
        )
        if rate == rates[0]:
            elevation = _ELEVATIONS[np.argmax(up, axis=0)]
        # nearer to the launch a shot is never lower at its best; between two elevations it dips
        top = np.maximum.accumulate(up.max(axis=0)[::-1])[::-1]
        highest[rate] = np.where(top >= low, top, np.nan)
    return Envelope(
        across=across, highest=highest, elevation=elevation, level=level, length=length_unit
    )


def _played(values: Mapping[str, Value], rate: float) -> tuple[FloatArray, FloatArray]:
    """Return the ways of shots at all elevations, from the launch on, shape (n, elevations)."""
    speed, gravity = float(values["launch_speed"]), float(values["gravity"])
    long = _LONG * speed / gravity + 1.0
    frames = round(long * rate)
    depth = 4 * gravity * long * long + speed * long + 1.0  # a floor that no flight gets down to
    own = {**values, "scatter": 0.0, "muzzle_height": depth, "cadence": 10 * long}
    drill = drill_from_mapping(
        {"length": long, "input": [{"at": 0.0, "until": long, "fire": 1.0}]}, "envelope"
    )
    sets = [{**own, "elevation": float(one)} for one in _ELEVATIONS]
    out = fire_shots(sets, drill, np.full(frames, 1 / rate))
    begin = np.zeros((1, len(sets)))
    x = np.concatenate((begin, out["x"] - drill.start))
    y = np.concatenate((begin, out["y"] - depth))
    return x, y


def _level(x: FloatArray, y: FloatArray) -> float:
    """Return how far the farthest shot is when it comes down to the height of its launch."""
    down = (y[1:] < 0) & (y[:-1] >= 0)
    ends = np.argmax(down, axis=0)
    k = np.arange(x.shape[1])
    high, low = y[ends, k], y[ends + 1, k]
    share = np.where(high > low, high / np.where(high > low, high - low, 1.0), 0.0)
    there = x[ends, k] + share * (x[ends + 1, k] - x[ends, k])
    return float(np.max(np.where(down.any(axis=0), there, 0.0)))
