"""What the wheel makes of a heading: how the turning goes with the speed, and what delays it.

A turning is ``gain·unit(wheel, speed)``. The wheel may go toward what is pressed by a decay, or at
a constant pace, or the turning itself toward what is asked for. Headings from a straight way on
are held against the sums of what each such rule turns in a frame: a rounding then counts once.
"""

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np

from kickback.motion.segments import BoolArray, IntArray
from kickback.takes.quantities import ANGLE, SPEED, Dimension
from kickback.takes.record import Record
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import SURE, TELLS

__all__ = ["SHAPES", "Delay", "Shape", "Turned", "Turning", "select_turning"]

_EXACT = 1e-7
"""Share of the largest turn of a frame that arithmetic leaves of a heading."""

_SHORTLIST, _CLOSEST = 5, 3
"""Rules that are fitted closely, and of these those whose clocks are told."""

_DEARER = 1.05
"""Factor of chi squared that another constant must be worth, for a rule to be looked at first."""

_RATES = np.geomspace(1.0, 40.0, 14)
"""Rates and paces, 1/s, that a search begins from."""

_TINIEST = 1e-150
"""Degrees below which no error is: its square is a number still."""

_WITHIN = 1.3
"""Times the noise that is reckoned with that there may be."""

_PARTS = 1e-3
"""Share of full lock by which a wheel is turned in part."""

_REACH = 2.0
"""Natural logarithm of the factor within which a constant is looked for about its start."""

_FASTEST = 3.0
"""Rates times the usual step that are looked at."""

_STEP = 1e-4
"""Share by which a constant is moved to see what that does."""

_MOST_RATE, _LEAST_RATE = 0.9, 1e-2
"""A decay's rate times the usual step above which it is over at once, and 1/s below which none."""


class Turned(Record, frozen=True, kw_only=True, dict=True):
    """Frames in which a vehicle turns, from a straight way on; arrays of shape (n,).

    ``turn``: degrees in each frame; ``wheel``: -1 to 1; ``step``: s, ``even`` where all last as
    long; ``speeds``: those that a turning may go with, shape (s, n), the usual one first. ``first``
    marks the frames with which a turn begins. ``sigma``: the standard error of a heading, degrees,
    ``speed_error`` that of a speed, ``time_error`` that of a time.
    """

    turn: FloatArray
    wheel: FloatArray
    step: FloatArray
    speeds: FloatArray
    first: BoolArray
    usual: float
    even: bool
    sigma: float
    speed_error: float
    time_error: float

    @property
    def top(self) -> float:
        """Return the highest speed."""
        return float(np.max(np.abs(self.speeds[0]), initial=0.0))

    @cached_property
    def looks(self) -> IntArray:
        """Return the frames with which looks at the heading begin, shape (m,).

        One that does not change is rounded the same way in each frame: that is one look.
        """
        still = (self.turn == 0) & (self.wheel == 0)
        again = still & np.concatenate(([False], still[:-1])) & ~self.first
        return np.flatnonzero(~again)

    @cached_property
    def factor(self) -> FloatArray:
        """Return the banded Cholesky factor of the covariance of looks, shape (2, m).

        A heading is rounded, and known at a rounded time: that is in a turn, and with the other
        sign in the next. Rounded speeds, and steps that are rounded while the turning changes, are
        in each turn for good.
        """
        from scipy.linalg import cholesky_banded

        turn, first, step = self.turn[self.looks], self.first[self.looks], self.step[self.looks]
        size = np.abs(turn)
        least = _EXACT * float(np.max(size, initial=0.0)) + _TINIEST
        own = least**2 + self.sigma**2 + (size / step * self.time_error) ** 2
        pace = np.maximum(np.abs(self.speeds[0][self.looks]), SURE * self.speed_error)
        with np.errstate(divide="ignore", invalid="ignore"):
            of_speed = np.where(pace > 0, size * self.speed_error / pace, 0.0)
        of_steps = np.diff(turn / step, prepend=0.0) * self.time_error
        earlier = np.where(first, own, np.concatenate((own[:1], own[:-1])))
        shared = np.where(first, 0.0, -earlier)  # with the turn before
        bands = np.stack((own + earlier + of_speed**2 + of_steps**2, np.append(shared[1:], 0.0)))
        return np.asarray(cholesky_banded(bands, lower=True))

    @cached_property
    def new(self) -> FloatArray:
        """Return the turns by what is new in each look, in standard errors, shape (m,)."""
        return _whitened(self, self.turn)


