"""``kickback convert``."""

import click

from kickback.cli.common import (
    encoding_option,
    force_option,
    map_option,
    project_option,
    say_warnings,
    takes_argument,
)

__all__ = ["command"]


@click.command("convert")
@takes_argument
@click.option(
    "-o",
    "--output",
    required=True,
    metavar="PATH",
    help="A folder, or a file for a single take: *.jsonl or *.csv, with .gz where wanted.",
)
@encoding_option
@force_option
@map_option
@project_option
def command(
    takes: tuple[str, ...],
    output: str,
    encoding: str,
    force: bool,
    map_file: str | None,
    project: str | None,
) -> None:
    """Write TAKES in another encoding; through --map, foreign logs become takes.

    Columns and header keys that Kickback does not know are kept.
    """
    from pathlib import Path

    from kickback.project.settings import find_settings
    from kickback.workflows.reading import load_takes
    from kickback.workflows.simulating import write_takes

    loaded = load_takes(takes, map_file, find_settings(project))
    say_warnings(loaded.warnings)
    paths = write_takes(loaded.takes, Path(output), encoding=encoding, force=force)
    for take, path in zip(loaded.takes, paths, strict=True):
        click.echo(f"{path}: {len(take)} frames")
