"""``kickback solve``."""

from typing import TYPE_CHECKING, NamedTuple

import click

from kickback.cli.common import (
    Finite,
    examples,
    force_option,
    format_option,
    project_option,
    units_of,
)
from kickback.cli.output import say_aside, tell

if TYPE_CHECKING:
    from kickback.project.settings import Settings
    from kickback.tuning.solve.record import Solution
    from kickback.workflows.own_names import InCode

__all__ = ["command"]


@click.command(
    "solve",
    epilog=examples(
        'kickback solve params/brisk.toml --wish "jump.apex_height=4 tiles" -o params/high.toml',
        'kickback solve params/brisk.toml --wish "run.top_speed=9 m/s" --digits 2',
        "kickback solve params/flare.toml --target 24,4",
    ),
)
@click.argument("parameters", metavar="PARAMETERS")
@click.option(
    "--wish",
    "wishes",
    metavar="METRIC=AMOUNT",
    multiple=True,
    help="What a metric shall be, in any unit of the project, such as"
    " 'jump.apex_height=4 tiles'; may be repeated.",
)
@click.option("--wishes", "file", metavar="FILE", help="A TOML file with wishes under [wishes].")
@click.option(
    "--keep",
    metavar="NAME",
    multiple=True,
    help="A parameter that stays as it is; may be repeated.",
)
@click.option(
    "--rate",
    type=Finite(1, 100_000),
    metavar="RATE",
    help="The frame rate to solve for; the project's reference without.",
)
@click.option(
    "--rates",
    default="30,60,144",
    show_default=True,
    metavar="LIST",
    help="Frame rates to look at the solution at.",
)
@click.option(
    "--digits",
    type=click.IntRange(0, 12),
    metavar="N",
    help="Round new numbers to so many decimals, and measure again.",
)
@click.option(
    "--target",
    metavar="ACROSS,UP",
    help="Aim a shot instead: where the target lies from the launch on.",
)
@click.option(
    "--target-moves",
    metavar="ACROSS,UP",
    default="0,0",
    help="With --target: its velocity, which is led.",
)
@click.option(
    "--angle",
    type=Finite(-90, 90),
    metavar="DEGREES",
    help="With --target: the elevation, for which the speed is found.",
)
@click.option("-o", "--output", metavar="FILE", help="Write the file with its new numbers here.")
@click.option(
    "--write",
    is_flag=True,
    help="Write the new numbers into PARAMETERS itself, and into the game's own files"
    " that [names] in kickback.toml tells; what changes is shown.",
)
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
    target: str | None,
    target_moves: str,
    angle: float | None,
    output: str | None,
    write: bool,
    force: bool,
    how: str,
    project: str | None,
) -> None:
    """Find the parameters with which metrics are what you wish.

    PARAMETERS is a file for the built-in model, perhaps one that 'kickback fit' wrote. What is
    found is exact for its order of integration at one frame rate, checked by playing it, there
    and at other rates. Wishes that exclude each other are explained, with what is to be had.

    With --target the file is that of a projectile, and what is found are both elevations of its
    speed, or the speed at an angle: 'kickback solve params/flare.toml --target 24,4'.

    Exit status 1 where not all wishes can be fulfilled, or the target is out of reach.
    """
    from kickback.errors import UsageError
    from kickback.project.settings import find_settings
    from kickback.workflows.solving import parse_rates, read_wishes

    settings = find_settings(project)
    if write and output is not None:
        raise UsageError("--write is into PARAMETERS, --output into another file: give one")
    into = _Into(parameters if write else output, force=force or write, game=write)
    if target is None:
        wished = read_wishes(wishes, file)
        status = _wish(
            parameters, settings, wished, keep, (rate, parse_rates(rates), digits), into, how
        )
    elif wishes or file or keep:
        raise UsageError("--target aims a shot; wishes are for another call")
    else:
        status = _aim(
            parameters,
            settings,
            (target, target_moves, angle),
            (rate, parse_rates(rates)),
            into,
            how,
        )
    raise click.exceptions.Exit(status)


class _Into(NamedTuple):
    """Where new numbers are written, if anywhere; ``game``: into the game's own files too."""

    path: str | None
    force: bool
    game: bool

    def write(self, content: bytes) -> None:
        """Write a parameter file."""
        from pathlib import Path

        from kickback.files.atomic import write_new

        if self.path is not None:
            write_new(Path(self.path), content, replace=self.force)
            say_aside(f"{self.path}: written")


def _wish(
    parameters: str,
    settings: "Settings",
    wishes: dict[str, str],
    keep: tuple[str, ...],
    at: tuple[float | None, list[float], int | None],
    into: _Into,
    how: str,
) -> int:
    """Fulfil wishes, print what becomes of them, and return the exit status."""
    from pathlib import Path

    from kickback.show.solution import show_solution, solution_records
    from kickback.workflows.solving import solve_file, solved_file

    rate, rates, digits = at
    result = solve_file(
        Path(parameters), wishes, settings, keep=keep, rate=rate, rates=rates, digits=digits
    )
    if how == "text":
        from kickback.show.console import Printer

        show_solution(Printer(), result, units_of(settings), _spoken(parameters, result, settings))
    else:
        from kickback.show.records import render_records

        tell(render_records(solution_records(result), how))
    if result.conflict is None:
        into.write(solved_file(Path(parameters), result))
        if into.game and settings.names:
            _write_game(parameters, result, settings)
    return 0 if result.solved else 1


def _aim(
    parameters: str,
    settings: "Settings",
    aimed: tuple[str, str, float | None],
    at: tuple[float | None, list[float]],
    into: _Into,
    how: str,
) -> int:
    """Aim a shot, print the ways to hit, and return the exit status."""
    from pathlib import Path

    from kickback.show.aimed import aimed_records, show_aimed
    from kickback.workflows.solving import aim_file, aimed_file, length_of, parse_place

    target, moves, angle = aimed
    place = parse_place(target, "--target")
    result = aim_file(
        Path(parameters),
        place,
        settings,
        moves=parse_place(moves, "--target-moves"),
        angle=angle,
        rate=at[0],
        rates=at[1],
    )
    if how == "text":
        from kickback.show.console import Printer

        show_aimed(Printer(), result, place, length_of(Path(parameters), settings), angle)
    else:
        from kickback.show.records import render_records

        tell(render_records(aimed_records(result), how))
    if result.ways:
        into.write(aimed_file(Path(parameters), result))
    return 0 if result.ways else 1


def _spoken(parameters: str, result: "Solution", settings: "Settings") -> "dict[str, InCode]":
    """Return the parameters that were set in the game's own terms."""
    from pathlib import Path

    from kickback.workflows.own_names import spoken
    from kickback.workflows.solving import length_of

    changed = {name: result.values[name] for name in result.changed}
    return spoken(changed, settings, result.kind, length_of(Path(parameters), settings))


def _write_game(parameters: str, result: "Solution", settings: "Settings") -> None:
    """Show what changes in the game's own files, and write them."""
    from pathlib import Path

    from kickback.files.atomic import write_new
    from kickback.workflows.own_names import changes_of_files
    from kickback.workflows.solving import length_of

    changed = {name: result.values[name] for name in result.changed}
    length = length_of(Path(parameters), settings)
    for one in changes_of_files(changed, settings, result.kind, length):
        for line in one.difference:
            say_aside(line)
        write_new(one.path, one.text.encode(), replace=True)
        say_aside(f"{one.path}: written")
