"""What follows from the laws of a take: times, distances, and the apex at other frame rates."""

import math
from collections.abc import Sequence

from kickback.kinds.foot.laws.sustained import HOLD, SUSTAINED
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.moments import IMPULSE, POSITION_RULE, TIMER
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.keys import PhaseKey
from kickback.laws.position import POSITION
from kickback.laws.record import Consequence, Law
from kickback.takes.quantities import FRAMES, LENGTH, SPEED, TIME
from kickback.takes.record import replace

__all__ = ["RATES", "clock_signs", "follows"]

RATES = (30.0, 60.0, 144.0, 240.0)
"""Frame rates at which the apex is foretold, frames/s."""

_HIDDEN = 0.5
"""Steps of gravity that a takeoff speed may be off by, where its own step is not seen."""

_FIRST_STEP = "gravity acting in the frame of the takeoff"
_GIVEN = "other rates: if gravity belongs to the second"
_TAKEOFF, _RISE, _CRUISE = PhaseKey("takeoff"), PhaseKey("rise"), PhaseKey("cruise")
_PUSHES = {
    PhaseKey("speed-up"): "time to top speed",
    PhaseKey("coast"): "time to stop",
    PhaseKey("brake"): "time to brake",
}


def follows(laws: Sequence[Law]) -> list[Consequence]:
    """Return what the laws imply, by their closed forms.

    What a family implies by itself, and: constant acceleration ``a`` to a speed ``v``:
    ``v/a``; a jump of ``v0`` under ``g``: ``v0²/2g``, and with a step of
    ``h`` ``v0·h·(½ − θ)`` more, θ from the position rule; where a rise is sustained for ``T`` under
    a lighter ``l``, ``v0·T − l·T²/2`` and then the same from ``v0 − l·T``.
    """
    found: list[Consequence] = []
    for law in laws:
        if law.family is None:
            continue
        own = list(law.family.follows(law))
        if law.family is CONSTANT_ACCELERATION and law.phase == PhaseKey("speed-up"):
            own += _to_top(law, laws)
        if law.family is IMPULSE and law.phase == _TAKEOFF:
            own += _jump(law, laws)
        found += [_by_frame(one, law.frame) for one in own] if law.by_frame else own
    return found


def _by_frame(one: Consequence, frame: float) -> Consequence:
    """Return what follows from speeds that are lengths a frame."""
    if one.unit.dimension == SPEED:
        return replace(one, unit=one.unit * (TIME / FRAMES))
    if one.unit.dimension == LENGTH and frame:
        return replace(one, value=one.value / frame)
    return one


def _to_top(law: Law, laws: Sequence[Law]) -> list[Consequence]:
    top = _first(laws, _CRUISE)
    if top is None:
        return []
    push = law.constant("acceleration")
    unit = top.constant("speed").unit / push.unit.dimension
    time = top.value("speed") / push.value
    return [Consequence(phase=str(law.phase), what="time to top speed", value=time, unit=unit)]


def _jump(thrown: Law, laws: Sequence[Law]) -> list[Consequence]:
    rise = _first(laws, _RISE)
    if rise is None or rise.family is not CONSTANT_ACCELERATION:
        return []
    speed, gravity = thrown.value("speed"), -rise.value("acceleration")
    unit = thrown.constant("speed").unit * TIME
    hidden = (thrown.constant("speed").stderr or 0.0) > _HIDDEN * gravity * rise.frame
    if hidden:  # the row may be a step of gravity later: then it all is as it was measured
        speed += gravity * rise.frame
    hold, light = _sustained(laws)
    slowed = speed - light * hold
    ideal = hold * (speed + slowed) / 2 + slowed**2 / (2 * gravity)
    time = hold + slowed / gravity
    second = TIME.within(unit.length)
    phase = str(_TAKEOFF)
    found = [
        Consequence(phase=phase, what="ideal apex", value=ideal, unit=unit),
        Consequence(phase=phase, what="time to the apex", value=time, unit=second),
    ]
    theta = _theta(thrown, laws)
    if hold or theta is None or rise.clock not in {"even", "second"}:
        return found  # gravity by the frame makes the apex another at each rate
    return found + [
        Consequence(
            phase=phase,
            what=f"apex at {rate:g} frames/s",
            value=ideal + speed / rate * (0.5 - theta),
            unit=unit,
            given="; ".join(filter(None, (_GIVEN * (rise.clock == "even"), _FIRST_STEP * hidden))),
        )
        for rate in RATES
    ]


def _theta(thrown: Law, laws: Sequence[Law]) -> float | None:
    """Return the θ by which positions along a law's track follow speeds, where that is all."""
    rule = next((law for law in laws if law.role is thrown.role and law.phase == POSITION), None)
    plain = rule is not None and rule.family is POSITION_RULE and not rule.reason
    return rule.value("theta") if rule is not None and plain else None


def _sustained(laws: Sequence[Law]) -> tuple[float, float]:
    """Return how long a held button lightens the gravity of a rise, s, and that gravity."""
    hold, rule = _first(laws, HOLD), _first(laws, SUSTAINED)
    if hold is None or rule is None or hold.constant("seconds").open:
        return 0.0, 0.0
    light = -rule.value("acceleration") if rule.family is CONSTANT_ACCELERATION else 0.0
    return hold.value("seconds"), light


def _ideal_apex(thrown: Law | None, rise: Law | None) -> list[Consequence]:
    """Return ``v²/2g``, where a takeoff and a constant gravity tell it."""
    if thrown is None or rise is None or rise.family is not CONSTANT_ACCELERATION:
        return []
    v, g = thrown.value("speed"), -rise.value("acceleration")
    unit = thrown.constant("speed").unit * TIME
    if g <= 0:
        return []
    return [Consequence(phase=str(_TAKEOFF), what="ideal apex", value=v * v / (2 * g), unit=unit)]


def _first(laws: Sequence[Law], phase: PhaseKey) -> Law | None:
    return next((law for law in laws if law.phase == phase and law.family is not None), None)


def clock_signs(laws: Sequence[Law]) -> list[Consequence]:
    """Return numbers that another frame rate tells a frame's constant from a second's by.

    Times of a push, the apex of a jump under gravity, and timers: all go with ``1/rate``
    where their constants belong to the frame.
    """
    found: list[Consequence] = []
    cruise = _first(laws, _CRUISE)
    for phase, what in _PUSHES.items():
        law = _first(laws, phase)
        if law is None:
            continue
        second = TIME.within("")
        if law.family is CONSTANT_ACCELERATION and cruise is not None:
            time = cruise.value("speed") / abs(law.value("acceleration"))
            found.append(Consequence(phase=str(phase), what=what, value=time, unit=second))
        elif law.family in {FRICTION, SMOOTHING}:
            time = math.log(10) / law.value("rate")
            slow = f"nine tenths of the {phase}"
            found.append(Consequence(phase=str(phase), what=slow, value=time, unit=second))
    found += _ideal_apex(_first(laws, _TAKEOFF), _first(laws, _RISE))
    found += [
        Consequence(
            phase=str(law.phase),
            what=f"{law.phase.base} time",
            value=law.value("seconds"),
            unit=law.constant("seconds").unit,
        )
        for law in laws
        if law.family is TIMER and not law.constant("seconds").open
    ]
    return found
