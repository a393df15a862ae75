"""``kickback new``."""

import click

__all__ = ["command"]


@click.command("new")
@click.argument("folder", default=".", metavar="[FOLDER]")
def command(folder: str) -> None:
    """Start a project in FOLDER: kickback.toml, folders and a commented example.

    Nothing that exists is replaced.
    """
    from pathlib import Path

    from kickback.workflows.starting import start_project

    for path, written in start_project(Path(folder)):
        click.echo(f"{path}{'' if written else ': exists already, left as it is'}")
    click.echo("Next: mygame | kickback record -   or   kickback measure LOG --map game.map.toml")
