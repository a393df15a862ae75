"""What a recorder says: plain lines, and a table for each take."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.judging.compare import MetricChange
from kickback.metrics.record import Measurement
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, Cell, empty_table, styled
from kickback.workflows.reviewing import Review
from kickback.workflows.running import RunResult

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["finished_line", "run_line", "show_review", "show_runs"]


def finished_line(review: Review) -> str:
    """Return one sentence on a saved take."""
    finished = review.finished
    if review.problem:
        text = f"{finished.path}: {finished.frames} frames kept, but {review.problem}"
    else:
        text = (
            f"{finished.path}: {finished.frames} frames{_length(review)},"
            f" ended by {finished.ended_by}"
        )
    counts = [
        f"{count} {what}"
        for count, what in (
            (finished.dropped, "dropped by the sender"),
            (finished.lost, "lost on the way"),
            (finished.refused, "refused"),
        )
        if count
    ]
    if finished.problem:
        counts.append(f"the rest was not saved: {finished.problem}")
    if review.note:
        counts.append(review.note)
    return "; ".join([text, *counts])


def _length(review: Review) -> str:
    """Return how long a take lasts and at what rate, where that is known."""
    take, finished = review.take, review.finished
    if take is not None and len(take) == finished.frames:
        return f", {take.duration:.1f} s at {take.frame_rate:.4g} frames/s"
    if not finished.seconds:
        return ""
    rate = finished.frames / finished.seconds
    return f", {finished.seconds:.1f} s at {rate:.4g} frames/s"


def show_review(printer: Printer, review: Review, units: Units) -> None:
    """Print a take's metrics and how each differs from the takes before."""
    printer.line(finished_line(review), style="bold red" if review.problem else "bold")
    known = [item for item in review.measured if item.value is not None]
    again = bool(review.last_time_name) and review.last_time_name != review.before_name
    if known:
        printer.table(lambda narrow: _table(review, known, units, again=again, narrow=narrow))
        if review.before_name:
            printer.line(f"before: {review.before_name}", style="dim")
        if again:
            printer.line(
                f"last time, the same drill and parameter set: {review.last_time_name}", style="dim"
            )
        elif review.last_time_name:
            printer.line("the take before was of the same drill and parameter set", style="dim")
    for sentence in review.missing:
        printer.line(f"missing: {sentence}", style="yellow")


def _table(
    review: Review, known: Sequence[Measurement], units: Units, *, again: bool, narrow: bool
) -> "Table":
    """Return the table; a narrow one has no frames and tiles."""
    headings = ["this take", *([] if narrow else [" "])]
    if review.before_name:
        headings.append("vs before")
    if again:
        headings.append("vs last time")
    table = empty_table("metric", *headings)
    for item in known:
        cells: list[Cell] = [item.metric, units.show(item.value, item.unit)]
        if not narrow:
            cells.append(units.also(item.value, item.unit))
        if review.before_name:
            cells.append(_change(review.before.get(item.metric), units))
        if again:
            cells.append(_change(review.last_time.get(item.metric), units))
        table.add_row(*cells)
    return table


def _change(change: MetricChange | None, units: Units) -> Cell:
    if change is None:
        return ""
    if change.change is None or change.verdict == "same":
        return styled("new" if change.verdict == "new" else "same", "dim")
    share = change.change_relative
    relative = f" ({share:+.1%})" if share is not None else ""
    sign = "+" if change.change > 0 else ""
    if change.verdict == "cannot-tell":  # it may be how it was played
        return styled(f"{sign}{units.show(change.change, change.unit)}{relative} ?", "dim")
    # a change is no fault while someone is tuning: yellow says that a budget was written for it
    style = "bold yellow" if change.verdict == "regressed" else VERDICT_STYLES[change.verdict]
    return styled(f"{sign}{units.show(change.change, change.unit)}{relative}", style)


def run_line(result: RunResult) -> str:
    """Return one sentence on a run."""
    takes = ", ".join(f"{item.path.name} ({item.frames} frames)" for item in result.takes)
    return f"run {result.name}: {result.problem or 'done'}; {takes or 'no take'}"


def show_runs(printer: Printer, results: Sequence[RunResult]) -> None:
    """Print what became of each run."""
    failed = sum(bool(result.problem) for result in results)
    table = empty_table("run", "takes", "frames", "result")
    for result in results:
        table.add_row(
            result.name,
            str(len(result.takes)),
            str(sum(item.frames for item in result.takes)),
            styled(result.problem or "done", "bold red" if result.problem else "green"),
        )
    printer.table(lambda narrow: table)  # noqa: ARG005 - one width only
    printer.line(
        f"{failed} of {len(results)} runs failed." if failed else f"All {len(results)} runs done.",
        style="bold red" if failed else "green",
    )
