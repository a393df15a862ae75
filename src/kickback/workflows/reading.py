"""What most commands begin with: takes from files, with the project's mapping where it fits."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kickback.errors import InputError
from kickback.files.read import find_takes, read_take
from kickback.project.settings import Settings
from kickback.takes.record import Record
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.files.mapping import Mapping

__all__ = ["Loaded", "load_takes"]


class Loaded(Record, frozen=True, kw_only=True):
    """Takes that were read, and the sentences that reading them gave."""

    takes: Sequence[Take]
    warnings: Sequence[str]


def load_takes(
    patterns: Sequence[str], map_file: str | None = None, settings: Settings | None = None
) -> Loaded:
    """Read all takes that files, folders and patterns name.

    A mapping file named by the caller applies to all; the project's own mapping to those
    takes that do not carry our columns. Raises InputError for the first that is no take.
    """
    own = settings.mapping if settings is not None else None
    named = None
    if map_file is not None:
        from kickback.files.mapping import read_mapping

        named = read_mapping(Path(map_file))
    takes = [_read(path, named, own) for path in find_takes(patterns)]
    names = [take.name for take in takes]
    renamed = [
        take if names.count(take.name) == 1 else _renamed(take, take.source) for take in takes
    ]
    return Loaded(takes=renamed, warnings=[text for take in takes for text in take.warnings])


def _read(path: str, named: "Mapping | None", own: "Mapping | None") -> Take:
    if named is not None or own is None or path == "-":
        return read_take(path, named or own)
    try:
        return read_take(path)
    except InputError:
        return read_take(path, own)


def _renamed(take: Take, name: str) -> Take:
    return Take(
        header=take.header,
        columns=take.columns,
        name=name,
        source=take.source,
        derived=take.derived,
        warnings=take.warnings,
    )
