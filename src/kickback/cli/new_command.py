"""``kickback new``."""

from typing import TYPE_CHECKING

import click

from kickback.cli.common import force_option, project_option
from kickback.cli.output import say

if TYPE_CHECKING:
    from pathlib import Path

__all__ = ["command"]


@click.command("new")
@click.argument("folder", default=".", metavar="[FOLDER]")
@click.option(
    "--from",
    "log",
    metavar="LOG",
    help="Look at a game's own log and write a guessed mapping for it, NAME.map.toml.",
)
@force_option
@project_option
def command(folder: str, log: str | None, force: bool, project: str | None) -> None:
    """Start a project in FOLDER: kickback.toml, folders and a commented example.

    Nothing that exists is replaced. With --from only a mapping is written there: how the
    columns of LOG become Kickback's, with what the guess is unsure of.
    """
    from pathlib import Path

    if log is not None:
        _guess(Path(log), Path(folder), force=force, project=project)
        return
    from kickback.workflows.starting import start_project

    for path, written in start_project(Path(folder)):
        say(f"{path}{'' if written else ': exists already, left as it is'}")
    say("Next: mygame | kickback record -   or   kickback new --from LOG")


def _guess(log: "Path", folder: "Path", *, force: bool, project: str | None) -> None:
    from kickback.project.settings import find_settings
    from kickback.workflows.guessing import write_guess

    done = write_guess(log, folder, find_settings(project), force=force)
    say(f"{done.path}: written")
    for text in done.unsure:
        say(f"  unsure: {text}")
    if done.problem:
        say(f"  it does not read the log yet: {done.problem}")
    elif done.take is not None:
        take = done.take
        say(
            f"It reads {len(take)} frames, {take.duration:.2f} s at {take.frame_rate:.4g} frames/s:"
            f" {', '.join(name for name in take.columns if name not in take.derived)}"
        )
        for item in done.findings[:5]:
            say(f"  {item.severity}: {item.code}, {item.message}")
    say(f"Next: kickback measure {log} --map {done.path}")
