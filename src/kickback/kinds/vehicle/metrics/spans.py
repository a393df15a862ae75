"""What the metrics of a vehicle stand on: presses, releases, settled values, moments of speeds."""

from typing import NamedTuple

import numpy as np

from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.pedals import FULL
from kickback.metrics.dependence import Dependence
from kickback.motion.between import crossing, crossing_error
from kickback.motion.segments import BoolArray, stretches
from kickback.motion.tracks import Track
from kickback.takes.numeric import ROOT_12, median
from kickback.takes.record import replace
from kickback.takes.take import FloatArray

__all__ = [
    "AT_SPEED",
    "BRAKED_DISTANCE",
    "BRAKED_TIME",
    "CHANGE",
    "COASTED_DISTANCE",
    "COASTED_LOSS",
    "COASTED_TIME",
    "PEDAL",
    "PLACE",
    "RADIUS_AT_SPEED",
    "SLID",
    "Settled",
    "lasting",
    "moment",
    "presses",
    "settled",
    "speed_noise",
]

_ENTRY = Dependence(name="entry", words="the speed that it began at", unit="length/s")
BRAKED_TIME = replace(_ENTRY, powers=(0.0, 1.0))
"""Under a linear resistance a stop takes as long from any speed, under a brake it goes with it."""

BRAKED_DISTANCE = replace(_ENTRY, powers=(0.5, 2.0))
"""Its distance goes with the speed, or its square; less where a quadratic resistance helps."""

COASTED_TIME = replace(_ENTRY, powers=(-1.0, 1.0))
"""A quadratic resistance takes a quick vehicle's speed in less time."""

COASTED_DISTANCE = replace(_ENTRY, powers=(0.0, 2.0))
"""A quadratic resistance leaves a share of any speed after the same way."""

COASTED_LOSS = replace(_ENTRY, powers=(0.0, 2.0))
"""A constant resistance, one that goes with the speed, or with its square."""

PEDAL = Dependence(name="pedal", words="which pedal stopped it", within=0.5)
"""A brake, or the throttle against the motion."""

SLID = Dependence(name="slid", words="how it slid as it began, as a share of its speed",
                  within=0.03)  # fmt: skip
"""What goes sideways is stopped by the grip."""

AT_SPEED = Dependence(
    name="speed", words="the speed that it was driven at", unit="length/s", powers=(-1.0, 1.0)
)
"""A turning by the time, by the way, or less the quicker it drives."""

RADIUS_AT_SPEED = replace(AT_SPEED, powers=(0.0, 2.0))
"""The speed over such a turning."""

CHANGE = Dependence(name="change", words="how its speed changed in the turn, as a share",
                    within=0.05)  # fmt: skip
"""What goes with the speed does not settle while that changes."""

PLACE = Dependence(name="place", words="where it was driven, and with which pedals")
"""Nothing that is given with an occurrence says it: only equal inputs are alike. A wheel that is
late goes on turning when it is let go, and makes more of a slide."""

LOCATED = 1e-3
"""Share of a frame within which a moment is known where the law between frames is."""

NINETY_FIVE = 2.0
"""Standard errors within which 95 % of the errors of a printed log lie."""

_BETWEEN = 0.5
"""Share of a frame within which a moment is known where no law is."""

_ROUNDED = 2.45
"""Standard errors of a rounding that two of them come to at most: ``√12/√2``."""

_ARITHMETIC = 1e-12
"""Share of the highest speed that turning speeds round leaves."""

_WINDOW = 0.4
"""Seconds over which a gain of speed is looked at."""

_TAIL, _SHOWN = 0.1, 0.25
"""Seconds at the end in which a gain would show, and the share of it that would."""

_TO_GO = 0.05
"""Share of a settled value that may be missing where it is foretold."""

_UNSURE = 0.1
"""Share of what is missing by which the foretelling may be off."""


class Settled(NamedTuple):
    """What a value settles at, how well that is known, and what it still gained a second."""

    value: float
    sure: float
    gain: float


def speed_noise(track: Track) -> float:
    """Return the standard error of one speed along a track."""
    if track.source == "reported":
        return track.printed / ROOT_12
    return track.noise * 2**0.5 / ROOT_12 if track.source == "displacement" else track.noise


