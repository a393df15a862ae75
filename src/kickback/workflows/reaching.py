"""``reach``: a parameter file in; what it clears, a level's verdicts, or a shot's envelope out."""

from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np

from kickback.errors import InputError, UsageError, nearest
from kickback.files.toml import read_toml
from kickback.kinds.models import model_with
from kickback.project.parameter_sets import read_model_parameters
from kickback.project.settings import Settings
from kickback.takes.amounts import Scales, parse_amount
from kickback.takes.plain import PlainMap
from kickback.takes.quantities import LENGTH
from kickback.takes.take import FloatArray
from kickback.tuning.reach.envelope import envelope
from kickback.tuning.reach.level import judge
from kickback.tuning.reach.reach import reach
from kickback.tuning.reach.record import Envelope, Gap, Level, Reach
from kickback.workflows.solving import length_of

__all__ = [
    "envelope_of",
    "is_shot",
    "judge_level",
    "parse_length",
    "parse_tiles",
    "reach_of",
    "read_level",
    "tile_of",
]

_GAP_KEYS = ("name", "across", "up", "ceiling", "by", "frames")

_MOST = 200
"""Gaps or steps that may be asked for."""


def is_shot(file: Path) -> bool:
    """Whether a parameter file is that of a shot, whose envelope is told in the place of gaps."""
    return model_with(read_model_parameters(file).values) == "shot"


def parse_tiles(text: str | None, option: str) -> FloatArray | None:
    """Return whole steps of tiles out of ``FIRST..LAST``, None out of none.

    Raises UsageError for what is no such range.
    """
    if text is None:
        return None
    first, dots, last = text.partition("..")
    try:
        low, high = float(first), float(last if dots else first)
    except ValueError as error:
        raise UsageError(f"{option} is a range of tiles such as 1..8, not '{text}'") from error
    if not (np.isfinite([low, high]).all() and low <= high and high - low < _MOST):
        raise UsageError(f"{option} goes from low to high, {_MOST} tiles at most, not '{text}'")
    return low + np.arange(float(int(np.floor(high - low + 1e-9)) + 1))


def parse_length(text: object, place: str, what: str, scales: Scales, length: str) -> float:
    """Return an amount such as ``"2 tiles"`` in a length unit; a bare number counts tiles.

    Raises InputError for what is no length, or one that nothing brings to the unit.
    """
    amount = parse_amount(text, place, what, scales)
    if not amount.unit:
        return amount.number * _tile(scales, length)
    return amount.within(LENGTH.within(length), scales, f"{what}: ")


def tile_of(settings: Settings, length: str) -> float:
    """Return a tile in a length unit: one of it where the project says nothing else."""
    return _tile(settings.scales, length)


def _tile(scales: Scales, length: str) -> float:
    return scales.length("tile", length) or 1.0


def reach_of(
    file: Path,
    settings: Settings,
    *,
    ways: Sequence[str],
    rates: Sequence[float],
    tiles: tuple[FloatArray | None, FloatArray | None],
    ceiling: str | None,
) -> Reach:
    """Return what a parameter file's character clears, in tiles of the project.

    ``tiles`` are the gaps and the steps that are looked at, as many as are cleared without.
    """
    found, kind, length, tile = _read(file, settings)
    across, up = (None if one is None else one * tile for one in tiles)
    own = settings.scales.length("tile", length) is not None or tiles != (None, None)
    high = (
        None
        if ceiling is None
        else parse_length(ceiling, "--ceiling", "a ceiling", settings.scales, length)
    )
    return reach(
        found,
        kind=kind,
        ways=ways,
        rates=_rates(rates, settings),
        grid=(across, up),
        ceiling=high,
        tile=tile if own else None,
        length_unit=length,
    )


def _rates(rates: Sequence[float], settings: Settings) -> list[float]:
    """Return the frame rates to look at, that of the project first where it is one of them."""
    return sorted(
        rates or [settings.reference_rate], key=lambda one: one != settings.reference_rate
    )


def _read(file: Path, settings: Settings) -> tuple[PlainMap, str, str, float]:
    found = read_model_parameters(file)
    length = length_of(file, settings)
    return found.values, model_with(found.values), length, _tile(settings.scales, length)


def judge_level(
    file: Path, level: Path, settings: Settings, *, rates: Sequence[float], frames: int | None
) -> Level:
    """Return the verdicts on a level's gaps.

    ``frames`` are asked of those that do not say how many. Raises InputError for a level file
    that makes no sense.
    """
    found, kind, length, tile = _read(file, settings)
    gaps = read_level(level, settings.scales, length, frames or 1)
    judged = judge(found, gaps, kind=kind, rates=list(rates) or [settings.reference_rate])
    return Level(gaps=judged, length=length, tile=tile)


def read_level(level: Path, scales: Scales, length: str, frames: int) -> list[Gap]:
    """Return the gaps of a level's TOML file, in a length unit; InputError for what is none."""
    data, _ = read_toml(level, "level")
    rows = data.get("gap")
    if not isinstance(rows, list) or not rows:
        raise InputError("has no [[gap]], such as across = 4, up = 1", str(level))
    return [_gap(row, k + 1, str(level), scales, length, frames) for k, row in enumerate(rows)]


def _gap(row: object, number: int, file: str, scales: Scales, length: str, frames: int) -> Gap:
    place = f"{file}, gap {number}"
    row = _checked(row, place)

    def long(key: str) -> float:
        return parse_length(row.get(key, 0), place, f"'{key}'", scales, length)

    if long("across") < 0:
        raise InputError("'across' is 0 or more", place)
    return Gap(
        name=row.get("name", f"gap {number}"),
        across=long("across"),
        up=long("up"),
        ceiling=long("ceiling") if "ceiling" in row else None,
        by=row.get("by"),
        frames=row.get("frames", frames),
    )


def _checked(row: object, place: str) -> PlainMap:
    """Return a gap's table; InputError where it says what none does."""
    if not isinstance(row, Mapping):
        raise InputError("is a table, [[gap]]", place)
    for key in row:
        if key not in _GAP_KEYS:
            raise InputError(f"unknown key '{key}'{nearest(str(key), _GAP_KEYS)}", place)
    if not all(isinstance(row.get(key, ""), str) for key in ("name", "by")):
        raise InputError("'name' and 'by' are words", place)
    asked = row.get("frames", 1)
    if isinstance(asked, bool) or not isinstance(asked, int) or asked < 1:
        raise InputError(f"'frames' is a whole number from 1 on, not {asked!r}", place)
    return row


def envelope_of(file: Path, settings: Settings, *, rates: Sequence[float]) -> Envelope:
    """Return how high a parameter file's shots get over each distance."""
    found, _, length, tile = _read(file, settings)
    return envelope(found, rates=_rates(rates, settings), tile=tile, length_unit=length)
