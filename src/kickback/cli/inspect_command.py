"""``kickback inspect``."""

import click

from kickback.cli.common import (
    format_option,
    map_option,
    project_option,
    say_warnings,
    takes_argument,
)

__all__ = ["command"]


@click.command("inspect")
@takes_argument
@map_option
@format_option()
@project_option
def command(takes: tuple[str, ...], map_file: str | None, how: str, project: str | None) -> None:
    """Say what is in TAKES: header, columns, phases and events."""
    from kickback.project.settings import find_settings
    from kickback.show.inspection import inspection_records, show_inspection
    from kickback.workflows.inspecting import inspect_take
    from kickback.workflows.reading import load_takes

    loaded = load_takes(takes, map_file, find_settings(project))
    say_warnings(loaded.warnings)
    found = [inspect_take(take) for take in loaded.takes]
    if how != "text":
        from kickback.show.records import render_records

        click.echo(render_records([row for item in found for row in inspection_records(item)], how))
        return
    from kickback.show.console import Printer

    printer = Printer()
    for item in found:
        show_inspection(printer, item)
