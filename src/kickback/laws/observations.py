"""What a take tells of some steps: values, what they were rounded to, and what that makes of them.

Four kinds of data under one roof: steps whose speeds are exact, each by itself; and whole stretches
of printed speeds, of speeds with noise, or of positions. Along a stretch a model makes a path from
a start of its own, so that a rounding counts once and not in every step. What is printed has a
known error: that of its rounding, and what the rounding of its time makes of it.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from kickback.laws.step_model import LINEAR, Speeds, StepModel
from kickback.laws.steps import Steps
from kickback.motion.clock import EVEN, uneven_share
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.record import Record, replace
from kickback.takes.take import FloatArray
from kickback.takes.tolerances import ARITHMETIC

__all__ = ["Observations", "Stretch", "flat"]

_PATH_ARITHMETIC = 1e-10
"""Share of the largest value that is an error at least: what arithmetic leaves along a path."""

_TINIEST: float = float(np.finfo(np.float64).tiny) ** 0.25
"""An error below which no value has one: its square divides."""

_LONGEST = 2_000
"""Steps of a stretch that are fitted: they tell all of it."""

_LONGEST_CURVED, _MOST_CURVED = 600, 8
"""The same, and stretches, for models that are followed step by step."""

_ENOUGH = 10
"""Degrees of freedom from which what is left tells the noise better than its known size."""

_SIGMA = 1.4826
"""Standard deviations of what is normal in the median of its size."""

_REPEATS = 3.0**0.5
"""``√12/√4``: rounding at a steady speed counts as four independent errors, not as n."""

_FINELY = 6.0
"""Times the rounding of a time that the steps' standard deviation is, to tell a curve of theirs."""


_REPEATED = 1e-3
"""Shares of a noise, and of a frame, within which stretches are repeats of each other."""


class Stretch(Record, frozen=True, kw_only=True):
    """A stretch under one rule, arrays of shape (k,): the first row is where it starts.

    ``v``: speeds, turned so that it goes toward plus; ``p``: places, where these are the data and
    not the speeds, else None; ``dt``: the step into each row, s. ``turned``: what turns a speed
    before the step into each row: ``v·turned[0] + turned[1]``. ``inputs``: what moves beside it, by
    name. Over a plane speeds and places are complex.
    """

    v: Speeds
    dt: FloatArray
    p: Speeds | None = None
    turned: tuple[FloatArray, FloatArray] | None = None
    inputs: Mapping[str, FloatArray] = {}


