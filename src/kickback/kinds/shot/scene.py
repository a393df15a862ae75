"""What the metrics of a projectile look at: the rule of its flights, launches and hits."""

from functools import cached_property
from typing import Any, NamedTuple

import numpy as np

from kickback.kinds.shot.aim import Aim, Flight, aim
from kickback.kinds.shot.motion import Arc, ShotMotion, place_in
from kickback.kinds.shot.roles import ACROSS, ASIDE, UP
from kickback.laws.families.moments import POSITION_RULE
from kickback.laws.forces import LINEAR, PUSH, QUADRATIC
from kickback.laws.least_squares import solved
from kickback.laws.position import position_rule
from kickback.laws.record import Law
from kickback.laws.resisted import Resisted, Run, resisted
from kickback.motion.between import carried
from kickback.takes.numeric import ROOT_12
from kickback.takes.record import replace
from kickback.takes.roles import Role

__all__ = ["Hit", "Launch", "Scene", "Top", "position_law", "read_flights", "target_of"]

_FALLING = (
    ((PUSH,),),
    ((PUSH, LINEAR), (PUSH, QUADRATIC)),
    ((PUSH, LINEAR, QUADRATIC),),
)
_LEVEL = (((LINEAR,), (QUADRATIC,)), ((LINEAR, QUADRATIC),))
"""Sets of terms by how many they are, of a flight with a height and of one from above."""

_STRAIGHT = 1e-9
"""Share of a speed by which it may change in a step and be held: what arithmetic leaves."""

_MOST = 12
"""Flights that settle a rule."""

_BENT = 1e-6
"""Share of the highest speed by which a step's speed changes, for it to tell θ."""

_AROUND = 0.15
"""Seconds around the highest frame in which rounded heights are taken for a parabola."""

_MOVED = 0.3
"""Share of a step by which a first row lies before its muzzle, if the shot has moved by it."""

_BACK = 40
"""Rounds in which a speed is worked back by a step."""

NINETY_FIVE = 2.0
"""Standard errors within which 95 % of the errors of a printed log lie."""


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


def target_of(motion: ShotMotion) -> tuple[complex, float] | None:
    """Return the target, over the ground and its height; None where there is none."""
    given: Any = motion.options.target or motion.take.header.extra.get("target")
    return place_in(motion.take.header, given)


def read_flights(motion: ShotMotion) -> Resisted | None:
    """Return the rule of flights: gravity and drag; None where no known one explains them."""
    arcs = sorted(motion.arcs, key=lambda arc: arc.start - arc.stop)[:_MOST]
    runs = []
    motion = _by_its_own_speeds(motion)
    placed = any(track.source != "reported" for track in motion.plain)
    rounded = motion.quantum > 0 or any(track.printed for track in motion.plain)
    for arc in arcs:
        rows = np.arange(arc.start, arc.stop)
        if placed and not rounded:
            rows = rows[1:]  # a first displacement may be of a part of a frame
        if len(rows) < _FEWEST_ROWS:
            continue
        way = _direction(motion, arc)
        speed = (motion.drift[rows] * np.conj(way)).real + 1j * motion.rise[rows]
        place = (motion.ground[rows] * np.conj(way)).real + 1j * motion.height[rows]
        flat = speed.real if not motion.flies else speed
        there = place.real if not motion.flies else place
        runs.append(Run(v=flat, dt=motion.dt[rows], p=there if placed and rounded else None))
    if not runs:
        return None
    usual = motion.clock.usual
    noise = _noise(motion, placed=placed)
    even = all(np.ptp(run.dt[1:]) <= 1e-6 * usual for run in runs)
    return resisted(runs, noise, usual, _FALLING if motion.flies else _LEVEL, even=even, toward=-1j)


_FEWEST_ROWS = 5
"""Frames of a flight that tell a rule."""


