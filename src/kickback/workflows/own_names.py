"""Parameters in the game's own names and units, and written into its own files."""

import difflib
from collections.abc import Mapping, Sequence
from pathlib import Path

from kickback.errors import UsageError
from kickback.framerate.retime import Retimed
from kickback.judging.compare import ChangedParameter
from kickback.kinds.models import model_named, model_with
from kickback.project.own_names import in_code, rewritten
from kickback.project.settings import Settings
from kickback.takes.header import Value
from kickback.takes.record import Record, replace

__all__ = ["Change", "InCode", "changes_of_files", "spoken", "spoken_changes", "spoken_retimed"]


class InCode(Record, frozen=True, kw_only=True):
    """A parameter as the game's code has it."""

    name: str
    value: float
    unit: str

    @property
    def text(self) -> str:
        """Return it as a line of code says it."""
        return f"{self.name} = {self.value:.6g} {self.unit}".strip()


class Change(Record, frozen=True, kw_only=True):
    """A game's file with new numbers: its ``text``, and the lines that differ."""

    path: Path
    text: str
    difference: tuple[str, ...]


def spoken(
    values: Mapping[str, Value], settings: Settings, kind: str, length: str
) -> dict[str, InCode]:
    """Return those parameters that the project has names for, in the game's own terms.

    Raises InputError where nothing says how large the code's length is.
    """
    known = model_named(kind).parameters
    out = {}
    for name, own in settings.names.items():
        value = values.get(name)
        if name not in known or not isinstance(value, int | float):
            continue
        found = in_code(own, float(value), known[name].unit, length, settings.scales)
        out[name] = InCode(name=own.name, value=found, unit=own.unit)
    return out


def spoken_changes(
    changed: Sequence[ChangedParameter], settings: Settings, kind: str, length: str
) -> dict[str, str]:
    """Return parameters that are others on two sides as the game's code has them, by name.

    Raises InputError where nothing says how large the code's length is.
    """
    before, after = (
        spoken(
            {one.name: value for one in changed if (value := getattr(one, side)) is not None},
            settings,
            kind,
            length,
        )
        for side in ("base", "candidate")
    )
    both = {name: (before[name], after[name]) for name in before if name in after}
    return {
        name: f"{one.name} {one.value:.6g} → {other.value:.6g} {one.unit}".strip()
        for name, (one, other) in both.items()
    }


def spoken_retimed(
    rows: Sequence[Retimed], settings: Settings, length: str, after: float | None
) -> dict[str, InCode]:
    """Return constants at another frame rate as the game's code then has them, by name.

    A frame in the code's unit is one at the rate ``after``, or at the project's where that is
    None. Raises InputError where nothing says how large the code's length is.
    """
    rate = after or settings.reference_rate
    there = replace(settings, scales=replace(settings.scales, reference_rate=rate))
    kind = model_with([row.name for row in rows])
    return spoken({row.name: row.second for row in rows}, there, kind, length)


def changes_of_files(
    values: Mapping[str, Value], settings: Settings, kind: str, length: str
) -> list[Change]:
    """Return what new values of parameters change in the game's own files.

    Raises UsageError where the project names no file for any of them.
    """
    told = spoken(values, settings, kind, length)
    files: dict[Path, dict[tuple[str, str], float]] = {}
    for name, one in told.items():
        own = settings.names[name]
        if own.file is not None:
            files.setdefault(own.file, {})[own.table, own.name] = float(f"{one.value:.10g}")
    if not files:
        raise UsageError(
            "no file of the game holds these parameters: [names] in kickback.toml says which, as in"
            ' gravity_rise = { name = "Gravity", file = "game/player.toml" }'
        )
    out = []
    for path, new in files.items():
        before, after = rewritten(path, new)
        lines = difflib.unified_diff(
            before.splitlines(), after.splitlines(), str(path), str(path), lineterm="", n=0
        )
        out.append(Change(path=path, text=after, difference=tuple(lines)))
    return out
