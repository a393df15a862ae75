"""``kickback.toml``: a project's settings, found in the current folder or above."""

from collections.abc import Mapping as Map
from fnmatch import fnmatchcase
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kickback.errors import InputError, nearest
from kickback.files.options import ReadLimits
from kickback.files.toml import key_line, read_toml
from kickback.judging.budgets import BUDGET_KEYS, Budget, Target, parse_budget, parse_target
from kickback.motion.options import Options
from kickback.project.file_names import FileNamePattern, parse_pattern
from kickback.project.own_names import OwnName, parse_names
from kickback.takes.amounts import Scales
from kickback.takes.header import CLOCKS, Header
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.quantities import Dimension, Unit
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

if TYPE_CHECKING:
    from kickback.files.mapping import Mapping
    from kickback.kinds.analysis import AnyAnalysis

__all__ = ["FILE_NAME", "Settings", "find_settings", "read_settings"]

FILE_NAME = "kickback.toml"
_TABLES = ("budgets", "targets", "noise", "gate", "mapping", "units", "limits", "names")
_KEYS = (
    "reference_rate",
    "tile",
    "kind",
    "view",
    "up",
    "length_unit",
    "floor_thickness",
    "file_name",
    "plateau_time",
    "plateau_change",
    "rest_speed",
    "clock",
    *_TABLES,
)


class GateSettings(Record, frozen=True, kw_only=True):
    """How the gate plays the game: a command, and all that it is run with.

    Files are as the project file has them, from its folder on. ``sources``: where frames come
    from, such as ``tcp:0`` or ``-`` for the game's output. ``at_once``: runs side by side.
    """

    run: str = ""
    drills: tuple[str, ...] = ()
    rates: tuple[float, ...] = ()
    parameters: tuple[str, ...] = ()
    repeats: int = 1
    at_once: int = 1
    timeout: float = 60.0
    sources: tuple[str, ...] = ("tcp:0",)
    baseline: str = ""


class Settings(Record, frozen=True, kw_only=True):
    """A project's settings.

    ``reference_rate``: frames/s at which times are also shown in frames; ``tile``: the
    length and unit in which lengths are also shown; ``defaults``: header values of takes
    that do not have them; ``length_unit``: what takes are converted to, by the ``units``'
    sizes in it; ``floor_thickness``: the thinnest floor, in that unit; ``file_name``: what
    files' names say; ``mapping``: for the game's own logs; ``names``: its own of parameters.
    """

    path: Path | None = None
    reference_rate: float = 60.0
    tile: tuple[float, str] | None = None
    defaults: Map[str, str] = {}
    length_unit: str | None = None
    scales: Scales = Scales()
    names: Map[str, OwnName] = {}
    units: Map[str, float] = {}
    floor_thickness: float | None = None
    file_name: FileNamePattern | None = None
    options: Options = Options()
    limits: ReadLimits = ReadLimits()
    budgets: Map[str, Budget] = {}
    targets: Map[str, Target] = {}
    noise: Map[str, Target] = {}
    gate: GateSettings = GateSettings()
    mapping: "Mapping | None" = None

    def options_for(self, take: Take) -> Options:
        """Return how a take is measured: the floor and the tile count in their own unit only."""
        unit = take.header.length_unit
        floor = self.floor_thickness if self.length_unit in {None, unit} else None
        tile = self.tile[0] if self.tile is not None and self.tile[1] == unit else None
        return replace(self.options, floor_thickness=floor, tile=tile)

    def shown_on(self, display: float | None) -> "Settings":
        """Return the same for smoothness on a display of a rate, 1/s; None for each frame."""
        return replace(self, options=replace(self.options, display=display))

    def aimed_at(self, target: tuple[float, ...] | None, ground: float | None = None) -> "Settings":
        """Return the settings with a target that shots are held against, and how high ground is."""
        return replace(self, options=replace(self.options, target=target, ground=ground))

    def analysis(self, take: Take) -> "AnyAnalysis":
        """Return the analysis of a take as the project wants it measured."""
        from kickback.kinds.table import analyse

        return analyse(take, self.options_for(take))

    def size_of(self, unit: str) -> float | None:
        """Return what one of a length unit is in the project's own, or None."""
        if unit == self.length_unit:
            return 1.0
        return self.units.get(unit) if self.length_unit is not None else None


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
    file = _File(path, text, data)
    mapping = None
    if tables := file.table("mapping"):
        from kickback.files.mapping import parse_mapping

        mapping = parse_mapping(
            tables, str(path), lambda key, table: file.place(key, f"mapping.{table}".strip("."))
        )
    defaults = file.words(("kind", "view", "up", "length_unit"))
    unit = defaults.get("length_unit")
    units = {
        name: file.positive(name, value, "units") for name, value in file.table("units").items()
    }
    if units and unit is None:
        raise InputError(
            "[units] needs 'length_unit', the unit that the sizes are in", file.place("units")
        )
    tile = _length(data["tile"], "tile", file.place("tile")) if "tile" in data else None
    file.number("reference_rate")
    scales = _scales(data, unit, units, tile)
    budgets = _budgets(file, scales)
    return Settings(
        path=path,
        reference_rate=file.number("reference_rate") or 60.0,
        tile=tile,
        defaults=defaults,
        length_unit=unit,
        scales=scales,
        names=parse_names(
            file.table("names"), lambda key: file.place(key, "names"), path.parent, scales
        ),
        units=units,
        floor_thickness=_floor(file, unit, units),
        file_name=_pattern(file),
        options=_options(file),
        limits=_limits(file),
        budgets=budgets,
        targets=_amounts(file, "targets", scales),
        noise=_amounts(file, "noise", scales),
        gate=_gate(file),
        mapping=mapping,
    )


