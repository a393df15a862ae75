"""``simulate``: takes from the built-in model, for every rate and parameter set asked for."""

from collections.abc import Sequence
from pathlib import Path

from kickback.errors import InputError, UsageError
from kickback.files.encodings import SUFFIXES
from kickback.files.names import distinct_stems
from kickback.files.read import stem_of
from kickback.files.write import write_take
from kickback.kinds.models import model_with, simulate
from kickback.kinds.playing.drills import Drill
from kickback.project.parameter_sets import read_model_parameters
from kickback.takes.header import ParameterSet
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["simulate_takes", "write_takes"]


def simulate_takes(
    parameter_files: Sequence[str],
    drill: Drill | None,
    *,
    rates: Sequence[float],
    mistakes: Sequence[str] = (),
    integrator: str | None = None,
    jitter: float = 0.0,
    seed: int = 0,
) -> list[Take]:
    """Play a drill, a short standard one without, with each parameter file at each rate.

    The drill says which kind of subject plays it, or else the parameters' names. Raises
    InputError or UsageError for a file, rate or mistake that makes no sense.
    """
    kind = None if drill is None else drill.kind
    sets = [read_model_parameters(Path(file), kind) for file in parameter_files]
    takes = []
    for item in sets or [ParameterSet(name="default", values={})]:
        values = dict(item.values)
        if mistakes:
            values["mistakes"] = " ".join([str(values.get("mistakes", "")), *mistakes]).strip()
        if integrator:
            values["integrator"] = integrator
        chosen = replace(item, values=values)
        own = kind or model_with(item.values)
        takes += [
            simulate(chosen, drill, kind=own, frame_rate=rate, jitter=jitter, seed=seed)
            for rate in rates
        ]
    return takes


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
