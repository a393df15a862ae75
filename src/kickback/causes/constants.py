"""The constants of the laws at each frame rate, under names that takes of a group share."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.family import Family
from kickback.laws.families.moments import IMPULSE
from kickback.laws.keys import PhaseKey
from kickback.laws.position import POSITION
from kickback.laws.record import Constant, Law, Laws
from kickback.takes.quantities import (
    ACCELERATION,
    ANGLE,
    LENGTH,
    PER_TIME,
    RATIO,
    SPEED,
    TIME,
    Unit,
)
from kickback.takes.record import Record
from kickback.takes.roles import Role
from kickback.takes.take import FloatArray

__all__ = ["ConstantRow", "collect", "value_at"]

_FLOOR = 1e-9
"""Share of its largest value below which a constant is nothing, and scales with nothing."""


_EVEN = 1e-9
"""Share of the weights within which there are as many below as above."""


class ConstantRow(Record, frozen=True, kw_only=True):
    """One constant of one phase over the rates, arrays of shape (k,), slowest rate first.

    ``value`` is in the form that belongs to the second; ``stderr`` its standard error.
    ``sort`` is acceleration, gravity, speed, impulse, rate, resistance (of the square of a speed),
    time, scale or theta. ``twin`` names
    the constant of a second reading of the same frames.
    """

    phase: PhaseKey
    role: Role
    constant: str
    sort: str
    unit: Unit
    family: Family
    rate: FloatArray
    value: FloatArray
    stderr: FloatArray

    @property
    def of(self) -> str:
        """Return what the constant is of in words; a position rule is that of a track."""
        return f"{self.role.name} {self.phase}" if self.phase == POSITION else str(self.phase)

    @property
    def name(self) -> str:
        """Return the constant's name in records."""
        return f"{self.of}.{self.constant}"

    @property
    def twin(self) -> str | None:
        """Return the name of the constant that the same frames have in another reading."""
        other = self.family.twins.get(self.constant)
        return None if other is None else f"{self.of}.{other}"

    def fits(self, power: float, slack: float) -> bool:
        """Whether the constant goes with ``rate^power`` within its errors and a share ``slack``.

        The scaled values must agree with their middle, the median weighted by how surely each
        is known, within ``slack`` and four standard errors each.
        """
        return self.miss(power, slack) <= 1.0

    def miss(self, power: float, slack: float) -> float:
        """Return the largest deviation from ``rate^power`` over what is allowed."""
        scaled = self.value / (self.rate / self.rate[0]) ** power
        allowed = slack + 4 * self.stderr / np.abs(self.value)
        middle = _middle(scaled, 1 / allowed**2)
        off = np.abs(scaled / middle - 1) if middle else np.full(len(scaled), np.inf)
        return float(np.max(off / allowed))


def _middle(values: FloatArray, weights: FloatArray) -> float:
    """Return the weighted median of three values or more, the weighted mean of two."""
    if len(values) < 3:
        return float(np.average(values, weights=weights))
    order = np.argsort(values)
    ordered, share = values[order], np.cumsum(weights[order]) / weights.sum()
    k = int(np.searchsorted(share, 0.5 - _EVEN))
    both = abs(share[k] - 0.5) <= _EVEN  # as many below as above
    return float(ordered[k : k + 1 + both].mean())


def collect(laws: Sequence[tuple[float, Laws]]) -> list[ConstantRow]:
    """Return every constant that two rates or more show.

    ``laws``: of each take, with its nominal rate, 1/s. Takes at one rate are averaged. A
    constant counts where its law is of one family at most of the rates; a push that reads
    as a smoothing also gives the acceleration of the drive that it may be.
    """
    found: dict[tuple[str, PhaseKey, str], list[_Entry]] = {}
    for rate, one in laws:
        for law in one:
            if law.family is None or law.unlike:
                continue
            for item in _scaling(law):
                found.setdefault((law.track, law.phase, item.name), []).append((rate, law, item))
    rows = []
    for entries in found.values():
        families = [law.law for _, law, _ in entries]
        usual = max(dict.fromkeys(families), key=families.count)
        row = _row([entry for entry in entries if entry[1].law == usual])
        if row is not None:
            rows.append(row)
    return rows


_SORTS = {
    TIME: "time",
    PER_TIME: "rate",
    RATIO / LENGTH: "resistance",
    ANGLE / TIME: "turning",
    ANGLE / LENGTH: "turning",
}
"""Sorts that a dimension alone tells."""

_Entry = tuple[float, Law, Constant]
"""A frame rate, the law that a take at it has, and one of the law's constants."""


def _row(entries: Sequence[_Entry]) -> ConstantRow | None:
    """Return one constant over the rates, where two or more show it."""
    _, law, item = entries[0]
    rates = sorted({rate for rate, _, _ in entries})
    pairs = [_at_rate([one for at, _, one in entries if at == rate]) for rate in rates]
    value = np.array([middle for middle, _ in pairs])
    sort = _sort(law, item)
    if law.family is None or len(rates) < 2 or not (_scales(value) or sort == "theta"):
        return None
    return ConstantRow(
        phase=law.phase,
        role=law.role,
        constant=item.name,
        sort=sort,
        unit=item.unit,
        family=law.family,
        rate=np.array(rates),
        value=value,
        stderr=np.array([error for _, error in pairs]),
    )


def _at_rate(items: Sequence[Constant]) -> tuple[float, float]:
    """Return the median of a constant's values at one rate, and its error."""
    value = np.array([one.value for one in items])
    own = float(np.sqrt(np.mean([(one.stderr or 0.0) ** 2 for one in items])))
    return float(np.median(value)), max(own, float(np.std(value)))


def _scales(value: FloatArray) -> bool:
    """Whether values may go with a power of the rate: none is nothing, and all have one sign."""
    least = _FLOOR * float(np.max(np.abs(value)))
    return bool(np.all(np.abs(value) > least)) and not np.ptp(np.sign(value))


def _scaling(law: Law) -> Sequence[Constant]:
    """Return the constants of a law that scale in ways of their own, in every reading of it."""
    if law.family is None:
        return ()
    own = [item for item in law.constants if item.name in law.family.scaling and not item.open]
    return [*own, *law.family.other_reading(law)]


def _sort(law: Law, item: Constant) -> str:
    """Return what sort of constant it is, by its dimension."""
    dimension = item.unit.dimension
    if dimension == ACCELERATION:
        return "gravity" if law.role.gravity else "acceleration"
    if dimension == SPEED:
        return "impulse" if law.family is IMPULSE else "speed"
    return _SORTS.get(dimension, item.name)


def value_at(row: ConstantRow, rate: float, power: float) -> float:
    """Return a constant's value at a frame rate: the nearest rate's, carried on by its power."""
    nearest = int(np.argmin(np.abs(np.log(row.rate / rate))))
    return float(row.value[nearest] * (rate / row.rate[nearest]) ** power)
