"""What the constants of a group say together: their own exponents, and the game's pace.

A constant's own exponent is what remains after those of the position rule and of a clamped
step are taken out, so that causes add up.
"""

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from kickback.causes.cause import Cause, CauseKind, Term
from kickback.causes.clamped import Pace, pace_below
from kickback.causes.constants import FIRST_ORDER, ConstantRow
from kickback.takes.record import Record, replace
from kickback.takes.take import Take

__all__ = ["SLACK", "Evidence", "evidence_of", "is_first_order", "may_be_first_order", "told"]

SLACK = 2e-3
"""Share by which an exact constant may differ between rates and still be one."""

_AGREED = 0.03
"""Share by which it may differ where uneven takes tell by themselves whose it is."""

_MOVED = {"speed", "impulse", "acceleration", "gravity"}
"""Constants that a speed without its time step moves, where the speeds are the motion's."""


class Evidence(Record, frozen=True, kw_only=True):
    """The constants of a group over the rates, in the game's own time.

    ``powers``: each explained constant's own exponent, by name; ``shift``: the exponent that
    all speeds share, where they are those of the motion; ``pace``: how slow the game runs;
    ``steps``: by the display's rate, the length of a physics step of its own, s.
    """

    rows: Sequence[ConstantRow]
    powers: Mapping[str, int]
    shift: int
    pace: Pace | None
    steps: Mapping[float, float] = {}

    def terms(self, shown_by: Iterable[tuple[str, int]]) -> tuple[Term, ...]:
        """Return the constants of a sort, and with an exponent, of ``shown_by``."""
        wanted = set(shown_by)
        return tuple(
            Term(row=row, power=power)
            for row in self.rows
            if (power := self.powers.get(row.name)) and (row.sort, power) in wanted
        )


def evidence_of(
    rows: Sequence[ConstantRow],
    by_rate: Mapping[float, Sequence[Take]],
    steps: Mapping[float, float],
) -> Evidence:
    """Return what the constants over the rates, and the takes' clocks, say together."""
    pace = pace_below(rows, by_rate)
    own = [pace.corrected(row) for row in rows] if pace is not None else list(rows)
    shift = _speed_power(own)
    return Evidence(rows=own, powers=_powers(own, shift), shift=shift, pace=pace, steps=steps)


def _speed_power(rows: Sequence[ConstantRow]) -> int:
    """Return the exponent that the position rule leaves in the speeds themselves.

    Without a velocity column the speeds are those of the motion, and all go with the rate.
    """
    if any(row.sort == "scale" for row in rows):
        return 0
    speeds = [row for row in rows if row.sort == "speed"]
    alike = [row for row in speeds if row.fits(1, SLACK) and not row.fits(0, SLACK)]
    return 1 if alike and len(alike) == len(speeds) else 0


def _powers(rows: Sequence[ConstantRow], shift: int) -> dict[str, int]:
    """Return each constant's own exponent, by name, where one whole number alone fits it.

    Of a push that reads as a smoothing the constants of one reading alone are kept.
    """
    found: dict[str, int] = {}
    for row in rows:
        power = _power(row, shift)
        if power is not None:
            found[row.name] = power
    for row in rows:
        twin = row.twin
        if twin is not None:
            drive = found.get(row.name) != 0 and twin in found
            found.pop(row.name if drive else twin, None)
    return found


def _power(row: ConstantRow, shift: int) -> int | None:
    """Return a constant's own exponent: as takes tell by themselves, or the one that fits."""
    if is_first_order(row):
        return None
    told = row.told_power if not shift else None
    if told is not None and row.fits(told, _AGREED):
        return told
    base = shift if row.sort in _MOVED else 0
    fits = [power for power in (0, 1, -1) if row.fits(power + base, SLACK)]
    return fits[0] if len(fits) == 1 else None


def is_first_order(row: ConstantRow) -> bool:
    """Whether a rate is one of a factor ``1 − k·dt``: as takes tell by themselves, or together.

    A take alone seldom tells it from a true exponential.
    """
    if row.sort != "rate" or row.clock == FIRST_ORDER:
        return row.clock == FIRST_ORDER
    return may_be_first_order(row) and not row.fits(0, SLACK)


def may_be_first_order(row: ConstantRow) -> bool:
    """Whether ``1 − factor = k·dt`` with one ``k`` at all rates, shown by a rate."""
    linear = -np.expm1(-row.value * row.frame) / row.frame
    slope = linear / row.value
    one = replace(row, value=linear, stderr=row.stderr * slope)
    return one.fits(0, SLACK)


def told(kind: CauseKind, terms: Sequence[Term], evidence: str = "", other: str = "") -> Cause:
    """Return a cause that constants show; how they do is said where nothing else is."""
    return Cause(
        kind=kind,
        verdict=kind.verdict,
        terms=tuple(terms),
        evidence=evidence or _shown(terms),
        other=other,
    )


def _shown(terms: Sequence[Term]) -> str:
    """Say how constants go with the rate."""
    names = ", ".join(dict.fromkeys(term.row.name for term in terms))
    powers = sorted({term.power for term in terms})
    first = terms[0].row
    values = ", ".join(f"{value:.4g}" for value in first.value)
    at = f" ({first.name}: {values} {first.unit})".replace(" )", ")")
    return f"{names} ∝ rate^{'/'.join(f'{power:+d}' for power in powers)}{at}"