class Observations(Record, frozen=True, kw_only=True, dict=True):
    """Stretches that one rule should explain, side by side: arrays of shape (s, r), a row each.

    ``v``, ``dt``, ``on``: speeds, steps and what is there; ``p``: places, where these are the
    values that are to be explained and not the speeds. ``turned``: a factor and a sum that turn a
    speed before its step; ``inputs``: what moves beside the speeds, by name. ``noise``: the
    standard error of a value, of which ``rounding`` is a part; ``guessed``: it may be more than
    there is, as what noise is told from motion holds of it. ``time_error``: that of a frame's
    time, s. ``begins``: each stretch begins at a speed that is to be found, not at its first.
    ``toward``: where a push goes. ``steadiest``: the least error of a steady speed;
    ``ends_level``: stretches may run on into a limit; ``within``: times its noise that what is
    left may be.
    """

    v: Speeds
    dt: FloatArray
    on: npt.NDArray[np.bool_]
    noise: float
    usual: float
    p: Speeds | None = None
    turned: tuple[FloatArray, FloatArray] | None = None
    inputs: Mapping[str, FloatArray] = {}
    time_error: float = 0.0
    rounding: float = 0.0
    guessed: bool = False
    begins: bool = True
    toward: complex = 1.0
    steadiest: float = 0.0
    ends_level: bool = False
    within: float = 1.0

    @property
    def placed(self) -> bool:
        """Whether the values are places."""
        return self.p is not None

    @cached_property
    def ways(self) -> tuple[complex, ...]:
        """Return the directions that a start may lie in."""
        return (1.0, 1j) if np.iscomplexobj(self.v) else (1.0,)

    @cached_property
    def y(self) -> FloatArray:
        """Return the values that are to be explained; real parts, then imaginary ones."""
        return flat(self.v if self.p is None else self.p)

    @cached_property
    def seen(self) -> npt.NDArray[np.bool_]:
        """Return which of them count: a first speed that is given is none."""
        seen = self.on.copy()
        seen[:, 0] &= self.begins
        return np.tile(seen, (1, len(self.ways)))

    @cached_property
    def size(self) -> float:
        """Return the highest speed."""
        return float(np.max(np.abs(self.v), initial=0.0))

    @cached_property
    def reach(self) -> float:
        """Return the largest value."""
        return float(np.max(np.abs(self.v if self.p is None else self.p), initial=0.0))

    @cached_property
    def span(self) -> float:
        """Return the length of the longest stretch, s."""
        return float(np.max(self.dt.sum(axis=1)))

    @cached_property
    def uneven(self) -> float:
        """Return by which share of the usual one steps differ at most."""
        return uneven_share(self.dt[:, 1:][self.on[:, 1:]])

    @cached_property
    def timed_finely(self) -> bool:
        """Whether steps differ by far more than the rounding of their times."""
        steps = self.dt[:, 1:][self.on[:, 1:]]
        return not self.time_error or float(np.std(steps)) > _FINELY * self.time_error

    @property
    def even(self) -> bool:
        """Whether all steps last equally long, so that nothing tells frame from second."""
        return self.uneven <= EVEN

    @cached_property
    def _least(self) -> float:
        """Return the variance of a value, no less than that of arithmetic."""
        least = max(_PATH_ARITHMETIC * self.reach, _TINIEST)
        return self.noise * self.noise + least * least

    @classmethod
    def of(
        cls, stretches: Sequence[Stretch], noise: float, usual: float, **more: Any
    ) -> "Observations":
        """Return whole stretches whose values have a standard error ``noise``.

        Those that are the same to the last digit are rounded the same way: they count once.
        """
        stretches = _distinct(stretches, noise, usual)
        rows = min(max(len(one.v) for one in stretches), _LONGEST + 1)
        dt = _table([one.dt for one in stretches], rows)
        dt[:, 0] = 0.0
        turns = [one.turned for one in stretches if one.turned is not None]
        places = [one.p - one.p[0] for one in stretches if one.p is not None]
        inputs = stretches[0].inputs
        return cls(
            v=_table([one.v for one in stretches], rows),
            dt=dt,
            on=_table([np.ones(len(one.v)) for one in stretches], rows) > 0,
            noise=noise,
            usual=usual,
            p=_table(places, rows) if places else None,
            turned=_turns(turns, rows),
            inputs={name: _table([one.inputs[name] for one in stretches], rows) for name in inputs},
            **more,
        )

    @classmethod
    def each(
        cls, v0: Speeds, v1: Speeds, dt: FloatArray, noise: float, usual: float, **more: Any
    ) -> "Observations":
        """Return steps that are each explained by themselves, within ``noise``, length/s."""
        v, steps = np.stack((v0, v1), axis=1), np.stack((np.zeros(len(dt)), dt), axis=1)
        on = np.ones(v.shape, dtype=bool)
        return cls(v=v, dt=steps, on=on, noise=noise, usual=usual, begins=False, **more)

    @classmethod
    def exact(cls, steps: Steps, noise: float) -> "Observations":
        """Return steps that are each explained by themselves; speeds have ``noise``, length/s."""
        allowed = 2 * noise + ARITHMETIC * float(np.max(np.abs(steps.v1)))
        return cls.each(steps.v0, steps.v1, steps.dt, allowed, steps.usual)

    @classmethod
    def printed(cls, parts: Sequence[Steps], grid: float, time_error: float) -> "Observations":
        """Return stretches of speeds that were printed to a ``grid``, or whose times were."""
        stretches = [
            Stretch(v=np.append(one.v0[:1], one.v1), dt=np.append(0.0, one.dt)) for one in parts
        ]
        rounding = grid / ROOT_12
        return cls.of(stretches, rounding, parts[0].usual, time_error=time_error, rounding=rounding)

    @classmethod
    def noisy(
        cls, stretches: Sequence[Stretch], noise: float, usual: float, rounding: float
    ) -> "Observations":
        """Return stretches of positions, or of speeds, with noise, of which rounding is a part.

        ``noise`` is 0 where it is not known: then it is told from third differences,
        ``σ² = mean(Δ³y²)/20``.
        """
        values = [one.v if one.p is None else one.p for one in stretches]
        third = np.concatenate([np.diff(one, 3) for one in values])
        told = noise or float(np.sqrt(np.mean(third**2) / 20))
        found = cls.of(stretches, told, usual, rounding=rounding, guessed=True, ends_level=True)
        # at a steady speed rounding repeats itself, and does not average out over the frames
        steadiest = _REPEATS * rounding / (found.span if found.placed else 1.0)
        return replace(found, steadiest=steadiest)

    def limited(self) -> "Observations":
        """Return the longest stretches, as far as a model that is not affine is followed."""
        rows = self.on.sum(axis=1)
        if not self.begins or (len(rows) <= _MOST_CURVED and rows.max() <= _LONGEST_CURVED):
            return self
        part = np.argsort(-rows, kind="stable")[:_MOST_CURVED]
        until = slice(0, min(int(rows.max()), _LONGEST_CURVED))

        def cut(table: Speeds) -> Speeds:
            return np.asarray(table[part, until])

        return replace(
            self,
            v=cut(self.v),
            dt=cut(self.dt),
            on=cut(self.on),
            p=None if self.p is None else cut(self.p),
            turned=None if self.turned is None else (cut(self.turned[0]), cut(self.turned[1])),
            inputs={name: cut(one) for name, one in self.inputs.items()},
        )

    @cached_property
    def by_steps(self) -> "Observations":
        """Return the same with each step explained by itself, of speeds alone."""
        if not self.begins:
            return self
        into, before = self.on[:, 1:], self.v[:, :-1]
        if self.turned is not None:
            before = before * self.turned[0][:, 1:] + self.turned[1][:, 1:]
        noise = 2**0.5 * self.noise + ARITHMETIC * self.size
        return self.each(
            before[into],
            self.v[:, 1:][into],
            self.dt[:, 1:][into],
            noise,
            self.usual,
            toward=self.toward,
        )

    @cached_property
    def change(self) -> float:
        """Return how much values change: in a step, or over a stretch; root mean square."""
        on = self.seen if self.begins else np.ones_like(self.seen)
        many = np.maximum(on.sum(axis=1, keepdims=True), 1)
        middle = np.sum(np.where(on, self.y, 0.0), axis=1, keepdims=True) / many
        return 2 * float(np.sqrt(np.mean((self.y - middle)[on] ** 2)))

    def least(self, free: int) -> float:
        """Return the share of the noise that errors stand for at least, by degrees of freedom.

        Of exact steps what is left tells the errors; of a noise that was guessed too, but for its
        rounding and where few values are left.
        """
        if not self.begins:
            return 0.0
        enough = self.guessed and free >= _ENOUGH and self.noise > 0
        return self.rounding / self.noise if enough else 1.0

    def seen_as(self, speeds: Speeds) -> FloatArray:
        """Return speeds, shape (…, r), as values: themselves, or the places that they make."""
        whole = speeds.astype(self.v.dtype, copy=False)
        return flat(np.cumsum(whole * self.dt, axis=-1) if self.placed else whole)

    def weight(self, model: StepModel, c: FloatArray) -> FloatArray:
        """Return the weights of the values: one over what rounding makes of them, squared.

        The rounding of a time moves a value by the slope there: what the terms make of it that go
        with the time. The rounding of uneven squares of steps adds up; and where a step's own
        length matters beside their sum, one that is rounded goes another way, by ``k·dt`` of what
        it changes.
        """
        error = self.time_error
        if not error or set(model.clocks) == {"frame"}:
            return self.even_weight
        variance = self._least + (self._slope_in_time(model, c) * error) ** 2
        if "square" in model.clocks:
            variance = variance + self._wander
        if model.rates:
            acts = float(c[model.rates[0]]) * self.usual
            if len(model.terms) > 1:
                variance = variance + (acts**2 * self.size / self.usual * error) ** 2
            elif "first-order" in model.clocks:  # log(1 − k·dt) has half the square of k·dt
                variance = variance + acts**2 / 4 * self._wander
        return np.where(self.seen, 1 / variance, 0.0)

    @cached_property
    def even_weight(self) -> FloatArray:
        """Return the weights of the values by their noise alone."""
        return np.where(self.seen, 1 / self._least, 0.0)

    @cached_property
    def _slope(self) -> FloatArray:
        slope, time = np.zeros_like(self.v), np.cumsum(self.dt, axis=1)
        for k, many in enumerate(self.on.sum(axis=1).tolist()):
            slope[k, :many] = np.gradient(self.v[k, :many], time[k, :many])
        return flat(slope)

    def _slope_in_time(self, model: StepModel, c: FloatArray) -> FloatArray:
        """Return the slope without what belongs to the frame: a decay, or all but the decay."""
        others = {clock for term, clock in model.clock_of.items() if term is not LINEAR}
        of_decay = model.clock_of.get(LINEAR)
        if of_decay is None or not others or (of_decay == "frame") == ("frame" in others):
            return self._slope
        decay = -float(c[model.rates[0]]) * flat(self.v)
        return self._slope - decay if of_decay == "frame" else decay

    @cached_property
    def _wander(self) -> FloatArray:
        both = self.on[:, 2:]
        turns = (np.diff(self.dt[:, 1:], axis=1) / self.usual)[both]
        # by the middle: long frames are no unevenness that goes on
        uneven = (_SIGMA * median(np.abs(turns))) ** 2 if turns.size else 0.0
        rows = np.arange(self.y.shape[1])
        return np.asarray(4 * (self._slope * self.time_error) ** 2 * (1 + rows * uneven))


