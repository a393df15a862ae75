"""``kickback solve``."""

from typing import TYPE_CHECKING

import click

from kickback.cli.common import Finite, force_option, format_option, project_option, units_of
from kickback.cli.saying import say_aside, tell

if TYPE_CHECKING:
    from kickback.project.settings import Settings
    from kickback.solving.record import Solution
    from kickback.workflows.own_names import InCode

__all__ = ["command"]


@click.command("solve")
@click.argument("parameters", metavar="PARAMETERS")
@click.option("--wish", "wishes", metavar="METRIC=AMOUNT", multiple=True,
              help="What a metric shall be, in any unit of the project, such as"
              " 'jump.apex_height=4 tiles'; may be repeated.")  # fmt: skip
@click.option("--wishes", "file", metavar="FILE", help="A TOML file with wishes under [wishes].")
@click.option("--keep", metavar="NAME", multiple=True,
              help="A parameter that stays as it is; may be repeated.")  # fmt: skip
@click.option("--rate", type=Finite(1, 100_000), metavar="RATE",
              help="The frame rate to solve for; the project's reference without.")  # fmt: skip
@click.option("--rates", default="30,60,144", show_default=True, metavar="LIST",
              help="Frame rates to look at the solution at.")  # fmt: skip
@click.option("--digits", type=click.IntRange(0, 12), metavar="N",
              help="Round new numbers to so many decimals, and measure again.")  # fmt: skip
@click.option("-o", "--output", metavar="FILE", help="Write the file with its new numbers here.")
@click.option("--write", is_flag=True,
              help="Write the new numbers into PARAMETERS itself, and into the game's own files"
              " that [names] in kickback.toml tells; what changes is shown.")  # fmt: skip
@force_option
@format_option()
@project_option
def command(
    parameters: str,
    wishes: tuple[str, ...],
    file: str | None,
    keep: tuple[str, ...],
    rate: float | None,
    rates: str,
    digits: int | None,
    output: str | None,
    write: bool,
    force: bool,
    how: str,
    project: str | None,
) -> None:
    r"""Find the parameters with which metrics are what you wish.

    PARAMETERS is a file for the built-in model, perhaps one that 'kickback fit' wrote. What is
    found is exact for its order of integration at one frame rate, checked by playing it, there
    and at other rates. Wishes that exclude each other are explained, with what is to be had.

    \b
    kickback solve params/brisk.toml --wish "jump.apex_height=4 tiles" \
        --wish "jump.time_to_apex=0.4 s" --keep run_speed --digits 2 -o params/high.toml

    Exit status 1 where not all wishes can be fulfilled.
    """
    from pathlib import Path

    from kickback.errors import UsageError
    from kickback.files.atomic import write_new
    from kickback.project.settings import find_settings
    from kickback.show.solution import show_solution, solution_records
    from kickback.workflows.solving import parse_rates, read_wishes, solve_file, solved_file

    settings = find_settings(project)
    result = solve_file(
        Path(parameters), read_wishes(wishes, file), settings, keep=keep, rate=rate,
        rates=parse_rates(rates), digits=digits,
    )  # fmt: skip
    if write and output is not None:
        raise UsageError("--write is into PARAMETERS, --output into another file: give one")
    if how == "text":
        from kickback.show.console import Printer

        show_solution(Printer(), result, units_of(settings), _spoken(result, settings))
    else:
        from kickback.show.records import render_records

        tell(render_records(solution_records(result), how))
    target = parameters if write else output
    if target is not None and result.conflict is None:
        text = solved_file(Path(parameters), result)
        write_new(Path(target), text, replace=force or write)
        say_aside(f"{target}: written")
    if write and result.conflict is None and settings.names:
        _write_game(result, settings)
    raise click.exceptions.Exit(0 if result.solved else 1)


def _spoken(result: "Solution", settings: "Settings") -> "dict[str, InCode]":
    """Return the parameters that were set in the game's own terms."""
    from kickback.workflows.own_names import spoken

    changed = {name: result.values[name] for name in result.changed}
    return spoken(changed, settings, result.kind, settings.length_unit or "m")


def _write_game(result: "Solution", settings: "Settings") -> None:
    """Show what changes in the game's own files, and write them."""
    from kickback.files.atomic import write_new
    from kickback.workflows.own_names import changes_of_files

    changed = {name: result.values[name] for name in result.changed}
    for one in changes_of_files(changed, settings, result.kind, settings.length_unit or "m"):
        for line in one.difference:
            say_aside(line)
        write_new(one.path, one.text.encode(), replace=True)
        say_aside(f"{one.path}: written")
