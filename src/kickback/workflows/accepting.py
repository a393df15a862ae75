"""``accept``: takes into a baseline; and reading one."""

from collections.abc import Sequence
from datetime import date
from pathlib import Path

from kickback.errors import InputError
from kickback.files.atomic import write_new
from kickback.judging.baseline import Baseline, accepted
from kickback.judging.chain import constants_of
from kickback.judging.compare import Comparison, check_units, compare_cells, rules_of
from kickback.judging.samples import Cell
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.recovering import recover_laws
from kickback.kinds.table import all_metrics
from kickback.metrics.metric import select_metrics
from kickback.project.baselines import from_text, to_text
from kickback.project.settings import Settings
from kickback.takes.record import Record, replace
from kickback.workflows.comparing import side_of

__all__ = ["BASELINE", "Accepting", "accepting", "baseline_path", "read_baseline"]

BASELINE = "baseline.json"
"""The baseline's file, beside the project file."""


class Accepting(Record, frozen=True, kw_only=True):
    """What would be accepted: the new text, and what it changes, None where there was none."""

    path: Path
    text: str
    difference: Comparison | None
    metrics: int
    exercises: int

    def keep(self) -> None:
        """Write the baseline, whole or not at all."""
        write_new(self.path, self.text.encode(), replace=True)


def baseline_path(given: str | None, settings: Settings) -> Path:
    """Return where the baseline is: as called for, as the project says, or beside its file."""
    if given is not None:
        return Path(given)
    home = settings.path.parent if settings.path is not None else Path()
    return home / (settings.gate.baseline or BASELINE)


def read_baseline(path: Path) -> Baseline:
    """Read a baseline; raises InputError where there is none, or it is not one."""
    try:
        text = path.read_text(encoding="utf-8")
    except FileNotFoundError as error:
        raise InputError("no such baseline: 'kickback accept' writes one", str(path)) from error
    except (OSError, UnicodeDecodeError) as error:
        raise InputError(f"cannot be read as a baseline ({error})", str(path)) from error
    return from_text(text, str(path), all_metrics())


def _with_constants(cell: Cell) -> Cell:
    try:
        told = constants_of(recover_laws(cell.analyses[0]))
    except InputError:
        return cell
    return replace(cell, constants=told)


def accepting(
    takes: Sequence[AnyAnalysis],
    settings: Settings,
    path: Path,
    *,
    only: Sequence[str],
    because: str,
) -> Accepting:
    """Return what accepting takes would make of a baseline.

    Raises InputError where the takes' units differ, or the file that is there is no baseline.
    """
    check_units([one.take for one in takes])
    metrics = select_metrics(all_metrics(), only)
    cells = [_with_constants(cell) for cell in side_of(takes, settings, only)]
    old = read_baseline(path) if path.exists() else None
    why = {"date": date.today().isoformat(), **({"because": because} if because else {})}
    unit = takes[0].take.header.length_unit
    new = accepted(old, cells, unit, metrics if only else (), why)
    return Accepting(
        path=path,
        text=to_text(new),
        difference=_difference(old, cells, settings, only),
        metrics=sum(bool(one.readings) for cell in cells for one in cell.samples.values()),
        exercises=len(cells),
    )


def _difference(
    old: Baseline | None, cells: Sequence[Cell], settings: Settings, only: Sequence[str]
) -> Comparison | None:
    if old is None:
        return None
    metrics = select_metrics(all_metrics(), only)
    try:
        return compare_cells(
            old.cells, cells, metrics, rules_of(settings.budgets, settings.targets)
        )
    except InputError:  # other exercises than it has: nothing to hold against each other
        return None
