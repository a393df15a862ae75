"""From a call of ``kickback record`` to what is to be done."""

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from kickback.errors import UsageError
from kickback.files.mapping import read_mapping
from kickback.project.parameter_sets import read_drill
from kickback.record.limits import limits_from
from kickback.workflows.recording import RecordPlan
from kickback.workflows.running import RunPlan

if TYPE_CHECKING:
    from kickback.kinds.playing.drills import Drill

__all__ = ["Call", "plan_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """A call's sources and options, as they were given."""

    sources: tuple[str, ...]
    folder: str
    gap: float
    encoding: str
    map_file: str | None
    follow: bool
    most: int | None
    drill: str | None
    run: str | None
    rates: tuple[float, ...]
    parameters: tuple[str, ...]
    repeat: int
    at_once: int
    timeout: float
    bind: str
    token: str | None
    origins: tuple[str, ...]
    limits: tuple[str, ...]


def plan_of(call: Call) -> RecordPlan:
    """Return what a call asks for; raises UsageError and InputError where it makes no sense."""
    exercise = read_drill(Path(call.drill)) if call.drill else None
    return RecordPlan(
        sources=call.sources,
        folder=Path(call.folder),
        gap=call.gap,
        limits=limits_from(call.limits),
        encoding=call.encoding,
        mapping=read_mapping(Path(call.map_file)) if call.map_file else None,
        follow=call.follow,
        bind=call.bind,
        token=call.token,
        origins=call.origins,
        drill=exercise,
        most=call.most,
        runs=_runs_of(call, exercise),
    )


def _runs_of(call: Call, exercise: "Drill | None") -> RunPlan | None:
    """Return which runs of a game a call asks for, None for none."""
    if call.run is None:
        if call.rates or call.parameters or call.repeat != 1 or call.at_once != 1:
            raise UsageError(
                "--rate, --parameters, --repeat and --at-once say how to run a game: --run is"
                " missing"
            )
        return None
    return RunPlan(
        command=call.run,
        rates=call.rates,
        parameters=call.parameters,
        repeats=call.repeat,
        at_once=call.at_once,
        timeout=call.timeout,
        drill_file=call.drill or "",
        drill_name=exercise.name if exercise else "",
        token=call.token or "",
        piped="-" in call.sources,
    )
