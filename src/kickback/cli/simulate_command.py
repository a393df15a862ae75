"""``kickback simulate``."""

from functools import partial

import click

from kickback.cli.common import Finite, encoding_option, force_option
from kickback.cli.output import say

__all__ = ["command"]


@click.command("simulate")
@click.argument("parameters", nargs=-1, metavar="[PARAMETERS]...")
@click.option(
    "--drill",
    metavar="DRILL",
    help="The drill: a file, or a built-in one's name (moves, edges, walls, slopes, …);"
    " a short standard one without.",
)
@click.option(
    "--rate",
    "rates",
    type=Finite(),
    multiple=True,
    default=(60.0,),
    show_default=True,
    help="Frames per second; may be repeated.",
)
@click.option("--jitter", type=Finite(), default=0.0, help="Uneven frame times: 0.2 is ±20 %.")
@click.option("--seed", type=int, default=0, help="Seed of the uneven frame times.")
@click.option(
    "--integrator",
    type=click.Choice(["semi-implicit", "explicit", "trapezoid"]),
    help="Which velocity moves the position; the parameters' own without.",
)
@click.option(
    "--mistake",
    "mistakes",
    multiple=True,
    metavar="NAME",
    help="Switch a mistake on, such as gravity-per-frame; may be repeated.",
)
@click.option(
    "--set",
    "changes",
    multiple=True,
    metavar="NAME=VALUE",
    help="Play it with another value, and say which metrics that changes; may be repeated.",
)
@click.option(
    "-o",
    "--output",
    default="takes",
    show_default=True,
    metavar="PATH",
    help="A folder, or a file for a single take.",
)
@click.option(
    "--send",
    metavar="ADDRESS",
    help="Play to a recorder in real time instead: tcp://127.0.0.1:7425, udp://…, ws://….",
)
@click.option("--fast", is_flag=True, help="With --send: as fast as the recorder takes it.")
@click.option(
    "--token", envvar="KICKBACK_TOKEN", metavar="WORD", help="With --send: the recorder's token."
)
@encoding_option
@force_option
def command(
    parameters: tuple[str, ...],
    drill: str | None,
    rates: tuple[float, ...],
    jitter: float,
    seed: int,
    integrator: str | None,
    mistakes: tuple[str, ...],
    changes: tuple[str, ...],
    output: str,
    send: str | None,
    fast: bool,
    token: str | None,
    encoding: str,
    force: bool,
) -> None:
    """Make takes of a character on foot from PARAMETERS files and a drill.

    One take for each parameter file and rate, named NAME-RATE. With --send it plays them to
    'kickback record' as a game would; without --drill it plays the drill that the recorder
    wants.
    """
    from pathlib import Path

    from kickback.project.parameter_sets import read_drill
    from kickback.workflows.simulating import parse_changes, simulate_takes, write_takes

    play = partial(
        simulate_takes,
        parameters,
        changes=parse_changes(changes),
        rates=rates,
        mistakes=mistakes,
        integrator=integrator,
        jitter=jitter,
        seed=seed,
    )
    own = read_drill(Path(drill)) if drill else None
    if send is not None:
        from kickback.workflows.sending import send_takes

        for sent in send_takes(send, play, drill=own, fast=fast, token=token or ""):
            lost = f", {sent.dropped} dropped" if sent.dropped else ""
            whose = ", the recorder's drill" if sent.by_request else ""
            say(f"{sent.name}: {sent.frames} frames sent{lost}{whose}")
        return
    takes = play(own)
    paths = write_takes(takes, Path(output), encoding=encoding, force=force)
    for take, path in zip(takes, paths, strict=True):
        say(f"{path}: {len(take)} frames, {take.duration:.1f} s")
    if changes:
        from kickback.show.changes import show_changes
        from kickback.show.console import Printer
        from kickback.workflows.simulating import changed_metrics

        show_changes(Printer(), changed_metrics(play(own, changes=None), takes))
