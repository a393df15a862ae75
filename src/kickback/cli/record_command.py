"""``kickback record``."""

from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from kickback.workflows.recording import Recorded

__all__ = ["command"]


@click.command("record")
@click.argument("source")
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
def command(source: str, folder: str, gap: float) -> None:
    """Save takes from SOURCE, which is - for a pipe: mygame | kickback record -.

    The game prints lines of JSON (an object a frame, or arrays in the order of the
    header's columns) or CSV. A take ends at the next header, at an end object, when time
    begins again, or after a pause. Files are never replaced.
    """
    import sys
    from pathlib import Path

    from kickback.errors import UsageError
    from kickback.workflows.recording import record_pipe

    if source != "-":
        raise UsageError(f"no source '{source}'; - records from a pipe: mygame | kickback record -")
    session = record_pipe(sys.stdin.fileno(), Path(folder), gap=gap, report=_report)
    if session.refused:
        click.echo(
            f"kickback: warning: {session.refused} lines were no frames; {session.first_refusal}",
            err=True,
        )
    click.echo("kickback measure @last: the metrics of the take saved last", err=True)


def _report(item: "Recorded") -> None:
    """Say what was saved."""
    path = item.finished.path
    if item.take is None:
        click.echo(f"{path}: {item.finished.frames} frames kept, but {item.problem}")
        return
    take = item.take
    click.echo(
        f"{path}: {len(take)} frames, {take.duration:.1f} s at {take.frame_rate:.4g} frames/s,"
        f" ended by {item.finished.ended_by}"
    )
