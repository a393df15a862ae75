"""``kickback inspect``."""

import sys
from collections.abc import Sequence
from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
    format_option,
    map_option,
    project_option,
    read_takes,
    strict_reading_option,
    takes_argument,
)
from kickback.cli.output import tell

if TYPE_CHECKING:
    from kickback.workflows.inspecting import Inspection

__all__ = ["command"]


@click.command("inspect")
@takes_argument
@map_option
@click.option("--columns", is_flag=True, help="With --format: the columns, not the findings.")
@strict_reading_option
@format_option(junit=True)
@project_option
def command(
    takes: tuple[str, ...],
    map_file: str | None,
    columns: bool,
    strict: bool,
    how: str,
    project: str | None,
) -> None:
    """Say what is in TAKES, and what to know before building on them.

    Findings come first: a clock that stands still, frames that are missing, a velocity that
    is not the motion, a fall through the floor, and the like, each with its frames and what
    to do. Exit status 1 where one is an error. Then header, columns, phases and events.
    """
    from kickback.project.settings import find_settings
    from kickback.workflows.inspecting import inspect_take

    settings = find_settings(project)
    loaded = read_takes(takes, map_file, settings, strict=strict, any_clock=True)
    found = [inspect_take(settings.analysis(take)) for take in loaded]
    if how == "text":
        from kickback.show.console import Printer
        from kickback.show.inspection import show_inspection

        printer = Printer()
        for item in found:
            show_inspection(printer, item)
    else:
        tell(_records(found, how, columns=columns))
    sys.exit(1 if any(item.failed for item in found) else 0)


def _records(found: "Sequence[Inspection]", how: str, *, columns: bool) -> str:
    """Return findings, or columns, in a format that other tools read."""
    from kickback.show.inspection import column_records
    from kickback.show.junit import finding_cases
    from kickback.show.records import as_junit, render_records

    if how == "junit":
        cases = [case for item in found for case in finding_cases(item.take.name, item.findings)]
        return as_junit("kickback inspect", cases)
    if columns:
        return render_records([row for item in found for row in column_records(item)], how)
    return render_records([one.to_record() for item in found for one in item.findings], how)