def flat(values: Speeds) -> FloatArray:
    """Return complex values as their real parts, then their imaginary ones, along the last axis."""
    if not np.iscomplexobj(values):
        return np.asarray(values, dtype=np.float64)
    return np.concatenate((values.real, values.imag), axis=-1)


def _distinct(stretches: Sequence[Stretch], noise: float, usual: float) -> list[Stretch]:
    """Return the stretches but for repeats of one before; all where there is no noise."""
    if not noise:
        return list(stretches)
    found: dict[object, Stretch] = {}
    for one in stretches:
        places = () if one.p is None else (one.p - one.p[0],)
        parts = (one.v, *places, *(one.turned or ()), *one.inputs.values())
        digits = (np.round(part / (_REPEATED * noise)).tobytes() for part in parts)
        lasts = np.round(one.dt[1:] / (_REPEATED * usual)).tobytes()
        found.setdefault((lasts, *digits), one)
    return list(found.values())


def _table(columns: Sequence[Speeds], rows: int, fill: float = 0.0) -> Speeds:
    """Return columns as the rows of a table, cut and filled up to the same length."""
    out = np.full((len(columns), rows), fill, dtype=np.result_type(columns[0]))
    for k, one in enumerate(columns):
        out[k, : min(len(one), rows)] = one[:rows]
    return out


def _turns(
    turns: Sequence[tuple[FloatArray, FloatArray]], rows: int
) -> tuple[Speeds, Speeds] | None:
    if not turns:
        return None
    return _table([one for one, _ in turns], rows, 1.0), _table([one for _, one in turns], rows)