class Shape(NamedTuple):
    """How a turning goes with the speed ``v`` and the wheel ``w``, but for its gain.

    ``constant`` names the gain, ``code`` is what it is multiplied by in a line of code, ``#`` for
    the constant ``other`` that shapes it, if any; a search for that begins from ``starts``: shares
    of the highest speed, or degrees. ``in_part``: where the wheel is always at full lock or
    straight, another shape is the same.
    """

    constant: str
    code: str
    unit: Callable[[FloatArray, FloatArray, FloatArray], FloatArray]
    other: str = ""
    dimension: Dimension = SPEED
    starts: tuple[float, ...] = (1.0,)
    in_part: bool = False

    @property
    def names(self) -> tuple[str, ...]:
        """Return what its constants are called: the gain, and its own where it has one."""
        return (self.constant, self.other) if self.other else (self.constant,)

    @property
    def with_speed(self) -> bool:
        """Whether the speed matters at all."""
        return self.names != ("yaw_rate",)

    def begins(self, top: float) -> FloatArray:
        """Return the values of its own constant that a search begins from."""
        return np.array(self.starts) * (top if self.dimension == SPEED else 1.0)


def _falling(w: FloatArray, v: FloatArray, zero: FloatArray) -> FloatArray:
    return w * np.maximum(0.0, 1 - np.abs(v) / zero)


def _by_lock(w: FloatArray, v: FloatArray, lock: FloatArray) -> FloatArray:
    return v * np.tan(np.deg2rad(lock) * w) / np.tan(np.deg2rad(lock))


_LOW = (0.04, 0.1, 0.18, 0.28, 0.4, 0.55, 0.72, 0.9)
SHAPES = (
    Shape("yaw_rate", "steer", lambda w, v, _: w + 0.0 * v),
    Shape("curvature", "steer·speed", lambda w, v, _: w * v),
    Shape("yaw_rate", "steer·min(1, speed/#)", lambda w, v, full: w * np.clip(v / full, -1, 1),
          "full_speed", starts=_LOW),
    Shape("yaw_rate", "clamp(steer·speed/#, −1, 1)",
          lambda w, v, full: np.clip(w * v / full, -1, 1),
          "capped_speed", starts=_LOW, in_part=True),
    Shape("yaw_rate", "steer/(1 + speed/#)", lambda w, v, half: w / (1 + np.abs(v) / half),
          "half_speed", starts=(0.3, 0.6, 1.0, 2.0, 4.0, 8.0)),
    Shape("yaw_rate", "steer·max(0, 1 − speed/#)", _falling,
          "zero_speed", starts=(1.05, 1.3, 1.7, 2.5, 4.0, 8.0)),
    Shape("curvature", "speed·tan(steer·#°)/tan(#°)", _by_lock,
          "lock", dimension=ANGLE, starts=(15.0, 25.0, 35.0, 50.0), in_part=True),
)  # fmt: skip
"""Every way in which turnings go with the speed, the usual first."""


class Delay(NamedTuple):
    """What is late, the wheel or the turning; ``paced``: it moves at a constant pace."""

    name: str = ""
    of_wheel: bool = True
    paced: bool = False


DELAYS = (
    (Delay(),),
    (Delay("wheel"), Delay("turning", of_wheel=False)),
    (Delay("pace", paced=True),),
)
"""Every delay, the usual first: the first that explain headings are told."""


_Found = tuple[float, "_Rule", tuple[float, ...]]
"""Chi squared of a rule by a coarse search, and its constants but the gain."""


class _Rule(NamedTuple):
    """A shape, which of the speeds it goes with, a delay, and whose clocks."""

    shape: Shape
    speed: int
    delay: Delay
    gain_clock: str = "second"
    rate_clock: str = "second"

    @property
    def names(self) -> tuple[str, ...]:
        """Return what its constants are called: the shape's, and the delay's."""
        late = ("pace" if self.delay.paced else "rate",) if self.delay.name else ()
        return (*self.shape.names, *late)

    @property
    def free(self) -> int:
        """Return the number of constants."""
        return len(self.names)


class Turning(Record, frozen=True, kw_only=True):
    """A rule that explains headings: constants and standard errors by name, and whose they are.

    ``clock`` of the gain, ``rate_clock`` of the delay's rate: ``even`` where that cannot be told.
    ``either``: that the wheel is late, or the turning, explains them as well. ``misfit``: the root
    mean square of what is left, degrees.
    """

    shape: Shape
    delay: Delay
    either: bool
    values: dict[str, float]
    stderr: dict[str, float]
    clock: str
    rate_clock: str
    misfit: float
    frames: int


