"""Parameters that are made of several constants, counted, or of what is not there."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.kinds.fitting import PLAY, Number
from kickback.kinds.foot.fit.guesses import GUESS
from kickback.kinds.foot.laws.pools import FAST_FALL, FAST_LIMIT, WALL_SLIDE
from kickback.kinds.foot.laws.sustained import SUSTAINED
from kickback.kinds.foot.model.parameters import THETA
from kickback.kinds.foot.roles import ACROSS
from kickback.kinds.foot.throws import AIR_JUMP, SECOND_AIR_JUMP
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Law

__all__ = ["DERIVED", "order_of"]

_UNCUT = "no law shows a rise that is cut by letting go"

_NEAR = 0.05
"""How near a θ lies to one of an order that is it."""


def _held(laws: Sequence[Law], known: Mapping[str, Number]) -> list[Number]:
    """Return what share of the gravity acts while a rise is held."""
    light = [one for one in laws if one.phase == SUSTAINED]
    if not light or "gravity_rise" not in known:
        return []
    one, whole = light[0], float(known["gravity_rise"].value)
    level = one.family is CONSTANT_SPEED
    pull = 0.0 if level else abs(one.value("acceleration"))
    error = 0.0 if level else (one.constant("acceleration").stderr or 0.0)
    return [Number(name="hold_gravity", value=pull / whole, source=one.name, stderr=error / whole)]


def _jumps(laws: Sequence[Law], _: Mapping[str, Number]) -> list[Number]:
    """Return how many jumps in the air there are."""
    seen = {one.phase.base for one in laws}
    kinds = [one for one in (AIR_JUMP, SECOND_AIR_JUMP) if one.phase in seen]
    if not kinds:
        return []
    many = float(1 + (SECOND_AIR_JUMP in kinds))
    return [
        Number(
            name="air_jumps",
            value=many,
            source=kinds[-1].phase,
            note="as many as were seen in a flight",
        )
    ]


def _release(_: Sequence[Law], known: Mapping[str, Number]) -> list[Number]:
    """Return the factor of a cut that is none, or that sets a speed."""
    if "release_cut" in known or "jump_speed" not in known:
        return []
    if "release_speed" in known:
        return [Number(name="release_cut", value=1.0, source="release")]
    # whether letting go cuts a rise at all is left to the play of the inputs
    return [
        Number(name="release_cut", value=1.0, stderr=GUESS, source=PLAY, note=_UNCUT, guess=True)
    ]


def _value(laws: Sequence[Law], phase: PhaseKey, constant: str) -> tuple[float, float] | None:
    """Return the size of a phase's constant, and its error, from the first law that has it."""
    for law in laws:
        one = next((item for item in law.constants if item.name == constant), None)
        if law.phase == phase and one is not None:
            return abs(one.value), one.stderr or 0.0
    return None


def _held_down(laws: Sequence[Law], known: Mapping[str, Number]) -> list[Number]:
    """Return how much faster falls with the stick held down are, and their largest speed."""
    fall, found = known.get("gravity_fall"), _value(laws, FAST_FALL, "acceleration")
    factor = 1.0
    out = []
    if fall is not None and found is not None and float(fall.value) > 0:
        factor = found[0] / float(fall.value)
        error = factor * float(
            np.hypot(found[1] / found[0], (fall.stderr or 0.0) / float(fall.value))
        )
        out.append(Number(name="fast_fall", value=factor, stderr=error, source=str(FAST_FALL)))
    most = _value(laws, FAST_LIMIT, "speed")
    if most is not None and "terminal_speed" not in known:
        out.append(
            Number(
                name="terminal_speed",
                value=most[0] / factor,
                stderr=most[1],
                source=str(FAST_LIMIT),
            )
        )
    return out


def _at_walls(laws: Sequence[Law], known: Mapping[str, Number]) -> list[Number]:
    """Return the gravity of falls that were seen at walls alone, and a first one of rises."""
    found = _value(laws, WALL_SLIDE, "acceleration")
    if found is None or {"gravity_fall", "gravity_rise"} & known.keys():
        return []
    note = "seen at walls alone"
    return [
        Number(
            name="gravity_fall", value=found[0], stderr=found[1], source=str(WALL_SLIDE), note=note
        ),
        Number(
            name="gravity_rise",
            value=found[0],
            stderr=GUESS * found[0],
            source=PLAY,
            note=note,
            guess=True,
        ),
    ]


DERIVED = (_held, _jumps, _release, _held_down, _at_walls)
"""Parameters that are made of several constants, counted, or of what is not there."""


def order_of(laws: Sequence[Law], mistakes: frozenset[str]) -> list[Number]:
    """Return the order of integration that the position rules show."""
    if "integration-order" in mistakes:
        return []
    found = {law.role is ACROSS: (word, law) for law in laws if (word := _theta_word(law))}
    if len({word for word, _ in found.values()}) == 1:  # one order of both
        found = {True: next(iter(found.values()))}
    names = {True: "integrator", False: "rise_integrator"}
    return [
        Number(name=names[across], value=word, source=law.name)
        for across, (word, law) in found.items()
    ]


def _theta_word(law: Law) -> str:
    """Return the order of integration that a position rule shows, or nothing."""
    if law.phase.base != "position":
        return ""
    theta = next((one.value for one in law.constants if one.name == "theta"), float("nan"))
    return next((word for word, at in THETA.items() if abs(theta - at) < _NEAR), "")
