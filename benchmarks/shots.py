"""Shots of plain lines whose rows end at the hit, one after the other: what is told of each.

Three orders of integration, no drag, a linear or a quadratic one; the first row is the launch or
the state after a step. Between two shots nothing is written.
"""

import math
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np

from kickback.kinds.measuring import measure
from kickback.takes.build import build_take
from kickback.takes.header import Header

__all__ = ["Gun", "fire", "gun_of", "shots_section"]

_SHOTS = 6
_DIGITS = (None, (5, 3), (4, 2))
"""Decimals of times, and of places and speeds."""


class Gun(NamedTuple):
    """What a gun's shots do: angles in degrees; 0 for no such drag."""

    speed: float
    angle: float
    gravity: float
    linear: float
    quadratic: float
    order: str
    shows_launch: bool
    muzzle: tuple[float, float]


def gun_of(rng: np.random.Generator) -> Gun:
    """Return a gun of random numbers."""
    drag = str(rng.choice(["none", "linear", "quadratic"]))
    return Gun(
        speed=rng.uniform(12, 28),
        angle=rng.uniform(25, 65),
        gravity=rng.uniform(12, 30),
        linear=rng.uniform(0.3, 1.2) if drag == "linear" else 0.0,
        quadratic=rng.uniform(0.01, 0.03) if drag == "quadratic" else 0.0,
        order=str(rng.choice(["new speed", "old speed", "mean speed"])),
        shows_launch=bool(rng.random() < 0.5),
        muzzle=(rng.uniform(-2, 2), 1.2),
    )


def _step(gun: Gun, place: complex, v: complex, h: float) -> tuple[complex, complex]:
    slowed = v * (-gun.linear - gun.quadratic * abs(v)) - 1j * gun.gravity
    after = v + slowed * h
    by = {"new speed": after, "old speed": v, "mean speed": (v + after) / 2}[gun.order]
    return place + by * h, after


def fire(
    gun: Gun, rng: np.random.Generator, rate: float, uneven: float
) -> tuple[dict[str, np.ndarray[Any, Any]], dict[str, float]]:
    """Return the columns of several shots over level ground at 0, and the median of each truth."""
    rows: list[tuple[float, ...]] = []
    flown: list[tuple[float, float, float]] = []
    time, muzzle = 0.0, complex(*gun.muzzle)
    first = gun.speed * complex(np.exp(1j * math.radians(gun.angle)))
    for _ in range(_SHOTS):
        place, v, began, top = muzzle, first, time, muzzle.imag
        if gun.shows_launch:
            rows.append((time, place.real, place.imag, v.real, v.imag))
        while place.imag > 0:
            h, before = rng.uniform(1 - uneven, 1 + uneven) / rate, place
            place, v = _step(gun, place, v, h)
            time, top = time + h, max(top, place.imag)
            rows.append((time, place.real, place.imag, v.real, v.imag))
        share = before.imag / (before.imag - place.imag)
        met = before + (place - before) * share
        flown.append((time - h + share * h - began, abs(met.real - muzzle.real), top - muzzle.imag))
        time += rng.uniform(0.3, 0.8)
    names = ("flight_time", "range", "apex_height")
    truth = dict(zip(names, np.median(np.array(flown), axis=0).tolist(), strict=True))
    truth |= {"launch_speed": gun.speed, "launch_angle": gun.angle, "gravity": gun.gravity}
    columns = dict(zip(("t", "x", "y", "vx", "vy"), np.array(rows).T, strict=True))
    return columns, truth


def _counted(seed: int) -> Counter[tuple[str, str]]:
    """Count the metrics of a gun's shots that are right within what is stated, or a thousandth."""
    rng, counts = np.random.default_rng(seed), Counter[tuple[str, str]]()
    gun = gun_of(rng)
    columns, truth = fire(gun, rng, float(rng.choice([30, 60, 144])), float(rng.choice([0, 0.1])))
    digits = _DIGITS[int(rng.integers(len(_DIGITS)))]
    if digits is not None:
        columns = {n: np.round(c, digits[n != "t"]) for n, c in columns.items()}
    header = Header(kind="shot", view="side", length_unit="m", extra={"ground": 0.0})
    found = measure(build_take(header, columns, name="shots")).by_metric()
    for name, true in truth.items():
        row = found[f"shot.{name}"]
        if row.value is None:
            counts[name, "none"] += 1
            continue
        off = abs(row.value - true)
        right = off <= max(row.resolution or 0.0, 1e-3 * abs(true))
        counts[name, "right" if right else "wrong"] += 1
    return counts


def shots_section(many: int = 120, seed: int = 0) -> Sequence[str]:
    """Return the page's table."""
    with ProcessPoolExecutor(2) as pool:
        counts = sum(pool.map(_counted, range(seed, seed + many), chunksize=4), Counter())
    lines = ["| metric | right | not told | wrong |", "|---|---|---|---|"]
    for name in sorted({name for name, _ in counts}):
        right, none, wrong = (counts[name, word] for word in ("right", "none", "wrong"))
        lines.append(f"| `shot.{name}` | {right} | {none} | {wrong} |")
    return lines
