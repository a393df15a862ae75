"""The header of a take: who moved, in which units, with which parameters."""

import math
from collections.abc import Mapping

from kickback.errors import InputError, nearest
from kickback.takes.plain import PlainDict, PlainMap
from kickback.takes.ranges import beyond_range
from kickback.takes.record import Record

__all__ = ["FORMAT_VERSION", "Header", "ParameterSet", "Value"]

Value = float | bool | str

FORMAT_VERSION = 1
"""The version of takes' format that is written."""

_SLOWEST, _QUICKEST = 0.001, 1_000_000
"""Frames per second that there may be."""

VIEWS = ("side", "top", "3d")
UPS = ("+x", "-x", "+y", "-y", "+z", "-z")
HANDS = ("right", "left")
CLOCKS = ("wall", "game")


class ParameterSet(Record, frozen=True, kw_only=True):
    """A name and the values that the game's movement code ran with."""

    name: str
    values: Mapping[str, Value]

    @classmethod
    def from_mapping(cls, data: object, place: str) -> "ParameterSet":
        """Check and build from ``{"name": …, "values": {…}}``.

        Raises InputError where the shape is another.
        """
        if not isinstance(data, Mapping):
            raise InputError("'parameters' must be an object with name and values", place)
        unknown = [key for key in data if key not in {"name", "values", "notes"}]
        if unknown:
            raise InputError(
                f"unknown key '{unknown[0]}' in the parameters"
                + nearest(str(unknown[0]), ("name", "values", "notes")),
                place,
            )
        values = data.get("values", {})
        if not isinstance(values, Mapping):
            raise InputError("the parameters' 'values' must be an object", place)
        for key, value in values.items():
            if not isinstance(value, bool | int | float | str):
                raise InputError(f"parameter '{key}' must be a number, true/false or a word", place)
            if isinstance(value, float) and not math.isfinite(value):
                raise InputError(f"parameter '{key}' must be finite, not {value}", place)
        return cls(name=str(data.get("name", "")), values=dict(values))

    def to_mapping(self) -> PlainDict:
        """Return the plain form that goes into a file."""
        return {"name": self.name, "values": dict(self.values)}


class Header(Record, frozen=True, kw_only=True):
    """What a take says about itself. All keys are optional; unknown ones are kept."""

    subject: str = "subject"
    view: str = "side"
    up: str = "+y"
    length_unit: str = "unit"
    frame_rate: float | None = None
    parameters: ParameterSet | None = None
    drill: str | None = None
    probe: str | None = None
    hand: str = "right"
    kind: str | None = None
    clock: str | None = None
    notes: str = ""
    recorded_at: str | None = None
    machine: str | None = None
    extra: Mapping[str, object] = {}

    @classmethod
    def from_mapping(cls, data: PlainMap, place: str) -> "Header":
        """Check and build a header from its plain form.

        Raises InputError naming the key that is wrong and what it may be.
        """
        large = beyond_range(dict(data))
        if large is not None:
            raise InputError(f"header {large} is beyond the range of numbers, ±1.8e308", place)
        values: PlainDict = {}
        extra: PlainDict = {}
        for key, value in data.items():
            if key in {"kickback", "columns"}:
                continue
            if key in _WORDS:
                values[key] = _word(key, value, place)
            elif key == "frame_rate":
                values[key] = _rate(value, place)
            elif key == "parameters":
                values[key] = None if value is None else ParameterSet.from_mapping(value, place)
            else:
                extra[key] = value
        _check_version(data.get("kickback", FORMAT_VERSION), place)
        for key, allowed in (("view", VIEWS), ("up", UPS), ("hand", HANDS), ("clock", CLOCKS)):
            if values.get(key) is not None and values[key] not in allowed:
                raise InputError(
                    f"header '{key}' is '{values[key]}' but must be one of {', '.join(allowed)}",
                    place,
                )
        if values.get("length_unit") == "":
            raise InputError(
                "header 'length_unit' must not be empty: a word such as m or px", place
            )
        return cls(**values, extra=extra)

    def to_mapping(self) -> PlainDict:
        """Return the plain form, without the keys that say nothing."""
        plain: PlainDict = {"kickback": FORMAT_VERSION}
        for key in ("subject", "view", "up", "length_unit", "frame_rate"):
            value = getattr(self, key)
            if value is not None:
                plain[key] = value
        if self.parameters is not None:
            plain["parameters"] = self.parameters.to_mapping()
        for key in ("kind", "clock", "drill", "probe", "recorded_at", "machine"):
            value = getattr(self, key)
            if value is not None:
                plain[key] = value
        if self.hand != "right":
            plain["hand"] = self.hand
        if self.notes:
            plain["notes"] = self.notes
        return plain | dict(self.extra)

    @property
    def parameters_name(self) -> str | None:
        """Return the parameter set's name, if the take carries one."""
        return self.parameters.name if self.parameters is not None else None


_WORDS = {
    "subject": False,
    "view": False,
    "up": False,
    "length_unit": False,
    "hand": False,
    "notes": False,
    "drill": True,
    "kind": True,
    "clock": True,
    "probe": True,
    "recorded_at": True,
    "machine": True,
}


def _word(key: str, value: object, place: str) -> str | None:
    if value is None and _WORDS[key]:
        return None
    if not isinstance(value, str):
        raise InputError(f"header '{key}' must be text, not {value!r}", place)
    return value


def _rate(value: object, place: str) -> float | None:
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not value > 0:
        raise InputError(f"header 'frame_rate' must be a number above 0, not {value!r}", place)
    if not _SLOWEST <= value <= _QUICKEST:
        raise InputError(
            f"header 'frame_rate' is {value:.4g}, but frames per second lie between"
            f" {_SLOWEST:g} and {_QUICKEST:,.0f}",
            place,
        )
    return value


def _check_version(value: object, place: str) -> None:
    if isinstance(value, bool) or not isinstance(value, int) or value < 1:
        raise InputError(f"header 'kickback' must be the format's version, 1, not {value!r}", place)
    if value > FORMAT_VERSION:
        raise InputError(
            f"the take is in format version {value}; this program reads version {FORMAT_VERSION}",
            place,
        )
