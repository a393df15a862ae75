"""What commands share: options, warnings, records on standard output."""

import math
import sys
from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

import click

from kickback.cli.output import complain, tell
from kickback.files import encodings
from kickback.show.formats import FORMATS, format_named
from kickback.takes.plain import PlainDict

if TYPE_CHECKING:
    from kickback.kinds.analysis import AnyAnalysis
    from kickback.project.settings import Settings
    from kickback.show.console import Printer
    from kickback.show.numbers import Units
    from kickback.takes.take import Take
    from kickback.workflows.ahead import Job
    from kickback.workflows.cores import Cores

__all__ = [
    "Finite",
    "analysed",
    "cores_option",
    "draw",
    "encoding_option",
    "examples",
    "force_option",
    "format_option",
    "map_option",
    "only_option",
    "print_verdicts",
    "project_option",
    "read_takes",
    "say_warnings",
    "spread",
    "strict_option",
    "strict_reading_option",
    "takes_argument",
    "units_of",
]

_SHORT = 100_000
"""Frames up to which a take is examined, and all that goes beside its subject is measured."""

F = TypeVar("F", bound=Callable[..., object])


class Finite(click.FloatRange):
    """A number within bounds, and none of those that are not: nan, inf."""

    def convert(
        self, value: Any, param: click.Parameter | None, ctx: click.Context | None
    ) -> float:
        """Return the number; an error where it is none."""
        number = float(super().convert(value, param, ctx))
        if not math.isfinite(number):
            self.fail(f"'{value}' is not a finite number.", param, ctx)
        return number

    def _describe_range(self) -> str:
        unbounded = self.min is None and self.max is None
        return "" if unbounded else super()._describe_range()


def examples(*calls: str) -> str:
    """Return calls for the end of a command's help, each on its line."""
    return "\b\n" + "\n".join(["Examples:", *(f"  {call}" for call in calls)])


_ABOUT_FORMAT = "How to print the result."


def format_option(*, junit: bool = False) -> Callable[[F], F]:
    """Return the ``--format`` option."""
    choices = ["text", *(one.name for one in FORMATS if junit or not one.verdicts_only)]
    return click.option(
        "--format",
        "how",
        type=click.Choice(choices),
        default="text",
        show_default=True,
        help=_ABOUT_FORMAT,
    )


map_option = click.option(
    "--map", "map_file", metavar="FILE", help="A mapping, for logs with columns of their own."
)
project_option = click.option(
    "--project",
    metavar="FILE",
    help="The project file; kickback.toml in this folder or above where it is not given.",
)
only_option = click.option(
    "--only",
    metavar="NAME",
    multiple=True,
    help="Only this metric or group, such as jump or coast.stop_time; may be repeated.",
)
encoding_option = click.option(
    "--as",
    "encoding",
    type=click.Choice(encodings.NAMES),
    default="jsonl",
    show_default=True,
    help="The encoding in a folder.",
)
force_option = click.option("--force", is_flag=True, help="Replace files that exist.")
strict_option = click.option(
    "--strict",
    is_flag=True,
    help="Exit with 1 also where a verdict is cannot-tell; refuse logs with text between frames.",
)
strict_reading_option = click.option(
    "--strict", is_flag=True, help="Refuse logs with text between frames; else it is skipped."
)
cores_option = click.option(
    "--cores",
    "many_cores",
    type=click.IntRange(1, 1024),
    metavar="N",
    help="Processes at once where there are many takes; as many as there are cores without.",
)
takes_argument = click.argument("takes", nargs=-1, required=True, metavar="TAKES...")


def read_takes(
    patterns: Sequence[str],
    map_file: str | None,
    settings: "Settings",
    *,
    strict: bool = False,
    any_clock: bool = False,
    as_written: bool = False,
    cores: "Cores | None" = None,
) -> "Sequence[Take]":
    """Read the takes that a command was given, and say what reading them gave."""
    from kickback.show.progress import tracked
    from kickback.workflows.reading import load_takes

    loaded = load_takes(
        patterns,
        map_file,
        settings,
        strict=strict,
        any_clock=any_clock,
        as_written=as_written,
        track=tracked,
        cores=cores,
    )
    say_warnings(loaded.warnings)
    return loaded.takes


