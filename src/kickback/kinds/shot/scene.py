"""What the metrics of a projectile look at: the rule of its flights, launches and hits."""

from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np

from kickback.kinds.shot.aim import Aim, Flight
from kickback.kinds.shot.motion import PAUSED, Arc, ShotMotion
from kickback.kinds.shot.roles import UP
from kickback.kinds.shot.rules import FEWEST_ROWS, goes_straight, read_flights
from kickback.kinds.shot.target import Start, Target, meeting, target_of
from kickback.laws.least_squares import solved
from kickback.laws.select import Selected
from kickback.laws.step_model import LINEAR, PUSH, QUADRATIC
from kickback.motion.between import carried
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.take import FloatArray

__all__ = ["Hit", "Launch", "Scene", "Top"]

_AROUND = 0.15
"""Seconds around the highest frame in which rounded heights are taken for a parabola."""

_SEVERAL = 3
"""Shots from which their first rows tell whether these are the launches."""

_MOST_STEPS = (0.16, 0.84)
"""Quantiles between which steps lie that are uneven: a pause between shots is beyond."""

_UNEVEN = 0.01
"""Share of a frame by which these differ at least: printed times of even ones differ too."""

_CLEARLY = 5.0
"""Times what rounding does to places by which launches would lie apart."""

_MOVED = 0.3
"""Share of a step by which a first row lies before its muzzle, if the shot has moved by it."""

_BACK = 40
"""Rounds in which a speed is worked back by a step."""

NINETY_FIVE = 2.0
"""Standard errors within which 95 % of the errors of a printed log lie."""

_EARLY = 1.05
"""Frames before its last row at which a flight may have met the ground."""


class Launch(NamedTuple):
    """A launch: when, s, the velocity over the ground and upward, where, and how surely.

    ``sure``: length/s.
    """

    time: float
    drift: complex
    rise: float
    ground: complex
    height: float
    sure: float


class Hit(NamedTuple):
    """What ends a flight: when, s, where, the velocity there, and how surely a time is known."""

    time: float
    ground: complex
    height: float
    drift: complex
    rise: float
    sure: float


class Top(NamedTuple):
    """The highest point of a flight: when, s, how high, and how surely both are known."""

    time: float
    height: float
    sure_time: float = 0.0
    sure_height: float = 0.0


def _aims(flight: Flight, start: Start, target: Target) -> Aim | None:
    """Return both elevations that hit a target, each for where it is then."""
    low = meeting(flight, start, target)
    if low is None or not target.moves:
        return None if low is None else low[0]
    high = meeting(flight, start, target, high=True)
    second = () if high is None else high[0].elevations[1:]
    return low[0]._replace(elevations=(*low[0].elevations[:1], *second))


def _spread(places: FloatArray) -> float:
    """Return how far places, shape (axes, k), lie from their middle at most."""
    return float(np.max(np.abs(places - np.median(places, axis=1, keepdims=True))))


