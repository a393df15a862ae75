"""``sweep``: a parameter file and what is varied in; a table of sets and what moves what out."""

import csv
import io
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from kickback.errors import InputError, UsageError
from kickback.files.arrow import need_arrow
from kickback.files.atomic import write_new
from kickback.files.toml import with_table
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.measuring import measure
from kickback.kinds.models import model_named, model_with
from kickback.kinds.playing.drills import Drill
from kickback.kinds.table import all_metrics, analyse
from kickback.metrics.metric import select_metrics
from kickback.project.parameter_sets import (
    length_unit_of,
    read_drill,
    read_model_parameters,
    read_parameter_set,
)
from kickback.project.settings import Settings
from kickback.takes.header import ParameterSet, Value
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.record import Record
from kickback.tuning.sweep.moved import swept
from kickback.tuning.sweep.plan import planned
from kickback.tuning.sweep.record import Knob, Point, SweepPlan, Swept
from kickback.workflows.cores import Cores
from kickback.workflows.journal import Journal

__all__ = ["GamePlan", "SweepCall", "parse_knobs", "run_sweep", "table_bytes"]

_TOGETHER = 25
"""Sets that are played and measured in one go, and kept."""

_FEW = 50
"""Sets up to which more processes cost more than they save."""

_ENDINGS = (".csv", ".parquet")

_OF_MISTAKES = ("reference_rate", "largest_step")
"""Parameters that only say how mistakes behave."""


class GamePlan(Record, frozen=True, kw_only=True):
    """How the game itself plays a sweep: as ``record --run`` does, into a ``folder``."""

    command: str
    drill_file: str
    folder: Path
    timeout: float
    observer: Any


class SweepCall(Record, frozen=True, kw_only=True):
    """What to vary, how, and where results go.

    ``drill`` is a file or a built-in one, the usual one of the kind without; ``output`` keeps what
    is done; ``cores`` bounds the processes.
    """

    file: Path
    knobs: Sequence[Knob]
    rates: Sequence[float]
    only: Sequence[str] = ()
    grid: int = 5
    samples: int | None = None
    seed: int = 0
    drill: str = ""
    output: Path | None = None
    force: bool = False
    cores: int = 1
    game: GamePlan | None = None


def parse_knobs(items: Sequence[str]) -> list[Knob]:
    """Return what is varied out of ``NAME``, ``NAME=LOW..HIGH`` and ``NAME=A,B,C``.

    Raises UsageError for anything else.
    """
    out: dict[str, Knob] = {}
    for item in items:
        name, equals, text = (part.strip() for part in item.partition("="))
        if not name or (equals and not text):
            raise UsageError(f"--vary is NAME=LOW..HIGH, NAME=A,B,C or NAME, not '{item}'")
        if name in out:
            raise UsageError(f"--vary {name} is there twice")
        out[name] = _knob(name, text, item) if equals else Knob(name=name)
    return list(out.values())


def _knob(name: str, text: str, item: str) -> Knob:
    low, dots, high = text.partition("..")
    try:
        values = [float(low), float(high)] if dots else [float(one) for one in text.split(",")]
    except ValueError as error:
        raise UsageError(f"--vary is NAME=LOW..HIGH or NAME=A,B,C of numbers: '{item}'") from error
    if not all(abs(one) < float("inf") for one in values):
        raise UsageError(f"--vary: '{item}' is not finite")
    if dots and values[0] >= values[1]:
        raise UsageError(f"--vary: '{item}' goes from low to high")
    return (
        Knob(name=name, low=values[0], high=values[1])
        if dots
        else Knob(name=name, values=tuple(values))
    )


def run_sweep(call: SweepCall, settings: Settings, told: Callable[[int, int], None]) -> Swept:
    """Play and measure every set, and say what moves what.

    ``told`` hears how many sets of how many are done. With an output a call that was stopped goes
    on where it did. Raises UsageError and InputError for a call or files that make no sense, and
    where the game did not play.
    """
    _check_output(call)
    plan, kind = _plan(call)
    drill = _drill(call, kind)
    names = [one.name for one in select_metrics(all_metrics(), call.only)]
    journal = _journal(call, plan, names)
    points = [] if journal is None else [_point(one) for one in journal.done]
    done = {(one.number, one.rate) for one in points}
    played = _by_game if call.game is not None else _by_model
    for some in played(call, plan, kind, drill, _Asked(names, settings), done):
        points += some
        if journal is not None:
            journal.add([_kept(one) for one in some])
        told(len(points), len(plan.sets) * len(call.rates))
    points.sort(key=lambda one: (call.rates.index(one.rate), one.number))
    result = swept(plan, call.rates, points, _units(points, call, settings))
    if journal is not None:
        write_new(journal.result, table_bytes(result, journal.result.suffix), replace=call.force)
        journal.remove()
    return result


