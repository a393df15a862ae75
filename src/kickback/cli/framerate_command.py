"""``kickback framerate``."""

import sys

import click

from kickback.cli.common import (
    format_option,
    map_option,
    only_option,
    project_option,
    say_warnings,
    takes_argument,
    units_of,
)

__all__ = ["command"]


@click.command("framerate")
@takes_argument
@map_option
@only_option
@click.option("--strict", is_flag=True, help="Exit with 1 also where a verdict is cannot-tell.")
@format_option(junit=True)
@project_option
def command(
    takes: tuple[str, ...],
    map_file: str | None,
    only: tuple[str, ...],
    strict: bool,
    how: str,
    project: str | None,
) -> None:
    """Hold the metrics of TAKES at different frame rates against each other.

    Takes of one subject, parameter set and drill form a group. A metric is steady, drifts
    (to a finite limit) or breaks (scales with the rate). Exit status 1 where one breaks or
    drifts beyond its budget: [budgets] in kickback.toml, else 2 % or one frame's worth.
    """
    from kickback.errors import UsageError
    from kickback.framerate.analyse import frame_rates
    from kickback.project.settings import find_settings
    from kickback.workflows.reading import load_takes

    settings = find_settings(project)
    loaded = load_takes(takes, map_file, settings)
    result = frame_rates(loaded.takes, only=only, budgets=settings.budgets)
    say_warnings([*loaded.warnings, *result.warnings])
    if not result.groups:
        raise UsageError(
            "no group of takes at two or more frame rates; record the same drill and parameter"
            " set at another rate"
        )
    if how == "text":
        from kickback.show.console import Printer
        from kickback.show.frame_rates import show_frame_rates

        show_frame_rates(Printer(), result, units_of(settings))
    elif how == "junit":
        from kickback.show.junit import frame_rate_cases
        from kickback.show.records import as_junit

        click.echo(as_junit("kickback framerate", frame_rate_cases(result)))
    else:
        from kickback.show.records import render_records

        click.echo(render_records(result.to_records(), how))
    sys.exit(1 if result.failed or (strict and result.unsure) else 0)