def select_turning(data: Turned) -> Turning | None:
    """Return the simplest rule that explains how a heading turns, or None where none does."""
    for delays in DELAYS:
        good = _fewest(_fits(data, _candidates(data, delays)))
        if good:
            return _told(data, good)
    return None


def _candidates(data: Turned, delays: Sequence[Delay]) -> list["_Fit"]:
    """Return the likeliest rules, fitted from where a coarse search found them best."""
    sizes = np.abs(data.wheel)
    in_part = bool(np.any((sizes > _PARTS) & (sizes < 1 - _PARTS)))
    found: list[_Found] = []
    for delay in delays:
        wheels = _wheels(data, delay)
        parts = in_part or len(wheels) > 1
        for shape in (one for one in SHAPES if parts or not one.in_part):
            found += _glanced(data, _Rule(shape, 0, delay), wheels)
    found.sort(key=lambda one: one[0])
    kinds = list(dict.fromkeys((rule.shape, rule.delay) for _, rule, _ in found))[:_SHORTLIST]
    likely = [one for one in found if (one[1].shape, one[1].delay) in kinds]
    return [_by_its_speed(data, _Fit(data, rule, at)) for _, rule, at in likely]


def _by_its_speed(data: Turned, one: "_Fit") -> "_Fit":
    """Return a fit by the speed that its constants go with best, where that is another."""
    nearest = min(
        [one.rule, *_by_other_speeds(data, one.rule)],
        key=lambda rule: float(np.sum(_left(data, rule, one.at)[1] ** 2)),
    )
    return one if nearest is one.rule else _Fit(data, nearest, one.at)


def _wheels(data: Turned, delay: Delay) -> FloatArray:
    """Return where the wheel is, shape (r, n), by each rate that a search begins from."""
    if not delay.name or not delay.of_wheel:
        return data.wheel[None, :]
    return _delayed(data, delay, _RATES, data.wheel)


def _glanced(data: Turned, rule: _Rule, wheels: FloatArray) -> list[_Found]:
    """Return chi squared of a rule by each clock of its gain, and where its search begins."""
    shape, delay = rule.shape, rule.delay
    others = shape.begins(data.top)
    with np.errstate(divide="ignore", invalid="ignore"):
        units = shape.unit(wheels[:, None, :], data.speeds[rule.speed], others[None, :, None])
    if delay.name and not delay.of_wheel:
        units = _delayed(data, delay, _RATES, units[0])
    found: list[_Found] = []
    y = data.new
    for clock in ("second",) if data.even else ("second", "frame"):
        step = data.step if clock == "second" else data.usual
        x = _whitened(data, units * step)
        power = np.maximum(np.einsum("rsn,rsn->rs", x, x), np.finfo(np.float64).tiny)
        chi2 = float(y @ y) - (x @ y) ** 2 / power
        r, k = np.unravel_index(int(np.argmin(chi2)), chi2.shape)
        at: tuple[float, ...] = (float(others[k]),) if shape.other else ()
        at += (float(_RATES[r]),) if delay.name else ()
        found.append((float(chi2[r, k]), rule._replace(gain_clock=clock), at))
    return found


