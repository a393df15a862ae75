"""``kickback retime``."""

import click

from kickback.cli.common import force_option, format_option, project_option, say_warnings
from kickback.cli.output import say_aside, tell

__all__ = ["command"]


@click.command("retime", context_settings={"ignore_unknown_options": True})
@click.argument("what", metavar="NUMBER|FILE")
@click.option(
    "--from",
    "before",
    metavar="RATE",
    default="second",
    show_default=True,
    help="The frame rate whose per-frame form it is in, or 'second'.",
)
@click.option(
    "--to",
    "after",
    metavar="RATE",
    default="second",
    show_default=True,
    help="The frame rate whose per-frame form is wanted, or 'second'.",
)
@click.option(
    "--kind",
    "kinds",
    metavar="[NAME=]KIND",
    multiple=True,
    help="What a number is: speed, acceleration, gain, factor, share or timer; in a file"
    " NAME=KIND, where the name does not tell, or NAME=none to leave it; may be repeated.",
)
@click.option("-o", "--output", metavar="FILE", help="Write the parameter file with new values.")
@force_option
@format_option()
@project_option
def command(
    what: str,
    before: str,
    after: str,
    kinds: tuple[str, ...],
    output: str | None,
    force: bool,
    how: str,
    project: str | None,
) -> None:
    """Bring constants from one frame rate to another, or to the second.

    'kickback retime 0.86 --kind factor --from 60 --to 144' keeps a friction factor's feel;
    --to second gives the rate to write with the time step. A parameter FILE is converted
    as a whole: kinds are told by the parameters' names, or by the units that [names] in
    kickback.toml gives the game's own.
    """
    from pathlib import Path

    from kickback.errors import UsageError
    from kickback.files.atomic import write_new
    from kickback.project.settings import find_settings
    from kickback.workflows.retiming import parse_rate, retimed_file, retimed_number, rewritten

    rates = parse_rate(before), parse_rate(after)
    try:
        number = float(what)
    except ValueError:
        number = None
    if number is None:
        result = retimed_file(Path(what), kinds, *rates, find_settings(project))
    else:
        result = retimed_number(number, kinds, *rates)
    say_warnings([result.unsaid] if result.unsaid else [])
    if output is not None:
        if number is not None:
            raise UsageError("--output belongs to a parameter file, not to a number")
        write_new(Path(output), rewritten(Path(what), result.rows).encode(), replace=force)
        say_aside(f"{output}: written")
        if result.unknown:
            many = len(result.rows) + len(result.unknown)
            left = f"{len(result.unknown)} of {many} numbers are as they were"
            told = f"{left}, {', '.join(result.unknown)}: say what they are with --kind NAME=KIND"
            say_warnings([f"{output}: {told}"])
    from kickback.show.retimed import retimed_records, show_retimed

    if how != "text":
        from kickback.show.records import render_records

        tell(render_records(retimed_records(result), how))
        return
    from kickback.show.console import Printer

    show_retimed(Printer(), result)
