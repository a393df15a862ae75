"""The constants of the laws at each frame rate, under names that takes of a group share."""

from collections.abc import Sequence

import numpy as np

from kickback.laws.record import Law, Laws
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["ConstantRow", "collect", "value_at"]

_FLOOR = 1e-9


class ConstantRow(Record, frozen=True, kw_only=True):
    """One constant of one phase over the rates, arrays of shape (k,), slowest rate first.

    ``value`` is in the form that belongs to the second; ``stderr`` its standard error.
    ``kind`` is acceleration, gravity (one of the vertical track), speed, impulse, rate, time,
    scale or theta.
    """

    phase: str
    track: str
    constant: str
    kind: str
    unit: str
    law: str
    rate: FloatArray
    value: FloatArray
    stderr: FloatArray

    @property
    def name(self) -> str:
        """Return the constant's name in records."""
        return f"{self.phase}.{self.constant}"

    def fits(self, power: float, slack: float) -> bool:
        """Whether the constant goes with ``rate^power`` within its errors and a share ``slack``.

        The scaled values must agree with their middle within ``slack`` and four standard
        errors each.
        """
        return self.miss(power, slack) <= 1.0

    def miss(self, power: float, slack: float) -> float:
        """Return the largest deviation from ``rate^power`` over what is allowed."""
        scaled = self.value / (self.rate / self.rate[0]) ** power
        error = 4 * self.stderr / np.abs(self.value)
        middle = float(np.median(scaled)) if len(scaled) > 2 else float(scaled.mean())
        off = np.abs(scaled / middle - 1) if middle else np.full(len(scaled), np.inf)
        return float(np.max(off / (slack + error)))


def collect(laws: Sequence[tuple[float, Laws]]) -> list[ConstantRow]:
    """Return every constant that two rates or more show.

    ``laws``: of each take, with its nominal rate, 1/s. Takes at one rate are averaged. A
    constant counts where its law is of one family at most of the rates; a push that reads
    as a smoothing also gives the acceleration of the drive that it may be.
    """
    found: dict[tuple[str, str, str], list[tuple[float, float, float, Law, str]]] = {}
    for rate, one in laws:
        for law in one:
            if law.law == "none" or law.unlike:
                continue
            for name, value, error, unit in _constants(law):
                found.setdefault((law.track, law.phase, name), []).append(
                    (rate, value, error, law, unit)
                )
    rows = []
    for (track, phase, name), entries in found.items():
        families = [entry[3].law for entry in entries]
        family = max(dict.fromkeys(families), key=families.count)
        same = [entry for entry in entries if entry[3].law == family]
        row = _row(track, phase, name, family, same)
        if row is not None:
            rows.append(row)
    return rows


def _row(
    track: str,
    phase: str,
    name: str,
    family: str,
    entries: Sequence[tuple[float, float, float, Law, str]],
) -> ConstantRow | None:
    rates = sorted({entry[0] for entry in entries})
    values, errors = [], []
    for rate in rates:
        here = [entry for entry in entries if entry[0] == rate]
        value = np.array([entry[1] for entry in here])
        values.append(float(np.median(value)))
        own = float(np.sqrt(np.mean([entry[2] ** 2 for entry in here])))
        errors.append(max(own, float(np.std(value))))
    value = np.array(values)
    scales = np.all(np.abs(value) >= _FLOOR) and not np.ptp(np.sign(value))
    if len(rates) < 2 or not (scales or name == "theta"):
        return None
    return ConstantRow(
        phase=f"{track} {phase}" if phase == "position" else phase,
        track=track,
        constant=name,
        kind=_kind(track, family, name),
        unit=entries[0][4],
        law=family,
        rate=np.array(rates),
        value=value,
        stderr=np.array(errors),
    )


def _constants(law: Law) -> list[tuple[str, float, float, str]]:
    """Return the constants of a law that scale in ways of their own: name, value, error, unit."""
    wanted = {
        "constant-acceleration": ("acceleration",),
        "friction": ("rate",),
        "smoothing": ("goal", "rate"),
        "drive": ("acceleration", "rate"),
        "instant": ("speed",),
        "clamp": ("speed",),
        "constant-speed": ("speed",),
        "impulse": ("speed",),
        "timer": ("seconds",),
        "position-rule": ("scale", "theta"),
    }.get(law.law, ())
    found = [
        (item.name, item.value, item.stderr or 0.0, item.unit)
        for item in law.constants
        if item.name in wanted
    ]
    if law.law == "smoothing":
        goal, factor = law.constant("goal"), law.value("factor")
        push = goal.value * (1 - factor) / factor / law.frame
        share = (goal.stderr or 0.0) / abs(goal.value) if goal.value else 0.0
        rate = law.constant("rate")
        share += (rate.stderr or 0.0) / rate.value
        found.append(("push", push, abs(push) * share, f"{goal.unit}²"))
    return found


def _kind(track: str, family: str, constant: str) -> str:
    if constant in {"acceleration", "push"}:
        return "gravity" if track == "vertical" else "acceleration"
    if constant == "seconds":
        return "time"
    if family == "impulse":
        return "impulse"
    if constant in {"goal", "speed"}:
        return "speed"
    return constant


def value_at(row: ConstantRow, rate: float, power: float) -> float:
    """Return a constant's value at a frame rate: the nearest rate's, carried on by its power."""
    nearest = int(np.argmin(np.abs(np.log(row.rate / rate))))
    return float(row.value[nearest] * (rate / row.rate[nearest]) ** power)
