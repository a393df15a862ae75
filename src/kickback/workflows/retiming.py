"""``retime``: numbers and parameter files from one frame rate to another."""

from collections.abc import Mapping, Sequence
from pathlib import Path

from kickback.errors import InputError, KickbackError, UsageError, nearest
from kickback.files.toml import edited
from kickback.framerate.retime import KINDS, UNTOLD, Retimed, kind_of, left_because, retime
from kickback.kinds.models import models
from kickback.project.own_names import told_kind
from kickback.project.parameter_sets import length_unit_of, read_parameter_set
from kickback.project.settings import Settings
from kickback.takes.record import Record
from kickback.workflows.own_names import InCode, spoken_retimed

__all__ = ["Retiming", "parse_rate", "retimed_file", "retimed_number", "rewritten"]


class Retiming(Record, frozen=True, kw_only=True):
    """A file's constants at another rate; of those left as they are the names, each with why.

    ``own`` are those that the game's code has a name and a unit of its own for, ``unsaid`` why they
    cannot be told so.
    """

    rows: Sequence[Retimed]
    left: Mapping[str, str] = {}
    own: Mapping[str, InCode] = {}
    unsaid: str = ""

    @property
    def unknown(self) -> list[str]:
        """Return the names of numbers that were left because nothing tells what they are."""
        return [name for name, why in self.left.items() if why == UNTOLD]


def parse_rate(text: str) -> float | None:
    """Return a frame rate, or None for ``second``; raises UsageError for anything else."""
    if text in {"second", "s"}:
        return None
    try:
        rate = float(text)
    except ValueError as error:
        raise UsageError(f"a frame rate such as 60, or 'second', not '{text}'") from error
    if not 0 < rate <= 100_000:
        raise UsageError(f"a frame rate lies above 0 and up to 100000, not {text}")
    return rate


def retimed_number(
    value: float, kinds: Sequence[str], before: float | None, after: float | None
) -> Retiming:
    """Return one number at another rate; raises UsageError where its kind is not given."""
    if len(kinds) != 1 or "=" in kinds[0]:
        raise UsageError(
            f"say what the number is: --kind and one of {', '.join(KINDS)}, as in --kind factor"
        )
    return Retiming(rows=[retime("number", kinds[0], value, before, after)])


_OF_SECOND = "its unit in [names] is of the second"
"""Why a number is left that the game's code has in a unit without frames."""


def retimed_file(
    path: Path,
    kinds: Sequence[str],
    before: float | None,
    after: float | None,
    settings: Settings,
) -> Retiming:
    """Return a parameter file's constants at another rate.

    Kinds are given as ``name=kind`` (``name=none`` leaves it), told by the units of the game's
    own names, or by the names. What none of them tells is left as it is. Raises UsageError and
    InputError naming the parameter.
    """
    found = read_parameter_set(path)
    given = _given(kinds, found.values)
    units = _by_units(settings)
    rows, left = [], {}
    for name, value in found.values.items():
        kind = given.get(name) or (units[name] if name in units else _kind_by_name(name, value))
        if kind in {None, "none"}:
            why = _OF_SECOND if name in units else left_because(name, value)
            left[name] = "as you say" if given.get(name) == "none" else why
            continue
        if isinstance(value, bool | str) or kind is None:
            raise InputError(f"'{name}' is no number and cannot be a {kind}", str(path))
        try:
            rows.append(retime(name, kind, float(value), before, after))
        except KickbackError as error:
            raise InputError(f"'{name}': {error}", str(path)) from error
    own, unsaid = _in_code(path, rows, settings, after)
    return Retiming(rows=rows, left=left, own=own, unsaid=unsaid)


def _in_code(
    path: Path, rows: Sequence[Retimed], settings: Settings, after: float | None
) -> tuple[Mapping[str, InCode], str]:
    """Return constants as the game's code has them, or why they cannot be told so."""
    length = length_unit_of(path) or settings.length_unit or "m"
    try:
        return spoken_retimed(rows, settings, length, after), ""
    except InputError as error:
        return {}, str(error)


def _by_units(settings: Settings) -> dict[str, str | None]:
    """Return the kinds that the units of the game's own names tell, by those names."""
    known = {name: one for model in models().values() for name, one in model.parameters.items()}
    return {
        own.name: told_kind(own, known[name].unit, settings.scales)
        for name, own in settings.names.items()
        if own.unit and own.name != name
    }


def _kind_by_name(name: str, value: object) -> str | None:
    """Return the kind that a name tells."""
    if isinstance(value, bool | str):
        return None
    return kind_of(name)


def _given(kinds: Sequence[str], names: Mapping[str, object]) -> dict[str, str]:
    out = {}
    for item in kinds:
        name, equals, kind = item.partition("=")
        if not equals:
            raise UsageError(f"in a file a kind belongs to a name: --kind NAME={item}")
        if name not in names:
            raise UsageError(f"no parameter '{name}'{nearest(name, names)}")
        if kind not in {*KINDS, "none"}:
            raise UsageError(f"no kind '{kind}': one of {', '.join(KINDS)}, or none")
        out[name] = kind
    return out


def rewritten(path: Path, rows: Sequence[Retimed]) -> str:
    """Return a parameter file's text with the new values; everything else stays."""
    text = path.read_text(encoding="utf-8")
    return edited(text, "values", {row.name: row.result for row in rows})
