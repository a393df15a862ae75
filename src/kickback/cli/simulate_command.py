"""``kickback simulate``."""

import click

from kickback.cli.common import encoding_option, force_option

__all__ = ["command"]


@click.command("simulate")
@click.argument("parameters", nargs=-1, metavar="[PARAMETERS]...")
@click.option("--drill", metavar="FILE", help="The drill; a short standard one without.")
@click.option(
    "--rate",
    "rates",
    type=float,
    multiple=True,
    default=(60.0,),
    show_default=True,
    help="Frames per second; may be repeated.",
)
@click.option("--jitter", type=float, default=0.0, help="Uneven frame times: 0.2 is ±20 %.")
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
    "-o",
    "--output",
    default="takes",
    show_default=True,
    metavar="PATH",
    help="A folder, or a file for a single take.",
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
    output: str,
    encoding: str,
    force: bool,
) -> None:
    """Make takes of a character on foot from PARAMETERS files and a drill.

    One take for each parameter file and rate, named NAME-RATE.
    """
    from pathlib import Path

    from kickback.workflows.simulating import simulate_takes, write_takes

    takes = simulate_takes(
        parameters,
        drill,
        rates,
        mistakes=mistakes,
        integrator=integrator,
        jitter=jitter,
        seed=seed,
    )
    paths = write_takes(takes, Path(output), encoding=encoding, force=force)
    for take, path in zip(takes, paths, strict=True):
        click.echo(f"{path}: {len(take)} frames, {take.duration:.1f} s")
