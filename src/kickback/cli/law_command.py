"""``kickback law``."""

import click

from kickback.cli.common import (
    analysed,
    format_option,
    map_option,
    project_option,
    read_takes,
    strict_reading_option,
    takes_argument,
)
from kickback.cli.output import tell

__all__ = ["command"]


@click.command("law")
@takes_argument
@map_option
@strict_reading_option
@format_option()
@project_option
def command(
    takes: tuple[str, ...], map_file: str | None, strict: bool, how: str, project: str | None
) -> None:
    """Read the update rule off TAKES: what the code does to the speed in each frame.

    For each phase the rule as a line of code with its constants and their standard errors,
    which speed moves the position, and what follows. A phase that is too short or too noisy,
    or that no known rule explains, has none, with the reason.
    """
    from kickback.kinds.recovering import recover_laws
    from kickback.project.settings import find_settings

    settings = find_settings(project)
    loaded = analysed(read_takes(takes, map_file, settings, strict=strict), settings)
    found = [recover_laws(one) for one in loaded]
    if how != "text":
        from kickback.show.records import render_records

        tell(render_records([row for item in found for row in item.to_records()], how))
        return
    from kickback.show.console import Printer
    from kickback.show.laws import show_laws

    printer = Printer()
    for one, laws in zip(loaded, found, strict=True):
        show_laws(printer, one.take.name, laws)