def _drill(call: SweepCall, kind: str) -> Drill | None:
    """Return the drill to play: the usual one of the model without; None where the game knows."""
    if call.drill:
        drill = read_drill(Path(call.drill))
        if kind and drill.kind != kind:
            raise UsageError(f"the drill is for the kind '{drill.kind}', {call.file} for '{kind}'")
        return drill
    return None if call.game is not None else next(iter(model_named(kind).drills.values()))()


def _check_output(call: SweepCall) -> None:
    if call.output is None:
        return
    if call.output.suffix not in _ENDINGS:
        raise UsageError(f"{call.output}: the ending must be {' or '.join(_ENDINGS)}")
    if call.output.suffix == ".parquet":
        need_arrow(f"{call.output}: Parquet")
    if call.output.exists() and not call.force:
        raise InputError("the file exists already; --force replaces it", str(call.output))


def _plan(call: SweepCall) -> tuple[SweepPlan, str]:
    """Return the sets to be played, and the kind whose model plays them."""
    if call.game is not None:
        base: Mapping[str, Value] = read_parameter_set(call.file).values
        kind = ""
    else:
        found = read_model_parameters(call.file)
        kind = model_with(found.values)
        table = model_named(kind).parameters
        base = {name: one.default for name, one in table.items()} | dict(found.values)
    knobs = list(call.knobs) or [
        Knob(name=name)
        for name, value in base.items()
        if isinstance(value, int | float)
        and not isinstance(value, bool)
        and value
        and name not in _OF_MISTAKES
    ]
    return planned(base, knobs, grid=call.grid, samples=call.samples, seed=call.seed), kind


def _journal(call: SweepCall, plan: SweepPlan, names: Sequence[str]) -> Journal | None:
    """Return what is done already of this very call; None where nothing is to be kept."""
    if call.output is None:
        return None
    work = {
        "base": dict(plan.base),
        "sets": [dict(one) for one in plan.sets],
        "names": list(names),
        "rates": list(call.rates),
        "drill": call.drill,
        "run": call.game.command if call.game is not None else "",
    }
    part = call.output.with_name(f"{call.output.name}.part")
    try:
        return Journal(call.output, work)
    except InputError:
        if not call.force:
            raise
        part.unlink(missing_ok=True)
        return Journal(call.output, work)


def _kept(one: Point) -> PlainDict:
    return {"number": one.number, "rate": one.rate, "metrics": dict(one.metrics)}


def _point(row: PlainMap) -> Point:
    return Point(number=row["number"], rate=row["rate"], metrics=row["metrics"])


Done = set[tuple[int, float]]


class _Asked(NamedTuple):
    """Which metrics are asked for, and how the project wants them measured."""

    names: Sequence[str]
    settings: Settings


def _by_model(
    call: SweepCall,
    plan: SweepPlan,
    kind: str,
    drill: Drill | None,
    asked: _Asked,
    done: Done,
) -> Iterator[list[Point]]:
    """Play sets that are not done by the model, some at a time, on as many cores as there are."""
    works = []
    for rate in call.rates:
        left = [k for k in range(len(plan.sets)) if (k, rate) not in done]
        for begin in range(0, len(left), _TOGETHER):
            some = left[begin : begin + _TOGETHER]
            sets = [{**plan.base, **plan.sets[k]} for k in some]
            works.append((kind, sets, some, drill, rate, list(asked.names), asked.settings.options))
    with Cores(min(call.cores, max(1, len(works)))) as cores:
        pays = sum(len(work[2]) for work in works) > _FEW
        yield from cores.each(_measured, works, pays=pays, together=1)


