"""Shots of plain lines: one after the other until they hit, and fire that is held.

Three orders of integration, no drag, a linear or a quadratic one; the first row is the launch or
the state after a step, and between two shots nothing is written. Of held fire the newest shot is
written, also with a mistake.
"""

import math
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np

from kickback.framerate.analyse import frame_rates
from kickback.kinds.measuring import measure
from kickback.kinds.recovering import recover_laws
from kickback.takes.build import build_take
from kickback.takes.header import Header

__all__ = ["Gun", "fire", "gun_of", "shoot", "shots_section"]

_SHOTS = 6
_LASTS = 9.0
"""Seconds for which fire is held."""

_WAITS = 0.37
"""Seconds between two shots."""

_REFERENCE = 60.0
"""The frame rate at which what lacks its time step was tuned."""

_RATES, _UNEVEN = (30.0, 60.0, 144.0), (0.0, 0.1)
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


def shoot(
    gun: Gun, rng: np.random.Generator, rate: float, uneven: float, bad: str = ""
) -> dict[str, np.ndarray[Any, Any]]:
    """Return the columns of fire that is held, where the newest shot is written, with a mistake.

    What lacks its time step is as it should be at the reference rate. A sound timer keeps
    what it overshoots.
    """
    rows: list[tuple[float, ...]] = []
    first = gun.speed * complex(np.exp(1j * math.radians(gun.angle)))
    muzzle, v, number, left, time = complex(*gun.muzzle), 0j, 0, 0.0, 0.0
    place = muzzle
    while time < _LASTS:
        h = rng.uniform(1 - uneven, 1 + uneven) / rate
        held, time = time > 0.5, time + h
        left -= 1 / _REFERENCE if bad == "cadence in frames" else h
        left = left if held else 0.0
        if held and left <= 1e-9:
            place, v, number = muzzle, first, number + 1
            v *= h * _REFERENCE if bad == "launch" else 1.0
            left = _WAITS if bad == "cadence rounded" else left + _WAITS
        elif number:
            place, v = _flown(gun, place, v, h, bad)
        rows.append((time, h, place.real, place.imag, v.real, v.imag, float(held), float(number)))
    names = ("t", "dt", "x", "y", "vx", "vy", "in_fire", "shot")
    return dict(zip(names, np.array(rows).T, strict=True))


def _flown(gun: Gun, place: complex, v: complex, h: float, bad: str) -> tuple[complex, complex]:
    """Return a step of a flight with a mistake: what it lacks is the step of the reference rate."""
    fixed = 1 / _REFERENCE
    fall = -1j * gun.gravity * (fixed if bad == "gravity" else h)
    over = fixed if bad == "drag" else h
    after = v * math.exp(-gun.linear * over) - gun.quadratic * abs(v) * v * over + fall
    by = {"new speed": after, "old speed": v, "mean speed": (v + after) / 2}[gun.order]
    return place + by * (fixed if bad == "place" else h), after


def _told(law: Any) -> dict[str, Any]:
    return {one.name: one for one in law.constants} if law else {}


def _law_counts(seed: int) -> Counter[tuple[str, str]]:
    """Count the constants of a gun's flights that are told and right, within four errors."""
    rng, counts = np.random.default_rng([1, seed]), Counter[tuple[str, str]]()
    gun = gun_of(rng)
    take = _take(gun, rng, _RATES[seed % 3], _UNEVEN[seed % 2], seed % len(_DIGITS), "")
    told = _told(next((law for law in recover_laws(take) if str(law.phase) == "flight"), None))
    truth = {"acceleration": -gun.gravity, "rate": gun.linear, "quadratic": gun.quadratic}
    for name, true in truth.items():
        one = told.get(name)
        if one is None and not true:
            continue
        which = name if true else f"{name} where there is none"
        if one is None:
            counts[which, "none"] += 1
            continue
        right = abs(one.value - true) <= 4 * one.stderr + 2e-3 * abs(true)
        counts[which, "right" if right else "wrong"] += 1
    return counts


def _take(gun: Gun, rng: Any, rate: float, uneven: float, print_: int, bad: str) -> Any:
    columns, digits = shoot(gun, rng, rate, uneven, bad), _DIGITS[print_]
    if digits is not None:
        columns = {n: np.round(c, digits[n not in {"t", "dt"}]) for n, c in columns.items()}
    return build_take(Header(view="side", length_unit="m"), columns, name=f"take-{rate:g}")


BAD = {
    "": (),
    "gravity": ("gravity-per-frame",),
    "drag": ("factor-per-frame", "acceleration-per-frame"),
    "place": ("position-per-frame",),
    "launch": ("impulse-times-dt",),
    "cadence in frames": ("timer-in-frames",),
    "cadence rounded": ("cadence-rounded",),
}
"""What a gun may lack, and what that is called: one of these."""


def _mistake_counts(job: tuple[str, int]) -> Counter[tuple[str, str]]:
    """Count groups whose mistake is named, and no other."""
    bad, seed = job
    rng, counts = np.random.default_rng([2, seed]), Counter[tuple[str, str]]()
    gun = gun_of(rng)
    if bad == "drag" and not gun.linear + gun.quadratic:
        gun = gun._replace(linear=0.7)
    rates = (_RATES, _RATES[::2], _RATES[1:2])[seed % 3]
    uneven = _UNEVEN[seed % 2] if len(rates) > 1 else 0.1
    takes = [_take(gun, rng, rate, uneven, seed // 2 % len(_DIGITS), bad) for rate in rates]
    found = frame_rates(takes)
    named = {cause.name for _, cause in found.causes}
    named |= {cause.name for one in found.suspicions for cause in one.causes}
    named -= {"integration-order"}
    right = named <= {*BAD[bad]} and bool(named) == bool(BAD[bad])
    counts[bad or "nothing", "right" if right else ", ".join(sorted(named)) or "none"] += 1
    return counts


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
    """Return the page's tables."""
    jobs = [(bad, k) for bad in BAD for k in range(many // 5)]
    with ProcessPoolExecutor(2) as pool:
        counts = sum(pool.map(_counted, range(seed, seed + many), chunksize=4), Counter())
        laws = sum(pool.map(_law_counts, range(many), chunksize=4), Counter())
        mistakes = sum(pool.map(_mistake_counts, jobs, chunksize=4), Counter())
    return [
        *_table("metric", [(f"`shot.{name}`", name) for name in _names(counts)], counts),
        "",
        *_table("constant of the flights", [(name, name) for name in _names(laws)], laws),
        "",
        *_table("without its time step", [(name or "nothing",) * 2 for name in BAD], mistakes),
    ]


def _names(counts: Counter[tuple[str, str]]) -> list[str]:
    return sorted({name for name, _ in counts})


def _table(
    head: str, rows: Sequence[tuple[str, str]], counts: Counter[tuple[str, str]]
) -> list[str]:
    lines = [f"| {head} | right | not told | wrong |", "|---|---|---|---|"]
    for shown, name in rows:
        own = {word: many for (whose, word), many in counts.items() if whose == name}
        right, none = own.pop("right", 0), own.pop("none", 0)
        lines.append(f"| {shown} | {right} | {none} | {sum(own.values())} |")
    return lines
