"""``kickback compare``."""

import click

from kickback.cli.common import (
    analysed,
    format_option,
    map_option,
    only_option,
    print_verdicts,
    project_option,
    read_takes,
    say_warnings,
    strict_option,
    units_of,
)

__all__ = ["command"]


@click.command("compare")
@click.argument("base")
@click.argument("candidate")
@map_option
@only_option
@strict_option
@format_option(junit=True)
@project_option
def command(
    base: str,
    candidate: str,
    map_file: str | None,
    only: tuple[str, ...],
    strict: bool,
    how: str,
    project: str | None,
) -> None:
    """Hold CANDIDATE's metrics against BASE's: each a take, a folder or a quoted pattern.

    Says what changed in the parameters and in the metrics. Exit status 1 where a metric
    regressed (moved beyond its budget, not nearer to its target) or was lost. Budgets:
    [budgets] in kickback.toml, else the larger of 2 % and the resolution.
    """
    from kickback.judging.compare import compare
    from kickback.project.settings import find_settings

    settings = find_settings(project)
    sides = [
        analysed(read_takes([side], map_file, settings, strict=strict), settings)
        for side in (base, candidate)
    ]
    result = compare(
        sides[0],
        sides[1],
        only=only,
        budgets=settings.budgets,
        targets=settings.targets,
    )
    say_warnings(result.warnings)
    from kickback.show.comparison import show_comparison
    from kickback.show.junit import comparison_cases

    print_verdicts(
        result,
        how,
        strict=strict,
        show=lambda printer: show_comparison(printer, result, units_of(settings)),
        cases=lambda: ("kickback compare", comparison_cases(result)),
    )