class _Fit:
    """A rule fitted to headings: its constants, what they leave, in standard errors."""

    def __init__(self, data: Turned, rule: _Rule, start: tuple[float, ...]) -> None:
        self.data, self.rule = data, rule
        self.at = self._closest(start)
        self.gain, self.left = _left(data, rule, self.at)
        self.chi2 = float(self.left @ self.left)
        self.free = max(1, len(self.left) - rule.free)

    def _closest(self, start: tuple[float, ...]) -> tuple[float, ...]:
        """Return the constants but the gain; a shape's own is looked for from everywhere."""
        if not start:
            return ()
        at, shape = self._searched(np.log(start)), self.rule.shape
        others = shape.begins(self.data.top).tolist() if shape.other else []
        tried = [at, *((one, *at[1:]) for one in others)]
        nearest = min(
            tried, key=lambda one: float(np.sum(_left(self.data, self.rule, one)[1] ** 2))
        )
        return at if nearest is at else self._searched(np.log(nearest))

    def _searched(self, start: FloatArray) -> tuple[float, ...]:
        from scipy.optimize import least_squares

        def left(logs: FloatArray) -> FloatArray:
            return _left(self.data, self.rule, tuple(np.exp(logs).tolist()))[1]

        ends = (start - _REACH, start + _REACH)
        if self.rule.delay.name:  # a rate beyond is over at once
            ends[1][-1] = max(start[-1] + _STEP, np.log(_FASTEST / self.data.usual))
        found = least_squares(left, start, bounds=ends, xtol=1e-12, ftol=1e-12, gtol=1e-14)
        return tuple(np.exp(found.x).tolist())

    @cached_property
    def sound(self) -> bool:
        """Whether it leaves no more than the noise, and its constants are some."""
        if not np.isfinite(self.chi2) or not self.gain:
            return False
        if self.rule.delay.name and not self.rule.delay.paced:
            rate = self.at[-1]
            if rate * self.data.usual > _MOST_RATE or rate < _LEAST_RATE:
                return False
        shape = self.rule.shape
        if shape.other and shape.dimension == SPEED and not self._bends:
            return False
        return self.chi2 <= _WITHIN**2 * (self.free + SURE * float(np.sqrt(2 * self.free)))

    @property
    def _bends(self) -> bool:
        """Whether the shape's own constant is known to be one."""
        return bool(0 < self.stderr()[1] < self.at[0] / SURE)

    def stderr(self) -> FloatArray:
        """Return the standard errors of the gain and of the constants, shape (p,)."""
        base = self._predicted(self.at)
        columns = [base]
        for k, value in enumerate(self.at):
            moved = (*self.at[:k], value * (1 + _STEP), *self.at[k + 1 :])
            columns.append((self._predicted(moved) - base) * self.gain / (value * _STEP))
        design = np.stack(columns, axis=1)
        spread = np.linalg.pinv(design.T @ design)
        scale = self.chi2 / self.free
        scale = scale if not self.data.sigma else max(scale, 1.0)
        return np.sqrt(np.maximum(np.diag(spread), 0.0) * scale)

    @property
    def misfit(self) -> float:
        """Return the root mean square of what is left, degrees."""
        return float(np.sqrt(np.mean((self.left * self.data.factor[0]) ** 2)))

    def _predicted(self, at: tuple[float, ...]) -> FloatArray:
        return _whitened(self.data, _unit(self.data, self.rule, at))


def _left(data: Turned, rule: _Rule, at: tuple[float, ...]) -> tuple[float, FloatArray]:
    """Return the gain that explains headings best, and what it leaves, in standard errors."""
    x = _whitened(data, _unit(data, rule, at))
    y = data.new
    power = float(x @ x)
    gain = float(x @ y) / power if power > 0 else 0.0
    return gain, y - gain * x


def _unit(data: Turned, rule: _Rule, at: tuple[float, ...]) -> FloatArray:
    """Return what a rule of gain one turns in each frame, shape (n,)."""
    other = np.array(at[0] if rule.shape.other else 1.0)
    wheel, speed, delay = data.wheel, data.speeds[rule.speed], rule.delay
    if delay.name and delay.of_wheel:
        wheel = _late(data, rule, at[-1], wheel)
    unit = rule.shape.unit(wheel, speed, other)
    if delay.name and not delay.of_wheel:
        unit = _late(data, rule, at[-1], unit)
    return unit * (data.step if rule.gain_clock == "second" else data.usual)


def _late(data: Turned, rule: _Rule, rate: float, goal: FloatArray) -> FloatArray:
    """Return what a rule's delay makes of a goal, by the clock of its rate."""
    most = rate * (np.full(len(goal), data.usual) if rule.rate_clock == "frame" else data.step)
    if rule.rate_clock == "first-order":
        return _decayed(data, np.maximum(1 - most, 0.0), goal)
    return _followed(data, rule.delay, most, goal)


def _delayed(data: Turned, delay: Delay, rates: FloatArray, goal: FloatArray) -> FloatArray:
    """Return what goes toward goals, shape (…, n), at each rate: shape (r, …, n)."""
    return np.stack([_followed(data, delay, rate * data.step, goal) for rate in rates.tolist()])


def _followed(data: Turned, delay: Delay, most: FloatArray, goal: FloatArray) -> FloatArray:
    """Return what goes toward goals, shape (…, n), from nothing on: a decay, or a pace.

    ``most``: the rate times each frame's step.
    """
    return _paced(data, most, goal) if delay.paced else _decayed(data, np.exp(-most), goal)


def _decayed(data: Turned, kept: FloatArray, goal: FloatArray) -> FloatArray:
    """Return ``y`` with ``y1 = goal + (y0 − goal)·kept``, shape (…, n), from nothing on."""
    after = np.where(data.first, 0.0, kept)
    bands = np.stack((np.ones(len(kept)), np.append(-after[1:], 0.0)))
    return _solved(bands, (1 - kept) * goal)


