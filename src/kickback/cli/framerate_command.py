"""``kickback framerate``."""

from functools import partial
from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
    Finite,
    analysed,
    cores_option,
    draw,
    force_option,
    format_option,
    map_option,
    only_option,
    print_verdicts,
    project_option,
    read_takes,
    say_warnings,
    spread,
    strict_option,
    takes_argument,
    units_of,
)

if TYPE_CHECKING:
    from kickback.framerate.record import FrameRates

__all__ = ["command"]


@click.command("framerate")
@takes_argument
@click.option(
    "--keep",
    metavar="RATE",
    type=Finite(1, 100_000),
    help="The frame rate at which remedies change nothing; the project's reference rate without.",
)
@click.option(
    "--rates",
    metavar="LIST",
    help="Nominal rates of TAKES in their order, such as 30,60,144, where they do not say.",
)
@click.option("--figure", metavar="FILE", help="Also draw it, as *.png or *.svg.")
@force_option
@map_option
@only_option
@strict_option
@format_option(junit=True)
@cores_option
@project_option
def command(
    takes: tuple[str, ...],
    keep: float | None,
    rates: str | None,
    figure: str | None,
    force: bool,
    map_file: str | None,
    only: tuple[str, ...],
    strict: bool,
    how: str,
    many_cores: int | None,
    project: str | None,
) -> None:
    """Hold TAKES at different frame rates against each other.

    Takes of one subject, parameter set and drill form a group. First the causes: which term
    in the code depends on the frame rate, what it breaks, and what to write instead. Then
    each metric: steady, drifts (to a finite limit) or breaks (scales with the rate). A
    single take gives suspicions where its frame times are uneven, and what to look for
    where they are even. Exit status 1 where something breaks or drifts beyond its budget:
    [budgets] in kickback.toml, else 2 % or one frame's worth.
    """
    from kickback.framerate.analyse import measured_over_rates
    from kickback.kinds.recovering import recover_laws
    from kickback.project.settings import find_settings
    from kickback.workflows.rating import rated_takes, rating

    settings = find_settings(project)
    with spread(many_cores) as cores:
        read = read_takes(takes, map_file, settings, strict=strict, cores=cores)
        jobs = (partial(measured_over_rates, only=only), recover_laws)
        loaded = analysed(rated_takes(read, rates), settings, cores, jobs)
    result = rating(loaded, settings, only=only, keep=keep)
    say_warnings(result.warnings)
    if figure is not None:
        draw(figure, lambda: _drawn(result), force=force)
    from kickback.show.frame_rates import show_frame_rates
    from kickback.show.junit import frame_rate_cases

    print_verdicts(
        result,
        how,
        strict=strict,
        show=lambda printer: show_frame_rates(
            printer, result, units_of(settings), chosen=bool(only)
        ),
        cases=lambda: ("kickback framerate", frame_rate_cases(result)),
    )


def _drawn(result: "FrameRates") -> object:
    """Return the figure of a result's first group; UsageError where there is none."""
    from kickback.errors import UsageError
    from kickback.show.figures.rates import rate_figure
    from kickback.workflows.rating import overlays

    if not result.groups:
        raise UsageError("nothing to draw, no group of takes at two or more rates")
    return rate_figure(result, overlays(result))
