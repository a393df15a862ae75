"""``kickback convert``."""

import click

from kickback.cli.common import (
    encoding_option,
    force_option,
    map_option,
    project_option,
    read_takes,
    strict_reading_option,
    takes_argument,
)
from kickback.cli.output import say

__all__ = ["command"]


@click.command("convert")
@takes_argument
@click.option(
    "-o",
    "--output",
    required=True,
    metavar="PATH",
    help="A folder, or a file for a single take: *.jsonl, *.csv, *.parquet, *.jsonl.gz, *.csv.gz.",
)
@encoding_option
@force_option
@map_option
@strict_reading_option
@project_option
def command(
    takes: tuple[str, ...],
    output: str,
    encoding: str,
    force: bool,
    map_file: str | None,
    strict: bool,
    project: str | None,
) -> None:
    """Write TAKES in another encoding; through --map, foreign logs become takes.

    Columns and header keys that Kickback does not know are kept.
    """
    from pathlib import Path

    from kickback.project.settings import find_settings
    from kickback.workflows.simulating import write_takes

    loaded = read_takes(takes, map_file, find_settings(project), strict=strict, as_written=True)
    paths = write_takes(loaded, Path(output), encoding=encoding, force=force)
    for take, path in zip(loaded, paths, strict=True):
        say(f"{path}: {len(take)} frames")
