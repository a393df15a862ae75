"""The constants of the laws at each frame rate, under names that takes of a group share."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.families.drive import DRIVE
from kickback.laws.families.family import Family
from kickback.laws.families.moments import IMPULSE, TIMER
from kickback.laws.families.resistance import RESISTANCE
from kickback.laws.keys import PhaseKey
from kickback.laws.position import POSITION
from kickback.laws.record import Constant, Law, Laws
from kickback.takes.numeric import median
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

__all__ = ["FIRST_ORDER", "ConstantRow", "collect", "value_at"]

FIRST_ORDER = "first-order"
"""Whose a rate is that goes into a factor 1 − rate·dt."""

FRAMES = "frames"
"""The constant of a timer that says how many frames it lasts."""

_FLOOR = 1e-9
"""Share of its largest value below which a constant is nothing, and scales with nothing."""


_EVEN = 1e-9
"""Share of the weights within which there are as many below as above."""


class ConstantRow(Record, frozen=True, kw_only=True):
    """One constant of one phase over the rates, arrays of shape (k,), slowest rate first.

    ``value`` is in the form that belongs to the second; ``stderr`` its standard error. ``frame``,
    s: the step by which what belongs to a frame was brought to the second. ``clock``: whose it is,
    as uneven takes tell by themselves and agree; nothing where none does.
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
    frame: FloatArray
    value: FloatArray
    stderr: FloatArray
    clock: str = ""

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

    @property
    def told_power(self) -> int | None:
        """Return the power of the rate that it goes with, where its takes tell by themselves."""
        return _POWERS.get((self.sort, self.clock))

    def fits(self, power: float, slack: float) -> bool:
        """Whether the constant goes with ``rate^power`` within its errors and a share ``slack``.

        The scaled values must agree with their middle, the median weighted by how surely each
        is known, within ``slack`` and four standard errors each.
        """
        return self.miss(power, slack) <= 1.0

    def miss(self, power: float, slack: float) -> float:
        """Return the largest deviation from ``rate^power`` over what is allowed."""
        scaled = self.value * (self.frame / self.frame[0]) ** power
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

_POWERS = {
    **{(sort, "second"): 0 for sort in ("acceleration", "gravity", "rate", "resistance", "time")},
    **{(sort, "frame"): 1 for sort in ("acceleration", "gravity", "rate", "resistance")},
    **{(sort, "square"): -1 for sort in ("acceleration", "gravity")},
    ("time", "frame"): -1,
    ("impulse", "second"): 0,
    ("impulse", "step"): -1,
}
"""The power of the rate that a constant goes with, by its sort and whose it is."""

_Entry = tuple[float, Law, Constant]
"""A frame rate, the law that a take at it has, and one of the law's constants."""


def _row(entries: Sequence[_Entry]) -> ConstantRow | None:
    """Return one constant over the rates, where two or more show it."""
    _, law, item = entries[0]
    rates = sorted({rate for rate, _, _ in entries})
    clock = _clock(entries)
    read = [
        _at_rate(rate, [entry for entry in entries if entry[0] == rate], clock) for rate in rates
    ]
    frame, value, stderr = (np.array(column) for column in zip(*read, strict=True))
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
        frame=frame,
        value=value,
        stderr=stderr,
        clock=clock,
    )


def _clock(entries: Sequence[_Entry]) -> str:
    """Return whose a constant is, where the takes that tell so agree.

    A timer that lasts as many frames at every rate is counted in frames, where no time would be
    over within the last of them at all rates.
    """
    told = {_whose(law, item) for _, law, item in entries} - {"even"}
    if len(told) < 2 and all(law.family is TIMER for _, law, _ in entries):
        frames = {one.value for _, law, _ in entries for one in law.constants if one.name == FRAMES}
        lasts = np.array([item.value for _, _, item in entries])
        if len(frames) == 1 and lasts.max() * (1 - 1 / max(frames)) >= lasts.min():
            return "frame"
    return told.pop() if len(told) == 1 else ""


def _whose(law: Law, item: Constant) -> str:
    """Return whose a constant is: beside a decay a push has a clock of its own."""
    if item.name in law.clocks:
        return law.clocks[item.name]
    beside = law.family in {DRIVE, RESISTANCE} and item.unit.dimension == ACCELERATION
    return law.gain if beside and law.clock != "even" else law.clock


def _at_rate(rate: float, entries: Sequence[_Entry], clock: str) -> tuple[float, float, float]:
    """Return the step of takes at one rate, s, the median of a constant's values, and its error.

    Uneven frames have a middle of their own, by which laws bring what belongs to a frame to the
    second; what is known to belong to it is brought to a step that all takes share.
    """
    items = [item for _, _, item in entries]
    steps = np.array([_step(rate, law) for _, law, _ in entries])
    step = median(steps)
    value = np.array([_comparable(law, item, clock) for _, law, item in entries])
    frames = np.array([_whose(law, item) == "frame" for _, law, item in entries])
    value = np.where(frames, value * steps / step, value)
    if clock == "frame" and entries[0][1].family is TIMER:  # frames are counted, of any length
        value = np.array([law.value(FRAMES) * step for _, law, _ in entries])
    own = float(np.sqrt(np.mean([(one.stderr or 0.0) ** 2 for one in items])))
    return step, median(value), max(own, float(np.std(value)))


def _comparable(law: Law, item: Constant, clock: str) -> float:
    """Return a constant's value; the rate of a factor 1 − rate·dt as the rate that the factor has.

    But where all takes tell that it is such a rate: only some do, or none, as frames are too even.
    """
    first_order = law.clock == FIRST_ORDER != clock and item.unit.dimension == PER_TIME
    if not first_order or item.value * law.frame >= 1:
        return item.value
    return float(-np.log1p(-item.value * law.frame) / law.frame)


def _step(rate: float, law: Law) -> float:
    """Return the step by which a law was brought to the second, s: even ones are the rate's."""
    return law.frame if law.clock != "even" and law.frame > 0 else 1 / rate


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
    return float(row.value[nearest] * (rate * row.frame[nearest]) ** power)
