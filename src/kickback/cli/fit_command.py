"""``kickback fit``."""

import click

from kickback.cli.common import (
    analysed,
    examples,
    force_option,
    format_option,
    map_option,
    project_option,
    read_takes,
    say_warnings,
    takes_argument,
)
from kickback.cli.output import say_aside, tell

__all__ = ["command"]


@click.command(
    "fit",
    epilog=examples(
        "kickback fit takes/*.jsonl -o params/mine.toml",
        "kickback simulate params/mine.toml --rate 30",
        "kickback simulate params/mine.toml --set gravity_rise=44",
    ),
)
@takes_argument
@click.option(
    "-o", "--output", metavar="FILE", help="Write the parameter file, such as params/mine.toml."
)
@click.option("--name", metavar="WORD", help="What the parameter set is called; the file without.")
@force_option
@map_option
@format_option()
@project_option
def command(
    takes: tuple[str, ...],
    output: str | None,
    name: str | None,
    force: bool,
    map_file: str | None,
    how: str,
    project: str | None,
) -> None:
    """Read a game's movement off TAKES as parameters of the built-in model.

    One take or several, of a character on foot with its inputs recorded. Takes at a second
    frame rate, or with uneven times, also tell the mistakes that the frame rate shows. Then
    the model plays the inputs of every take, and it is told how far the two run apart.

    Exit status 1 where the model does not play the takes as the game does.
    """
    from pathlib import Path

    from kickback.files.atomic import write_new
    from kickback.project.settings import find_settings
    from kickback.show.fitted import fitted_records, show_fitted
    from kickback.workflows.fitting import fit_takes, parameter_file
    from kickback.workflows.own_names import spoken

    settings = find_settings(project)
    loaded = analysed(read_takes(takes, map_file, settings), settings)
    result = fit_takes(loaded)
    say_warnings(result.warnings)
    if output is not None:
        source = ", ".join(dict.fromkeys(one.take.name for one in loaded))
        text = parameter_file(result, name or Path(output).stem, source)
        write_new(Path(output), text.encode(), replace=force)
        say_aside(f"{output}: written")
    if how == "text":
        from kickback.show.console import Printer

        own = spoken(result.values, settings, result.kind, result.length_unit)
        show_fitted(Printer(), result, own)
    else:
        from kickback.show.records import render_records

        tell(render_records(fitted_records(result), how))
    raise click.exceptions.Exit(0 if result.fits else 1)
