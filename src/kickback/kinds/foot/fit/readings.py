"""Which constant of which law is which parameter of the model: one table."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from kickback.kinds.fitting import Number, Unread
from kickback.kinds.foot.fit.derived import DERIVED, order_of
from kickback.kinds.foot.fit.guesses import Missing, guessed
from kickback.kinds.foot.laws.pools import DIAGONAL
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.drive import DRIVE
from kickback.laws.families.family import Family
from kickback.laws.families.friction import FRICTION
from kickback.laws.families.level import CLAMP, CONSTANT_SPEED
from kickback.laws.families.moments import CUT, IMPULSE, TIMER
from kickback.laws.families.smoothing import SMOOTHING
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.laws.steps import side_name
from kickback.takes.record import Record
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["read_parameters"]

_AIR = "in the air"
_FEWEST_ERRORS = 4.0
"""Standard errors by which readings of one parameter may differ."""

Convert = Callable[[Law, Constant], float]


def _as_it_is(_: Law, one: Constant) -> float:
    return abs(one.value)


def _by_first_order(law: Law, one: Constant) -> float:
    """Return the rate that ``1 − rate·dt`` has for a factor a frame."""
    if law.clock == "first-order":
        return one.value
    return (1 - law.value("factor")) / law.frame


class Reading(Record, frozen=True, kw_only=True):
    """A parameter, and the constant that it is: of a phase's law, where that is of a family.

    ``movement``: the kind of ground movement that has it. ``converts`` by a mistake's name: what
    the constant becomes where the code makes it.
    """

    parameter: str
    phase: PhaseKey
    family: Family
    constant: str
    movement: str = ""
    converts: Mapping[str, Convert] = {}

    def may_be(self, movement: str) -> bool:
        """Whether it is one of a kind of ground movement, or of any where that is not told."""
        return not movement or self.movement in {"", movement}

    def of_phase(self, law: Law) -> bool:
        """Whether a law is of its phase, whatever the side and the amount."""
        own, its = self.phase, law.phase
        return (own.base, own.part, own.medium) == (its.base, its.part, its.medium)


_SPEED_UP, _CRUISE, _COAST, _BRAKE = (
    PhaseKey(one) for one in ("speed-up", "cruise", "coast", "brake")
)
_FIRST_ORDER = {"first-order-factor": _by_first_order}


def _rate(parameter: str, phase: PhaseKey, family: Family, movement: str) -> Reading:
    return Reading(
        parameter=parameter,
        phase=phase,
        family=family,
        constant="rate",
        movement=movement,
        converts=_FIRST_ORDER,
    )


def _plain(
    parameter: str, phase: str, family: Family, constant: str, *, part: str = "", medium: str = ""
) -> Reading:
    key = PhaseKey(phase, part=part, medium=medium)
    return Reading(parameter=parameter, phase=key, family=family, constant=constant)


def _ground(parameter: str, phase: PhaseKey, family: Family, constant: str, kind: str) -> Reading:
    return Reading(
        parameter=parameter, phase=phase, family=family, constant=constant, movement=kind
    )


def _air(parameter: str, phase: str, family: Family) -> Reading:
    return Reading(
        parameter=parameter,
        phase=PhaseKey(phase, medium=_AIR),
        family=family,
        constant="rate",
        converts=_FIRST_ORDER,
    )


READINGS: tuple[Reading, ...] = (
    _ground("run_speed", _CRUISE, CLAMP, "speed", ""),
    _ground("run_speed", _SPEED_UP, SMOOTHING, "goal", "smoothing"),
    _ground("ground_acceleration", _SPEED_UP, CONSTANT_ACCELERATION, "acceleration", "constant"),
    _ground("ground_acceleration", _SPEED_UP, DRIVE, "acceleration", "friction"),
    _ground("coast_deceleration", _COAST, CONSTANT_ACCELERATION, "acceleration", "constant"),
    _ground("brake_deceleration", _BRAKE, CONSTANT_ACCELERATION, "acceleration", "constant"),
    _rate("smoothing_rate", _SPEED_UP, SMOOTHING, "smoothing"),
    _rate("stop_rate", _COAST, FRICTION, "smoothing"),
    _rate("friction_rate", _COAST, FRICTION, "friction"),
    _rate("friction_rate", _SPEED_UP, DRIVE, "friction"),
    _plain("air_acceleration", "speed-up", CONSTANT_ACCELERATION, "acceleration", medium=_AIR),
    _plain("air_acceleration", "brake", CONSTANT_ACCELERATION, "acceleration", medium=_AIR),
    _plain("air_deceleration", "coast", CONSTANT_ACCELERATION, "acceleration", medium=_AIR),
    _air("air_rate", "speed-up", SMOOTHING),
    _air("air_rate", "brake", SMOOTHING),
    _air("air_stop_rate", "coast", FRICTION),
    _plain("gravity_rise", "rise", CONSTANT_ACCELERATION, "acceleration"),
    _plain("gravity_fall", "fall", CONSTANT_ACCELERATION, "acceleration"),
    _plain("terminal_speed", "terminal", CLAMP, "speed"),
    _plain("jump_speed", "takeoff", IMPULSE, "speed"),
    _plain("release_cut", "release", CUT, "factor"),
    _plain("release_speed", "release", CUT, "speed"),
    _plain("air_jump_speed", "air jump", IMPULSE, "speed"),
    _plain("wall_jump_speed", "wall jump", IMPULSE, "speed"),
    _plain("wall_slide_speed", "wall slide", CLAMP, "speed", part="speed"),
    _plain("dash_speed", "dash", IMPULSE, "speed"),
    _plain("dash_time", "dash", TIMER, "seconds", part="time"),
    _plain("dash_lockout", "lock-out", TIMER, "seconds"),
    _plain("dash_cooldown", "cooldown", TIMER, "seconds"),
    _plain("coyote_time", "coyote", TIMER, "seconds"),
    _plain("jump_buffer", "buffer", TIMER, "seconds"),
    _plain("hold_time", "hold", TIMER, "seconds"),
    _plain("squat_time", "squat", TIMER, "seconds"),
    _plain("landing_lag", "landing lag", TIMER, "seconds"),
    _plain("ledge_hang", "ledge hang", TIMER, "seconds"),
    _plain("wall_stick_time", "wall stick", TIMER, "seconds"),
    _plain("wall_jump_lockout", "wall jump", TIMER, "seconds", part="lock-out"),
)

MOVEMENTS: Mapping[Family, str] = {
    CONSTANT_ACCELERATION: "constant",
    SMOOTHING: "smoothing",
    DRIVE: "friction",
}
"""The kind of ground movement that a law of the speed-up is."""


def read_parameters(
    laws: Sequence[Law], mistakes: frozenset[str]
) -> tuple[list[Number], list[Unread]]:
    """Return the parameters that laws of takes at one frame rate show, and what they do not.

    ``mistakes``: those that the takes were found to make. Constants that several takes show are
    weighed by their errors; of timers what all of them leave is kept.
    """
    told = [law for law in laws if law.family is not None]
    movement = _movement(told)
    numbers, missing = _read(told, laws, mistakes, "" if movement is None else str(movement.value))
    numbers = numbers if movement is None else [movement, *numbers]
    numbers += [*guessed(missing, numbers), *_reverse(told, numbers)]
    numbers += [one for derive in DERIVED for one in derive(told, _by_name(numbers))]
    numbers += order_of(told, mistakes)
    return numbers, _left(missing, numbers)


def _read(
    told: Sequence[Law], laws: Sequence[Law], mistakes: frozenset[str], movement: str
) -> tuple[list[Number], list[Missing]]:
    """Return what the table's readings give, and what they do not.

    Where nothing tells the kind of ``movement`` those of all kinds are read.
    """
    numbers: list[Number] = []
    missing: list[Missing] = []
    for name in dict.fromkeys(one.parameter for one in READINGS):
        wanted = [one for one in READINGS if one.parameter == name and one.may_be(movement)]
        found = [pair for one in wanted for pair in _of(one, told, mistakes)]
        if found:
            numbers.append(_weighed(name, found))
        elif wanted and not _is_shown(wanted, told):
            missing.append(_missing(wanted[0], laws))
    return numbers, missing


def _is_shown(wanted: Sequence[Reading], laws: Sequence[Law]) -> bool:
    """Whether laws are what readings ask for, with another constant than theirs."""
    return any(_is_of(law, one) for law in laws for one in wanted)


def _by_name(numbers: Sequence[Number]) -> dict[str, Number]:
    return {one.name: one for one in numbers}


def _left(missing: Sequence[Missing], numbers: Sequence[Number]) -> list[Unread]:
    """Return what is unread, by its reason; what a cut is read as needs no other reading."""
    known = set(_by_name(numbers))
    if "release_cut" in known:
        known.add("release_speed")
    left: dict[str, list[str]] = {}
    for one in missing:
        if one.name not in known:
            left.setdefault(one.reason, []).append(one.name)
    return [Unread(names=tuple(names), reason=reason) for reason, names in left.items()]


def _movement(laws: Sequence[Law]) -> Number | None:
    """Return the kind of ground movement: that of the speed-up that most frames show."""
    found = [one for one in laws if one.phase.base == "speed-up" and not one.phase.medium]
    found = [one for one in found if one.family in MOVEMENTS]
    if not found:
        return None
    law = max(found, key=lambda one: one.frames)
    return Number(
        name="ground_movement",
        value=MOVEMENTS[_family(law)],
        source=law.name,
        note=law.reason or "",
    )


def _family(law: Law) -> Family:
    if law.family is None:
        raise ValueError("a law without a family has no reading")
    return law.family


class _Found(Record, frozen=True, kw_only=True):
    """A reading's value in one law."""

    law: Law
    value: float
    stderr: float
    between: tuple[float, float] | None


