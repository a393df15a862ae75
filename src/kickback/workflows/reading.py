"""What most commands begin with: takes from files, as the project wants them read."""

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from kickback.files.options import ReadOptions
from kickback.files.read import find_takes, read_take, stem_of
from kickback.project.settings import Settings
from kickback.takes.record import Record, replace
from kickback.takes.take import Take
from kickback.takes.units import in_unit
from kickback.workflows.cores import MANY, Cores

if TYPE_CHECKING:
    from kickback.files.mapping import Mapping

__all__ = ["Loaded", "Track", "in_own_unit", "load_takes", "options_for", "read_in_project"]

_LARGE = 50_000_000
"""Bytes from which fewer files are worth several processes."""

Track = Callable[[Sequence[str]], Iterable[str]]
"""Goes through paths one by one, and may show how far it is."""


class Loaded(Record, frozen=True, kw_only=True):
    """Takes that were read, and the sentences that reading them gave."""

    takes: Sequence[Take]
    warnings: Sequence[str]


def load_takes(
    patterns: Sequence[str],
    map_file: str | None = None,
    settings: Settings | None = None,
    *,
    strict: bool = False,
    any_clock: bool = False,
    as_written: bool = False,
    track: Track = iter,
    cores: Cores | None = None,
) -> Loaded:
    """Read all takes that files, folders and patterns name.

    A mapping file named by the caller applies to all; the project's own mapping to those
    takes that do not carry our columns. ``strict`` and ``any_clock`` are those of
    ReadOptions; ``as_written`` leaves lengths in the unit that each file has. Many are read on
    several ``cores``. Raises InputError for the first that is no take.
    """
    settings = settings or Settings()
    named = None
    if map_file is not None:
        from kickback.files.mapping import read_mapping

        named = read_mapping(Path(map_file))
    usual = ReadOptions(strict=strict, any_clock=any_clock)
    paths = find_takes(patterns)
    read = partial(
        read_in_project, settings=settings, named=named, usual=usual, as_written=as_written
    )
    spread = (cores or Cores(1)).each(read, paths, pays=_pays(paths))
    takes = [take for _, take in zip(track(paths), spread, strict=True)]
    names = [take.name for take in takes]
    renamed = [
        take if names.count(take.name) == 1 else replace(take, name=take.source) for take in takes
    ]
    return Loaded(takes=renamed, warnings=[text for take in takes for text in take.warnings])


def _pays(paths: Sequence[str]) -> bool:
    """Whether files are worth several processes, which take a while to begin."""
    if len(paths) >= MANY:
        return True
    sizes = [Path(path).stat().st_size for path in paths if Path(path).is_file()]
    return sum(sizes) >= _LARGE


def read_in_project(
    path: str,
    settings: Settings,
    named: "Mapping | None" = None,
    usual: ReadOptions | None = None,
    *,
    as_written: bool = False,
) -> Take:
    """Read one take with what the project says of its files: mapping, header values, units."""
    options = options_for(path, settings, usual or ReadOptions())
    take = read_take(path, named, options)
    return take if as_written else in_own_unit(take, settings)


def in_own_unit(take: Take, settings: Settings) -> Take:
    """Return a take in the project's length unit, where it says how its own converts."""
    unit = settings.length_unit
    factor = settings.size_of(take.header.length_unit)
    if unit is None or factor is None or take.header.length_unit == unit:
        return take
    return in_unit(take, unit, factor)


def options_for(path: str, settings: Settings, usual: ReadOptions) -> ReadOptions:
    """Return how a project's file is read: its limits, header values, and the name's own."""
    named = {}
    if settings.file_name is not None and path != "-":
        named = settings.file_name.header_of(stem_of(path))
    if "parameters" in named and settings.path is not None:
        file = settings.path.parent / "params" / f"{named['parameters']['name']}.toml"
        if file.is_file():
            from kickback.project.parameter_sets import read_parameter_set

            named["parameters"] = read_parameter_set(file).to_mapping()
    return replace(
        usual,
        defaults=settings.defaults,
        named=named,
        limits=settings.limits,
        project_mapping=settings.mapping,
    )
