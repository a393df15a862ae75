"""What one take lets suspect: from uneven frame times, or at an even rate what to look for."""

from collections.abc import Sequence

from kickback.causes.cause import CauseKind
from kickback.causes.table import CAUSES
from kickback.laws.record import Consequence, Law, Laws
from kickback.takes.numeric import median
from kickback.takes.quantities import Unit
from kickback.takes.record import Record

__all__ = ["Forecast", "SuspectedCause", "Suspicion", "Unread", "suspect"]

RATES = (30.0, 60.0, 120.0, 144.0, 240.0)
"""Frame rates for which numbers are foretold, frames/s."""

_HIDDEN = "the frame times are too alike, or too coarse, to tell the frame from the second"

_SURE = 0.25
"""Error of an exponent below which no other reading fits: they lie 1 apart."""


class SuspectedCause(Record, frozen=True, kw_only=True):
    """A cause that one take's uneven steps show, with the exponent that tells it.

    ``exponent`` is that of the step, ``constant·dt^p``, in ``[low, high]``; ``confidence``
    is high, or low where the interval would let another reading in.
    """

    name: str
    phases: tuple[str, ...]
    text: str
    confidence: str
    exponent: float | None = None
    low: float | None = None
    high: float | None = None


class Unread(Record, frozen=True, kw_only=True):
    """A phase of a take of uneven frame times that tells nothing, and why."""

    phase: str
    reason: str


class Forecast(Record, frozen=True, kw_only=True):
    """What a number would be at other rates, should its constants belong to the second or frame."""

    what: str
    unit: Unit
    rates: Sequence[float]
    per_second: Sequence[float]
    per_frame: Sequence[float]


class Suspicion(Record, frozen=True, kw_only=True):
    """What a single take tells: causes by uneven steps, or at an even rate forecasts.

    ``read`` names the phases whose rules tell the frame from the second, ``unread`` those that
    do not: of them nothing may be said. Where no phase does there are forecasts instead.
    ``step`` is that of a physics of its own rate, s: the display's does not matter to it.
    """

    take: str
    rate: float
    even: bool
    causes: Sequence[SuspectedCause] = ()
    forecasts: Sequence[Forecast] = ()
    read: tuple[str, ...] = ()
    unread: tuple[Unread, ...] = ()
    step: float | None = None


def suspect(
    take: str,
    rate: float,
    laws: Laws,
    *,
    step: float | None = None,
    own: Sequence[CauseKind] = (),
) -> Suspicion:
    """Return what a single take at ``rate`` frames/s lets suspect.

    ``step``: the length of the physics' own step, s, where it has one; ``own``: the causes of the
    take's kind beside the general ones.
    """
    if step is not None:
        return Suspicion(take=take, rate=rate, even=True, step=step)
    forecasts = [_scaled(item, rate) for item in laws.clock_signs]
    if laws.even:
        return Suspicion(take=take, rate=rate, even=True, forecasts=forecasts)
    read, unread = _parted(laws)
    return Suspicion(
        take=take,
        rate=rate,
        even=False,
        causes=_causes(laws, own),
        unread=unread,
        read=read,
        forecasts=() if read else forecasts,
    )


def _parted(laws: Laws) -> tuple[tuple[str, ...], tuple[Unread, ...]]:
    """Return the phases that tell the frame from the second, and those that do not, with why."""
    steps = [law for law in laws if law.family is None or law.family.stepped]
    unread = tuple(
        Unread(phase=law.name, reason=law.reason or _HIDDEN)
        for law in steps
        if law.family is None or (law.clock == "even" and law.gain != "frame")
    )
    hidden = {one.phase for one in unread}
    return tuple(law.name for law in steps if law.name not in hidden), unread


def _causes(laws: Laws, own: Sequence[CauseKind]) -> list[SuspectedCause]:
    told = [law for law in laws if law.family is not None]
    shown = {kind: found for kind in (*CAUSES, *own) if (found := kind.suspect(told))}
    whole = [kind for kind in shown if kind.absorbs]
    return [_suspected(kind, shown[kind]) for kind in whole or shown]


def _suspected(kind: CauseKind, laws: Sequence[Law]) -> SuspectedCause:
    phases = tuple(dict.fromkeys(law.name for law in laws))
    told = [
        item
        for law in laws
        for item in law.constants
        if item.name == "exponent" and item.stderr is not None
    ]
    p = low = high = None
    confidence = "high"
    if told:
        p = median([item.value for item in told])
        error = 2 * median([item.stderr or 0.0 for item in told])
        low, high = p - error, p + error
        confidence = "high" if error < _SURE else "low"
    return SuspectedCause(
        name=kind.name,
        phases=phases,
        text=f"{kind.about} ({', '.join(phases)})",
        confidence=confidence,
        exponent=p,
        low=low,
        high=high,
    )


def _scaled(item: Consequence, rate: float) -> Forecast:
    """Return a number at other rates, staying or going against the rate."""
    return Forecast(
        what=item.what,
        unit=item.unit,
        rates=RATES,
        per_second=[item.value for _ in RATES],
        per_frame=[item.value * rate / other for other in RATES],
    )
