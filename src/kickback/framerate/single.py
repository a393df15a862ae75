"""What one take lets suspect: from uneven frame times, or at an even rate what to look for."""

import math
from collections.abc import Sequence

import numpy as np

from kickback.framerate.causes import NAMES
from kickback.laws.record import Law, Laws
from kickback.takes.record import Record

__all__ = ["Forecast", "SuspectedCause", "Suspicion", "suspect"]

RATES = (30.0, 60.0, 120.0, 144.0, 240.0)
_SURE = 0.25
_PUSHES = ("speed-up", "coast", "brake")


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


class Forecast(Record, frozen=True, kw_only=True):
    """What a number would be at other rates, should its constants belong to the second or frame."""

    what: str
    unit: str
    rates: Sequence[float]
    per_second: Sequence[float]
    per_frame: Sequence[float]


class Suspicion(Record, frozen=True, kw_only=True):
    """What a single take tells: causes by uneven steps, or at an even rate forecasts."""

    take: str
    rate: float
    even: bool
    causes: Sequence[SuspectedCause] = ()
    forecasts: Sequence[Forecast] = ()


def suspect(take: str, rate: float, laws: Laws) -> Suspicion:
    """Return what a single take at ``rate`` frames/s lets suspect."""
    if laws.even:
        return Suspicion(take=take, rate=rate, even=True, forecasts=_forecasts(rate, laws))
    return Suspicion(take=take, rate=rate, even=False, causes=_causes(laws))


def _causes(laws: Laws) -> list[SuspectedCause]:
    shown: dict[str, list[Law]] = {}
    for law in laws:
        for name in _names(law):
            shown.setdefault(name, []).append(law)
    steps = [law for law in laws if law.law in _STEPPED]
    timers = [law for law in laws if law.law == "timer" and law.clock != "even"]
    framed = [law for law in steps if law.clock == "frame"]
    whole = (
        "position-per-frame" in shown
        and len(framed) == len(steps) > 0
        and all(law.clock == "frame" for law in timers)
    )
    if whole:
        every = [law for laws_ in shown.values() for law in laws_]
        shown = {"all-in-frames": every}
    return [_suspected(name, found) for name, found in shown.items()]


_STEPPED = {"constant-acceleration", "friction", "smoothing", "drive"}


def _names(law: Law) -> list[str]:
    """Return the causes that a law's clocks name."""
    if law.law == "position-rule":
        return ["position-per-frame"] if "no time step" in (law.reason or "") else []
    if law.law == "timer":
        return ["timer-in-frames"] if law.clock == "frame" else []
    if law.law == "constant-acceleration":
        per_frame = "gravity-per-frame" if law.track == "vertical" else "acceleration-per-frame"
        return {"frame": [per_frame], "square": ["dt-twice"]}.get(law.clock, [])
    if law.law in _STEPPED:
        found = {"frame": ["factor-per-frame"], "first-order": ["first-order-factor"]}.get(
            law.clock, []
        )
        if law.law == "drive" and law.gain == "frame":
            pushed = "gravity-per-frame" if law.track == "vertical" else "acceleration-per-frame"
            found = [*found, pushed]
        if law.law == "drive" and law.gain == "square":
            found = [*found, "dt-twice"]
        return found
    if law.law == "impulse" and "time step" in (law.reason or ""):
        return ["impulse-times-dt"]
    return []


def _suspected(name: str, laws: Sequence[Law]) -> SuspectedCause:
    phases = tuple(dict.fromkeys(
        f"{law.track} position" if law.phase == "position" else law.phase for law in laws
    ))  # fmt: skip
    told = [
        item for law in laws for item in law.constants
        if item.name == "exponent" and item.stderr is not None
    ]  # fmt: skip
    p = low = high = None
    confidence = "high"
    if told:
        p = float(np.median([item.value for item in told]))
        error = 2 * float(np.median([item.stderr or 0.0 for item in told]))
        low, high = p - error, p + error
        confidence = "high" if error < _SURE else "low"
    text = f"{NAMES[name]} ({', '.join(phases)})"
    return SuspectedCause(
        name=name, phases=phases, text=text, confidence=confidence, exponent=p, low=low, high=high
    )


def _forecasts(rate: float, laws: Laws) -> list[Forecast]:
    """Return the numbers that tell the readings apart at other frame rates.

    A constant that belongs to the frame goes with the rate: times of a push go with 1/rate,
    the apex of a jump under gravity per frame too; a timer in frames lasts n/rate.
    """
    by_phase = {law.phase: law for law in laws if law.law != "none"}
    found = []
    cruise = by_phase.get("cruise")
    for phase in _PUSHES:
        law = by_phase.get(phase)
        if law is None:
            continue
        what = {"speed-up": "time to top speed", "coast": "time to stop", "brake": "time to brake"}
        if law.law == "constant-acceleration" and cruise is not None:
            time = cruise.value("speed") / abs(law.value("acceleration"))
            found.append(_scaled(what[phase], "s", rate, time))
        elif law.law in {"friction", "smoothing"}:
            time = math.log(10) / law.value("rate")
            found.append(_scaled(f"nine tenths of the {phase}", "s", rate, time))
    thrown, rise = by_phase.get("takeoff"), by_phase.get("rise")
    if thrown is not None and rise is not None and rise.law == "constant-acceleration":
        v, g = thrown.value("speed"), -rise.value("acceleration")
        unit = thrown.constant("speed").unit.removesuffix("/s")
        if g > 0:
            found.append(_scaled("ideal apex", unit, rate, v * v / (2 * g)))
    for law in laws:
        if law.law == "timer":
            name = law.phase if law.phase.endswith("time") else f"{law.phase} time"
            found.append(_scaled(name, "s", rate, law.value("seconds")))
    return found


def _scaled(what: str, unit: str, rate: float, value: float) -> Forecast:
    return Forecast(
        what=what,
        unit=unit,
        rates=RATES,
        per_second=[value for _ in RATES],
        per_frame=[value * rate / other for other in RATES],
    )
