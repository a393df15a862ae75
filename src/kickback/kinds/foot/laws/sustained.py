"""A rise that is sustained for a limited time while the button is held."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import UP
from kickback.kinds.foot.throws import throws_of
from kickback.laws.families.acceleration import CONSTANT_ACCELERATION
from kickback.laws.families.level import CONSTANT_SPEED
from kickback.laws.keys import PhaseKey
from kickback.laws.record import Constant, Law
from kickback.laws.timing import lasted
from kickback.motion.segments import BoolArray, IntArray
from kickback.motion.tracks import Track
from kickback.takes.numeric import median
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["HOLD", "SUSTAINED", "Sustained", "sustained"]

HOLD = PhaseKey("hold")
SUSTAINED = PhaseKey("rise", part="sustained")

_ALIKE = 1e-6
"""Share of the highest speed by which equal gains may differ."""

_TIMED = 6.0
"""Standard errors of a time by which gains of speed may differ, of two steps each."""

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
    if motion.inputs.jump is None or track.source != "reported":
        return None
    slack = _ALIKE * float(np.max(np.abs(track.v), initial=0.0)) + 4 * track.noise
    slack += _TIMED * motion.clock.time_error * _steepest(motion, track)
    rises = [rise for rise in _rises(motion, track, slack) if len(rise.gains) >= _FEWEST]
    ended = [rise for rise in rises if len(rise.rest) >= _AFTER]
    lighter = [rise.lighter(slack / motion.dt[rise.start]) for rise in ended]
    if not ended or not all(lighter):
        return None
    return _rule_of_rises(motion, track, rises, ended, slack)


def _steepest(motion: FootMotion, track: Track) -> float:
    """Return the usual change of speed in the air, length/s²."""
    air = ~motion.grounded[1:] & ~motion.grounded[:-1]
    gains = np.abs(np.diff(track.v)[air]) / motion.dt[1:][air]
    return median(gains) if gains.size else 0.0


def _rule_of_rises(
    motion: FootMotion,
    track: Track,
    rises: Sequence["_Rise"],
    ended: Sequence["_Rise"],
    slack: float,
) -> Sustained:
    """Return what rises tell whose lighter part has ended while the button was held."""
    gains = [rise.gains for rise in ended]
    pull = median(np.concatenate(gains))
    first = np.array([rise.start for rise in ended], dtype=np.int64)
    last = np.array([rise.stop for rise in ended], dtype=np.int64)
    hold = lasted(motion, HOLD, UP, first, last)
    rule = _rule(motion, track, pull, gains, first, last)
    return Sustained(mask=_under(motion, track, rises, pull, slack), laws=(rule, hold))


def _under(
    motion: FootMotion, track: Track, rises: Sequence["_Rise"], pull: float, slack: float
) -> BoolArray:
    """Return the frames, shape (n,), whose steps a lighter gravity ``pull`` explains."""
    mask = np.zeros(len(track.v), dtype=bool)
    for a, b in ((rise.start, rise.stop) for rise in rises):
        lost = float(track.v[b - 1] - track.v[a])
        if abs(lost - pull * float(motion.dt[a + 1 : b].sum())) <= slack * (b - a):
            mask[a + 1 : b] = True
    return mask


class _Rise(Record, frozen=True, kw_only=True):
    """A rise while the button is held: frames ``[start, stop)`` whose steps are alike.

    ``gains`` of speed a second in those, and ``rest`` in the steps after them, shape (k,);
    the one step between may be of both.
    """

    start: int
    stop: int
    gains: FloatArray
    rest: FloatArray

    def lighter(self, slack: float) -> bool:
        """Whether the first steps lose less than those after them, which are alike too."""
        less = abs(float(self.gains[0])) < abs(float(self.rest[0]))
        return less and float(np.ptp(self.rest)) <= slack


def _rises(motion: FootMotion, track: Track, slack: float) -> list[_Rise]:
    """Return the rises of all jumps, as far as the button is held."""
    throws, jump = throws_of(motion), motion.inputs.jump
    found: list[_Rise] = []
    if jump is None:
        return found
    pairs = zip(throws.start, throws.top, strict=True)
    for a, top in ((int(a), int(b)) for a, b in pairs):
        let_go = np.flatnonzero(~jump[a : top + 1])
        b = a + int(let_go[0]) if let_go.size else top + 1
        dt = motion.dt[a + 1 : b]  # of the steps into a + 1 .. b
        gain = np.diff(track.v[a:b]) / dt
        unlike = np.flatnonzero(np.abs(gain - gain[:1]) > slack / dt) if len(gain) else gain
        many = int(unlike[0]) if len(unlike) else len(gain)
        found.append(_Rise(start=a, stop=a + 1 + many, gains=gain[:many], rest=gain[many + 1 :]))
    return found


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