class Scene:
    """One stretch of a projectile's take; everything is worked out when it is first asked for.

    ``own``: its speeds are the code's own, not what is seen where a step is not the frame's.
    """

    def __init__(
        self, motion: ShotMotion, _like: "Scene | None" = None, *, own: bool = False
    ) -> None:
        self.motion, self._own = motion, own

    def _pace(self, row: int) -> float:
        """Return how many of the code's seconds pass in one of those that speeds are of."""
        return 1.0 if self._own else float(self.motion.dt[row] / self.motion.step[row])

    @cached_property
    def rule(self) -> Selected | None:
        """Return the rule of the flights."""
        return read_flights(self.motion)

    @property
    def shots(self) -> list[Arc]:
        """Return the flights that begin with a launch."""
        return [arc for arc in self.motion.arcs if arc.launched]

    @property
    def gravity(self) -> float:
        """Return the gravity of the flights, length/s²; that of steps where no rule is told."""
        if self.rule is not None:
            return self.rule.value(PUSH.name)
        motion, falls = self.motion, []
        for arc in motion.arcs:
            rows = np.arange(arc.start + 1, arc.stop)
            falls.append(-np.diff(motion.rise[arc.start : arc.stop]) / motion.dt[rows])
        every = np.concatenate(falls) if falls else np.zeros(0)
        return median(every) if every.size else 0.0

    def first_step(self, arc: Arc) -> float:
        """Return the step of a flight's first frame, s: no pause between shots is of it."""
        motion, step = self.motion, float(self.motion.dt[arc.start])
        paused = not arc.rested and step > PAUSED * motion.clock.usual
        return motion.clock.usual if paused else step

    @cached_property
    def shows_launch(self) -> bool | None:
        """Whether flights' first rows are their launches or a step after; None where untold.

        Launches are in one place, whatever the frames last and wherever the shots go.
        """
        shots = [arc for arc in self.shots if not arc.rested and arc.start]
        if len(shots) < _SEVERAL:
            return None
        motion, clock = self.motion, self.motion.clock
        rows = np.array([arc.start for arc in shots])
        pace = float(np.max(motion.speed[rows]))
        same = motion.quantum + NINETY_FIVE * pace * clock.time_error + 1e-9 * pace
        apart, before = self._spreads(shots)
        low, high = np.quantile(motion.step, _MOST_STEPS)
        uneven = float(high - low) / 2
        would = max(before, pace * uneven if uneven > _UNEVEN * clock.usual else 0.0)
        if apart <= same and would > _CLEARLY * same:
            return True
        return False if before <= same and apart > _CLEARLY * same else None

    def _spreads(self, shots: Sequence[Arc]) -> tuple[float, float]:
        """Return how far the first rows of flights lie apart, and so do these a step before."""
        motion, rows = self.motion, np.array([arc.start for arc in shots])
        step = np.array([self.first_step(arc) / self._pace(arc.start) for arc in shots])
        step = np.full(len(rows), motion.clock.usual) if motion.clock.even else step
        here = np.stack([track.p[rows] for track in motion.plain])
        before = here - np.stack([track.v[rows] for track in motion.plain]) * step
        return _spread(here), _spread(before)

    def launch(self, arc: Arc) -> Launch:
        """Return how a flight begins: worked back by a frame from where it lay, or its muzzle.

        Where neither is known its first frame may be the launch itself, or a step of it, but
        for what the first frames of several shots tell.
        """
        motion, row = self.motion, arc.start
        along = complex(motion.drift[row])
        size = abs(along)
        way = along / size if size else 1.0
        speed = size + 1j * float(motion.rise[row])
        step, pace = self.first_step(arc), self._pace(row)
        noise = NINETY_FIVE * max((track.noise for track in motion.plain), default=0.0)
        here, high = complex(motion.ground[row]), float(motion.height[row])
        place = motion.muzzle
        if arc.rested:
            place = complex(motion.ground[row - 1]), float(motion.height[row - 1])
        shown = None if arc.rested else self.shows_launch
        if place is None and shown:
            time = float(motion.t[row])
            return Launch(time, speed.real * way, speed.imag, here, high, noise + 1e-9 * abs(speed))
        if place is None:
            before = self._before(speed / pace, step) * pace
            unsure = abs(before - speed) if shown is None else 0.0
            first = speed if shown is None else before
            back = speed * step / pace
            return Launch(
                float(motion.t[row]) - step / pace,
                first.real * way,
                first.imag,
                here - back.real * way,
                high - back.imag,
                unsure + noise + 1e-9 * abs(first),
            )
        off = abs(complex(abs(here - place[0]), high - place[1]))
        gone = off / max(abs(speed) * step / pace, 1e-300)
        moved = gone > _MOVED
        first = self._before(speed / pace, step) * pace if moved else speed
        when = motion.t[row] - step / pace if moved else motion.t[row]
        return Launch(float(when), first.real * way, first.imag, *place, noise + 1e-9 * abs(first))

    def after(self, speed: complex, row: int) -> complex:
        """Return the speed after the step into a frame: along the ground + i·up."""
        rule, step = self.rule, float(self.motion.dt[row])
        if rule is None or not self.motion.flies:
            return speed - 1j * self.gravity * step
        usual, dt, pace = self.motion.clock.usual, np.array([step]), self._pace(row)
        return complex(rule.after(np.array([speed / pace]), dt, usual)[0] * pace)

    def _before(self, speed: complex, step: float) -> complex:
        """Return the speed before a step of the rule, both in the code's own time."""
        rule = self.rule
        if rule is None:
            return speed + 1j * self.gravity * step
        usual, dt = self.motion.clock.usual, np.array([step])
        guess = np.array([speed if self.motion.flies else speed.real])
        for _ in range(_BACK):
            guess = guess + (speed - rule.after(guess, dt, usual))
        return complex(guess[0])

    @cached_property
    def target(self) -> Target | None:
        """Return what is to be hit; None where nothing is."""
        return target_of(self.motion)

    def start(self, arc: Arc) -> Start:
        """Return when and where a flight begins."""
        one = self.launch(arc)
        return one.time, one.ground, one.height

    def flight(self, arc: Arc) -> Flight | None:
        """Return the speed of a launch and what acts on it; None where no rule is told."""
        rule, one = self.rule, self.launch(arc)
        speed = float(np.hypot(abs(one.drift), one.rise))
        if rule is None and speed and goes_straight(self.motion, arc):
            return Flight(speed, 0.0)
        if rule is None or not speed:
            return None
        return Flight(
            speed, rule.value(PUSH.name), rule.value(LINEAR.name), rule.value(QUADRATIC.name)
        )

    @cached_property
    def aims(self) -> dict[int, Aim]:
        """Return how a target would have been hit, by the frame of each shot; none without one.

        At the speed of the shot, under the rule of its flights. One that moves is met where it
        has gone to by then; a shot that never meets it has none.
        """
        target, found = self.target, {}
        known: dict[object, Aim | None] = {}
        for arc in self.shots:
            flight, start = self.flight(arc), self.start(arc)
            if flight is None or target is None or not self.motion.flies:
                continue
            key = (round(flight.speed, 9), start[1], start[2], start[0] if target.moves else 0)
            if key not in known:
                known[key] = _aims(flight, start, target)
            one = known[key]
            if one is not None:
                found[arc.start] = one
        return found

    def top(self, arc: Arc) -> Top | None:
        """Return the highest point of a flight; None where it is at either end of it."""
        motion = self.motion
        height = motion.height[arc.start : arc.stop]
        at = int(np.argmax(height))
        if at == 0 or at == len(height) - 1:
            return None
        if motion.quantum:
            return self._fitted_top(arc, arc.start + at)
        rows = arc.start + np.array([at - 1, at, at + 1])
        t, y = motion.t[rows], motion.height[rows]
        s0, s1 = (y[1] - y[0]) / (t[1] - t[0]), (y[2] - y[1]) / (t[2] - t[1])
        bend = (s1 - s0) / (t[2] - t[0])
        if bend >= 0:
            return Top(float(t[1]), float(y[1]))
        slope = s1 + bend * (t[1] - t[2])
        gone = -slope / (2 * bend)
        return Top(float(t[1] + gone), float(y[1] + slope * gone / 2))

    def _fitted_top(self, arc: Arc, at: int) -> Top | None:
        """Return the highest point of the parabola through rounded heights around a frame."""
        motion = self.motion
        near = np.abs(motion.t[arc.start : arc.stop] - motion.t[at]) <= _AROUND
        rows = arc.start + np.flatnonzero(near)
        if len(rows) < FEWEST_ROWS:
            return None
        t = motion.t[rows] - motion.t[at]
        design = np.stack((np.ones_like(t), t, t * t), axis=1)
        done = solved(design, motion.height[rows])
        base, slope, bend = (float(one) for one in done.found)
        if bend >= 0:
            return None
        sigma = motion.quantum / ROOT_12
        errors = np.sqrt(np.diag(done.spread)) * sigma
        gone = -slope / (2 * bend)
        return Top(
            float(motion.t[at] + gone),
            base + slope * gone / 2,
            NINETY_FIVE * float(errors[1]) / (2 * abs(bend)),
            NINETY_FIVE * float(errors[0]),
        )

    def hit(self, arc: Arc) -> Hit | None:
        """Return what ends a flight: where the path meets the height that it is stopped at."""
        motion = self.motion
        if arc.ends and arc.stop - arc.start >= FEWEST_ROWS:
            return self._met(arc)
        if not arc.hits or arc.stop - arc.start < FEWEST_ROWS or arc.stop >= len(motion.t):
            return None
        last, step = arc.stop - 1, float(motion.step[arc.stop])
        if not motion.flies:
            return Hit(
                float(motion.t[last]),
                complex(motion.ground[last]),
                0.0,
                complex(motion.drift[last]),
                0.0,
                step,
            )
        level = self._level(arc)
        gone, sure, rise = self._crossing(last, level, step)
        pace = complex(motion.ground[last] - motion.ground[last - 1]) / float(motion.step[last])
        sure += NINETY_FIVE * 2 * motion.quantum / max(abs(rise), 1e-12)
        drift = complex(motion.drift[last])
        if motion.tracks[UP.name].source == "reported":  # no difference of rounded places
            rise = float(motion.rise[last]) - self.gravity * gone
        return Hit(
            float(motion.t[last] + gone),
            complex(motion.ground[last]) + pace * gone,
            level,
            drift,
            rise,
            sure,
        )

    def _met(self, arc: Arc) -> Hit | None:
        """Return where a flight whose rows end meets the ground of the header, if it does.

        Its last row shows it there, already below, or up to a frame before.
        """
        motion, last = self.motion, arc.stop - 1
        step, level = float(motion.step[last]), motion.floor
        if level is None:
            return None
        gone, sure, rise = self._crossing(last, level, step, early=_EARLY)
        if sure >= step / 2:
            return None
        pace = complex(motion.ground[last] - motion.ground[last - 1]) / step
        sure += NINETY_FIVE * 2 * motion.quantum / max(abs(rise), 1e-12)
        place = complex(motion.ground[last]) + pace * gone
        return Hit(
            float(motion.t[last] + gone), place, level, complex(motion.drift[last]), rise, sure
        )

    def _crossing(
        self, last: int, level: float, step: float, early: float = 0.1
    ) -> tuple[float, float, float]:
        """Return when after a frame the path meets a level, s, how surely, and the speed upward.

        Where the parabola through the last three frames does not, it is half a frame later.
        ``early``: frames that it may have met it before. Rounded heights leave no parabola: then
        that of the logged speed and the gravity is taken.
        """
        motion = self.motion
        rows = np.arange(last - 2, last + 1)
        points = tuple(motion.height[row : row + 1] for row in rows)
        times = tuple(motion.t[row : row + 1] for row in rows)
        y, slope, half = (float(one[0]) for one in carried(points, times))  # type: ignore[arg-type]
        if motion.quantum and motion.tracks[UP.name].source == "reported":
            slope, half = float(motion.rise[last]), -self.gravity / 2
        root = slope * slope - 4 * half * (y - level)
        gone, sure = step / 2, step / 2
        if half < 0 and root >= 0:
            met = float((-slope - np.sqrt(root)) / (2 * half))
            if -early * step <= met <= 1.5 * step:
                gone, sure = met, 0.05 * step
        return gone, sure, slope + 2 * half * gone

    def _level(self, arc: Arc) -> float:
        """Return the height at which a flight is stopped: where it lies after, or turns round."""
        motion = self.motion
        after = motion.height[arc.stop : arc.stop + 2]
        if self.motion.speed[arc.stop] <= motion.rest_speed:
            return float(after[0])
        lowest = [float(motion.height[arc.stop])]
        lowest += [
            float(np.min(motion.height[one.stop]))
            for one in motion.arcs
            if one.hits and one.stop < len(motion.t)
        ]
        return min(lowest)
