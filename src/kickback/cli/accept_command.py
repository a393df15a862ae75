"""``kickback accept``."""

from functools import partial

import click

from kickback.cli.common import (
    analysed,
    cores_option,
    map_option,
    only_option,
    project_option,
    read_takes,
    spread,
    takes_argument,
    units_of,
)
from kickback.cli.output import say_aside

__all__ = ["command"]


@click.command("accept")
@takes_argument
@click.option(
    "-o",
    "--baseline",
    metavar="FILE",
    help="The baseline; without: that of [gate], or baseline.json beside kickback.toml.",
)
@click.option("--because", default="", metavar="TEXT", help="Why, kept with the date.")
@only_option
@map_option
@cores_option
@project_option
def command(
    takes: tuple[str, ...],
    baseline: str | None,
    because: str,
    only: tuple[str, ...],
    map_file: str | None,
    many_cores: int | None,
    project: str | None,
) -> None:
    """Keep what TAKES show as the baseline that 'kickback gate' holds builds against.

    A text file for version control, one metric a line. The difference from what was accepted
    before is shown first. Exercises (drill, parameter set, frame rate) that TAKES do not have
    stay as they are; with --only other metrics do too.
    """
    from kickback.kinds.measuring import measure
    from kickback.kinds.recovering import recover_laws
    from kickback.project.settings import find_settings
    from kickback.show.comparison import show_rows
    from kickback.show.console import Printer
    from kickback.workflows.accepting import accepting, baseline_path

    settings = find_settings(project)
    with spread(many_cores) as cores:
        read = read_takes(takes, map_file, settings, cores=cores)
        loaded = analysed(read, settings, cores, (partial(measure, only=only), recover_laws))
    path = baseline_path(baseline, settings)
    result = accepting(loaded, settings, path, only=only, because=because)
    if result.difference is not None:
        show_rows(Printer(), result.difference, units_of(settings), every=False)
    result.keep()
    many = "exercise" if result.exercises == 1 else "exercises"
    what = f"{result.metrics} metrics of {result.exercises} {many}"
    say_aside(f"{path}: {what} accepted{f', because {because}' if because else ''}")
