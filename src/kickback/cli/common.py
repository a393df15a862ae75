"""What commands share: options, warnings, records on standard output."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, TypeVar

import click

if TYPE_CHECKING:
    from kickback.project.settings import Settings
    from kickback.show.numbers import Units

__all__ = [
    "format_option",
    "map_option",
    "only_option",
    "project_option",
    "say_warnings",
    "takes_argument",
    "units_of",
]

F = TypeVar("F", bound=Callable[..., Any])

_ABOUT_FORMAT = "How to print the result."


def format_option(*, junit: bool = False) -> Callable[[F], F]:
    """Return the ``--format`` option."""
    choices = ["text", "json", "csv", "markdown", *(["junit"] if junit else [])]
    return click.option(
        "--format",
        "how",
        type=click.Choice(choices),
        default="text",
        show_default=True,
        help=_ABOUT_FORMAT,
    )


map_option = click.option(
    "--map", "map_file", metavar="FILE", help="A mapping, for logs with columns of their own."
)
project_option = click.option(
    "--project",
    metavar="FILE",
    help="The project file; kickback.toml in this folder or above where it is not given.",
)
only_option = click.option(
    "--only",
    metavar="NAME",
    multiple=True,
    help="Only this metric or group, such as jump or coast.stop_time; may be repeated.",
)
takes_argument = click.argument("takes", nargs=-1, required=True, metavar="TAKES...")


def say_warnings(warnings: Sequence[str]) -> None:
    """Print warnings to standard error."""
    for text in warnings:
        click.echo(f"kickback: warning: {text}", err=True)


def units_of(settings: "Settings") -> "Units":
    """Return how the project wants numbers shown."""
    from kickback.show.numbers import Units

    return Units(reference_rate=settings.reference_rate, tile=settings.tile)
