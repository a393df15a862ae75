"""``kickback.toml``: a project's settings, found in the current folder or above."""

from collections.abc import Mapping as Map
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kickback.errors import InputError, nearest
from kickback.metrics.budgets import Budget, parse_budget
from kickback.project.toml import key_line, read_toml
from kickback.takes.record import Record

if TYPE_CHECKING:
    from kickback.files.mapping import Mapping

__all__ = ["FILE_NAME", "Settings", "find_settings", "read_settings"]

FILE_NAME = "kickback.toml"
_KEYS = ("reference_rate", "tile", "budgets", "targets", "mapping")


class Settings(Record, frozen=True, kw_only=True):
    """A project's settings.

    ``reference_rate``: frames/s at which times are also shown in frames; ``tile``: the
    length and unit in which lengths are also shown; ``mapping``: for the game's own logs.
    """

    path: Path | None = None
    reference_rate: float = 60.0
    tile: tuple[float, str] | None = None
    budgets: Map[str, Budget] = {}
    targets: Map[str, float] = {}
    mapping: "Mapping | None" = None


def find_settings(project: str | None, folder: Path | None = None) -> Settings:
    """Return the settings of ``project``, or those in the current folder or above.

    Defaults where there are none. Raises InputError for a file that makes no sense.
    """
    if project is not None:
        path = Path(project)
        return read_settings(path / FILE_NAME if path.is_dir() else path)
    here = (folder or Path()).resolve()
    for place in (here, *here.parents):
        if (place / FILE_NAME).is_file():
            return read_settings(place / FILE_NAME)
    return Settings()


def read_settings(path: Path) -> Settings:
    """Read ``kickback.toml``; raises InputError naming the key and its line."""
    data, text = read_toml(path, "project file")
    for key in data:
        if key not in _KEYS:
            raise InputError(f"unknown key '{key}'{nearest(key, _KEYS)}", key_line(path, text, key))
    tables: dict[str, Map[str, Any]] = {}
    for key in ("budgets", "targets", "mapping"):
        value = data.get(key, {})
        if not isinstance(value, Map):
            raise InputError(f"'{key}' must be a table, [{key}]", key_line(path, text, key))
        tables[key] = value
    from kickback.metrics.registry import all_metrics

    known = {metric.name: metric.dimension for metric in all_metrics()}
    groups = {name.split(".")[0] for name in known}
    budgets: dict[str, Budget] = {}
    for name, value in _flat(tables["budgets"]).items():
        place = key_line(path, text, name)
        if name not in known and name not in groups:
            raise InputError(
                f"no metric or group '{name}'{nearest(name, [*known, *groups])}", place
            )
        budgets[name] = parse_budget(value, place)
    targets: dict[str, float] = {}
    for name, value in _flat(tables["targets"]).items():
        place = key_line(path, text, name)
        if name not in known:
            raise InputError(f"no metric '{name}'{nearest(name, known)}", place)
        targets[name] = _positive(value, name, place)
    mapping = None
    if tables["mapping"]:
        from kickback.files.mapping import parse_mapping

        mapping = parse_mapping(tables["mapping"], str(path))
    return Settings(
        path=path,
        reference_rate=_positive(
            data.get("reference_rate", 60.0),
            "reference_rate",
            key_line(path, text, "reference_rate"),
        ),
        tile=_tile(data["tile"], key_line(path, text, "tile")) if "tile" in data else None,
        budgets=budgets,
        targets=targets,
        mapping=mapping,
    )


def _tile(value: object, place: str) -> tuple[float, str]:
    number, _, unit = value.partition(" ") if isinstance(value, str) else ("", "", "")
    try:
        size = float(number)
    except ValueError:
        size = 0.0
    if not 0 < size < float("inf") or not unit.strip():
        raise InputError(
            f"'tile' must be a length and its unit such as \"32 px\", not {value!r}", place
        )
    return size, unit.strip()


def _flat(table: Map[str, Any]) -> dict[str, Any]:
    """Return ``group.metric`` keys, whether they were quoted or written as sub-tables."""
    found: dict[str, Any] = {}
    for key, value in table.items():
        if isinstance(value, Map):
            found |= {f"{key}.{name}": item for name, item in value.items()}
        else:
            found[key] = value
    return found


def _positive(value: object, key: str, place: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or value <= 0:
        raise InputError(f"'{key}' must be a number above 0, not {value!r}", place)
    return float(value)
