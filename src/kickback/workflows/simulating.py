"""``simulate``: takes from the built-in model, for every rate and parameter set asked for."""

from collections.abc import Mapping, Sequence
from pathlib import Path

from kickback.errors import InputError, UsageError
from kickback.files.encodings import SUFFIXES
from kickback.files.names import distinct_stems
from kickback.files.read import stem_of
from kickback.files.write import write_take
from kickback.kinds.measuring import measure
from kickback.kinds.models import model_with, simulate
from kickback.kinds.playing.drills import Drill
from kickback.project.parameter_sets import length_unit_of, read_model_parameters
from kickback.takes.header import ParameterSet, Value
from kickback.takes.quantities import Unit
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = ["ChangedMetric", "changed_metrics", "parse_changes", "simulate_takes", "write_takes"]

_SAME = 1e-6
"""Share by which a metric may differ and be the same."""


def simulate_takes(
    parameter_files: Sequence[str],
    drill: Drill | None,
    *,
    rates: Sequence[float],
    mistakes: Sequence[str] = (),
    integrator: str | None = None,
    changes: Mapping[str, Value] | None = None,
    jitter: float = 0.0,
    seed: int = 0,
) -> list[Take]:
    """Play a drill, a short standard one without, with each parameter file at each rate.

    The drill says which kind of subject plays it, or else the parameters' names. ``changes`` are
    other values than the files', under a name of their own. Raises InputError or UsageError for a
    file, rate, value or mistake that makes no sense.
    """
    kind = None if drill is None else drill.kind
    takes = []
    files: list[Path | None] = [Path(one) for one in parameter_files]
    for file in files or [None]:
        plain = ParameterSet(name="default", values={})
        item = plain if file is None else read_model_parameters(file, kind)
        unit = None if file is None else length_unit_of(file)
        chosen = _chosen(item, mistakes, integrator, changes or {})
        own = kind or model_with(item.values)
        takes += [
            _in_unit(
                simulate(chosen, drill, kind=own, frame_rate=rate, jitter=jitter, seed=seed), unit
            )
            for rate in rates
        ]
    return takes


def _chosen(
    item: ParameterSet,
    mistakes: Sequence[str],
    integrator: str | None,
    changes: Mapping[str, Value],
) -> ParameterSet:
    """Return a parameter set with what the call has otherwise."""
    values = dict(item.values)
    if mistakes:
        values["mistakes"] = " ".join([str(values.get("mistakes", "")), *mistakes]).strip()
    if integrator:
        values["integrator"] = integrator
    name = f"{item.name}-changed" if changes else item.name
    return replace(item, name=name, values={**values, **changes})


def _in_unit(take: Take, unit: str | None) -> Take:
    """Return a take whose lengths are in the unit that its parameter file says."""
    return take if unit is None else replace(take, header=replace(take.header, length_unit=unit))


def parse_changes(items: Sequence[str]) -> dict[str, Value]:
    """Return values out of ``NAME=VALUE``; raises UsageError for anything else."""
    out: dict[str, Value] = {}
    for item in items:
        name, equals, text = item.partition("=")
        if not (name.strip() and equals and text.strip()):
            raise UsageError(f"--set is NAME=VALUE such as gravity_rise=44, not '{item}'")
        try:
            out[name.strip()] = float(text)
        except ValueError:
            out[name.strip()] = text.strip()
    return out


class ChangedMetric(Record, frozen=True, kw_only=True):
    """A metric of a take and of the same with other values; None where one has none."""

    rate: float
    take: str
    metric: str
    unit: Unit
    before: float | None
    after: float | None


def changed_metrics(before: Sequence[Take], after: Sequence[Take]) -> list[ChangedMetric]:
    """Return the metrics that differ between takes and those with other values, pair by pair."""
    rows = []
    for one, other in zip(before, after, strict=True):
        old, new = measure(one).by_metric(), measure(other).by_metric()
        rows += [
            ChangedMetric(
                rate=one.header.frame_rate or one.frame_rate,
                take=other.name,
                metric=name,
                unit=row.unit,
                before=row.value,
                after=new[name].value,
            )
            for name, row in old.items()
            if not _same(row.value, new[name].value)
        ]
    return rows


def _same(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is other
    return abs(other - one) <= _SAME * max(abs(one), abs(other))


def write_takes(takes: Sequence[Take], output: Path, *, encoding: str, force: bool) -> list[Path]:
    """Write takes to a folder, or one take to a file; returns the files.

    Refuses to replace files unless ``force`` is set (InputError), and several takes for
    one file (UsageError).
    """
    paths = _paths(takes, output, encoding)
    for path in paths:
        if path.exists() and not force:
            raise InputError("the file exists already; --force replaces it", str(path))
    for take, path in zip(takes, paths, strict=True):
        write_take(take, path, replace=force)
    return paths


def _paths(takes: Sequence[Take], output: Path, encoding: str) -> list[Path]:
    """Return the file of each take; raises UsageError for several takes in one."""
    if not output.suffix or output.is_dir():
        stems = distinct_stems([_stem(take) for take in takes])
        return [output / f"{stem}.{encoding}" for stem in stems]
    if not output.name.endswith(SUFFIXES):
        raise UsageError(f"{output}: the ending must be one of {', '.join(SUFFIXES)}")
    if len(takes) > 1:
        raise UsageError(f"{output}: {len(takes)} takes do not fit one file; name a folder")
    return [output]


def _stem(take: Take) -> str:
    """Return what a take's file is called; takes of one name are told apart by their folders."""
    if take.name != take.source:
        return take.name
    folder = Path(take.source).parent
    return "-".join([*(part for part in folder.parts if part.strip("./\\")), stem_of(take.source)])