def _by_its_own_speeds(motion: ShotMotion) -> ShotMotion:
    """Return a motion with the code's speeds, where positions follow them by another rule."""
    tracks = dict(motion.tracks)
    for role in (ACROSS, ASIDE, UP):
        track = tracks.get(role.name)
        if track is None or track.logged is None or track.source == "reported":
            continue
        rule = position_law(motion, role)
        if rule is not None and rule.value("scale"):
            tracks[role.name] = replace(
                track, p=track.p / rule.value("scale"), v=track.logged, source="reported",
                noise=track.logged_grid / 2, window=0,
            )  # fmt: skip
    if all(tracks[name] is motion.tracks[name] for name in tracks):
        return motion
    drift = motion.drift * 0
    for role, unit in ((ACROSS, 1.0), (ASIDE, 1j)):
        if role.name in tracks:
            drift = drift + unit * tracks[role.name].v
    rise = tracks[UP.name].v if UP.name in tracks else motion.rise
    return replace(motion, tracks=tracks, drift=drift, rise=rise)


def position_law(motion: ShotMotion, role: Role) -> Law | None:
    """Return how places along an axis follow the game's own speeds; None where untold."""
    track = motion.tracks.get(role.name)
    if track is None or track.logged is None:
        return None
    flying = np.zeros(len(motion.t), dtype=bool)
    for arc in motion.arcs:
        flying[arc.start + 1 : arc.stop] = True
    v = track.logged
    bent = np.abs(np.diff(v)) > _BENT * float(np.max(np.abs(v), initial=0.0))
    usable = flying[1:] & (bent if role is UP else np.abs(v[1:]) > motion.rest_speed)
    if motion.clock.apart is not None:
        usable &= ~motion.clock.apart[1:]
    law = position_rule(motion, track, role, np.flatnonzero(usable))
    return law if law is None or law.family is POSITION_RULE else None


def _direction(motion: ShotMotion, arc: Arc) -> complex:
    """Return the direction over the ground of a flight, of size 1."""
    way = complex(motion.ground[arc.stop - 1] - motion.ground[arc.start])
    return way / abs(way) if abs(way) > 0 else 1.0


def _noise(motion: ShotMotion, *, placed: bool) -> float:
    if placed:  # rounded steps add up along a path: half of them on the whole
        many = max(arc.stop - arc.start for arc in motion.arcs)
        pace = float(np.max(motion.speed, initial=0.0)) * motion.clock.time_error
        return float(np.hypot(motion.quantum / ROOT_12, pace * (many / 2) ** 0.5))
    printed = max((track.printed for track in motion.plain), default=0.0) / ROOT_12
    bend = float(np.max(np.abs(np.diff(motion.rise)), initial=0.0)) / motion.clock.usual
    return float(np.hypot(printed, motion.clock.time_error * bend))


