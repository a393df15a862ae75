"""``kickback reach``."""

from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
    draw,
    examples,
    force_option,
    format_option,
    print_verdicts,
    project_option,
)
from kickback.cli.output import tell
from kickback.show.formats import format_named

if TYPE_CHECKING:
    from pathlib import Path

    from kickback.project.settings import Settings

__all__ = ["command"]


@click.command(
    "reach",
    epilog=examples(
        "kickback reach params/brisk.toml --rates 60,30,144 --figure figures/reach.png",
        'kickback reach params/brisk.toml --by dash --ceiling "3 tiles" --up -2..2',
        "kickback reach params/brisk.toml --level levels/rooftops.toml --frames 4",
    ),
)
@click.argument("parameters", metavar="PARAMETERS")
@click.option(
    "--by",
    "ways",
    metavar="WAY",
    multiple=True,
    help="Only this way to get across: standing, hop, running, dash or air_jump; may be repeated.",
)
@click.option(
    "--rates",
    metavar="LIST",
    help="Frame rates, such as 30,60,144; tables are of the project's reference where it"
    " is one of them, else of the first. That reference without.",
)
@click.option("--across", metavar="FIRST..LAST", help="The gaps that are looked at, in tiles.")
@click.option("--up", metavar="FIRST..LAST", help="The steps up that are looked at, in tiles.")
@click.option(
    "--ceiling",
    metavar="AMOUNT",
    help="How high a ceiling hangs over the ground: '3 tiles', '2.5 m'.",
)
@click.option("--level", metavar="FILE", help="A TOML file with gaps: which cannot be cleared?")
@click.option(
    "--frames",
    type=click.IntRange(1, 1000),
    metavar="N",
    help="With --level: frames that a takeoff must have, where a gap does not say; 1 without.",
)
@click.option("--figure", metavar="FILE", help="Draw the map into this PNG or SVG file.")
@force_option
@format_option(junit=True)
@project_option
def command(
    parameters: str,
    ways: tuple[str, ...],
    rates: str | None,
    across: str | None,
    up: str | None,
    ceiling: str | None,
    level: str | None,
    frames: int | None,
    figure: str | None,
    force: bool,
    how: str,
    project: str | None,
) -> None:
    """Say which gaps and steps can be cleared, and in how many frames the takeoff does it.

    PARAMETERS is a file for the built-in model of a character on foot, perhaps one that
    'kickback fit' wrote from your game. A number is how many frames the takeoff may come early or
    late, whatever the run-up was.

    A level file has gaps in tiles: [[gap]] with name, across, up, and where wanted by, ceiling and
    frames. Exit status 1 where one of them cannot be cleared, or by fewer frames than are asked.

    With the file of a projectile it says how high a shot gets over each distance.
    """
    from pathlib import Path

    from kickback.project.settings import find_settings
    from kickback.workflows.reaching import is_shot
    from kickback.workflows.solving import parse_rates

    settings, file = find_settings(project), Path(parameters)
    at = parse_rates(rates) if rates is not None else []
    grid = {"--by": ways, "--across": across, "--up": up, "--ceiling": ceiling}
    verdicts = how != "text" and format_named(how).verdicts_only
    if is_shot(file):
        _refuse(
            {**grid, "--level": level, "--frames": frames, f"--format {how}": verdicts},
            "belongs to gaps; of a shot the envelope is told",
        )
        _envelope(file, settings, at, figure, how, force=force)
    elif level is not None:
        _refuse({**grid, "--figure": figure}, "does not go with --level, whose gaps say it")
        _level(file, Path(level), settings, at, frames, how)
    else:
        _refuse(
            {"--frames": frames, f"--format {how}": verdicts},
            "is about the gaps of a level: --level FILE",
        )
        _map(file, settings, (ways, at, across, up, ceiling), figure, how, force=force)


def _refuse(options: dict[str, object], why: str) -> None:
    """Raise UsageError for an option that would be passed over."""
    for name, value in options.items():
        if value:
            raise click.UsageError(f"{name} {why}")


def _map(
    file: "Path",
    settings: "Settings",
    asked: tuple[tuple[str, ...], list[float], str | None, str | None, str | None],
    figure: str | None,
    how: str,
    *,
    force: bool,
) -> None:
    """Print what can be cleared, and draw its map."""
    from kickback.show.reach import reach_records, show_reach
    from kickback.workflows.reaching import parse_tiles, reach_of

    ways, rates, across, up, ceiling = asked
    tiles = parse_tiles(across, "--across"), parse_tiles(up, "--up")
    result = reach_of(file, settings, ways=ways, rates=rates, tiles=tiles, ceiling=ceiling)
    usual = "running" if "running" in result.ways else result.ways[0]
    shown = [one for one in result.ways if one in ways] or [usual]
    if figure is not None:
        from kickback.show.figures.reach import reach_figure

        draw(figure, lambda: reach_figure(result, shown[0]), force=force)
    if how != "text":
        tell(format_named(how).write(reach_records(result)))
        return
    from kickback.show.console import Printer

    show_reach(Printer(), result, shown)


def _level(
    file: "Path",
    level: "Path",
    settings: "Settings",
    rates: list[float],
    frames: int | None,
    how: str,
) -> None:
    """Print the verdicts on a level's gaps and end with their exit status."""
    from kickback.show.reach import level_cases, show_level
    from kickback.workflows.reaching import judge_level

    result = judge_level(file, level, settings, rates=rates, frames=frames)
    print_verdicts(
        result,
        how,
        strict=False,
        show=lambda printer: show_level(printer, result),
        cases=lambda: ("kickback reach", level_cases(result)),
    )


def _envelope(
    file: "Path",
    settings: "Settings",
    rates: list[float],
    figure: str | None,
    how: str,
    *,
    force: bool,
) -> None:
    """Print how high a shot gets, and draw it."""
    from kickback.show.reach import envelope_records, show_envelope
    from kickback.workflows.reaching import envelope_of, tile_of

    result = envelope_of(file, settings, rates=rates)
    tile = tile_of(settings, result.length)
    if figure is not None:
        from kickback.show.figures.reach import envelope_figure

        draw(figure, lambda: envelope_figure(result, tile), force=force)
    if how != "text":
        tell(format_named(how).write(envelope_records(result)))
        return
    from kickback.show.console import Printer

    show_envelope(Printer(), result, tile)