def _measured(work: tuple[Any, ...]) -> list[Point]:
    """Play and measure some sets at a frame rate."""
    kind, sets, numbers, drill, rate, names, options = work
    named = [
        ParameterSet(name=f"set {k}", values=one) for k, one in zip(numbers, sets, strict=True)
    ]
    takes = model_named(kind).simulate_many(named, drill, frame_rate=rate)
    return [
        Point(number=k, rate=rate, metrics=_metrics(analyse(take, options), names))
        for k, take in zip(numbers, takes, strict=True)
    ]


def _metrics(take: AnyAnalysis, names: Sequence[str]) -> dict[str, float | None]:
    own = set(names)
    return {row.metric: row.value for row in measure(take).rows if row.metric in own}


def _by_game(
    call: SweepCall,
    plan: SweepPlan,
    kind: str,
    drill: Drill | None,
    asked: _Asked,
    done: Done,
) -> Iterator[list[Point]]:
    """Let the game play sets that are not done, one after the other."""
    del kind
    for number, changes in enumerate(plan.sets):
        rates = [rate for rate in call.rates if (number, rate) not in done]
        if rates:
            yield _played(call, number, changes, rates, drill, asked)


def _played(
    call: SweepCall,
    number: int,
    changes: Mapping[str, float],
    rates: Sequence[float],
    drill: Drill | None,
    asked: _Asked,
) -> list[Point]:
    """Let the game play one set at some rates, and measure its takes."""
    from kickback.files.read import read_take

    game = call.game
    if game is None:
        raise TypeError("a sweep by the game needs its command")
    file = game.folder / f"set-{number:04}.toml"
    write_new(file, with_table(call.file, "values", changes), replace=True)
    points = []
    for rate in rates:
        takes, problem = _recorded(game, file, rate, drill, asked.settings)
        if problem or len(takes) != 1:
            what = problem or f"{len(takes)} takes in the place of one"
            raise InputError(f"the game did not play set {number} ({what})", game.command)
        found = _metrics(asked.settings.analysis(read_take(takes[0])), asked.names)
        points.append(Point(number=number, rate=rate, metrics=found))
    return points


def _recorded(
    game: GamePlan, file: Path, rate: float, drill: Drill | None, settings: Settings
) -> tuple[list[Path], str]:
    """Run the game once, and return its takes, or what went wrong."""
    from kickback.workflows.recording import RecordPlan, record
    from kickback.workflows.running import RunPlan

    runs = RunPlan(
        command=game.command,
        rates=[rate] if "{rate}" in game.command else [],
        parameters=[str(file)],
        timeout=game.timeout,
        drill_file=game.drill_file,
        drill_name="" if drill is None else drill.name,
    )
    folder = game.folder / f"{file.stem}-{rate:g}"
    outcome = record(RecordPlan(folder=folder, drill=drill, runs=runs), settings, game.observer)
    if outcome.stopped:
        raise KeyboardInterrupt
    takes = [one.path for run in outcome.runs for one in run.takes]
    return takes, next((run.problem for run in outcome.runs if run.problem), "")


def _units(points: Sequence[Point], call: SweepCall, settings: Settings) -> dict[str, str]:
    """Return the units of the metrics that any take shows."""
    length = length_unit_of(call.file) or settings.length_unit or "m"
    shown = {name for one in points for name, value in one.metrics.items() if value is not None}
    return {
        one.name: str(one.dimension.within(length)) for one in all_metrics() if one.name in shown
    }


def table_bytes(result: Swept, ending: str) -> bytes:
    """Return a sweep as a table: a row a set and rate, its parameters, and its metrics."""
    rows = _rows(result)
    if ending == ".parquet":
        import pyarrow as pa
        from pyarrow import parquet

        sink = pa.BufferOutputStream()
        parquet.write_table(pa.Table.from_pylist(rows), sink)
        return bytes(sink.getvalue())
    text = io.StringIO(newline="")
    writer = csv.DictWriter(text, fieldnames=list(rows[0]), lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)
    return text.getvalue().encode()


def _rows(result: Swept) -> list[PlainDict]:
    names = [one.name for one in result.plan.knobs]
    metrics = list(result.units)
    first = result.plan.first_swept
    rows = []
    for one in result.points:
        values = {**result.plan.base, **result.plan.sets[one.number]}
        part = "base" if not one.number else "beside" if one.number < first else "range"
        rows.append(
            {"set": one.number, "part": part, "rate": one.rate}
            | {name: values[name] for name in names}
            | {name: one.metrics.get(name) for name in metrics}
        )
    return rows
