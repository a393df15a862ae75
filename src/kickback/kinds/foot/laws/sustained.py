"""A rise that is sustained for a limited time while the button is held."""

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import UP
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.laws.timing import lasted
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["HOLD", "SUSTAINED", "Sustained", "sustained"]

HOLD = PhaseKey("hold")
SUSTAINED = PhaseKey("rise", part="sustained")

_ALIKE = 1e-6
"""Share of the highest speed by which equal gains may differ."""

_FEWEST = 2
"""Steps of a lighter gravity that show it."""

_AFTER = 2
"""Steps after it that show the gravity that follows."""


class Sustained(Record, frozen=True, kw_only=True):
    """The steps into frames of ``mask``, shape (n,), are those of the sustained rises.

    ``laws``: their rule and the timer that ends them.
    """

    mask: BoolArray
    laws: tuple[Law, ...]


def sustained(motion: FootMotion, track: Track) -> Sustained | None:
    """Return the sustained part of the rises, or None where gravity is one from the start.

    While the button is held, the first steps of a rise all lose less speed than those after
    them do. A lighter gravity near the apex is the other way about.
    """
    jump, flights = motion.inputs.jump, motion.flights
    if jump is None or track.source != "reported":
        return None
    dt = motion.dt
    v = track.v
    slack = _ALIKE * float(np.max(np.abs(v), initial=0.0))
    starts: list[int] = []
    stops: list[int] = []
    gains: list[FloatArray] = []
    held_on: list[tuple[int, int]] = []
    for a, top in zip(
        flights.start[flights.jump].tolist(), flights.top[flights.jump].tolist(), strict=True
    ):
        let_go = np.flatnonzero(~jump[a : top + 1])
        b = a + int(let_go[0]) if let_go.size else top + 1
        gain = np.diff(v[a:b]) / dt[a + 1 : b]  # of the steps into a + 1 .. b
        same = np.abs(gain - gain[:1]) <= slack / dt[a + 1 : b] if b - a > 1 else gain > 0
        many = len(gain) if same.all() else int(np.argmin(same))
        if many < _FEWEST:
            continue
        rest = gain[many + 1 :]  # the step between may be of both
        if len(rest) < _AFTER:
            held_on.append((a, a + 1 + many))
            continue
        if abs(gain[0]) >= abs(rest[0]) or np.ptp(rest) > slack / dt[a]:
            return None
        starts.append(a)
        stops.append(a + 1 + many)
        gains.append(gain[:many])
    if not starts:
        return None
    pull = float(np.median(np.concatenate(gains)))
    mask = np.zeros(len(v), dtype=bool)
    for a, b in [*zip(starts, stops, strict=True), *held_on]:
        if abs(float(v[b - 1] - v[a]) - pull * float(dt[a + 1 : b].sum())) <= slack * (b - a):
            mask[a + 1 : b] = True
    first, last = np.array(starts, dtype=np.int64), np.array(stops, dtype=np.int64)
    hold = lasted(motion, HOLD, UP, first, last)
    rule = _rule(motion, track, pull, gains, first, last)
    return Sustained(mask=mask, laws=(rule, hold))


def _rule(
    motion: FootMotion,
    track: Track,
    pull: float,
    gains: list[FloatArray],
    first: IntArray,
    last: IntArray,
) -> Law:
    """Return the law of the sustained rise: a lighter gravity, or none."""
    unit = motion.take.header.length_unit
    error = float(np.std(np.concatenate(gains)))
    speed = float(track.v[first[0]])
    level = abs(pull) * motion.clock.usual <= _ALIKE * abs(speed)
    family = CONSTANT_SPEED if level else CONSTANT_ACCELERATION
    name, value = ("speed", speed) if level else ("acceleration", pull)
    constant = Constant(
        name=name, value=value, unit=family.constants[name].within(unit), stderr=error
    )
    return Law(
        take=motion.take.name,
        role=UP,
        phase=SUSTAINED,
        start=float(motion.begin[first[0]]),
        end=float(motion.t[last[-1] - 1]),
        axis=track.axis,
        family=family,
        constants=(constant,),
        reason="while the button is held",
        frames=int((last - first).sum()),
        misfit=error,
        frame=motion.clock.usual,
    )
