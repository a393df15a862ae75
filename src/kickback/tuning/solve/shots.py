"""A shot at a target: elevations, or the speed at one, exact in the model's own steps."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from kickback.errors import UsageError
from kickback.kinds.models import model_named
from kickback.kinds.shot.aim import Flight, aim, highest
from kickback.kinds.shot.model.drills import drill_from_mapping
from kickback.kinds.shot.model.parameters import checked_values
from kickback.takes.header import Value
from kickback.takes.record import Record
from kickback.takes.take import FloatArray

__all__ = ["ShotSolution", "Way", "solve_shot"]

_BEGIN = 0.5
"""When a shot is fired in its drill, s."""

_LONGER = 1.5
"""How many times longer than the way without drag a shot is looked at."""

_NEAR = 3.0
"""Degrees about an elevation of the continuous path in which the one of steps is looked for."""

_FASTEST = 1e3
"""Times its least speed up to which a speed is looked for."""

_MEETINGS = 20
_MET = 1e-12
"""Share of a flight's time within which a target that moves is met."""


class Way(Record, frozen=True, kw_only=True):
    """One way to hit: ``elevation`` and ``impact_angle`` in degrees, times in s.

    ``residual``: how far from the target the path of steps passes, as a share of its distance;
    ``misses`` the same distance at other frame rates, None where it does not get there.
    """

    elevation: float
    speed: float
    flight_time: float
    apex_height: float
    impact_angle: float
    impact_speed: float
    target: tuple[float, float]
    residual: float
    misses: Mapping[float, float | None]


class ShotSolution(Record, frozen=True, kw_only=True):
    """All ways to hit, the lowest first; without any by how far it is out of reach.

    ``least_speed`` is the least that reaches it at the best elevation; None where none does.
    """

    rate: float
    ways: Sequence[Way]
    beyond: float
    least_speed: float | None


class _Path(Record, frozen=True, kw_only=True):
    """A shot in the model's steps, from the launch on: times, s, and places, shape (n,)."""

    t: FloatArray
    across: FloatArray
    up: FloatArray

    def at(self, across: float) -> tuple[float, int] | None:
        """Return in which share of which step a distance is passed; None if it never is."""
        past = np.flatnonzero(self.across >= across)
        if not past.size or past[0] == 0:
            return None
        k = int(past[0])
        width = float(self.across[k] - self.across[k - 1])
        return (across - float(self.across[k - 1])) / width, k

    def height(self, across: float) -> float:
        """Return the height at a distance; minus infinity where it never gets there."""
        found = self.at(across)
        if found is None:
            return float("-inf")
        share, k = found
        return float(self.up[k - 1] + share * (self.up[k] - self.up[k - 1]))


def solve_shot(
    parameters: Mapping[str, Value],
    target: tuple[float, float],
    *,
    moves: tuple[float, float] = (0.0, 0.0),
    angle: float | None = None,
    rate: float = 60.0,
    rates: Sequence[float] = (),
) -> ShotSolution:
    """Return how a shot hits a target so far ``(across, up)`` from its launch.

    With its own speed both elevations; with an ``angle``, degrees, the speed. ``moves``: the
    target's velocity, which is led. Continuous closed forms begin the search, the model's own steps
    end it. Raises UsageError for a target behind or at the launch, or an angle that is none.
    """
    values = checked_values(parameters, "parameters")
    if not target[0] > 0 or not all(np.isfinite([*target, *moves])):
        raise UsageError("a target lies ahead: its distance across is above 0")
    if angle is not None and not -90 < angle < 90:
        raise UsageError(f"an angle lies between -90 and 90 degrees, not {angle:g}")
    ways: list[Way] = []
    for which in (0, -1) if angle is None else (0,):
        way = _led(values, target, moves, angle, which, rate)
        if way is not None and not any(abs(way.elevation - one.elevation) < _MET for one in ways):
            ways.append(way)
    flight = _flight(values)
    found = aim(flight, *target)
    return ShotSolution(
        rate=rate,
        ways=[_missing(values, one, rates) for one in ways],
        beyond=0.0 if ways else found.beyond,
        least_speed=_least_speed(flight, target),
    )


def _flight(values: Mapping[str, Value], speed: float | None = None) -> Flight:
    return Flight(
        float(values["launch_speed"]) if speed is None else speed,
        float(values["gravity"]),
        float(values["linear_drag"]),
        float(values["quadratic_drag"]),
    )


def _led(
    values: Mapping[str, Value],
    target: tuple[float, float],
    moves: tuple[float, float],
    angle: float | None,
    which: int,
    rate: float,
) -> Way | None:
    """Return the way that hits a target where it is when the shot arrives; None where none does."""

    def at(wait: float) -> Way | None:
        place = (target[0] + moves[0] * wait, target[1] + moves[1] * wait)
        return _way(values, place, angle, which, rate) if place[0] > 0 else None

    way = at(0.0)
    if way is None or not any(moves):
        return way
    # the secant on how much later than the target it is there: nearly a line
    waits, late = [0.0, way.flight_time], [way.flight_time]
    for _ in range(_MEETINGS):
        way = at(waits[-1])
        if way is None:
            return None
        late.append(way.flight_time - waits[-1])
        if abs(late[-1]) <= _MET * way.flight_time or late[-1] == late[-2]:
            return way
        waits.append(waits[-1] - late[-1] * (waits[-1] - waits[-2]) / (late[-1] - late[-2]))
    return None


