"""``kickback record``."""

import contextlib
import signal
import sys
from collections.abc import Iterator
from typing import Any

import click

from kickback.cli.common import Finite, map_option, project_option
from kickback.cli.record_output import RecordPrinter
from kickback.files import encodings

__all__ = ["command"]


@click.command("record")
@click.argument("sources", nargs=-1, metavar="[SOURCE]...")
@click.option(
    "--into",
    "folder",
    default="takes",
    show_default=True,
    metavar="FOLDER",
    help="The folder that takes are saved in.",
)
@click.option(
    "--gap",
    type=Finite(min=0.05),
    default=2.0,
    show_default=True,
    metavar="SECONDS",
    help="A pause this long ends a take.",
)
@click.option(
    "--as",
    "encoding",
    type=click.Choice(encodings.NAMES),
    default="jsonl",
    show_default=True,
    help="The encoding of finished takes.",
)
@map_option
@click.option("--follow", is_flag=True, help="Read a file on as it grows; it may not exist yet.")
@click.option("--takes", "most", type=click.IntRange(min=1), help="Stop after so many takes.")
@click.option(
    "--drill",
    metavar="FILE",
    help="Coach a person through a drill, or have it played by senders that can.",
)
@click.option(
    "--run",
    "run",
    metavar="COMMAND",
    help="Start the game too. {address}, {rate}, {parameters}, {drill}, {repeat} and {name} in it"
    " are filled in; the same stand in KICKBACK_ADDRESS and so on.",
)
@click.option(
    "--rate",
    "rates",
    type=Finite(min=1, max=100_000),
    multiple=True,
    help="With --run: a frame rate to run at; may be repeated.",
)
@click.option(
    "--parameters",
    multiple=True,
    metavar="FILE",
    help="With --run: a parameter file to run with; may be repeated.",
)
@click.option(
    "--repeat",
    type=click.IntRange(min=1),
    default=1,
    show_default=True,
    help="With --run: how often each.",
)
@click.option(
    "--at-once",
    type=click.IntRange(1, 64),
    default=1,
    show_default=True,
    metavar="N",
    help="With --run: how many go on side by side, each with a port of its own.",
)
@click.option(
    "--timeout",
    type=Finite(min=0.1),
    default=60.0,
    show_default=True,
    metavar="SECONDS",
    help="With --run: end a run that takes longer.",
)
@click.option(
    "--bind",
    default="127.0.0.1",
    show_default=True,
    metavar="ADDRESS",
    help="Listen where other machines can send too; needs --token.",
)
@click.option(
    "--token",
    envvar="KICKBACK_TOKEN",
    metavar="WORD",
    help="What every sender must give in its header; also from KICKBACK_TOKEN.",
)
@click.option(
    "--origin",
    "origins",
    multiple=True,
    metavar="ORIGIN",
    help="Let pages from elsewhere send over WebSocket; may be repeated.",
)
@click.option(
    "--limit",
    "limits",
    multiple=True,
    metavar="NAME=NUMBER",
    help="Raise or lower a limit: line, columns, frames, subjects, connections, disk.",
)
@click.option("--quiet", is_flag=True, help="Only a line for each take: no view, no metrics.")
@project_option
def command(run: str | None, quiet: bool, project: str | None, **options: Any) -> None:
    """Save takes from running games, and measure each as it ends.

    \b
    SOURCE is
      -                 a pipe: mygame | kickback record -
      FILE              a log; with --follow one that is still being written
      tcp udp ws        tcp:9000, udp:0 (any free port), ws://127.0.0.1:9001, …
    Without one: tcp and udp on port 7425 and WebSocket on 7426, all at once.

    A sender gives lines of JSON: a header, frames, an end (docs/protocol.md; ready-made
    ones are in senders/). A take ends at its end object, at the next header, when time begins
    again, when the sender leaves or pauses. Files are never replaced. Ctrl-C ends.
    """  # noqa: D301 - the escape is Click's own mark for lines to be left as they are
    from kickback.cli.recording import Call, plan_of
    from kickback.project.settings import find_settings
    from kickback.workflows.recording import record

    settings = find_settings(project)
    plan = plan_of(Call(run=run, **options))
    # the thread that measures holds up the one that receives: by less than a datagram waits
    sys.setswitchinterval(0.0005)
    teller = RecordPrinter(settings, quiet=quiet)
    with _ended_gently(), teller:
        outcome = record(plan, settings, teller)
    teller.conclude(outcome)
    failed = outcome.unsaved or any(result.problem for result in outcome.runs)
    # a sweep that was interrupted is no whole one: a build server must not take it for that
    broken_off = outcome.stopped and run is not None
    sys.exit(2 if failed else 1 if broken_off else 0)


@contextlib.contextmanager
def _ended_gently() -> Iterator[None]:
    """Treat a request to end as Ctrl-C, so that takes are finished."""

    def interrupt(*_: object) -> None:
        raise KeyboardInterrupt

    names = ("SIGTERM", "SIGHUP")  # the second: its terminal was closed
    kinds = [getattr(signal, name) for name in names if hasattr(signal, name)]
    before = {kind: signal.signal(kind, interrupt) for kind in kinds}
    try:
        yield
    finally:
        for kind, handler in before.items():
            signal.signal(kind, handler)
