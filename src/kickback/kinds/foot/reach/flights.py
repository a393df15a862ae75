"""The flights of plans, played by the model off a ledge over a pit that has no ground."""

from collections.abc import Mapping
from copy import deepcopy
from functools import cached_property
from typing import NamedTuple

import numpy as np

from kickback.errors import UsageError
from kickback.kinds.clearing import TooManyError
from kickback.kinds.foot.model.body import run_foot
from kickback.kinds.foot.model.drills import FootDrill, drill_from_mapping
from kickback.kinds.foot.model.parameters import THETA
from kickback.kinds.foot.model.state import Over, State, at_rest
from kickback.kinds.foot.reach.plans import TAP, UNPRESSED, Frames, Limits, Plans, reads_of
from kickback.kinds.playing.parameters import BoolArray
from kickback.takes.header import Value
from kickback.takes.take import FloatArray

__all__ = ["Flights", "Runner"]

_PIT = -1e6
"""Height of the ground under the pit."""

_FAR = -1e6
"""Where the ground before the edge begins."""

_RUN_UP, _RUN_UPS, _STEADY = 4.0, 30, 1e-12
"""How long a run-up is, s, how often it goes on, and the share by which its step may still grow."""

_MOST = 30.0
"""The longest flight that is followed, s."""

_MORE = 4
"""Frames for which flights are followed beyond what a full jump takes."""

_CELLS, _AT_ONCE = 30_000_000, 2_000_000
"""Frames of all plans together that memory is taken for, and those that are played at once."""

_SQUAT = 2.0
"""How long a takeoff may wait for its squat, s."""

_SAFE = 1e-9
"""Share by which a squat begins earlier, so that it surely ends on the ground."""

_EDGE = float(np.nextafter(0.0, -1.0))
"""The last place on the ground."""


class Flights(NamedTuple):
    """Where plans lead, from the last place on the ground on: ``x`` and ``y``, shape (n, m).

    ``low`` is the lower end of each frame's way, -inf from where a plan has landed again, and all
    along where it never took off.
    """

    plans: Plans
    x: FloatArray
    y: FloatArray
    low: FloatArray


