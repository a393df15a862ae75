"""A baseline: what was accepted of a game's motion, exercise by exercise."""

from collections.abc import Mapping, Sequence

from kickback.errors import InputError
from kickback.judging.samples import Cell
from kickback.metrics.metric import Metric
from kickback.takes.record import Record, replace

__all__ = ["Baseline", "accepted", "exercise_name"]


class Baseline(Record, frozen=True, kw_only=True):
    """What was accepted: cells without analyses, and when and why, oldest first."""

    length_unit: str
    cells: Sequence[Cell]
    accepted: Sequence[Mapping[str, str]] = ()


def exercise_name(cell: Cell) -> str:
    """Return what an exercise is called in a baseline: who, with what, which drill, how fast."""
    own = cell.exercise
    parts = (own.subject, own.parameters, own.drill, f"{own.rate:.4g}/s")
    return " ".join(part for part in parts if part)


def accepted(
    old: Baseline | None,
    new: Sequence[Cell],
    unit: str,
    only: Sequence[Metric],
    why: Mapping[str, str],
) -> Baseline:
    """Return a baseline with new cells in the place of its own of the same exercise.

    Of ``only`` some metrics where given: the others stay as they were. Raises InputError where
    the lengths are in another unit than the old ones.
    """
    old = old or Baseline(length_unit=unit, cells=[])
    if old.length_unit != unit:
        raise InputError(
            f"the baseline is in {old.length_unit}, the takes are in {unit}: a new file, or [units]"
        )
    cells = {exercise_name(cell): cell for cell in old.cells}
    for cell in new:
        name = exercise_name(cell)
        cells[name] = _with_some(cells.get(name, cell), cell, only) if only else cell
    return Baseline(
        length_unit=unit, cells=list(cells.values()), accepted=[*old.accepted, dict(why)]
    )


def _with_some(kept: Cell, new: Cell, only: Sequence[Metric]) -> Cell:
    """Return a cell with the new samples of some metrics."""
    names = {metric.name for metric in only}
    chosen = {name: one for name, one in new.samples.items() if name in names}
    return replace(kept, samples={**kept.samples, **chosen})
