"""Parameter sets and drills on disk."""

from pathlib import Path

from kickback.errors import InputError, nearest
from kickback.files.toml import key_line, read_toml
from kickback.kinds.foot.model.drills import Drill, drill_from_mapping
from kickback.kinds.foot.model.model import FOOT_MODEL
from kickback.kinds.foot.model.parameters import PARAMETERS
from kickback.takes.header import ParameterSet

__all__ = ["read_drill", "read_model_parameters", "read_parameter_set"]


def read_parameter_set(path: Path) -> ParameterSet:
    """Read a parameter set; raises InputError with file and line for what is wrong."""
    data, text = read_toml(path, "parameter file")
    for key in data:
        if key not in {"name", "notes", "values"}:
            raise InputError(
                f"unknown key '{key}'{nearest(key, ('name', 'notes', 'values'))}"
                " (parameters belong under [values])",
                key_line(path, text, key),
            )
    if not isinstance(data.get("name", ""), str):
        raise InputError("'name' must be text", key_line(path, text, "name"))
    found = ParameterSet.from_mapping(data, str(path))
    return ParameterSet(name=found.name or path.stem, values=found.values)


def read_model_parameters(path: Path) -> ParameterSet:
    """Read a parameter set for the built-in model, which knows its parameters' names."""
    found = read_parameter_set(path)
    for key in found.values:
        if key not in PARAMETERS:
            text = path.read_text(encoding="utf-8")
            raise InputError(
                f"unknown parameter '{key}'{nearest(key, PARAMETERS)}",
                key_line(path, text, key, "values"),
            )
    return found


def read_drill(path: Path) -> Drill:
    """Read a drill, or take one of the built-in ones by its name.

    Raises InputError with the file for what is wrong.
    """
    known = FOOT_MODEL.drills
    if str(path) in known and not path.exists():
        built_in: Drill = known[str(path)]()
        return built_in
    if not path.suffix and not path.exists():
        raise InputError(
            f"neither a drill file nor a built-in drill ({', '.join(known)})"
            f"{nearest(str(path), known)}",
            str(path),
        )
    data, _ = read_toml(path, "drill file")
    return drill_from_mapping({"name": path.stem, **data}, str(path))