def _of(reading: Reading, laws: Sequence[Law], mistakes: frozenset[str]) -> list[_Found]:
    """Return what laws say of a reading."""
    converts = [one for name, one in reading.converts.items() if name in mistakes]
    convert = converts[0] if converts else _as_it_is
    found = []
    for law in laws:
        if not _is_of(law, reading):
            continue
        one = next((item for item in law.constants if item.name == reading.constant), None)
        if one is None:
            continue
        value = convert(law, one)
        found.append(_Found(law=law, value=value, stderr=one.stderr or 0.0, between=one.between))
    return found


def _is_of(law: Law, reading: Reading) -> bool:
    """Whether a law is of a reading's phase and family; of a phase's sides the one ahead."""
    families = {reading.family, CONSTANT_SPEED} if reading.family is CLAMP else {reading.family}
    return (
        law.family in families
        and reading.of_phase(law)
        and law.phase.amount is None
        and not law.phase.near_apex
        and law.phase.side not in {side_name(law.axis, -1.0), DIAGONAL}
    )


def _weighed(name: str, found: Sequence[_Found]) -> Number:
    """Return a parameter from what several laws say of it."""
    source = ", ".join(dict.fromkeys(one.law.name for one in found))
    reasons = "; ".join(dict.fromkeys(one.law.reason for one in found if one.law.reason))
    if any(one.between is not None for one in found):
        return _narrowed(name, found, source)
    values = np.array([one.value for one in found])
    errors = np.array([max(one.stderr, ARITHMETIC * abs(one.value)) for one in found])
    known = np.where(errors > 0, errors, np.min(errors[errors > 0], initial=1.0))  # one of 0 is 0
    weights = 1 / known**2
    value = float(np.sum(weights * values) / np.sum(weights))
    stderr = float(np.sum(weights) ** -0.5) if errors.any() else 0.0
    spread = float(np.ptp(values))
    if spread > _FEWEST_ERRORS * float(np.hypot.reduce(errors)):
        reasons = f"readings differ, {values.min():.6g} to {values.max():.6g}"
        stderr = spread / 2
    return Number(name=name, value=value, stderr=stderr, source=source, note=reasons)