def _way(
    values: Mapping[str, Value],
    place: tuple[float, float],
    angle: float | None,
    which: int,
    rate: float,
) -> Way | None:
    """Return one way to hit a place that stays."""
    if angle is not None:
        speed = _speed_at(values, place, angle, rate)
        return None if speed is None else _way_of(values, place, angle, speed, rate)
    flight = _flight(values)
    elevations = aim(flight, *place).elevations
    if not elevations:
        return None
    near = elevations[which]
    own = _root(
        lambda one: _path(values, one, flight.speed, rate, place[0]).height(place[0]) - place[1],
        max(near - _NEAR, -89.9),
        near,
        min(near + _NEAR, 89.9),
    )
    return None if own is None else _way_of(values, place, own, flight.speed, rate)


def _root(of: Callable[[float], float], low: float, middle: float, high: float) -> float | None:
    """Return where a function is 0, between the middle and either end; None where it nowhere is."""
    from scipy.optimize import brentq

    here = of(middle)
    for end in sorted((low, high), key=lambda one: abs(one - middle)):
        there = of(end)
        if np.isfinite([here, there]).all() and (here > 0) != (there > 0):
            return float(brentq(of, min(middle, end), max(middle, end), xtol=1e-15, rtol=1e-15))
    return middle if here == 0 else None


def _speed_at(
    values: Mapping[str, Value], place: tuple[float, float], angle: float, rate: float
) -> float | None:
    """Return the speed with which a shot at an angle passes a place; None where none does."""
    from scipy.optimize import brentq

    rise = place[0] * float(np.tan(np.deg2rad(angle))) - place[1]
    gravity = float(values["gravity"])
    if rise <= 0 or gravity <= 0:
        return None

    def over(speed: float) -> float:
        height = _path(values, angle, speed, rate, place[0]).height(place[0])
        return max(height, place[1] - 1e6 * (abs(place[1]) + place[0])) - place[1]

    # without drag: v² = g·d²/(2·cos²θ·(d·tanθ − h)); drag asks for more, steps for a little less
    along = float(np.cos(np.deg2rad(angle)))
    least = float(np.sqrt(gravity * place[0] ** 2 / (2 * along**2 * rise)))
    low, high = 0.5 * least, 1.05 * least
    while over(high) <= 0:
        high *= 1.3
        if high > _FASTEST * least:
            return None
    return float(brentq(over, low, high, xtol=1e-15, rtol=1e-14))


def _path(
    values: Mapping[str, Value], elevation: float, speed: float, rate: float, across: float
) -> _Path:
    """Return a shot's path in the model's steps until it has gone a distance across, if it does."""
    gravity = float(values["gravity"])
    full = _LONGER * (4 * speed / gravity if gravity > 0 else 60.0 / max(speed, 1e-9))
    along = speed * float(np.cos(np.deg2rad(elevation)))
    soon = 2.0 * across / along + 0.5
    for long in (soon, full) if soon < full else (full,):
        found = _played(values, elevation, speed, rate, long)
        if found.across[-1] >= across:
            break
    return found


def _played(
    values: Mapping[str, Value], elevation: float, speed: float, rate: float, long: float
) -> _Path:
    """Return a shot's path for some seconds, over ground that is far below."""
    depth = 2.0 * float(values["gravity"]) * long * long + speed * long + 1.0
    drill = drill_from_mapping(
        {"length": _BEGIN + long, "input": [{"at": _BEGIN, "until": _BEGIN + long, "fire": 1.0}]},
        "shot",
    )
    own = {
        **values,
        "elevation": elevation,
        "launch_speed": speed,
        "scatter": 0.0,
        "muzzle_height": depth,
        "cadence": 10 * long,
    }
    take = model_named("shot").simulate(own, drill, frame_rate=rate)
    x, y, t = (take.numbers(name) for name in ("x", "y", "t"))
    first = int(np.flatnonzero(np.hypot(x - x[0], y - y[0]) > 0)[0]) - 1
    return _Path(t=t[first:] - t[first], across=x[first:] - x[0], up=y[first:] - y[0])


def _way_of(
    values: Mapping[str, Value],
    place: tuple[float, float],
    elevation: float,
    speed: float,
    rate: float,
) -> Way:
    path = _path(values, elevation, speed, rate, place[0])
    found = path.at(place[0])
    if found is None:
        raise UsageError("the model's path does not get to the target")
    share, k = found
    step = float(path.t[k] - path.t[k - 1])
    way = complex(path.across[k] - path.across[k - 1], path.up[k] - path.up[k - 1])
    return Way(
        elevation=elevation,
        speed=speed,
        flight_time=float(path.t[k - 1]) + share * step,
        apex_height=float(np.max(path.up[: k + 1])),
        impact_angle=-float(np.rad2deg(np.angle(way))),
        impact_speed=abs(way) / step,
        target=place,
        residual=abs(path.height(place[0]) - place[1]) / float(np.hypot(*place)),
        misses={},
    )


def _missing(values: Mapping[str, Value], way: Way, rates: Sequence[float]) -> Way:
    """Return a way with how far it misses at other frame rates."""
    from kickback.takes.record import replace

    misses: dict[float, float | None] = {}
    for rate in rates:
        height = _path(values, way.elevation, way.speed, rate, way.target[0]).height(way.target[0])
        misses[rate] = height - way.target[1] if np.isfinite(height) else None
    return replace(way, misses=misses)


def _least_speed(flight: Flight, target: tuple[float, float]) -> float | None:
    """Return the least speed that reaches a target; None where drag lets none do it."""
    from scipy.optimize import brentq

    least = aim(flight._replace(linear=0.0, quadratic=0.0), *target).least_speed
    if not (flight.linear or flight.quadratic):
        return least or None

    def over(speed: float) -> float:
        return max(highest(flight._replace(speed=speed), target[0]), -1e9) - target[1]

    high = 2 * max(least, 1e-9)
    while over(high) <= 0:
        high *= 2
        if high > _FASTEST * max(least, 1e-9):
            return None
    return float(brentq(over, max(least, 1e-9), high, rtol=1e-6))
