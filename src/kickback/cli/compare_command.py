"""``kickback compare``."""

import sys
from functools import partial
from itertools import islice
from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
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
    units_of,
)
from kickback.cli.output import say_aside

if TYPE_CHECKING:
    from collections.abc import Sequence

    from kickback.kinds.analysis import AnyAnalysis
    from kickback.project.settings import Settings
    from kickback.show.console import Printer
    from kickback.workflows.comparing import Several

__all__ = ["command"]


@click.command("compare")
@click.argument("sides", nargs=-1, required=True, metavar="BASE CANDIDATE...")
@click.option("--all", "every", is_flag=True, help="Also list the metrics that are as before.")
@click.option(
    "--repeats",
    is_flag=True,
    help="Take all as repeats of one: is the game deterministic, and how wide is the noise?",
)
@click.option(
    "--keep",
    is_flag=True,
    help="With --repeats: keep the noise in the project file, so that a single take is judged.",
)
@click.option("--figure", metavar="FILE", help="Also draw the first candidate, as *.png or *.svg.")
@force_option
@map_option
@only_option
@strict_option
@format_option(junit=True)
@cores_option
@project_option
def command(
    sides: tuple[str, ...],
    every: bool,
    repeats: bool,
    keep: bool,
    figure: str | None,
    force: bool,
    map_file: str | None,
    only: tuple[str, ...],
    strict: bool,
    how: str,
    many_cores: int | None,
    project: str | None,
) -> None:
    """Hold each CANDIDATE's metrics against BASE's: a take, a folder or a quoted pattern each.

    Says in words what happened, which metrics moved, and why: through the parameters and the
    laws that changed. Takes are paired by drill, frame rate and parameter set, and what was
    played differently is held against its like. Exit status 1 where a metric moved beyond a
    budget or away from a target that kickback.toml has, or is not what it must be; what nobody
    wrote a budget for is 'changed' and fails nothing.
    """
    from kickback.kinds.measuring import measure
    from kickback.project.settings import find_settings

    _check(repeats=repeats, keep=keep, figure=figure)
    settings = find_settings(project)
    with spread(many_cores) as cores:
        read = [
            read_takes([side], map_file, settings, strict=strict, cores=cores) for side in sides
        ]
        every_take = [take for side in read for take in side]
        found = analysed(every_take, settings, cores, [partial(measure, only=only)])
    if repeats:
        _repeats(list(found), settings, only, how, keep=keep)
        return
    each = iter(found)
    loaded = [list(islice(each, len(side))) for side in read]
    from kickback.workflows.comparing import comparing

    result = comparing(loaded, settings, only=only)
    say_warnings(_said(result))
    if figure is not None:
        draw(figure, lambda: _drawn(result), force=force)
    from kickback.show.junit import comparison_cases

    print_verdicts(
        result,
        how,
        strict=strict,
        show=lambda printer: _show(printer, result, settings, every=every),
        cases=lambda: (
            "kickback compare",
            [case for one in result.found for case in comparison_cases(one.result)],
        ),
    )


def _said(result: "Several") -> list[str]:
    """Return the warnings of all comparisons, each once."""
    said = [w for one in result.found for w in (*one.result.warnings, one.unsaid) if w]
    return list(dict.fromkeys(said))


def _check(*, repeats: bool, keep: bool, figure: str | None) -> None:
    """Raise UsageError for options that would be passed over."""
    if keep and not repeats:
        raise click.UsageError("--keep keeps what --repeats finds: it is missing")
    if figure is not None and repeats:
        raise click.UsageError("--figure draws a candidate over a base: --repeats has neither")


def _show(printer: "Printer", result: "Several", settings: "Settings", *, every: bool) -> None:
    from kickback.show.comparison import show_comparison
    from kickback.show.several import show_several

    if len(result.found) > 1:
        show_several(printer, result, units_of(settings))
    else:
        show_comparison(printer, result.found[0], units_of(settings), every=every)


def _repeats(
    takes: "Sequence[AnyAnalysis]",
    settings: "Settings",
    only: tuple[str, ...],
    how: str,
    *,
    keep: bool,
) -> None:
    """Print what repeats say, and keep the noise where it is wanted."""
    from kickback.cli.output import tell
    from kickback.show.console import Printer
    from kickback.show.formats import format_named
    from kickback.show.several import show_repeats
    from kickback.workflows.comparing import keep_noise, repeating

    found = repeating(takes, settings, only=only)
    if how == "text":
        show_repeats(Printer(), found, units_of(settings))
    else:
        chosen = format_named(how)
        if chosen.verdicts_only:
            raise click.UsageError(f"--repeats gives no verdicts: {how} has nothing to hold")
        tell(chosen.write([record for one in found for record in one.to_records()]))
    if keep:
        path, many = keep_noise(found, settings)
        say_aside(f"{path}: the noise of {many} metrics kept in [noise]")
    sys.exit(0)


def _drawn(result: "Several") -> object:
    """Return the figure of the first candidate against the base."""
    from kickback.show.figures.sides import sides_figure
    from kickback.workflows.overlaying import laid_over

    one = result.found[0]
    return sides_figure(one, laid_over(*one.sides, one.result.worst))