def presses(amount: FloatArray | None, way: float, where: BoolArray) -> list[tuple[int, int]]:
    """Return the stretches ``[start, stop)`` of a full press to one side, within a mask.

    One that begins with the take is none: nothing shows when it was pressed.
    """
    if amount is None:
        return []
    held = (amount * way >= FULL) & where
    return [(a, b) for a, b in stretches(held) if a > 0]


def lasting(motion: VehicleMotion, a: int, b: int) -> float:
    """Return how long frames ``[a, b)`` last, s."""
    return float(motion.t[b - 1] - motion.begin[a])


def moment(
    motion: VehicleMotion, track: Track, span: tuple[int, int], level: float, *, way: float
) -> tuple[float, float] | None:
    """Return when a speed reaches a level within frames, and how well that is known, s.

    ``way``: +1 where it rises through the level, −1 where it falls. None where it does not.
    """
    a, b = span
    nothing = _ARITHMETIC * float(np.nanmax(np.abs(track.v), initial=0.0))
    past = np.flatnonzero((track.v[a:b] - level) * way >= -nothing)
    if not past.size:
        return None
    hit = a + int(past[0])
    step = float(motion.step[hit])
    if hit == 0:
        return float(motion.begin[0]), step
    first = np.array([min(a - 1 if a else 0, hit - 1)])
    hits, levels = np.array([hit]), np.array([level])
    errors = (motion.clock.grid / ROOT_12, speed_noise(track))
    mixed = track.source == "displacement"
    time, known = crossing(track.tv, track.v, hits, levels, first, mixed=mixed, errors=errors)
    error = 0.0
    if any(errors):
        error = float(crossing_error(track.tv, track.v, hits, levels, first, (*errors, 0.0))[0])
    sure = bool(known[0]) and track.source == "reported"
    share = motion.clock.located(LOCATED) if sure else _BETWEEN
    return float(time[0]), share * step + NINETY_FIVE * error


def settled(
    motion: VehicleMotion, values: FloatArray, span: tuple[int, int], noise: float
) -> Settled | None:
    """Return what values, shape (n,), settle at by the end of frames; None where they do not.

    Of three windows in a row the means gain ``d1`` and ``d2``; what goes on so gains another
    ``d2·r/(1 − r)``, with ``r = d2/d1``: exact for any decay. Where more than a twentieth of it is
    missing, or it does not gain ever less, it has not settled. One that ends all at once, at a
    limit, has settled there.
    """
    a, b = span
    t = motion.t
    window = _WINDOW
    edges = [int(np.searchsorted(t, t[b - 1] - k * window + 1e-9)) for k in (3, 2, 1)]
    if edges[0] < a or edges[0] >= edges[1] or edges[1] >= edges[2] or edges[2] >= b - 2:
        return None
    means = []
    for start, stop in zip(edges, [edges[1], edges[2], b], strict=True):
        means.append(float(np.mean(values[start:stop])))
    many = b - edges[2]
    error = noise / many**0.5
    d1, d2 = means[1] - means[0], means[2] - means[1]
    last = median(values[edges[2] : b])
    still = NINETY_FIVE * 2**0.5 * error + 1e-7 * abs(last)
    if abs(d2) <= still:
        # a speed that stays is rounded the same way in each frame, along both axes
        return Settled(last, max(NINETY_FIVE * error, _ROUNDED * noise, 1e-9 * abs(last)), 0.0)
    gain = d2 / window
    ratio = d2 / d1 if d1 else np.inf
    if not 0 < ratio < 1:
        return None
    tail = values[min(int(np.searchsorted(t, t[b - 1] - _TAIL)), b - 3) : b]
    same = NINETY_FIVE * 2**0.5 * noise + 1e-7 * abs(last)
    if np.ptp(tail) <= same < _SHOWN * gain * ratio * _TAIL:
        return Settled(median(tail), max(NINETY_FIVE * noise, 1e-9 * abs(last)), 0.0)
    left = d2 * ratio / (1 - ratio)
    value = means[2] + left
    if abs(value - values[b - 1]) > _TO_GO * abs(value):
        return None
    unsure = _UNSURE * abs(value - values[b - 1]) + NINETY_FIVE * error * (1 + 2 / (1 - ratio) ** 2)
    return Settled(value, unsure, gain)
