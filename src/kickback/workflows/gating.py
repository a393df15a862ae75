"""``gate``: takes, or the game itself, in; one verdict on the build out."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kickback.errors import InputError, UsageError
from kickback.framerate.analyse import frame_rates
from kickback.gate.verdict import Gate
from kickback.judging.baseline import Baseline
from kickback.judging.chain import chain_of
from kickback.judging.compare import Comparison, check_units, compare_cells, rules_of
from kickback.judging.pairing import paired
from kickback.judging.samples import Cell
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.examining import examine
from kickback.kinds.table import all_metrics
from kickback.metrics.metric import select_metrics
from kickback.project.parameter_sets import read_drill
from kickback.project.settings import Settings
from kickback.takes.record import replace
from kickback.workflows.comparing import side_of

if TYPE_CHECKING:
    from kickback.workflows.recording import Observer

__all__ = ["UnableError", "gating", "play_game"]

_EXAMINED = 100_000
"""Frames up to which takes are examined."""


class UnableError(Exception):
    """The game could not be run, which says nothing of how it plays."""


def _drill_files(home: Path, drills: Sequence[str]) -> list[str]:
    """Return the files of drills; of none one without."""
    return [str(home / name) if name else "" for name in drills or ("",)]


def play_game(
    settings: Settings, folder: Path, observer: "Observer", at_once: int | None = None
) -> None:
    """Run the game as [gate] says, every drill, rate, parameter set and repeat, into a folder.

    Raises UsageError where [gate] names no command, UnableError where a run did not come about.
    """
    from kickback.workflows.recording import RecordPlan, record
    from kickback.workflows.running import RunPlan

    gate = settings.gate
    if not gate.run:
        raise UsageError(
            "no takes were given, and kickback.toml has no [gate] with a 'run' to make them"
        )
    home = settings.path.parent if settings.path is not None else Path()
    at_once = at_once or gate.at_once
    for file in _drill_files(home, gate.drills):
        drill = read_drill(Path(file)) if file else None
        plan = RecordPlan(
            sources=tuple(gate.sources),
            folder=folder,
            drill=drill,
            runs=RunPlan(
                command=gate.run,
                rates=gate.rates,
                parameters=[str(home / one) for one in gate.parameters],
                repeats=gate.repeats,
                timeout=gate.timeout,
                at_once=at_once,
                drill_file=file,
                drill_name=drill.name if drill is not None else "",
                piped="-" in gate.sources,
            ),
        )
        outcome = record(plan, settings, observer)
        if outcome.stopped:
            raise KeyboardInterrupt
        for result in outcome.runs:
            if result.problem:
                raise UnableError(f"{result.name}: {result.problem}")


def gating(
    takes: Sequence[AnyAnalysis],
    settings: Settings,
    baseline: Baseline | None,
    name: str,
    *,
    only: Sequence[str],
) -> Gate:
    """Hold takes against a baseline, budgets, targets and frame rates in one verdict.

    Raises InputError where lengths are in another unit than the baseline's, or no exercise of
    the baseline was played.
    """
    check_units([one.take for one in takes])
    cells = side_of(takes, settings, only)
    metrics = select_metrics(all_metrics(), only)
    comparison, unplayed = _against(baseline, cells, settings, metrics, name)
    chain = None
    if baseline is not None and comparison is not None:
        chain = chain_of(comparison, *paired(baseline.cells, cells).pairs[0])
    rates = frame_rates(takes, only=only, budgets=settings.budgets, keep=settings.reference_rate)
    findings = [
        item
        for one in takes
        if len(one.take) <= _EXAMINED
        for item in examine(one)
        if item.severity == "error"
    ]
    warnings = list(comparison.warnings) if comparison is not None else []
    return Gate(
        against=name if baseline is not None else "",
        takes=len(takes),
        comparison=comparison,
        rates=rates,
        findings=findings,
        unplayed=unplayed,
        chain=chain,
        warnings=warnings,
    )


def _against(
    baseline: Baseline | None, cells: Sequence[Cell], settings: Settings, metrics: Any, name: str
) -> tuple[Comparison | None, list[str]]:
    """Return the comparison, and the exercises of the baseline that were not played."""
    rules = rules_of(settings.budgets, settings.targets, gate=True)
    if baseline is None:  # what metrics must be can be judged all the same
        found = compare_cells(cells, cells, metrics, rules)
        bounded = [row for row in found.rows if row.verdict in {"met", "missed"}]
        return (replace(found, rows=bounded, base="none") if bounded else None), []
    unit = cells[0].analyses[0].take.header.length_unit
    if unit != baseline.length_unit:
        raise InputError(f"is in {baseline.length_unit}, the takes are in {unit}", name)
    found = compare_cells(baseline.cells, cells, metrics, rules)
    unplayed = [one.removeprefix(_OURS) for one in found.alone if one.startswith(_OURS)]
    extra = [
        one.replace(_THEIRS, "not in the baseline: ")
        for one in found.alone
        if one.startswith(_THEIRS)
    ]
    warnings = [*found.warnings, *_odd(baseline.cells, cells), *extra]
    return replace(found, base=Path(name).name, warnings=warnings), unplayed


_OURS, _THEIRS = "only in the base: ", "only in the candidate: "


def _odd(base: Sequence[Cell], cells: Sequence[Cell]) -> list[str]:
    """Say where the one parameter set of the takes is not the baseline's."""
    ours, theirs = ({cell.exercise.parameters or "none" for cell in side} for side in (base, cells))
    if len(ours) == len(theirs) == 1 and ours != theirs:
        return [f"the parameter set is {theirs.pop()}, the baseline's {ours.pop()}"]
    return []