def _paced(data: Turned, most: FloatArray, goal: FloatArray) -> FloatArray:
    """Return ``y``, shape (n,), that moves toward a goal by so much in each frame."""
    out, y = [], 0.0
    for g, far, begins in zip(goal.tolist(), most.tolist(), data.first.tolist(), strict=True):
        y = 0.0 if begins else y
        y += max(-far, min(far, g - y))
        out.append(y)
    return np.array(out)


def _whitened(data: Turned, turn: FloatArray) -> FloatArray:
    """Return turns, shape (…, n), by what is new in each look, in standard errors: (…, m)."""
    return _solved(data.factor, np.add.reduceat(turn, data.looks, axis=-1))


def _solved(bands: FloatArray, values: FloatArray) -> FloatArray:
    """Solve a bidiagonal system, shape (2, n), for values of shape (…, n)."""
    from scipy.linalg import solve_banded

    columns = values.reshape(-1, values.shape[-1]).T
    return np.asarray(solve_banded((1, 0), bands, columns).T).reshape(values.shape)


def _fits(data: Turned, candidates: Sequence[_Fit]) -> list[_Fit]:
    """Return the fits of rules, the best ones also with other speeds and by other clocks."""
    found = sorted(candidates, key=lambda one: one.chi2 * _DEARER**one.rule.free)
    closest = _fewest(found) or found[:_CLOSEST]
    fits = [*found, *_beside(data, closest)]
    if any(one.sound for one in fits):
        return fits
    return [*fits, *_beside(data, found[_CLOSEST:])]


def _fewest(fits: Sequence[_Fit]) -> list[_Fit]:
    """Return the sound fits that have the fewest constants."""
    good = [one for one in fits if one.sound]
    least = min((one.rule.free for one in good), default=0)
    return [one for one in good if one.rule.free == least]


def _beside(data: Turned, closest: Sequence[_Fit]) -> list[_Fit]:
    """Return the fits of rules by other clocks, and of the best of these with other speeds."""
    found = []
    for one in closest:
        alike = _varied(data, one, _by_other_speeds(data, one.rule))
        best = min([one, *alike], key=lambda fit: fit.chi2)
        clocked = _varied(data, best, _by_other_clocks(data, best.rule))
        last = min([best, *clocked], key=lambda fit: fit.chi2)
        again = [] if last is best else _varied(data, last, _by_other_speeds(data, last.rule))
        found += [*alike, *clocked, *again]
    return found


def _varied(data: Turned, one: _Fit, rules: Sequence[_Rule]) -> list[_Fit]:
    return [_Fit(data, rule, one.at) for rule in rules]


def _by_other_speeds(data: Turned, rule: _Rule) -> list[_Rule]:
    others = range(len(data.speeds) if rule.shape.with_speed else 0)
    return [rule._replace(speed=one) for one in others if one != rule.speed]


def _by_other_clocks(data: Turned, rule: _Rule) -> list[_Rule]:
    if data.even or not rule.delay.name:
        return []
    return [rule._replace(rate_clock=clock) for clock in ("frame", "first-order")
            if not (rule.delay.paced and clock == "first-order")]  # fmt: skip


def _told(data: Turned, good: Sequence[_Fit]) -> Turning:
    """Return the rule that is told of those that do as well: the usual one."""
    least = min(one.chi2 for one in good)
    likely = [one for one in good if one.chi2 < least + TELLS]
    first = min(likely, key=lambda one: _place(one.rule))
    of_shape = [one.rule for one in likely if one.rule.shape == first.rule.shape]
    alike = [rule for rule in of_shape if rule.delay == first.rule.delay]
    return Turning(
        shape=first.rule.shape,
        delay=first.rule.delay,
        either=len(alike) < len(of_shape),
        values=dict(zip(first.rule.names, (abs(first.gain), *first.at), strict=True)),
        stderr=dict(zip(first.rule.names, first.stderr().tolist(), strict=True)),
        clock=_clock(data, {rule.gain_clock for rule in alike}),
        rate_clock=_clock(data, {rule.rate_clock for rule in alike}),
        misfit=first.misfit,
        frames=len(data.turn),
    )


def _clock(data: Turned, clocks: set[str]) -> str:
    """Return the clock of those that do as well; a factor's first order is none of its own."""
    if data.even:
        return "even"
    told = clocks - {"first-order"} or clocks
    return told.pop() if len(told) == 1 else "even"


def _place(rule: _Rule) -> tuple[bool, int, bool, bool, int]:
    """Return how far from the usual a rule is."""
    clocks = rule.gain_clock != "second", rule.rate_clock != "second"
    return not rule.delay.of_wheel, SHAPES.index(rule.shape), *clocks, rule.speed