class Scene:
    """One stretch of a projectile's take; everything is worked out when it is first asked for."""

    def __init__(self, motion: ShotMotion, _like: "Scene | None" = None) -> None:
        self.motion = motion

    @cached_property
    def rule(self) -> Resisted | None:
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
            return self.rule.value(PUSH)
        motion, falls = self.motion, []
        for arc in motion.arcs:
            rows = np.arange(arc.start + 1, arc.stop)
            falls.append(-np.diff(motion.rise[arc.start : arc.stop]) / motion.dt[rows])
        every = np.concatenate(falls) if falls else np.zeros(0)
        return float(np.median(every)) if every.size else 0.0

    def launch(self, arc: Arc) -> Launch:
        """Return how a flight begins: worked back by a frame from where it lay, or its muzzle.

        Where neither is known its first frame may be the launch itself, or a step of it.
        """
        motion, row = self.motion, arc.start
        along = complex(motion.drift[row])
        size = abs(along)
        way = along / size if size else 1.0
        speed = size + 1j * float(motion.rise[row])
        step = float(motion.dt[row])
        noise = NINETY_FIVE * max((track.noise for track in motion.plain), default=0.0)
        here, high = complex(motion.ground[row]), float(motion.height[row])
        place = motion.muzzle
        if arc.rested:
            place = complex(motion.ground[row - 1]), float(motion.height[row - 1])
        if place is None:
            unsure = abs(self._before(speed, step) - speed)
            back = speed * step
            return Launch(float(motion.begin[row]), speed.real * way, speed.imag,
                          here - back.real * way, high - back.imag, unsure + noise)  # fmt: skip
        gone = abs(complex(abs(here - place[0]), high - place[1])) / max(abs(speed) * step, 1e-300)
        moved = gone > _MOVED
        first = self._before(speed, step) if moved else speed
        when = motion.begin[row] if moved else motion.t[row]
        return Launch(float(when), first.real * way, first.imag, *place,
                      noise + 1e-9 * abs(first))  # fmt: skip

    def _before(self, speed: complex, step: float) -> complex:
        """Return the speed before a step of the rule."""
        rule = self.rule
        if rule is None:
            return speed + 1j * self.gravity * step
        form, values = rule.fitted or (rule.form, rule.values)
        usual, dt = self.motion.clock.usual, np.array([step])
        guess = np.array([speed if self.motion.flies else speed.real])
        for _ in range(_BACK):
            guess = guess + (speed - form.ahead(guess, dt, usual, values))
        return complex(guess[0])

    @cached_property
    def aims(self) -> dict[int, Aim]:
        """Return how a target would have been hit, by the frame of each shot; none without one.

        At the speed of the shot, under the rule of its flights.
        """
        rule, motion = self.rule, self.motion
        target = target_of(motion)
        if rule is None or target is None or not motion.flies:
            return {}
        found, known = {}, {}
        for arc in self.shots:
            start = self.launch(arc)
            speed = float(np.hypot(abs(start.drift), start.rise))
            key = (round(speed, 9), round(abs(target[0] - start.ground), 9), start.height)
            if key not in known:
                flight = Flight(speed, rule.value(PUSH), rule.value(LINEAR), rule.value(QUADRATIC))
                known[key] = aim(flight, abs(target[0] - start.ground), target[1] - start.height)
            found[arc.start] = known[key]
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
        if len(rows) < _FEWEST_ROWS:
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
            float(motion.t[at] + gone), base + slope * gone / 2,
            NINETY_FIVE * float(errors[1]) / (2 * abs(bend)), NINETY_FIVE * float(errors[0]),
        )  # fmt: skip

    def hit(self, arc: Arc) -> Hit | None:
        """Return what ends a flight: where the path meets the height that it is stopped at."""
        motion = self.motion
        if not arc.hits or arc.stop - arc.start < _FEWEST_ROWS or arc.stop >= len(motion.t):
            return None
        last, step = arc.stop - 1, float(motion.step[arc.stop])
        if not motion.flies:
            return Hit(float(motion.t[last]), complex(motion.ground[last]), 0.0,
                       complex(motion.drift[last]), 0.0, step)  # fmt: skip
        rows = np.arange(last - 2, last + 1)
        points = tuple(motion.height[row : row + 1] for row in rows)
        times = tuple(motion.t[row : row + 1] for row in rows)
        y, slope, half = (float(one[0]) for one in carried(points, times))  # type: ignore[arg-type]
        level = self._level(arc)
        root = slope * slope - 4 * half * (y - level)
        known = half < 0 and root >= 0
        gone = (-slope - np.sqrt(root)) / (2 * half) if known else 0.0
        sure = 0.05 * step
        if not known or not -0.1 * step <= gone <= 1.5 * step:
            gone, sure = step / 2, step / 2
        pace = complex(motion.ground[last] - motion.ground[last - 1]) / float(motion.step[last])
        fall = max(abs(slope + 2 * half * gone), 1e-12)
        sure += NINETY_FIVE * 2 * motion.quantum / fall
        drift, rise = complex(motion.drift[last]), slope + 2 * half * gone
        if motion.tracks[UP.name].source == "reported":  # no difference of rounded places
            rise = float(motion.rise[last]) - self.gravity * gone
        return Hit(float(motion.t[last] + gone), complex(motion.ground[last]) + pace * gone, level,
                   drift, rise, sure)  # fmt: skip

    def _level(self, arc: Arc) -> float:
        """Return the height at which a flight is stopped: where it lies after, or turns round."""
        motion = self.motion
        after = motion.height[arc.stop : arc.stop + 2]
        if self.motion.speed[arc.stop] <= motion.rest_speed:
            return float(after[0])
        lowest = [float(motion.height[arc.stop])]
        lowest += [float(np.min(motion.height[one.stop])) for one in motion.arcs
                   if one.hits and one.stop < len(motion.t)]  # fmt: skip
        return min(lowest)
