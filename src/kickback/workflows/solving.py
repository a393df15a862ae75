"""``solve``: a parameter file and wishes in, the parameters that fulfil them out."""

from collections.abc import Collection, Mapping, Sequence
from pathlib import Path

from kickback.errors import InputError, UsageError
from kickback.files.toml import read_toml, with_table
from kickback.judging.budgets import parse_target
from kickback.kinds.models import model_with
from kickback.project.parameter_sets import length_unit_of, read_model_parameters
from kickback.project.settings import Settings
from kickback.tuning.solve.record import Solution
from kickback.tuning.solve.shots import ShotSolution, solve_shot
from kickback.tuning.solve.solve import solve, unit_of, wishing_of

__all__ = [
    "aim_file",
    "aimed_file",
    "length_of",
    "parse_place",
    "parse_rates",
    "read_wishes",
    "solve_file",
    "solved_file",
]


def read_wishes(items: Sequence[str], file: str | None) -> dict[str, str]:
    """Return wishes out of ``METRIC=AMOUNT`` and a file's ``[wishes]``; the former count more.

    Raises UsageError and InputError for what is none.
    """
    out: dict[str, str] = {}
    if file is not None:
        data, _ = read_toml(Path(file), "file of wishes")
        table = data.get("wishes")
        if not isinstance(table, dict) or not table:
            raise InputError("has no [wishes], such as 'jump.apex_height' = '4 tiles'", file)
        out = {name: str(value) for name, value in _flat(table).items()}
    for item in items:
        name, equals, amount = item.partition("=")
        if not (name.strip() and equals and amount.strip()):
            raise UsageError(f"--wish is METRIC=AMOUNT, 'jump.apex_height=4 tiles', not '{item}'")
        out[name.strip()] = amount.strip()
    return out


def _flat(table: Mapping[str, object], before: str = "") -> dict[str, object]:
    """Return a table's entries by dotted names: a bare ``jump.apex_height`` nests in TOML."""
    out: dict[str, object] = {}
    for key, value in table.items():
        if isinstance(value, Mapping):
            out |= _flat(value, f"{before}{key}.")
        else:
            out[f"{before}{key}"] = value
    return out


def parse_rates(text: str) -> list[float]:
    """Return frame rates out of a list such as 30,60,144; raises UsageError for anything else."""
    try:
        rates = list(dict.fromkeys(float(part) for part in text.split(",")))
    except ValueError as error:
        raise UsageError(f"--rates is a list such as 30,60,144, not '{text}'") from error
    if not rates or not all(1 <= rate <= 100_000 for rate in rates):
        raise UsageError(f"frame rates lie between 1 and 100000, not {text}")
    return rates


def length_of(file: Path, settings: Settings) -> str:
    """Return the unit that a parameter file's lengths are in: its own word, else the project's."""
    return length_unit_of(file) or settings.length_unit or "m"


def solve_file(
    file: Path,
    wishes: Mapping[str, str],
    settings: Settings,
    *,
    keep: Collection[str],
    rate: float | None,
    rates: Sequence[float],
    digits: int | None,
) -> Solution:
    """Return the parameters with which a file's model fulfils wishes.

    Amounts may be in any unit that the project knows. Raises UsageError and InputError for wishes,
    parameters and files that make no sense.
    """
    found = read_model_parameters(file)
    kind = model_with(found.values)
    length = length_of(file, settings)
    wanted = {}
    known = {one.metric for one in wishing_of(kind).wishes}
    for name, text in wishes.items():
        if name not in known:  # the core says which there are
            wanted[name] = 1.0
            continue
        unit = unit_of(name, length)
        target = parse_target(text, f"the wish {name}", settings.scales)
        if not target.fits(unit.dimension) and target.amount.unit:
            raise InputError(f"is in '{target.amount.unit}', the metric in {unit}", f"wish {name}")
        wanted[name] = target.within(unit)
    return solve(
        found.values,
        wanted,
        kind=kind,
        keep=keep,
        rate=rate or settings.reference_rate,
        rates=rates,
        digits=digits,
        length_unit=length,
    )


def parse_place(text: str, option: str) -> tuple[float, float]:
    """Return two numbers out of ``ACROSS,UP``; raises UsageError for anything else."""
    try:
        across, up = (float(part) for part in text.split(","))
    except ValueError as error:
        raise UsageError(
            f"{option} is ACROSS,UP from the launch on, such as 24,4: {text!r}"
        ) from error
    return across, up


def aim_file(
    file: Path,
    target: tuple[float, float],
    settings: Settings,
    *,
    moves: tuple[float, float],
    angle: float | None,
    rate: float | None,
    rates: Sequence[float],
) -> ShotSolution:
    """Return how a file's shot hits a target; lengths are in the file's own unit.

    Raises UsageError for parameters that are no shot's, and for a target or angle that is none.
    """
    found = read_model_parameters(file, "shot")
    return solve_shot(
        found.values,
        target,
        moves=moves,
        angle=angle,
        rate=rate or settings.reference_rate,
        rates=rates,
    )


def aimed_file(file: Path, result: ShotSolution) -> bytes:
    """Return the parameter file with the speed and the elevation of the lowest way."""
    way = result.ways[0]
    return with_table(file, "values", {"launch_speed": way.speed, "elevation": way.elevation})


def solved_file(file: Path, result: Solution) -> bytes:
    """Return the parameter file with its new numbers; its comments and order stay."""
    return with_table(file, "values", {name: result.values[name] for name in result.changed})
