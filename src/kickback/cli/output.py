"""Where commands print plain text: nothing unprintable leaves by it."""

from typing import Any

import click

from kickback.show.visible import as_line, visible

__all__ = ["complain", "say", "say_aside", "tell"]


def tell(text: str) -> None:
    """Print a text of many lines to standard output."""
    click.echo(visible(text))  # noqa: TID251 - the one place


def say(text: str = "", **style: Any) -> None:
    """Print one line to standard output, whatever it quotes; ``style`` is Click's."""
    click.echo(click.style(as_line(text), **style))  # noqa: TID251 - the one place


def say_aside(text: str) -> None:
    """Print one line to standard error, whatever it quotes."""
    click.echo(as_line(text), err=True)  # noqa: TID251 - the one place


def complain(text: str) -> None:
    """Print one sentence of the program's own to standard error."""
    say_aside(f"kickback: {text}")
