"""``kickback record``."""

import contextlib
import os
import shlex
import signal
import sys
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import click

from kickback.cli.common import ENCODINGS, map_option, project_option, units_of

if TYPE_CHECKING:
    from kickback.project.settings import Settings
    from kickback.record.ledger import Begun, Notice
    from kickback.record.take_file import LeftBehind
    from kickback.workflows.live import LiveView
    from kickback.workflows.recording import Outcome
    from kickback.workflows.reviewing import Review
    from kickback.workflows.running import RunResult

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
    type=click.FloatRange(min=0.05),
    default=2.0,
    show_default=True,
    metavar="SECONDS",
    help="A pause this long ends a take.",
)
@click.option(
    "--as",
    "encoding",
    type=click.Choice(ENCODINGS),
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
    type=click.FloatRange(min=1, max=100_000),
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
    "--timeout",
    type=click.FloatRange(min=0.1),
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
def command(
    sources: tuple[str, ...],
    folder: str,
    gap: float,
    encoding: str,
    map_file: str | None,
    follow: bool,
    most: int | None,
    drill: str | None,
    run: str | None,
    rates: tuple[float, ...],
    parameters: tuple[str, ...],
    repeat: int,
    timeout: float,
    bind: str,
    token: str | None,
    origins: tuple[str, ...],
    limits: tuple[str, ...],
    quiet: bool,
    project: str | None,
) -> None:
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
    from pathlib import Path

    from kickback.errors import UsageError
    from kickback.files.mapping import read_mapping
    from kickback.project.parameter_sets import read_drill
    from kickback.project.settings import find_settings
    from kickback.record.limits import limits_from
    from kickback.workflows.recording import RecordPlan, record
    from kickback.workflows.running import RunPlan

    if run is None and (rates or parameters or repeat != 1):
        raise UsageError(
            "--rate, --parameters and --repeat say how to run a game: --run is missing"
        )
    settings = find_settings(project)
    exercise = read_drill(Path(drill)) if drill else None
    plan = RecordPlan(
        sources=sources,
        folder=Path(folder),
        gap=gap,
        limits=limits_from(limits),
        encoding=encoding,
        mapping=read_mapping(Path(map_file)) if map_file else None,
        follow=follow,
        bind=bind,
        token=token,
        origins=origins,
        drill=exercise,
        most=most,
        runs=RunPlan(
            command=run,
            rates=rates,
            parameters=parameters,
            repeats=repeat,
            timeout=timeout,
            drill_file=drill or "",
            drill_name=exercise.name if exercise else "",
            token=token or "",
            piped="-" in sources,
        )
        if run is not None
        else None,
    )
    teller = _Teller(settings, quiet=quiet)
    with _ended_gently(), teller:
        outcome = record(plan, settings, teller)
    teller.conclude(outcome)
    failed = outcome.unsaved or any(result.problem for result in outcome.runs)
    sys.exit(2 if failed else 0)


@contextlib.contextmanager
def _ended_gently() -> Iterator[None]:
    """Treat a request to end as Ctrl-C, so that takes are finished."""

    def interrupt(*_: object) -> None:
        raise KeyboardInterrupt

    before = signal.signal(signal.SIGTERM, interrupt)
    try:
        yield
    finally:
        signal.signal(signal.SIGTERM, before)


class _Teller:
    """Says what a recording does: a view that is redrawn on a terminal, plain lines elsewhere."""

    def __init__(self, settings: "Settings", *, quiet: bool) -> None:
        from kickback.show.console import Printer

        terminal = sys.stdout.isatty() and os.environ.get("TERM") != "dumb"
        self.wants_views = terminal and not quiet
        self._quiet = quiet
        self._units = units_of(settings)
        self._printer = Printer()
        self._live = self._printer.live() if self.wants_views else None
        self._last = ""
        self._said_cue: tuple[str, str] | None = None

    def __enter__(self) -> "_Teller":
        if self._live is not None:
            self._live.start()
        return self

    def __exit__(self, *_: object) -> None:
        if self._live is not None:
            self._live.stop()

    def found(self, left: "LeftBehind") -> None:
        self._note(
            f"{left.path}: {left.frames} frames of a recorder that was ended before; now whole"
        )

    def opened(self, addresses: Sequence[str], token: str | None) -> None:
        needs = " (with the token)" if token else ""
        network = [address for address in addresses if "://" in address]
        if network:
            self._note(f"listening{needs}: {', '.join(network)}")
        for address in addresses:
            if address not in network:
                self._note(f"reading: {address}")

    def begun(self, event: "Begun") -> None:
        del event

    def said(self, notice: "Notice") -> None:
        self._note(f"{notice.origin}: {notice.text}")

    def reviewed(self, review: "Review") -> None:
        from kickback.show.recording import finished_line, show_review

        self._last = shlex.quote(str(review.finished.path))
        if self._quiet:
            self._printer.line(finished_line(review))
        else:
            show_review(self._printer, review, self._units)
        sys.stdout.flush()

    def view(self, view: "LiveView") -> None:
        if self._live is not None:
            from kickback.show.live import render_view

            self._live.update(render_view(view, self._printer.width), refresh=True)
        elif view.cue is not None and (view.cue.stage, view.cue.now) != self._said_cue:
            from kickback.show.live import cue_text

            self._said_cue = (view.cue.stage, view.cue.now)
            self._note(cue_text(view.cue))

    def ran(self, result: "RunResult") -> None:
        from kickback.show.recording import run_line

        if result.problem:
            self._note(run_line(result))

    def conclude(self, outcome: "Outcome") -> None:
        from kickback.show.recording import show_runs

        if outcome.runs:
            show_runs(self._printer, outcome.runs)
        if outcome.refused:
            self._note(f"warning: {outcome.refused} lines refused; {outcome.first_refusal}")
        for count, what in (
            (outcome.lost, "lost on the way"),
            (outcome.dropped, "dropped by senders"),
        ):
            if count:
                self._note(f"warning: {count} frames were {what}")
        if outcome.stopped and not outcome.takes:
            self._note("nothing was recorded")
        elif self._last:
            self._note(f"kickback measure {self._last}: every number of the take saved last")

    def _note(self, text: str) -> None:
        if self._live is not None:
            self._printer.line(text, style="dim")
        else:
            click.echo(f"kickback: {text}", err=True)
