"""``kickback measure``."""

from functools import partial
from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
    Finite,
    analysed,
    cores_option,
    format_option,
    is_short,
    map_option,
    only_option,
    project_option,
    read_takes,
    spread,
    strict_reading_option,
    takes_argument,
    units_of,
)
from kickback.cli.output import say, tell

if TYPE_CHECKING:
    from collections.abc import Sequence

    from kickback.kinds.analysis import AnyAnalysis
    from kickback.metrics.record import Measurements

__all__ = ["command"]


def _place(text: str | None) -> tuple[float, ...] | None:
    """Return the numbers of a place; raises a usage error for anything else."""
    if text is None:
        return None
    try:
        place = tuple(float(part) for part in text.split(","))
    except ValueError:
        place = ()
    if len(place) not in {2, 3} or not all(abs(one) < float("inf") for one in place):
        raise click.BadParameter(
            f"a place such as 12.5,3 or 12.5,3,-4, not '{text}'", param_hint="--target"
        )
    return place


@click.command("measure")
@takes_argument
@map_option
@only_option
@click.option("--all", "every", is_flag=True, help="The details too, in any format.")
@click.option("--each", is_flag=True, help="Every occurrence with its time, not the median.")
@click.option(
    "--display",
    type=Finite(min=0, min_open=True),
    metavar="RATE",
    help="Judge smoothness as a display of so many pictures a second shows it.",
)
@click.option(
    "--target",
    metavar="PLACE",
    help="Hold shots against a place: x,y (or x,y,z), in the take's length unit.",
)
@click.option(
    "--ground",
    type=Finite(),
    metavar="HEIGHT",
    help="How high the ground is that ends a shot's rows; else the header's 'ground'.",
)
@format_option()
@strict_reading_option
@cores_option
@project_option
def command(
    takes: tuple[str, ...],
    map_file: str | None,
    only: tuple[str, ...],
    every: bool,
    each: bool,
    display: float | None,
    target: str | None,
    ground: float | None,
    how: str,
    strict: bool,
    many_cores: int | None,
    project: str | None,
) -> None:
    """Measure the metrics of TAKES: files, folders, patterns, @last, or - for a pipe.

    Several takes are shown side by side, those of a kind together. 'kickback metrics NAME'
    explains a metric. What a pause, a freeze or a cut scene touches is left out of the medians,
    and counted; --each shows it, marked.
    """
    from kickback.kinds.measuring import measure
    from kickback.kinds.several_takes import narrowed_windows
    from kickback.kinds.table import ASPECTS
    from kickback.project.settings import find_settings

    every = every or target is not None  # how it misses a target is a detail
    settings = find_settings(project).shown_on(display).aimed_at(_place(target), ground)
    with spread(many_cores) as cores:
        read = read_takes(takes, map_file, settings, strict=strict, cores=cores)
        left = [] if every or all(map(is_short, read)) else [one.name for one in ASPECTS]
        wanted = partial(measure, only=only, details=every, without=left)
        loaded = analysed(read, settings, cores, [wanted])
    measured = [wanted(one) for one in loaded]
    if how != "text":
        _tell_records(measured, how, each=each)
        return
    from kickback.show.console import Printer
    from kickback.show.measurements import show_each, show_measurements

    if each:
        show_each(Printer(), measured, units_of(settings))
        return
    for number, own in enumerate(_by_kind(loaded, measured)):
        if number:
            say()
        show_measurements(
            Printer(),
            own,
            units_of(settings),
            narrowed_windows(own),
            chosen=every or bool(only),
            left_out=left,
        )


def _tell_records(measured: "Sequence[Measurements]", how: str, *, each: bool) -> None:
    """Write what was measured for machines."""
    from kickback.kinds.several_takes import narrowed_windows
    from kickback.show.records import render_records

    records = [record for item in measured for record in item.to_records(each=each)]
    records += [] if each else [row.to_record() for row in narrowed_windows(measured)]
    tell(render_records(records, how))


def _by_kind(
    loaded: "Sequence[AnyAnalysis]", measured: "Sequence[Measurements]"
) -> "list[list[Measurements]]":
    """Return what was measured, takes of a kind together."""
    together: dict[str, list[Measurements]] = {}
    for one, item in zip(loaded, measured, strict=True):
        together.setdefault(one.kind.name, []).append(item)
    return list(together.values())