class _File:
    """A project file's content, and where each key stands in it."""

    def __init__(self, path: Path, text: str, data: PlainMap) -> None:
        self.data = data
        self._path, self._text = path, text

    def place(self, key: str, under: str = "") -> str:
        """Return the file and the key's line, in a table of the file."""
        return key_line(self._path, self._text, key, under)

    def table(self, key: str) -> PlainMap:
        """Return a table, empty where the file has none."""
        value = self.data.get(key, {})
        if not isinstance(value, Map):
            raise InputError(f"'{key}' must be a table, [{key}]", self.place(key))
        return value

    def positive(self, key: str, value: object, under: str = "") -> float:
        """Return a number above 0, of a table where it stands in one."""
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if not number or not 0 < value < float("inf"):  # type: ignore[operator]
            raise InputError(
                f"'{key}' must be a number above 0, not {value!r}", self.place(key, under)
            )
        return float(value)  # type: ignore[arg-type]

    def number(self, key: str) -> float | None:
        """Return a number above 0, or None where the key is not set."""
        return self.positive(key, self.data[key]) if key in self.data else None

    def words(self, keys: tuple[str, ...]) -> dict[str, str]:
        """Return header words, checked as a header checks them."""
        values = {key: self.data[key] for key in keys if key in self.data}
        for key, value in values.items():
            try:
                Header.from_mapping({key: value}, "")
            except InputError as error:
                what = str(error).removeprefix("header ")
                raise InputError(what, self.place(key)) from error
        return values


def _scales(data: PlainMap, unit: str | None, units: Map[str, float], tile: Any) -> Scales:
    """Return what the project's own units are worth, in its length unit or its tile's."""
    lengths = {unit: 1.0, **units} if unit is not None else {}
    if tile is not None:
        size, own = tile
        if not lengths:
            lengths = {own: 1.0}
        if own in lengths:
            lengths["tile"] = size * lengths[own]
    rate = data.get("reference_rate")
    return Scales(reference_rate=float(rate) if rate else 60.0, lengths=lengths)


def _dimensions() -> dict[str, Dimension]:
    from kickback.kinds.table import all_metrics

    return {metric.name: metric.dimension for metric in all_metrics()}


def _budgets(file: _File, scales: Scales) -> dict[str, Budget]:
    """Return the budgets; raises InputError for names and units that are none."""
    written = _flat(file.table("budgets"))
    known = _dimensions() if written else {}
    budgets: dict[str, Budget] = {}
    for name, value in written.items():
        place = file.place(name, "budgets")
        own = [dimension for metric, dimension in known.items() if _is_of(metric, name)]
        if not own:
            groups = dict.fromkeys(metric.partition(".")[0] for metric in known)
            raise InputError(
                f"no metric or group '{name}'{nearest(name, [*known, *groups])}", place
            )
        budgets[name] = parse_budget(value, place, scales)
        if not any(budgets[name].fits(dimension) for dimension in own):
            raise InputError(_unfit(budgets[name].text, name, own), place)
    return budgets


def _amounts(file: _File, table: str, scales: Scales) -> dict[str, Target]:
    """Return a table of amounts by metric; raises InputError for what is none."""
    written = _flat(file.table(table))
    known = _dimensions() if written else {}
    found: dict[str, Target] = {}
    for name, value in written.items():
        place = file.place(name, table)
        if name not in known:
            raise InputError(f"no metric '{name}'{nearest(name, known)}", place)
        found[name] = parse_target(value, place, scales)
        if not found[name].fits(known[name]):
            raise InputError(_unfit(found[name].amount.text, name, [known[name]]), place)
    return found


