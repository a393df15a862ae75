"""Parameters of a model: a table of names, defaults, limits and meanings, and what they allow."""

import math
from collections.abc import Collection, Mapping, Sequence
from operator import itemgetter
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.errors import InputError, nearest
from kickback.takes.header import Value
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["BoolArray", "Parameter", "Row", "Values", "checked", "mistakes_in", "some", "table_of"]

BoolArray = npt.NDArray[np.bool_]


class Parameter(Record, frozen=True, kw_only=True):
    """One parameter: ``default``, whether 0 is allowed, what it may be, and a meaning."""

    name: str
    default: Value
    unit: str
    about: str
    zero: bool = True
    least: float = 0.0
    most: float = math.inf
    words: tuple[str, ...] = ()


Row = tuple[str, Value, str, bool, str]
"""A number's name, default, unit, whether 0 is allowed, and meaning."""


def table_of(rows: Sequence[Row], *others: Parameter) -> dict[str, Parameter]:
    """Return parameters by name: numbers as rows, and what needs more to be said."""
    numbers = [
        Parameter(name=name, default=default, unit=unit, about=about, zero=zero)
        for name, default, unit, zero, about in rows
    ]
    return {one.name: one for one in (*numbers, *others)}


def checked(
    table: Mapping[str, Parameter],
    mistakes: Collection[str],
    values: Mapping[str, Value],
    place: str,
) -> dict[str, Value]:
    """Return all parameters of a table, defaults filled in.

    Raises InputError for an unknown name (naming the nearest), a word where a number
    belongs, or a number out of range.
    """
    full = _defaults(table)
    for name, value in values.items():
        known = table.get(name)
        if known is None:
            raise InputError(f"unknown parameter '{name}'{nearest(name, table)}", place)
        full[name] = _checked(known, value, place)
    mistakes_in(full, mistakes, place)
    return full


_DEFAULTS: dict[int, tuple[Mapping[str, Parameter], dict[str, Value]]] = {}
"""Tables and their defaults, by what they are: thousands of sets are checked against one."""


def _defaults(table: Mapping[str, Parameter]) -> dict[str, Value]:
    known = _DEFAULTS.get(id(table))
    if known is None:
        known = _DEFAULTS[id(table)] = table, {name: one.default for name, one in table.items()}
    return dict(known[1])


def _checked(known: Parameter, value: Value, place: str) -> Value:
    if isinstance(known.default, str):
        if not isinstance(value, str):
            raise InputError(f"'{known.name}' must be a word, not {value!r}", place)
        if known.words and value not in known.words:
            raise InputError(
                f"'{known.name}' is '{value}' but must be one of {', '.join(known.words)}", place
            )
        return value
    if isinstance(value, bool | str):
        raise InputError(f"'{known.name}' must be a number, not {value!r}", place)
    if not math.isfinite(value) or value < known.least or (value == 0 and not known.zero):
        floor = f"{known.least:g} or more" if known.zero else "above 0"
        raise InputError(f"'{known.name}' must be {floor}, not {value:g}", place)
    if value > known.most:
        raise InputError(f"'{known.name}' must be {known.most:g} or less, not {value:g}", place)
    return float(value)


def mistakes_in(values: Mapping[str, Value], known: Collection[str], place: str) -> frozenset[str]:
    """Return the mistakes that a parameter set switches on; raises InputError for others."""
    names = str(values.get("mistakes", "")).replace(",", " ").split()
    for name in names:
        if name not in known:
            raise InputError(f"unknown mistake '{name}'{nearest(name, known)}", place)
    return frozenset(names)


def some(mask: "bool | npt.NDArray[np.generic]") -> bool:
    """Whether anything holds, of all sets alike or of any: of few sets quicker than ``any``."""
    return mask if isinstance(mask, bool) else bool(np.count_nonzero(mask))


class Values:
    """Parameters as arrays of shape (m,), and which mistakes each set makes."""

    def __init__(self, sets: Sequence[Mapping[str, Value]], known: Collection[str]) -> None:
        # many may be one and the same, as where one set is played by many hands
        own = {id(values): values for values in sets}
        place = {one: k for k, one in enumerate(own)}
        self._own = list(own.values())
        self._which = np.array([place[id(values)] for values in sets])
        self._mistakes = [mistakes_in(values, known, "parameters") for values in self._own]
        names = [name for name, value in sets[0].items() if not isinstance(value, str)]
        rows = self._spread([*map(itemgetter(*names), self._own)], np.float64)
        self._numbers: dict[str, FloatArray] = {
            name: np.ascontiguousarray(rows[:, k]) for k, name in enumerate(names)
        }

    def _spread(self, values: Sequence[object], dtype: type = np.bool_) -> Any:
        own: Any = np.array(values, dtype=dtype)
        return own if len(own) == len(self._which) else own[self._which]

    def __len__(self) -> int:
        """Return the number of sets."""
        return len(self._which)

    def __getattr__(self, name: str) -> FloatArray:
        """Return a parameter that is a number, shape (m,)."""
        return self._numbers[name]

    def word(self, name: str, word: str) -> BoolArray:
        """Return which sets have a word for a parameter."""
        out: BoolArray = self._spread([values[name] == word for values in self._own])
        return out

    def mistake(self, name: str) -> BoolArray:
        """Return which sets make a mistake."""
        out: BoolArray = self._spread([name in mistakes for mistakes in self._mistakes])
        return out
