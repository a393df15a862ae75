"""``kickback compare``."""

import click

from kickback.cli.common import (
    format_option,
    map_option,
    only_option,
    print_verdicts,
    project_option,
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
    from kickback.comparison.compare import compare
    from kickback.project.settings import find_settings
    from kickback.workflows.reading import load_takes

    settings = find_settings(project)
    sides = [load_takes([side], map_file, settings) for side in (base, candidate)]
    result = compare(
        sides[0].takes,
        sides[1].takes,
        only=only,
        budgets=settings.budgets,
        targets=settings.targets,
    )
    say_warnings([*sides[0].warnings, *sides[1].warnings, *result.warnings])
    from kickback.show.comparison import show_comparison
    from kickback.show.junit import comparison_cases

    print_verdicts(
        result,
        how,
        strict=strict,
        show=lambda printer: show_comparison(printer, result, units_of(settings)),
        cases=lambda: ("kickback compare", comparison_cases(result)),
    )
