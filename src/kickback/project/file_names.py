"""What file names say: the parameter set, the frame rate, the drill and the repeat."""

import re

from kickback.errors import InputError, nearest
from kickback.takes.plain import PlainDict
from kickback.takes.record import Record

__all__ = ["FileNamePattern", "parse_pattern"]

_PARTS = {
    "subject": r"(?P<subject>.+?)",
    "parameters": r"(?P<parameters>.+?)",
    "drill": r"(?P<drill>.+?)",
    "rate": r"(?P<rate>\d+(?:\.\d+)?)",
    "repeat": r"(?P<repeat>\d+)",
}


class FileNamePattern(Record, frozen=True, kw_only=True):
    """A pattern such as ``{drill}_{parameters}_{rate}fps_{repeat}`` for names without ending."""

    text: str
    expression: str

    def header_of(self, stem: str) -> PlainDict:
        """Return the header values that a file's name gives; none where it does not fit."""
        found = re.fullmatch(self.expression, stem)
        if found is None:
            return {}
        parts = found.groupdict()
        header: PlainDict = {k: parts[k] for k in ("subject", "drill") if k in parts}
        if "parameters" in parts:
            header["parameters"] = {"name": parts["parameters"], "values": {}}
        if "rate" in parts and float(parts["rate"]) > 0:
            header["frame_rate"] = float(parts["rate"])
        if "repeat" in parts:
            header["repeat"] = int(parts["repeat"])
        return header


def parse_pattern(value: object, place: str) -> FileNamePattern:
    """Build a pattern; raises InputError for parts that are none, or given twice."""
    if not isinstance(value, str) or "{" not in value:
        raise InputError(
            "'file_name' must be a pattern such as \"{drill}-{parameters}-{rate}-{repeat}\","
            f" not {value!r}",
            place,
        )
    expression, seen = "", []
    for literal, name in re.findall(r"([^{}]*)(?:\{(\w*)\})?", value):
        expression += re.escape(literal)
        if not name:
            continue
        if name not in _PARTS:
            raise InputError(f"'file_name' has no part '{{{name}}}'{nearest(name, _PARTS)}", place)
        if name in seen:
            raise InputError(f"'file_name' has the part '{{{name}}}' twice", place)
        seen.append(name)
        expression += _PARTS[name]
    if value.count("{") != len(seen) or value.count("}") != len(seen):
        raise InputError("'file_name' has a brace without its part, such as {rate}", place)
    return FileNamePattern(text=value, expression=expression)
