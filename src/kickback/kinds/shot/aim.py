"""Aiming: at which elevations a shot of some speed hits a target, or by how far it cannot.

Without drag ``tan θ = (v² ± √(v⁴ − g·(g·d² + 2·h·v²)))/(g·d)`` for a target at distance ``d`` and
height ``h``; the least speed that reaches it is ``v² = g·(h + √(h² + d²))``. With a linear drag
``k`` the path is ``x = vx·(1 − e^(−kt))/k``, ``y = (vy + g/k)·(1 − e^(−kt))/k − g·t/k``; with a
quadratic one it is integrated.
"""

from typing import NamedTuple

import numpy as np

from kickback.kinds.shot.motion import Complexes
from kickback.takes.take import FloatArray

__all__ = ["Aim", "Flight", "aim", "arrival", "highest", "path"]

_STEPS = 400
"""Points of a path that is integrated."""

_ANGLES = 179
"""Elevations that are tried."""

_TIGHT = 1e-10
"""Share of a path that its integration may be off by in a step."""

_ROUNDS = (16, 16)
"""Elevations that the nearest approach is looked for among, each time between the best two."""

_CLOSE = 1e-10
"""Share of the distance within which an angle is found."""


class Flight(NamedTuple):
    """What acts on a shot: its speed, gravity, and the linear and the quadratic drag."""

    speed: float
    gravity: float
    linear: float = 0.0
    quadratic: float = 0.0


class Aim(NamedTuple):
    """The elevations that hit, degrees, lowest first; where there is none how far it stays away.

    ``least_speed`` reaches the target without drag, length/s.
    """

    elevations: tuple[float, ...]
    beyond: float
    least_speed: float


