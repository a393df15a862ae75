"""Numbers with units as people write them, brought into the unit of what they are held against."""

import re
from collections.abc import Mapping

from kickback.errors import InputError
from kickback.takes.quantities import (
    ANGLE,
    FRAMES,
    LENGTH,
    RATIO,
    TIME,
    Dimension,
    Unit,
)
from kickback.takes.record import Record

__all__ = ["Amount", "Scales", "frames_in", "parse_amount"]

_METRIC = {"km": 1000.0, "m": 1.0, "cm": 0.01, "mm": 0.001}
"""Lengths of the metric system, in metres."""

_LENGTHS = {
    **dict.fromkeys(_METRIC, "m"),
    "px": "px",
    "pixel": "px",
    "pixels": "px",
    "unit": "unit",
    "units": "unit",
}
"""Words for lengths that need no project file to be known."""

_TIMES = {"s": 1.0, "ms": 1e-3, "second": 1.0, "seconds": 1.0}
_FRAMES = ("frame", "frames", "f")
_TILES = ("tile", "tiles")
_ANGLES = {"deg": 1.0, "°": 1.0, "degree": 1.0, "degrees": 1.0}

_TEXT = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(.*?)\s*")
_FACTOR = re.compile(r"([^\W\d_²³]+|°)(?:\^?([23])|([²³]))?")
_RAISED = {"²": 2, "³": 3}


class Scales(Record, frozen=True, kw_only=True):
    """What units of a project's own are worth.

    ``reference_rate``: the frames/s that a frame is counted at. ``lengths``: words for lengths
    and their sizes in one of them.
    """

    reference_rate: float = 60.0
    lengths: Mapping[str, float] = {}

    def length(self, word: str, unit: str) -> float | None:
        """Return how many of the length ``unit`` one ``word`` is, None where nothing says it."""
        one, other = (self._own(name) for name in (word, unit))
        if one == other:
            return 1.0
        if one in self.lengths and other in self.lengths:
            return self.lengths[one] / self.lengths[other]
        if one in _METRIC and other in _METRIC:
            return _METRIC[one] / _METRIC[other]
        return None

    def knows(self, word: str) -> bool:
        """Whether a word is one for a length, of the project or in general."""
        return self._own(word) in self.lengths or word in _LENGTHS

    def _own(self, word: str) -> str:
        if word in self.lengths:
            return word
        return (
            "tile"
            if word in _TILES
            else {"pixel": "px", "pixels": "px", "units": "unit"}.get(word, word)
        )


class Amount(Record, frozen=True, kw_only=True):
    """A number and its unit in words; ``text`` is how it was written."""

    number: float
    unit: str
    text: str

    @property
    def relative(self) -> bool:
        """Whether it is a share, written in per cent."""
        return self.unit == "%"

    def fits(self, dimension: Dimension, scales: Scales) -> bool:
        """Whether it can be one of a dimension, whatever the lengths are in."""
        found = _read(self.unit, scales)
        return found is not None and _of(found, dimension) is not None

    def within(self, unit: Unit, scales: Scales, what: str = "") -> float:
        """Return the number in a metric's unit.

        Raises InputError where it is of another dimension, or where nothing says how large its
        length is in the take's.
        """
        if not self.unit and (self.number == 0 or unit.dimension == RATIO):
            return self.number
        if self.unit == "%" and unit.dimension == RATIO:
            return self.number / 100
        factors = _read(self.unit, scales) or []
        factor = _of(factors, unit.dimension)
        if factor is None:
            raise InputError(f"{what}'{self.text}' is no amount in {unit or 'shares'}")
        size = self.number * factor
        for word, power in factors:
            size *= _worth(word, power, unit, scales, f"{what}'{self.text}'")
        return size * 1000 if unit.milli else size


def _worth(word: str, power: int, unit: Unit, scales: Scales, what: str) -> float:
    """Return what a length or a frame among the factors is worth in a unit, 1 for all else."""
    if scales.knows(word):
        one = scales.length(word, unit.length)
        if one is None:
            raise InputError(
                f"{what} cannot be brought to {unit}: [units] in kickback.toml would say how many"
                f" {unit.length} one {word} is"
            )
        return float(one**power)
    counts = word in _FRAMES and not unit.dimension.frames
    return float(scales.reference_rate**-power) if counts else 1.0


Factors = list[tuple[str, int]]
"""The words of a unit and their powers."""


def _read(text: str, scales: Scales) -> Factors | None:
    """Return the factors of a unit such as ``tiles/s²``, None where it holds a strange word."""
    factors: Factors = []
    for place, part in enumerate(text.replace("*", "·").split("/")):
        if part.strip() in {"", "1"}:
            continue
        for word in part.split("·"):
            match = _FACTOR.fullmatch(word.strip())
            if match is None or not _known(match.group(1), scales):
                return None
            power = int(match.group(2) or _RAISED.get(match.group(3) or "", 1))
            factors.append((match.group(1), -power if place else power))
    return factors


def frames_in(text: str, scales: Scales) -> int:
    """Return the power of frames in a unit: -2 of ``px/frame²``, 0 of what has none."""
    return sum(power for word, power in _read(text, scales) or () if word in _FRAMES)


def _known(word: str, scales: Scales) -> bool:
    return word in _TIMES or word in _FRAMES or word in _ANGLES or scales.knows(word)


def _of(factors: Factors, dimension: Dimension) -> float | None:
    """Return what factors are worth beside their lengths and frames, None in another dimension."""
    for frames in (TIME, FRAMES):
        found, size = RATIO, 1.0
        for word, power in factors:
            if word in _TIMES:
                found, size = found * TIME**power, size * _TIMES[word] ** power
            elif word in _FRAMES:
                found = found * frames**power
            elif word in _ANGLES:
                found, size = found * ANGLE**power, size * _ANGLES[word] ** power
            else:
                found = found * LENGTH**power
        if found == dimension:
            return size
    return None


def parse_amount(value: object, place: str, what: str, scales: Scales) -> Amount:
    """Read ``"10 ms"``, ``"3 frames"``, ``"2 tiles/s"``, ``"5 %"`` or a bare number.

    Raises InputError for what is no number with a unit that is known; ``what`` names it.
    """
    if isinstance(value, int | float) and not isinstance(value, bool):
        value = f"{value!r}"
    match = _TEXT.fullmatch(value) if isinstance(value, str) else None
    if match is None or not abs(float(match.group(1))) < float("inf"):
        raise InputError(f'{what} is "5 %", "10 ms", "2 tiles/s" or the like, not {value!r}', place)
    number, unit = float(match.group(1)), match.group(2)
    if unit and unit != "%" and _read(unit, scales) is None:
        known = ["%", "s", "ms", "frames", "deg", *dict.fromkeys([*scales.lengths, *_METRIC, "px"])]
        raise InputError(
            f"'{value}': no unit '{unit}'; there is: {', '.join(known)}, and what"
            " is divided by s or frames",
            place,
        )
    return Amount(number=number, unit=unit, text=str(value).strip())
