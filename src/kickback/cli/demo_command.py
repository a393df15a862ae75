"""``kickback demo``."""

import os
import shlex
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import click

from kickback.cli.output import say, tell

if TYPE_CHECKING:
    from kickback.workflows.demo import Step

__all__ = ["command"]


@click.command("demo")
@click.argument("folder", default="demo", metavar="[FOLDER]")
@click.option(
    "--walk",
    default="tour",
    show_default=True,
    metavar="NAME",
    help="Which walk: tour (the whole job), recording (from a running game to numbers), logs"
    " (that are not ours) or ground (over a plane: from above and in three dimensions).",
)
def command(folder: str, walk: str) -> None:
    """Write the Lantern Row demo project into FOLDER and walk through it.

    Each step shows the command that printed it, to be repeated by hand in the folder.
    Files there that you have changed are kept and used; the takes are made anew.
    """
    from kickback.workflows.demo import walk_named, write_demo

    chosen = walk_named(walk)
    place = Path(folder)
    takes = write_demo(place)
    say(f"Lantern Row: a made-up game, written into {place}{os.sep} with {takes} takes.")
    say(f"Every step below can be repeated by hand: cd {shlex.quote(str(place))}")
    with _inside(place):
        for number, step in enumerate(chosen.steps, 1):
            _show(number, step)
    say()
    say(
        f"That was all. The project is in {place}{os.sep}; change a number in"
        f" {place / 'params' / 'brisk.toml'} and run this again."
    )


@contextmanager
def _inside(folder: Path) -> Iterator[None]:
    before = Path.cwd()
    os.chdir(folder)
    try:
        yield
    finally:
        os.chdir(before)


def _show(number: int, step: "Step") -> None:
    """Run one step as the program would, and say how it ended where that matters."""
    from kickback.cli.main import group

    say()
    say(f"{number}. {step.title}", bold=True)
    tell(step.text)
    say()
    say(f"$ kickback {shlex.join(step.arguments)}", fg="cyan")
    sys.stdout.flush()
    status = 0
    try:
        group.main(args=list(step.arguments), prog_name="kickback", standalone_mode=False)
    except SystemExit as stop:
        status = stop.code if isinstance(stop.code, int) else 0
    sys.stdout.flush()
    if status:
        say(f"(exit status {status}: a build server would stop here)")
