"""What follows from the laws of a take: times, distances, and the apex at other frame rates."""

import math

from kickback.laws.record import Law, Laws
from kickback.takes.record import Record

__all__ = ["RATES", "Consequence", "follows"]

RATES = (30.0, 60.0, 144.0, 240.0)
"""Frame rates at which the apex is foretold, frames/s."""

_GIVEN = "other rates: if gravity belongs to the second"


class Consequence(Record, frozen=True, kw_only=True):
    """A number that a law implies: of which phase, what it is, its value and unit.

    ``given`` is what it takes for granted, where the take does not show it.
    """

    phase: str
    what: str
    value: float
    unit: str
    given: str = ""


def follows(laws: Laws) -> list[Consequence]:
    """Return what the laws imply, by their closed forms.

    Constant acceleration ``a`` to a speed ``v``: ``v/a``; friction of rate ``k``: half of
    the speed after ``ln 2/k``; smoothing: nine tenths of the way after ``ln 10/k``; a
    drive settles at ``a/k``; a jump of ``v0`` under ``g``: ``v0²/2g``, and with a step of
    ``h`` ``v0·h·(½ − θ)`` more, θ from the position rule; where a rise is sustained for ``T`` under
    a lighter ``l``, ``v0·T − l·T²/2`` and then the same from ``v0 − l·T``.
    """
    found: list[Consequence] = []
    for law in laws:
        found += _of(law, laws)
    return found


def _of(law: Law, laws: Laws) -> list[Consequence]:
    if law.law == "constant-acceleration" and law.phase == "speed-up":
        top = _first(laws, "cruise")
        if top is not None:
            time = top.value("speed") / law.value("acceleration")
            return [Consequence(phase=law.phase, what="time to top speed", value=time, unit="s")]
    if law.law == "friction":
        half = math.log(2) / law.value("rate")
        return [Consequence(phase=law.phase, what="half-life of the speed", value=half, unit="s")]
    if law.law == "smoothing":
        time = math.log(10) / law.value("rate")
        return [Consequence(phase=law.phase, what="nine tenths of the way", value=time, unit="s")]
    if law.law == "drive":
        settled = law.value("acceleration") / law.value("rate")
        unit = law.constant("acceleration").unit.removesuffix("²")
        return [Consequence(phase=law.phase, what="settles at about", value=settled, unit=unit)]
    if law.law == "impulse" and law.phase == "takeoff":
        return _jump(law, laws)
    return []


def _jump(thrown: Law, laws: Laws) -> list[Consequence]:
    rise = _first(laws, "rise")
    if rise is None or rise.law != "constant-acceleration":
        return []
    speed, gravity = thrown.value("speed"), -rise.value("acceleration")
    unit = thrown.constant("speed").unit.removesuffix("/s")
    hold, light = _sustained(laws)
    slowed = speed - light * hold
    ideal = hold * (speed + slowed) / 2 + slowed**2 / (2 * gravity)
    time = hold + slowed / gravity
    found = [
        Consequence(phase="takeoff", what="ideal apex", value=ideal, unit=unit),
        Consequence(phase="takeoff", what="time to the apex", value=time, unit="s"),
    ]
    if hold:
        return found
    rule = next((law for law in laws if law.track == "vertical" and law.phase == "position"), None)
    per_second = rise.clock in {"even", "second"}  # else the apex is another at each rate
    if per_second and rule is not None and rule.law == "position-rule" and not rule.reason:
        theta = rule.value("theta")
        found += [
            Consequence(
                phase="takeoff",
                what=f"apex at {rate:g} frames/s",
                value=ideal + speed / rate * (0.5 - theta),
                unit=unit,
                given=_GIVEN if rise.clock == "even" else "",
            )
            for rate in RATES
        ]
    return found


def _sustained(laws: Laws) -> tuple[float, float]:
    """Return how long a held button lightens the gravity of a rise, s, and that gravity."""
    hold, rule = _first(laws, "hold"), _first(laws, "rise sustained")
    if hold is None or rule is None:
        return 0.0, 0.0
    light = -rule.value("acceleration") if rule.law == "constant-acceleration" else 0.0
    return hold.value("seconds"), light


def _first(laws: Laws, phase: str) -> Law | None:
    return next((law for law in laws if law.phase == phase and law.law != "none"), None)
