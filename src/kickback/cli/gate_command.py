"""``kickback gate``."""

import sys
import tempfile
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
    analysed,
    cores_option,
    format_option,
    map_option,
    only_option,
    print_verdicts,
    project_option,
    read_takes,
    say_warnings,
    spread,
    strict_option,
    units_of,
)
from kickback.cli.output import complain
from kickback.cli.run_progress import RunProgress

if TYPE_CHECKING:
    from kickback.project.settings import Settings

__all__ = ["command"]


@click.command("gate")
@click.argument("takes", nargs=-1, metavar="[TAKES]...")
@click.option(
    "--baseline",
    metavar="FILE",
    help="The baseline; without: that of [gate], or baseline.json beside kickback.toml.",
)
@click.option("--into", metavar="FOLDER", help="Keep the takes of the game's runs there.")
@click.option(
    "--at-once",
    type=click.IntRange(1, 64),
    metavar="N",
    help="Runs of the game side by side; without: as [gate] says, or 1.",
)
@click.option(
    "--unable-status",
    type=click.IntRange(0, 255),
    default=2,
    show_default=True,
    metavar="NUMBER",
    help="The exit status where the game could not be run: 125 for a bisecting search.",
)
@only_option
@map_option
@strict_option
@format_option(junit=True)
@cores_option
@project_option
def command(
    takes: tuple[str, ...],
    baseline: str | None,
    into: str | None,
    at_once: int | None,
    unable_status: int,
    only: tuple[str, ...],
    map_file: str | None,
    strict: bool,
    how: str,
    many_cores: int | None,
    project: str | None,
) -> None:
    """Say whether a build may pass: TAKES against baseline, budgets, targets and frame rates.

    Without TAKES the game is run as [gate] in kickback.toml says: its command, with every drill,
    parameter set, frame rate and repeat. A metric that nobody wrote a budget for may move by 2 %,
    or by what its resolution hides. Exit status 0 where all passes, 1 where something regressed,
    is not what it must be, was lost or depends on the frame rate, 2 for a wrong call or input.
    """
    from kickback.project.settings import find_settings
    from kickback.workflows.gating import UnableError

    if takes and at_once is not None:
        raise click.UsageError("--at-once is for the game's runs: TAKES are there already")
    if takes and into is not None:
        raise click.UsageError("--into keeps the takes of the game's runs: TAKES are there already")
    settings = find_settings(project)
    if takes:
        _judge(takes, settings, baseline, only, map_file, how, many_cores, strict=strict)
        return
    with tempfile.TemporaryDirectory(prefix="kickback-gate-") as scratch:
        folder = Path(into) if into is not None else Path(scratch)
        try:
            made = _played(settings, folder, at_once)
        except UnableError as error:
            complain(f"the game could not be run: {error}")
            sys.exit(unable_status)
        _judge(made, settings, baseline, only, map_file, how, many_cores, strict=strict)


def _played(settings: "Settings", folder: Path, at_once: int | None) -> tuple[str, ...]:
    """Run the game, and return where its takes are: those of this run alone."""
    from kickback.workflows.gating import play_game

    teller = RunProgress()
    play_game(settings, folder, teller, at_once)
    return tuple(teller.saved)


def _judge(
    takes: tuple[str, ...],
    settings: "Settings",
    baseline: str | None,
    only: tuple[str, ...],
    map_file: str | None,
    how: str,
    many_cores: int | None,
    *,
    strict: bool,
) -> None:
    """Print the verdict on takes and end with its exit status."""
    from kickback.kinds.measuring import measure
    from kickback.kinds.recovering import recover_laws
    from kickback.show.gate import gate_cases, gate_markdown, show_gate
    from kickback.workflows.accepting import baseline_path, read_baseline
    from kickback.workflows.gating import gating

    with spread(many_cores) as cores:
        read = read_takes(takes, map_file, settings, strict=strict, cores=cores)
        loaded = analysed(read, settings, cores, (partial(measure, only=only), recover_laws))
    path = baseline_path(baseline, settings)
    wanted = baseline is not None or bool(settings.gate.baseline)
    kept = read_baseline(path) if wanted or path.exists() else None
    if kept is None:
        say_warnings([f"no baseline {path}: 'kickback accept TAKES' keeps one"])
    result = gating(loaded, settings, kept, str(path), only=only)
    say_warnings(result.warnings)
    units = units_of(settings)
    if how == "markdown":
        from kickback.cli.output import tell

        tell(gate_markdown(result, units))
        sys.exit(1 if result.failed or (strict and result.unsure) else 0)
    print_verdicts(
        result,
        how,
        strict=strict,
        show=lambda printer: show_gate(printer, result, units),
        cases=lambda: ("kickback gate", gate_cases(result)),
    )
