"""Baselines as text: JSON, one metric a line, sorted, rounded to what is known.

A change of feel is a small difference in review, and a conflict of two is one that can be read.
"""

import json
from collections.abc import Mapping, Sequence
from math import log10

import numpy as np

from kickback.errors import InputError
from kickback.judging.baseline import Baseline, exercise_name
from kickback.judging.noise import prediction
from kickback.judging.samples import Cell, Exercise, Reading, Sample, Told, grid
from kickback.metrics.metric import Metric
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["from_text", "to_text"]

_VERSION = 1

_PLAYS = 12
"""Occurrences of a take that are kept of a metric that depends on how it was played."""

_MANY = 3
"""Takes from which their scatter is the noise of one."""


def _rounded(value: float, resolution: float = 0.0) -> float:
    if not value:
        return 0.0
    return round(value, -round(log10(grid(value, resolution)))) + 0.0


def to_text(baseline: Baseline) -> str:
    """Return a baseline as its file holds it."""
    exercises = {exercise_name(cell): _plain(cell) for cell in baseline.cells}
    whole = {
        "kickback_baseline": _VERSION,
        "length_unit": baseline.length_unit,
        "accepted": list(baseline.accepted),
        "exercises": dict(sorted(exercises.items())),
    }
    return "\n".join(_lines(whole, 0)) + "\n"


_OPEN = {"", "accepted", "exercises", "parameters", "constants", "metrics"}
"""Keys whose values take a line for each of their entries."""


def _lines(value: object, depth: int, key: str = "", exercise: bool = False) -> list[str]:
    """Return JSON with containers that hold many entries on lines of their own."""
    indent = " " * depth
    head = f"{indent}{_json(key)}: " if key else indent
    if isinstance(value, dict) and value and (key in _OPEN or exercise):
        inner = [
            _lines(item, depth + 1, name, exercise=key == "exercises")
            for name, item in value.items()
        ]
        return [f"{head}{{", *_joined(inner), f"{indent}}}"]
    if isinstance(value, list) and value and key in _OPEN:
        return [f"{head}[", *_joined([[f"{indent} {_json(one)}"] for one in value]), f"{indent}]"]
    return [f"{head}{_json(value)}"]


def _joined(parts: Sequence[list[str]]) -> list[str]:
    """Return lines of several entries with commas between them."""
    out: list[str] = []
    for number, lines in enumerate(parts):
        out += lines[:-1]
        out.append(lines[-1] + ("," if number < len(parts) - 1 else ""))
    return out


def _json(value: object) -> str:
    return json.dumps(value, ensure_ascii=False, sort_keys=False, allow_nan=False)


def _plain(cell: Cell) -> PlainDict:
    own = cell.exercise
    return {
        "subject": own.subject,
        "parameter_set": own.parameters,
        "drill": own.drill,
        "rate": _rounded(own.rate, own.rate * 1e-4),
        "inputs": sorted(cell.inputs),
        "uneven": round(cell.uneven, 4),
        "parameters": dict(sorted(cell.values.items())),
        "constants": {
            name: {
                "value": _rounded(one.value, one.stderr),
                "error": _rounded(_known(one), one.stderr),
                "unit": one.unit,
                "law": one.law,
            }
            for name, one in sorted(cell.constants.items())
        },
        "metrics": {
            name: _plain_sample(one, cell.noise.get(name))
            for name, one in sorted(cell.samples.items())
            if one.readings
        },
    }


def _known(one: Told) -> float:
    """Return a standard error, nothing where it is that of arithmetic."""
    return one.stderr if one.stderr > ARITHMETIC * abs(one.value) else 0.0


def _plain_sample(sample: Sample, noise: float | None) -> PlainDict:
    resolution = sample.resolution
    values = [one.value for one in sample.readings]
    found: PlainDict = {
        "value": _rounded(sample.value or 0.0, resolution),
        "unit": str(sample.unit),
        "resolution": _rounded(resolution, resolution),
    }
    if sample.frame_shift:
        found["frame"] = _rounded(sample.frame_shift, sample.frame_shift)
    if noise is None and len(values) >= _MANY:
        noise = prediction(np.array(values))
    if noise:
        found["noise"] = _rounded(noise, noise)
    if len(values) > 1:
        found["takes"] = [_rounded(one, resolution) for one in values]
    if any(one.given for one in sample.readings):
        found["played"] = [_plays(one) for one in sample.readings]
    return found


def _plays(reading: Reading) -> dict[str, list[float]]:
    n = len(reading.values)
    spread = np.linspace(0, max(n - 1, 0), min(n, _PLAYS))
    keep = np.unique(spread.round().astype(np.int64))
    told = {"value": [_rounded(v, reading.resolution) for v in reading.values[keep].tolist()]}
    for name, array in reading.given.items():
        if np.isfinite(array).all():
            told[name] = [_rounded(v, abs(v) * 1e-4) for v in array[keep].tolist()]
    return told


def from_text(text: str, place: str, metrics: Sequence[Metric]) -> Baseline:
    """Read a baseline's file; raises InputError where it is none, or has a conflict in it."""
    for number, line in enumerate(text.splitlines(), 1):
        if line.startswith(("<<<<<<<", "=======", ">>>>>>>")):
            raise InputError(
                "two versions stand in the baseline: keep one of the lines between the marks, or"
                " 'kickback accept' the takes that count",
                f"{place}, line {number}",
            )
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise InputError(f"is no baseline: {error}", place) from error
    if not isinstance(data, dict) or data.get("kickback_baseline") != _VERSION:
        raise InputError("is no baseline: 'kickback accept' writes one", place)
    try:
        return _baseline(data, {metric.name: metric for metric in metrics})
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise InputError(
            f"is no whole baseline ({error}): 'kickback accept' writes one", place
        ) from error


def _baseline(data: PlainMap, metrics: Mapping[str, Metric]) -> Baseline:
    unit = str(data["length_unit"])
    return Baseline(
        length_unit=unit,
        cells=[_cell(one, unit, metrics) for one in data["exercises"].values()],
        accepted=[dict(one) for one in data["accepted"]],
    )


def _cell(data: PlainMap, unit: str, metrics: Mapping[str, Metric]) -> Cell:
    known = {name: one for name, one in data["metrics"].items() if name in metrics}
    return Cell(
        exercise=Exercise(
            str(data["subject"]),
            str(data["drill"]),
            str(data["parameter_set"]),
            float(data["rate"]),
        ),
        names=[],
        samples={name: _sample(metrics[name], one, unit) for name, one in known.items()},
        inputs=[str(one) for one in data["inputs"]],
        uneven=float(data["uneven"]),
        values=dict(data["parameters"]),
        noise={name: float(one["noise"]) for name, one in known.items() if "noise" in one},
        constants={
            name: Told(float(one["value"]), float(one["error"]), str(one["unit"]), one["law"])
            for name, one in data["constants"].items()
        },
        kept=True,
    )


def _sample(metric: Metric, data: PlainMap, unit: str) -> Sample:
    takes = [float(one) for one in data.get("takes", [data["value"]])]
    played = data.get("played", [{} for _ in takes])
    return Sample(
        metric=metric.name,
        unit=metric.unit(unit),
        readings=[
            Reading(
                value=value,
                resolution=float(data["resolution"]),
                frame_shift=float(data.get("frame", 0.0)),
                values=np.array(plays.get("value", []), dtype=np.float64),
                given={
                    name: np.array(column, dtype=np.float64)
                    for name, column in plays.items()
                    if name != "value"
                },
            )
            for value, plays in zip(takes, played, strict=True)
        ],
    )