def _narrowed(name: str, found: Sequence[_Found], source: str) -> Number:
    """Return a timer from what all takes leave of it: the middle."""
    ranges = [one.between or (one.value, one.value) for one in found]
    low, high = max(a for a, _ in ranges), min(b for _, b in ranges)
    if np.isinf(high):
        return Number(
            name=name,
            value=low,
            stderr=None,
            between=(low, high),
            source=source,
            note=f"more than {low:.4g} s: nothing shows where it ends",
        )
    note = ""
    if low > high:
        note = f"takes differ, {high:.4g} to {low:.4g} s"
        low, high = high, low
    return Number(
        name=name,
        value=(low + high) / 2,
        stderr=float((high - low) / np.sqrt(12)),
        between=(low, high),
        source=source,
        note=note,
    )


def _missing(reading: Reading, laws: Sequence[Law]) -> Missing:
    """Return why no law shows a reading."""
    alike = next((law for law in laws if reading.of_phase(law)), None)
    if alike is None:
        reason = "not played in these takes"
    elif alike.family is None:
        reason = f"{reading.phase}: {alike.reason}"
    else:
        reason = f"{reading.phase}: what the takes show is '{alike.family.words}'"
    return Missing(name=reading.parameter, reason=reason, played=alike is not None)


def _reverse(laws: Sequence[Law], numbers: Sequence[Number]) -> list[Number]:
    """Return the top speed toward the axis's start, where it is another."""
    ahead = {one.name: one for one in numbers}.get("run_speed")
    back = [
        law
        for law in laws
        if law.phase.base == "cruise" and law.phase.side == side_name(law.axis, -1.0)
    ]
    if ahead is None or not back:
        return []
    found = [
        _Found(
            law=law,
            value=abs(law.value("speed")),
            between=None,
            stderr=law.constant("speed").stderr or 0.0,
        )
        for law in back
    ]
    return [_weighed("reverse_speed", found)]