def path(flight: Flight, elevation: float, time: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the way across and up at some times, s, shape (n,), from the launch on."""
    places = _places(flight, np.array([elevation]), time)[:, 0]
    return places.real, places.imag


def _places(flight: Flight, elevations: FloatArray, time: FloatArray) -> Complexes:
    """Return across + i·up at some times, shape (times, elevations)."""
    start = _starts(flight, elevations)
    if flight.quadratic:
        return _integrated(flight, start, time)[0]
    g, k, t = flight.gravity, flight.linear, time[:, None]
    if k:
        gone = -np.expm1(-k * t) / k
        return np.asarray((start + 1j * g / k) * gone - 1j * g * t / k)
    return np.asarray(start * t - 1j * g * t * t / 2)


def _integrated(flight: Flight, start: Complexes, time: FloatArray) -> tuple[Complexes, Complexes]:
    """Return places and speeds, complex: across + i·up, shape (times, starts)."""
    from scipy.integrate import solve_ivp

    many = len(start)

    def slope(_: float, state: Complexes) -> Complexes:
        v = state[many:]
        drag = flight.linear + flight.quadratic * np.abs(v)
        return np.concatenate((v, -1j * flight.gravity - drag * v))

    found = solve_ivp(
        slope,
        (time[0], time[-1]),
        np.concatenate((np.zeros_like(start), start)),
        method="DOP853",
        t_eval=time,
        rtol=_TIGHT,
        atol=_TIGHT * flight.speed,
    )
    return found.y[:many].T, found.y[many:].T


def aim(flight: Flight, across: float, up: float) -> Aim:
    """Return how a target so far across and up is hit."""
    g, v, d = flight.gravity, flight.speed, abs(across)
    if g <= 0:
        straight, short = float(np.rad2deg(np.arctan2(up, d))), np.hypot(up, d) - _straight(flight)
        return Aim((), float(short), 0.0) if short > 0 else Aim((straight,), 0.0, 0.0)
    least = float(np.sqrt(g * (up + np.hypot(up, d))))
    if flight.linear or flight.quadratic:
        found = _searched(flight, d, up)
    else:
        root = v**4 - g * (g * d * d + 2 * up * v * v)
        found = (
            ()
            if root < 0 or d == 0
            else tuple(
                float(np.rad2deg(np.arctan((v * v + sign * np.sqrt(root)) / (g * d))))
                for sign in (-1, 1)
            )
        )
        if d == 0:
            found = (90.0,) if v * v / (2 * g) >= up else ()
    return Aim(found, 0.0 if found else _beyond(flight, d, up), least)


def _straight(flight: Flight) -> float:
    """Return how far a shot goes without gravity: ``v/k``, ``ln(1 + q·v/k)/q`` with both drags."""
    v, k, q = flight.speed, flight.linear, flight.quadratic
    if not k:
        return float("inf")
    return float(np.log1p(q * v / k) / q) if q else v / k


def arrival(flight: Flight, elevation: float, across: float, up: float) -> float:
    """Return when a shot of an elevation that hits is at its target, s; NaN where it never is.

    Without gravity ``1 − e^(−kt) = (e^(q·s) − 1)·k/(q·v)`` along its straight way ``s``.
    """
    v, g, k, q = flight.speed, flight.gravity, flight.linear, flight.quadratic
    along = v * float(np.cos(np.deg2rad(elevation)))
    way = across / along if g > 0 else float(np.hypot(across, up)) / v
    if q and g > 0:
        time = np.linspace(0, _longest(flight), 4 * _STEPS)
        x, _ = path(flight, elevation, time)
        return float(np.interp(across, x, time, right=np.nan))
    if q:
        way = float(np.expm1(q * way * v)) / (q * v)
    if not k:
        return way
    return float(-np.log1p(-k * way) / k) if k * way < 1 else float("nan")


def _starts(flight: Flight, elevations: FloatArray) -> Complexes:
    return np.asarray(flight.speed * np.exp(1j * np.deg2rad(elevations)))


def _heights_at(flight: Flight, elevations: FloatArray, d: float) -> FloatArray:
    """Return how high paths are where they have gone so far across; −∞ where they never have."""
    start = _starts(flight, elevations)
    if not flight.quadratic:
        return _closed_heights(flight, start, d)
    time = np.linspace(0, _longest(flight), _STEPS)
    places, speeds = _integrated(flight, start, time)
    there = places.real >= d
    hit = np.argmax(there, axis=0)
    high = np.full(len(elevations), -np.inf)
    for k in np.flatnonzero(there.any(axis=0) & (hit > 0)):
        row = int(hit[k])
        high[k] = _between(
            time[row] - time[row - 1], places[row - 1 : row + 1, k], speeds[row - 1 : row + 1, k], d
        )
    return high


def _closed_heights(flight: Flight, start: Complexes, d: float) -> FloatArray:
    g, k = flight.gravity, flight.linear
    with np.errstate(divide="ignore", invalid="ignore"):
        left = 1 - k * d / start.real
        t = -np.log(left) / k if k else d / start.real
        gone = -np.expm1(-k * t) / k if k else t
        high = (start.imag + g / k) * gone - g * t / k if k else start.imag * t - g * t * t / 2
    known = (start.real > 0) & (left > 0)
    return np.where(known, high, -np.inf)


def _between(step: float, places: Complexes, speeds: Complexes, d: float) -> float:
    """Return the height where a step goes through a distance, by a cubic of both its ends."""
    from scipy.interpolate import CubicHermiteSpline
    from scipy.optimize import brentq

    ends = np.array([0.0, step])
    across = CubicHermiteSpline(ends, places.real, speeds.real)
    up = CubicHermiteSpline(ends, places.imag, speeds.imag)
    at = float(brentq(lambda t: float(across(t)) - d, 0.0, step, xtol=1e-14))
    return float(up(at))


def _longest(flight: Flight) -> float:
    """Return a time after which a shot has come down again, and as far once more, s."""
    return 4 * flight.speed / flight.gravity


def _searched(flight: Flight, d: float, up: float) -> tuple[float, ...]:
    from scipy.optimize import brentq

    angles = np.linspace(-89.0, 89.0, _ANGLES)
    over = _heights_at(flight, angles, d) - up

    def miss(elevation: float) -> float:
        return float(_heights_at(flight, np.array([elevation]), d)[0]) - up

    return tuple(
        float(brentq(miss, angles[k], angles[k + 1], xtol=_CLOSE))
        for k in np.flatnonzero((over[1:] > 0) != (over[:-1] > 0))
        if np.isfinite(over[k]) and np.isfinite(over[k + 1])
    )


def highest(flight: Flight, d: float) -> float:
    """Return how high a shot can be at a distance, at its best; −∞ where it never gets there."""
    angles = np.linspace(-89.0, 89.0, _ANGLES)
    for many in _ROUNDS:
        k = int(np.argmax(_heights_at(flight, angles, d)))
        angles = np.linspace(angles[max(k - 1, 0)], angles[min(k + 1, len(angles) - 1)], many + 1)
    return float(np.max(_heights_at(flight, angles, d)))


def _beyond(flight: Flight, d: float, up: float) -> float:
    """Return how near a shot comes to a target that it does not reach, at its best."""

    def nearest(elevations: FloatArray, steps: int) -> FloatArray:
        time = np.linspace(0, _longest(flight), steps)
        places = _places(flight, elevations, time)
        a, way = places[:-1], np.diff(places, axis=0)
        off = complex(d, up) - a
        share = (off * np.conj(way)).real / np.maximum(np.abs(way) ** 2, 1e-300)
        return np.asarray(np.min(np.abs(off - np.clip(share, 0, 1) * way), axis=0))

    angles, steps = np.linspace(-89.0, 89.0, _ANGLES), _STEPS // 4
    for many in _ROUNDS:
        k = int(np.argmin(nearest(angles, steps)))
        angles = np.linspace(angles[max(k - 1, 0)], angles[min(k + 1, len(angles) - 1)], many + 1)
        steps = _STEPS
    return float(np.min(nearest(angles, steps)))