def _is_of(metric: str, name: str) -> bool:
    return name in {metric, metric.partition(".")[0]} or fnmatchcase(metric, name)


def _unfit(text: str, name: str, dimensions: list[Dimension]) -> str:
    """Say that an amount is in no unit of what it is for, and what would be right."""
    unit = Unit(dimensions[0], "m")
    return f"'{text}' is no amount of '{name}': it needs a unit, such as \"0.1 {unit}\""


def _gate(file: _File) -> GateSettings:
    """Return how the gate plays the game; raises InputError for keys and values that are none."""
    written = file.table("gate")
    names = GateSettings.__struct_fields__
    found: PlainDict = {}
    for key, value in written.items():
        place = file.place(key, "gate")
        if key not in names:
            raise InputError(f"[gate] has no '{key}'{nearest(key, names)}", place)
        if key in {"run", "baseline"}:
            found[key] = _word(key, value, place)
        elif key in {"drills", "parameters", "sources"}:
            many = value if isinstance(value, list) else [value]
            found[key] = tuple(_word(key, one, place) for one in many)
        elif key == "rates":
            many = value if isinstance(value, list) else [value]
            found[key] = tuple(file.positive(key, one, "gate") for one in many)
        else:
            number = file.positive(key, value, "gate")
            found[key] = int(number) if key in {"repeats", "at_once"} else number
    return GateSettings(**found)


def _word(key: str, value: object, place: str) -> str:
    if not isinstance(value, str) or not value.strip():
        raise InputError(f"'{key}' must be text, not {value!r}", place)
    return value


def _floor(file: _File, unit: str | None, units: Map[str, float]) -> float | None:
    """Return the thinnest floor in the project's length unit."""
    value = file.data.get("floor_thickness")
    if not isinstance(value, str):
        return file.number("floor_thickness")
    size, own = _length(value, "floor_thickness", file.place("floor_thickness"))
    if own == unit:
        return size
    if own not in units:
        known = ", ".join([*([unit] if unit else []), *units]) or "none is set"
        raise InputError(
            f"'floor_thickness' is in '{own}', which is neither 'length_unit' nor one of"
            f" [units] ({known})",
            file.place("floor_thickness"),
        )
    return size * units[own]


def _pattern(file: _File) -> FileNamePattern | None:
    if "file_name" not in file.data:
        return None
    return parse_pattern(file.data["file_name"], file.place("file_name"))


def _options(file: _File) -> Options:
    usual = Options()
    change = file.data.get("plateau_change")
    if isinstance(change, str):
        number, sign, rest = change.partition("%")
        try:
            share = file.positive("plateau_change", float(number) / 100)
        except ValueError:
            share = 1.0
        if not sign or rest.strip() or share >= 1:
            raise InputError(
                f"'plateau_change' must be a share such as \"0.1 %\", not {change!r}",
                file.place("plateau_change"),
            )
    else:
        share = file.number("plateau_change") or usual.plateau_change
    return Options(
        plateau_time=file.number("plateau_time") or usual.plateau_time,
        plateau_change=share,
        rest_speed=file.number("rest_speed"),
        clock=_clock(file),
    )


def _clock(file: _File) -> str | None:
    clock = file.data.get("clock")
    if clock is not None and clock not in CLOCKS:
        raise InputError(
            f"'clock' must be one of {', '.join(CLOCKS)}, not {clock!r}", file.place("clock")
        )
    return clock


def _limits(file: _File) -> ReadLimits:
    usual = ReadLimits()
    names = usual.__struct_fields__
    changed = {}
    for name, value in file.table("limits").items():
        if name not in names:
            raise InputError(f"no limit '{name}'{nearest(name, names)}", file.place(name, "limits"))
        changed[name] = type(getattr(usual, name))(file.positive(name, value, "limits"))
    return replace(usual, **changed)


def _length(value: object, key: str, place: str) -> tuple[float, str]:
    """Return a length and its unit, written as ``"32 px"``."""
    number, _, unit = value.partition(" ") if isinstance(value, str) else ("", "", "")
    try:
        size = float(number)
    except ValueError:
        size = 0.0
    if not 0 < size < float("inf") or not unit.strip():
        raise InputError(
            f"'{key}' must be a length and its unit such as \"32 px\", not {value!r}", place
        )
    return size, unit.strip()


def _flat(table: PlainMap) -> PlainDict:
    """Return ``group.metric`` keys, whether they were quoted or written as sub-tables."""
    found: PlainDict = {}
    for key, value in table.items():
        if isinstance(value, Map) and not set(value) <= BUDGET_KEYS and "." not in key:
            found |= {f"{key}.{name}": item for name, item in value.items()}
        else:
            found[key] = value
    return found
