"""``kickback framerate``."""

import click

from kickback.cli.common import (
    format_option,
    map_option,
    only_option,
    print_verdicts,
    project_option,
    read_takes,
    say_findings,
    say_warnings,
    strict_option,
    takes_argument,
    units_of,
)

__all__ = ["command"]


@click.command("framerate")
@takes_argument
@map_option
@only_option
@strict_option
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

    settings = find_settings(project)
    loaded = read_takes(takes, map_file, settings, strict=strict)
    say_findings(loaded, settings)
    result = frame_rates(
        loaded, only=only, budgets=settings.budgets, thresholds=settings.thresholds
    )
    say_warnings(result.warnings)
    if not result.groups:
        raise UsageError(
            "no group of takes at two or more frame rates; record the same drill and parameter"
            " set at another rate"
        )
    from kickback.show.frame_rates import show_frame_rates
    from kickback.show.junit import frame_rate_cases

    print_verdicts(
        result,
        how,
        strict=strict,
        show=lambda printer: show_frame_rates(printer, result, units_of(settings)),
        cases=lambda: ("kickback framerate", frame_rate_cases(result)),
    )
