"""``kickback sweep``."""

from typing import TYPE_CHECKING

import click

from kickback.cli.common import (
    Finite,
    cores_option,
    draw,
    examples,
    force_option,
    format_option,
    only_option,
    project_option,
)
from kickback.cli.output import complain, say_aside, tell

if TYPE_CHECKING:
    from pathlib import Path

    from kickback.project.settings import Settings
    from kickback.tuning.sweep.record import Swept
    from kickback.workflows.sweeping import GamePlan, SweepCall

__all__ = ["command"]


@click.command(
    "sweep",
    epilog=examples(
        "kickback sweep params/brisk.toml --figure figures/sweep.png",
        "kickback sweep params/brisk.toml --move coast.stop_distance --leave jump",
        "kickback sweep params/brisk.toml --vary jump_speed=8..16 -o sweep.csv",
        "kickback sweep params/brisk.toml --vary jump_speed=8..16 --vary gravity_rise=20..60 \\",
        "    --samples 200 --trade jump.apex_height,jump.air_time",
    ),
)
@click.argument("parameters", metavar="PARAMETERS")
@click.option(
    "--vary",
    metavar="NAME[=RANGE]",
    multiple=True,
    help="A parameter to vary: NAME=20..60, NAME=20,30,40, or NAME alone, which is only"
    " moved a little; may be repeated. Without any, every one is moved a little.",
)
@click.option(
    "--grid",
    type=click.IntRange(2, 1000),
    default=5,
    show_default=True,
    metavar="N",
    help="Values of each range, every one with every other.",
)
@click.option(
    "--samples",
    type=click.IntRange(2, 100_000),
    metavar="N",
    help="In the place of a grid so many sets, spread evenly over all ranges.",
)
@click.option("--seed", type=int, default=0, show_default=True, help="What --samples draws by.")
@click.option("--rates", metavar="LIST", help="Frame rates; the project's reference without.")
@click.option(
    "--drill",
    metavar="FILE",
    default="",
    help="The drill to play, a file or a built-in one; the usual one without.",
)
@click.option("--move", metavar="METRIC", help="Say which parameters move this metric.")
@click.option(
    "--leave",
    metavar="NAME",
    multiple=True,
    help="With --move: metrics or groups that should stay; may be repeated.",
)
@click.option(
    "--trade",
    metavar="METRIC,METRIC",
    multiple=True,
    help="How two metrics go together over the ranges; may be repeated.",
)
@click.option(
    "-o",
    "--output",
    metavar="FILE",
    help="Write every set with its metrics as *.csv or *.parquet; a call that was"
    " stopped goes on where it did.",
)
@click.option(
    "--figure",
    metavar="FILE",
    help="Draw the map of what moves what, or with --trade the first two metrics.",
)
@click.option(
    "--run",
    metavar="COMMAND",
    help="Let the game play in the model's place, as in 'kickback record --run'.",
)
@click.option(
    "--timeout",
    type=Finite(0.1, 86_400),
    default=60.0,
    show_default=True,
    help="With --run: seconds for each run.",
)
@cores_option
@only_option
@force_option
@format_option()
@project_option
def command(**options: "object") -> None:
    """Say which parameter moves which metric, and what can be had together.

    PARAMETERS is a file for a built-in model, perhaps one that 'kickback fit' wrote; with --run
    one that the game reads.

    Per cents are told about PARAMETERS itself, each parameter moved by 2 % both ways.
    """
    from pathlib import Path

    from kickback.project.settings import find_settings

    given = _Given(**options)
    settings = find_settings(given.project)
    result = _swept(given, Path(given.parameters), settings)
    if given.figure is not None:
        _draw(given, result)
    if given.how != "text":
        from kickback.show.formats import format_named
        from kickback.show.sweep import sweep_records

        tell(format_named(given.how).write(sweep_records(result)))
        return
    from kickback.show.console import Printer
    from kickback.show.sweep import show_movers, show_sweep

    if given.move is not None:
        show_movers(Printer(), result, given.move, given.leave)
    else:
        show_sweep(Printer(), result, _headlines(result))
    if given.output is not None:
        say_aside(f"{given.output}: {len(result.points)} rows written")


class _Given:
    """A call's options by name."""

    parameters: str
    vary: tuple[str, ...]
    grid: int
    samples: int | None
    seed: int
    rates: str | None
    drill: str
    move: str | None
    leave: tuple[str, ...]
    trade: tuple[str, ...]
    output: str | None
    figure: str | None
    run: str | None
    timeout: float
    many_cores: int | None
    only: tuple[str, ...]
    force: bool
    how: str
    project: str | None

    def __init__(self, **options: object) -> None:
        self.__dict__.update(options)