def is_short(take: "Take") -> bool:
    """Whether a take is as short as takes usually are: half an hour at most."""
    return len(take) <= _SHORT


def spread(many: int | None) -> "Cores":
    """Return as many cores as a caller asked for, or as this process may use."""
    from kickback.workflows.cores import Cores, usable

    return Cores(many or usable())


def analysed(
    takes: "Sequence[Take]",
    settings: "Settings",
    cores: "Cores | None" = None,
    jobs: "Sequence[Job]" = (),
) -> "list[AnyAnalysis]":
    """Return the analyses of takes, and say on standard error where something is wrong.

    Very long takes are left to ``inspect``: some checks cost as much as measuring. ``jobs`` are
    what will be asked of each, done ahead on several ``cores`` where that pays.
    """
    from kickback.kinds.examining import examine
    from kickback.show.findings import findings_word

    found = [settings.analysis(take) for take in takes]
    if cores is not None and cores.pay([len(take) for take in takes]):
        from kickback.show.progress import tracked
        from kickback.workflows.ahead import work_ahead

        own = (*jobs, examine) if all(map(is_short, takes)) else tuple(jobs)
        track = partial(tracked, what="measuring takes")
        work_ahead(found, own, partial(cores.each, pays=True), track)
    for one in found:
        word = findings_word(examine(one)) if is_short(one.shown) else ""
        if word:
            say_warnings([f"{one.shown.name}: {word}; 'kickback inspect' says what to do"])
    return found


def draw(file: str, make: Callable[[], Any], *, force: bool) -> None:
    """Draw a figure into a file, whole or not at all, as its ending says.

    Raises UsageError for another ending, and InputError where the file is there already.
    """
    from pathlib import Path

    from kickback.cli.output import say_aside
    from kickback.errors import UsageError
    from kickback.files.atomic import write_new
    from kickback.show.figures.canvas import save_figure

    path = Path(file)
    ending = path.suffix.removeprefix(".").lower()
    if ending not in {"png", "svg"}:
        raise UsageError(f"{path}: the ending must be .png or .svg")
    write_new(path, save_figure(make(), ending), replace=force)
    say_aside(f"{path}: drawn")


def say_warnings(warnings: Sequence[str]) -> None:
    """Print warnings to standard error."""
    for text in warnings:
        complain(f"warning: {text}")


class Verdicts(Protocol):
    """A result that may fail or leave something open, and has flat records."""

    @property
    def failed(self) -> bool:
        """Whether the exit status is 1."""
        ...

    @property
    def unsure(self) -> bool:
        """Whether it is 1 when the caller is strict."""
        ...

    def to_records(self) -> list[PlainDict]:
        """Return the flat records."""
        ...


def print_verdicts(
    result: Verdicts,
    how: str,
    *,
    strict: bool,
    show: Callable[["Printer"], None],
    cases: Callable[[], tuple[str, list[tuple[str, str, str | None]]]],
) -> None:
    """Print a result with verdicts in any format and end with its exit status.

    ``show`` prints the text, ``cases`` gives the name and the cases of a JUnit report.
    """
    if how == "text":
        from kickback.show.console import Printer

        show(Printer())
    else:
        chosen = format_named(how)
        given = cases() if chosen.verdicts_only else (result.to_records(),)
        tell(chosen.write(*given))
    sys.exit(1 if result.failed or (strict and result.unsure) else 0)


def units_of(settings: "Settings") -> "Units":
    """Return how the project wants numbers shown."""
    from kickback.show.numbers import Units

    return Units(reference_rate=settings.reference_rate, tile=settings.tile)
