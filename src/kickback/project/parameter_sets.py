"""Parameter sets and drills on disk."""

from pathlib import Path

from kickback.errors import InputError, nearest
from kickback.files.toml import key_line, read_toml
from kickback.kinds.models import all_drills, drill_of, model_named, model_with
from kickback.kinds.playing.drills import Drill
from kickback.takes.header import ParameterSet

__all__ = ["length_unit_of", "read_drill", "read_model_parameters", "read_parameter_set"]

_KEYS = ("name", "notes", "length_unit", "values")


def read_parameter_set(path: Path) -> ParameterSet:
    """Read a parameter set; raises InputError with file and line for what is wrong."""
    data, text = read_toml(path, "parameter file")
    for key in data:
        if key not in _KEYS:
            raise InputError(
                f"unknown key '{key}'{nearest(key, _KEYS)} (parameters belong under [values])",
                key_line(path, text, key),
            )
    for key in ("name", "length_unit"):
        if not isinstance(data.get(key, ""), str):
            raise InputError(f"'{key}' must be text", key_line(path, text, key))
    parts = {key: value for key, value in data.items() if key != "length_unit"}
    found = ParameterSet.from_mapping(parts, str(path))
    return ParameterSet(name=found.name or path.stem, values=found.values)


def length_unit_of(path: Path) -> str | None:
    """Return the unit that a parameter file's lengths are in, where it says one.

    Raises InputError for a file that cannot be read.
    """
    data, _ = read_toml(path, "parameter file")
    unit = data.get("length_unit")
    return unit if isinstance(unit, str) and unit else None


def read_model_parameters(path: Path, kind: str | None = None) -> ParameterSet:
    """Read a parameter set for a built-in model, which knows its parameters' names.

    ``kind``: of which subject; the one whose model knows most of them without.
    """
    found = read_parameter_set(path)
    kind = kind or model_with(found.values)
    known = model_named(kind).parameters
    for key in found.values:
        if key not in known:
            text = path.read_text(encoding="utf-8")
            raise InputError(
                f"unknown parameter '{key}'{nearest(key, known)}",
                key_line(path, text, key, "values"),
            )
    return found


def read_drill(path: Path) -> Drill:
    """Read a drill, or take one of the built-in ones by its name.

    Raises InputError with the file for what is wrong.
    """
    known = all_drills()
    if str(path) in known and not path.is_file():  # a folder may have a drill's name
        return model_named(known[str(path)]).drills[str(path)]()
    if not path.suffix and not path.exists():
        raise InputError(
            f"neither a drill file nor a built-in drill ({', '.join(known)})"
            f"{nearest(str(path), known)}",
            str(path),
        )
    data, _ = read_toml(path, "drill file")
    return drill_of({"name": path.stem, **data}, str(path))