def _swept(given: _Given, file: "Path", settings: "Settings") -> "Swept":
    """Play all sets, and work out what they tell."""
    from kickback.errors import UsageError, nearest
    from kickback.tuning.sweep.moved import with_trade
    from kickback.workflows.sweeping import run_sweep

    pairs = _asked(given)
    call = _call(given, file, settings)
    if pairs and not any(one.swept for one in call.knobs):
        raise click.UsageError("--trade is over ranges: --vary NAME=LOW..HIGH")
    with _Progress(given.output) as progress:
        result = run_sweep(call, settings, progress.told)
    for first, second in pairs:
        result = with_trade(result, first, second)
    if given.move is not None and given.move not in result.units:
        hint = nearest(given.move, result.units)
        raise UsageError(f"no metric '{given.move}' in these takes{hint}")
    return result


def _asked(given: _Given) -> list[tuple[str, str]]:
    """Return the pairs of metrics to be held together; UsageError for any name that is none.

    That is told before anything is played.
    """
    from kickback.kinds.table import all_metrics
    from kickback.metrics.metric import select_metrics

    if given.leave and given.move is None:
        raise click.UsageError("--leave goes with --move: which metric shall move?")
    pairs = [_pair(one) for one in given.trade]
    moved = [] if given.move is None else [given.move]
    select_metrics(all_metrics(), [*moved, *given.leave, *(one for pair in pairs for one in pair)])
    return pairs


def _call(given: _Given, file: "Path", settings: "Settings") -> "SweepCall":
    from pathlib import Path

    from kickback.workflows.cores import usable
    from kickback.workflows.solving import parse_rates
    from kickback.workflows.sweeping import SweepCall, parse_knobs

    rates = parse_rates(given.rates) if given.rates is not None else [settings.reference_rate]
    return SweepCall(
        file=file,
        knobs=parse_knobs(given.vary),
        rates=rates,
        only=given.only,
        grid=given.grid,
        samples=given.samples,
        seed=given.seed,
        drill=given.drill,
        force=given.force,
        output=None if given.output is None else Path(given.output),
        cores=given.many_cores or usable(),
        game=_game(given),
    )


def _game(given: _Given) -> "GamePlan | None":
    """Return how the game plays, where it does."""
    from pathlib import Path

    from kickback.cli.run_progress import RunProgress
    from kickback.workflows.sweeping import GamePlan

    if given.run is None:
        return None
    if given.output is None:
        raise click.UsageError("--run keeps takes and parameter files beside its table: -o FILE")
    if not given.vary:
        raise click.UsageError("--run plays what you name: --vary NAME=LOW..HIGH")
    output = Path(given.output)
    return GamePlan(
        command=given.run,
        drill_file=given.drill,
        timeout=given.timeout,
        observer=RunProgress(),
        folder=output.with_name(f"{output.stem}-takes"),
    )


def _pair(text: str) -> tuple[str, str]:
    names = [one.strip() for one in text.split(",")]
    if len(names) != 2 or not all(names) or names[0] == names[1]:
        raise click.UsageError(f"--trade is two metrics, jump.apex_height,jump.air_time: '{text}'")
    return names[0], names[1]


def _headlines(result: "Swept") -> tuple[str, ...]:
    """Return the metrics that are looked at first, of the kind that was played."""
    from kickback.kinds.table import KINDS

    having = max(
        KINDS, key=lambda kind: sum(one in result.units for one in kind.measuring.headlines)
    )
    return tuple(having.measuring.headlines)


def _draw(given: _Given, result: "Swept") -> None:
    from kickback.show.figures.sweep import sensitivity_figure, trade_figure

    def make() -> object:
        return (
            trade_figure(result)
            if result.trades
            else sensitivity_figure(result, _headlines(result))
        )

    draw(str(given.figure), make, force=given.force)


class _Progress:
    """A bar on a terminal while sets are played; says what is kept where it is stopped."""

    def __init__(self, output: str | None) -> None:
        from kickback.show.progress import Counting

        self._bar, self._output = Counting("playing sets"), output
        self._done = self._total = 0

    def __enter__(self) -> "_Progress":
        return self

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        self._bar.close()
        if kind is KeyboardInterrupt and self._output is not None:
            kept = f"{self._done} of {self._total} are kept in {self._output}.part"
            complain(f"stopped: {kept}, and the same call goes on there")

    def told(self, done: int, total: int) -> None:
        """Hear how many sets of how many are done."""
        self._done, self._total = done, total
        self._bar.told(done, total)
