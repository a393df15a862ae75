"""``kickback senders``."""

import click

from kickback.cli.common import force_option
from kickback.cli.output import say

__all__ = ["command"]


@click.command("senders")
@click.option(
    "--copy",
    "names",
    metavar="LANGUAGE",
    multiple=True,
    help="Copy the sender of a language, with its example; may be repeated.",
)
@click.option(
    "--into",
    "folder",
    metavar="FOLDER",
    default=".",
    show_default="this folder",
    help="The folder to copy into.",
)
@force_option
def command(names: tuple[str, ...], folder: str, force: bool) -> None:
    """List what a game sends its frames with, or copy it beside the game.

    Each sender is one small file without dependencies; the lines are described in
    docs/protocol.md.
    """
    from pathlib import Path

    from kickback.workflows.senders import LANGUAGES, copy_senders

    if not names:
        for one in LANGUAGES:
            say(f"{one.name:<8} {one.sender:<20} {one.about}")
        say("kickback senders --copy LANGUAGE copies one here, with an example")
        return
    for path in copy_senders(names, Path(folder), force=force):
        say(f"{path}: written")
