"""``kickback plot``."""

import click

from kickback.cli.common import (
    force_option,
    map_option,
    project_option,
    read_takes,
    strict_reading_option,
    takes_argument,
)
from kickback.cli.output import say

__all__ = ["command"]


@click.command("plot")
@takes_argument
@click.option(
    "-o",
    "--output",
    metavar="FILE",
    help="Where to, *.png or *.svg; the first take's name with .png where it is not given.",
)
@click.option("--law", is_flag=True, help="Also what the recovered laws leave of each step.")
@force_option
@map_option
@strict_reading_option
@project_option
def command(
    takes: tuple[str, ...],
    output: str | None,
    law: bool,
    force: bool,
    map_file: str | None,
    strict: bool,
    project: str | None,
) -> None:
    """Draw TAKES over each other.

    Sideways speed, height, inputs and phases over time with events marked, and the arc of
    each jump from its takeoff. What 'inspect' finds in the first take is marked on top.
    """
    from pathlib import Path

    from kickback.errors import UsageError
    from kickback.files.atomic import write_new
    from kickback.project.settings import find_settings
    from kickback.workflows.plotting import plot_data

    settings = find_settings(project)
    loaded = read_takes(takes, map_file, settings, strict=strict)
    path = Path(output) if output else Path(f"{Path(loaded[0].name).name}.png")
    ending = path.suffix.removeprefix(".").lower()
    if ending not in {"png", "svg"}:
        raise UsageError(f"{path}: the ending must be .png or .svg")
    data = [plot_data(settings.analysis(take), law=law) for take in loaded]
    from kickback.show.figures.canvas import save_figure
    from kickback.show.figures.motion import motion_figure

    write_new(path, save_figure(motion_figure(data), ending), replace=force)
    say(f"{path}: {len(data)} take{'s' if len(data) > 1 else ''} drawn")