class Runner:
    """One parameter set at a frame rate: its full run, and its flights."""

    def __init__(self, values: Mapping[str, Value], rate: float, ceiling: float | None) -> None:
        self.values, self.rate = values, rate
        self._scene = _scene(ceiling)
        self._limits: dict[float, Limits] = {}
        self._run, self.step = self._run_up()
        self.gains = self._gains()

    @property
    def later(self) -> bool:
        """Whether the position moves by the speed before its update alone."""
        wrong = "integration-order" in str(self.values["mistakes"])
        return wrong or THETA[str(self.values["integrator"])] == 0

    @property
    def walls(self) -> bool:
        """Whether what is pressed at a wall is a move of its own."""
        names = ("wall_slide_speed", "wall_stick_time", "wall_jump_speed")
        return any(float(self.values[name]) > 0 for name in names)

    def limits(self, lowest: float) -> Limits:
        """Return how long flights of a full jump take until they are below the lowest step."""
        if lowest not in self._limits:
            self._limits[lowest] = self._limits_of(lowest)
        return self._limits[lowest]

    def _limits_of(self, lowest: float) -> Limits:
        rate, squat = self.rate, self._squat
        for seconds in (2.0, 8.0, _MOST):
            frames = round(seconds * rate)
            held = _plans(hold=frames)
            _, y, vy = self._played(held, frames, standing=False, squat=squat, air_jumps=False)
            over = np.flatnonzero((y[:, 0] < lowest) & (vy[:, 0] < 0))
            if len(over):
                break
        flight = int(over[0]) + 1 if len(over) else frames
        if self._free is not self:  # what a ceiling does not stop flies for longer
            flight = max(flight, self._free.limits(lowest).flight)
        tap, late = max(1, int(np.ceil(TAP * rate - 1e-9))), self._latest()
        rise = squat + self._rise(flight, late) + 1
        return Limits(
            flight=flight,
            rise=rise,
            squat=squat,
            late=late,
            tap=tap,
            holds=self._holds(rise, flight),
        )

    def fly(self, plans: Plans, limits: Limits, *, standing: bool) -> Flights:
        """Return the flights of plans until all are below the lowest step, or have long been."""
        rates = max(self.rate, float(self.values["reference_rate"]))
        dash = int(float(self.values["dash_time"]) * rates) + 1 if np.any(plans.dash >= 0) else 0
        again = limits.flight if np.any(plans.again >= 0) or dash else 0
        frames = limits.flight + again + limits.late + dash + _MORE
        many = len(plans.press)
        if many * frames > _CELLS:
            raise TooManyError(
                f"{many} plans of {frames} frames are too many to be tried: a lower frame rate, no"
                " ceiling, or a way with fewer presses"
            )
        size = max(1, _AT_ONCE // frames)
        parts = [
            self._flown(
                Plans(*(one[k : k + size] for one in plans)),
                frames,
                limits.squat,
                standing=standing,
            )
            for k in range(0, many, size)
        ]
        x, y, low = (np.concatenate(part, axis=1) for part in zip(*parts, strict=True))
        return Flights(plans, x, y, low)

    def _flown(
        self, plans: Plans, frames: int, squat: int, *, standing: bool
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return x, y and the lower ends of the ways of some plans, shape (frames, m)."""
        air_jumps = bool(np.any(plans.again >= 0))
        x, y, vy = self._played(plans, frames, standing=standing, squat=squat, air_jumps=air_jumps)
        n = np.arange(frames)[:, None]
        since = n >= plans.press
        begins = plans.press + np.where(plans.press == 0, squat, 0)  # after the edge none waits
        before = np.concatenate((np.zeros((1, y.shape[1])), y[:-1]))
        # one that a ceiling stops in its first frame has risen and has no speed
        off = np.maximum.accumulate(((vy > 0) | (y > before)) & since, axis=0)
        # at rest on the ground again: a landing short of the edge
        again = off & (y == 0) & (vy == 0) & (n > begins)
        lost = np.maximum.accumulate(again, axis=0) | ~off[-1]
        # a run that goes on to its takeoff is on the ground; one past the edge is in the air
        runs = (plans.press == 0) & (n < begins)
        low = np.where(lost | runs, -np.inf, np.minimum(before, y))
        return x, y, low

    def _played(
        self, plans: Plans, frames: int, *, standing: bool, squat: int, air_jumps: bool
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return x, y and vy of plans, shape (frames, m), from the edge on."""
        many = len(plans.press)
        own = dict(self.values) if air_jumps else {**self.values, "air_jumps": 0.0}
        state = _repeated(self._rest() if standing else self._run, many)
        ahead = 0.0 if standing else squat * self.step * (1 + _SAFE)
        state.x = np.where(plans.press == 0, _EDGE - ahead, _EDGE)
        # the state of a first frame is not played: one before it is
        reads = reads_of(plans, frames)
        played = run_foot(
            [own] * many,
            self._scene,
            np.full(frames + 1, 1 / self.rate),
            first=state,
            reads=[reads[0], *reads],
        )
        return played["x"][1:], played["y"][1:], played["vy"][1:]

    def _run_up(self) -> tuple[State, float]:
        """Return the state at full run on the ground, and its way in a frame.

        Friction and smoothing come near to their speed without end: until it grows no more.
        """
        frames, flat, step = round(_RUN_UP * self.rate), _scene(None, flat=True), 0.0
        state = at_rest(np.zeros(1), np.zeros(1))
        reads = reads_of(_plans(press=2 * frames), frames)
        for _ in range(_RUN_UPS):
            state.x = np.zeros(1)
            x = run_foot(
                [self.values], flat, np.full(frames, 1 / self.rate), first=state, reads=reads
            )["x"]
            before, step = step, float(x[-1, 0] - x[-2, 0])
            if abs(step - before) <= _STEADY * step:
                break
        if not step > 0:
            raise UsageError("these parameters do not run: at full input nothing moves")
        return state, step

    def _rest(self) -> State:
        return at_rest(np.zeros(1), np.zeros(1))

    def _gains(self) -> bool:
        """Whether a press in the air moves a body that has no speed, as one at a wall has not."""
        if self._free is not self:
            return self._free.gains
        push = self._squat + 1
        plans = _plans(hold=2 * push, push=push)
        x, _, _ = self._played(plans, push + 3, standing=True, squat=0, air_jumps=False)
        return bool(x[-1, 0] > 0)

    @cached_property
    def _squat(self) -> int:
        """Return how many frames a takeoff waits from its press on; UsageError without one."""
        if self._free is not self:
            return self._free._squat
        frames = round(_SQUAT * max(self.rate, float(self.values["reference_rate"])))
        held = _plans(hold=frames, push=frames)
        _, _, vy = self._played(held, frames, standing=True, squat=0, air_jumps=False)
        begun = np.flatnonzero(vy[:, 0] > 0)
        if not len(begun):
            raise UsageError("these parameters do not jump: a press leaves it on the ground")
        return int(begun[0])

    @cached_property
    def _free(self) -> "Runner":
        """Return the same without a ceiling."""
        if self._scene.ceiling is None:
            return self
        return Runner(self.values, self.rate, None)

    def _rise(self, flight: int, late: int) -> int:
        """Return how many frames the longest rise takes: a late jump rises longer to a ceiling."""
        plans = _plans(press=np.arange(late + 1), hold=flight + late)
        _, _, vy = self._played(
            plans, flight + late, standing=False, squat=self._squat, air_jumps=False
        )
        up = vy > 0
        ends = np.argmax(np.maximum.accumulate(up, axis=0) & ~up, axis=0)
        begins = plans.press + np.where(plans.press == 0, self._squat, 0)
        return int(np.max(np.where(ends > 0, ends - begins, flight)))

    @cached_property
    def second_rise(self) -> float:
        """Return how far a jump in the air rises, length."""
        again = self._squat + 2
        frames = again + round(_SQUAT * self.rate)
        plans = _plans(hold=1)._replace(again=np.array([again]))
        _, y, _ = self._played(plans, frames, standing=False, squat=self._squat, air_jumps=True)
        return float(np.max(y[again:]) - y[again - 1, 0])

    def _latest(self) -> int:
        """Return by how many frames after the edge a press still takes off."""
        if self._free is not self:
            return self._free._latest()
        p = self.values
        rates = max(self.rate, float(p["reference_rate"]))
        most = int(np.ceil(float(p["coyote_time"]) * rates)) + 2
        late = np.arange(1, most + 1)
        plans = _plans(press=late, hold=most + 4)
        _, _, vy = self._played(plans, most + 4, standing=False, squat=0, air_jumps=False)
        took = (vy > 0).any(axis=0)
        return int(np.argmin(took)) if not took.all() else most

    def _holds(self, rise: int, flight: int) -> Frames:
        """Return how long the button may be held, so that no other hold is surely as good.

        To the end of the rise, mostly. Under a ceiling, which a late jump meets later, any hold
        may be best. Where holding weighs more, or a rise more than a fall, so that the frame that
        goes through the apex ends lower the faster it began, those are that no other is always as
        high as.
        """
        every = np.arange(1, rise + 1)
        held, most, cut, up, down = (
            float(self.values[name])
            for name in ("hold_gravity", "hold_time", "release_cut", "gravity_rise", "gravity_fall")
        )
        if self._scene.ceiling is not None:
            return every
        if not ((held > 1 and most > 0) or up > down or cut > 1):
            return every[-1:]
        plans = _plans(press=0 * every, hold=every)
        _, y, _ = self._played(plans, flight, standing=False, squat=self._squat, air_jumps=False)
        best: list[int] = []
        for k in every[::-1] - 1:
            if not any((y[:, one] >= y[:, k]).all() for one in best):
                best.append(int(k))
        return np.asarray(every[np.array(best[::-1])])


def _plans(*, press: int | Frames = 0, hold: int | Frames = 1, push: int = 0) -> Plans:
    first = np.atleast_1d(np.asarray(press, dtype=np.int64))
    rest = (np.broadcast_to(value, first.shape) for value in (hold, push, UNPRESSED, UNPRESSED))
    return Plans(first, *rest)


def _scene(ceiling: float | None, *, flat: bool = False) -> FootDrill:
    floor = [{"x": _FAR, "height": 0.0}, *([] if flat else [{"x": 0.0, "height": _PIT}])]
    data = {
        "name": "edge",
        "length": 1.0,
        "floor": floor,
        "input": [{"at": 0.0, "until": 1.0, "move_x": 1.0}, {"at": 0.5, "until": 0.6, "dash": 1.0}],
    }
    if ceiling is not None:
        data["ceiling"] = [{"x": _FAR, "height": ceiling}]
    return drill_from_mapping(data, "edge")


def _repeated(state: State, many: int) -> State:
    """Return a state of one set as that of many."""
    out = deepcopy(state)
    for name in State.__slots__:
        value: Over | BoolArray = getattr(out, name)
        setattr(out, name, np.repeat(value, many))
    return out
