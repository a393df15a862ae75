"""Cars of plain lines, driven by other hands: how often their laws and their mistakes are read.

Three bodies: one that goes along its heading, one that slides and grips, one that turns by its
front wheels. Each draws what pushes and what resists it, how its wheel turns it, what delays that,
and in which order it all acts.
"""

import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np

from kickback.framerate.analyse import frame_rates
from kickback.kinds.recovering import recover_laws
from kickback.laws.record import Law
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.take import Take

__all__ = ["Car", "Span", "car_of", "cars_section", "drive", "hands", "pairs_table"]

_REFERENCE = 1 / 60
"""The step, s, at which what lacks its time step was tuned."""

_COLUMNS = ("t", "dt", "x", "y", "vx", "vy", "heading", "in_throttle", "in_steer", "in_brake")
_SECONDS = 30.0

Span = tuple[float, float, float]
"""From when to when, s, and how far an input is held."""


class Car(NamedTuple):
    """The numbers of a car; 0 where it has no such thing. Angles in degrees.

    ``kept``: speed is kept by ``exp(−k·dt)``; else the first order of that. ``order``: of push,
    drag and rolling: 0 as named, 1 drag, push, rolling, 2 drag, rolling, push.
    """

    body: str
    turn: str
    push: float
    back: float
    brake: float
    drag: float
    quadratic: float
    rolling: float
    top: float
    wheel: float
    yaw: float
    curvature: float
    full: float
    half: float
    lock: float
    grip: float
    kept: bool
    order: int


_RESISTED = ("drag", "drag rolling", "quadratic", "quadratic rolling", "rolling top", "top",
             "drag quadratic rolling")  # fmt: skip
_TURNS = ("yaw", "curvature", "capped", "full", "half")


def car_of(rng: np.random.Generator) -> Car:
    """Return a car of random numbers."""
    what = str(rng.choice(_RESISTED))
    body = str(rng.choice(["along", "gripping", "by front wheels"]))
    lock, long = rng.uniform(20, 35), rng.uniform(2, 3)
    by_wheels = math.degrees(math.tan(math.radians(lock)) / long)
    return Car(
        body=body,
        turn="lock" if body == "by front wheels" else str(rng.choice(_TURNS)),
        push=rng.uniform(8, 20),
        back=rng.uniform(5, 10),
        brake=rng.uniform(15, 35),
        drag=rng.uniform(0.3, 1.2) if "drag" in what else 0.0,
        quadratic=rng.uniform(0.01, 0.05) if "quadratic" in what else 0.0,
        rolling=rng.uniform(1, 4) if "rolling" in what else 0.0,
        top=rng.uniform(12, 22) if "top" in what else 0.0,
        wheel=float(rng.choice([0.0, rng.uniform(4, 12)])),
        yaw=rng.uniform(60, 140),
        curvature=by_wheels if body == "by front wheels" else rng.uniform(6, 14),
        full=rng.uniform(2, 5),
        half=rng.uniform(20, 50),
        lock=lock,
        grip=rng.uniform(3, 10) if body == "gripping" else 0.0,
        kept=bool(rng.random() < 0.5),
        order=int(rng.integers(3)),
    )


def hands(rng: np.random.Generator) -> tuple[list[Span], list[Span], list[Span]]:
    """Return when throttle, wheel and brake are held, which is never twice alike."""
    gas: list[Span] = []
    wheel: list[Span] = []
    brake: list[Span] = []
    time = 0.4
    while time < _SECONDS - 1:
        lasts, what = rng.uniform(1.5, 5), rng.random()
        gas.append((time, time + lasts, 1.0))
        time += lasts
        lasts = rng.uniform(0.4, 2.0)
        if what > 0.8:
            gas.append((time, time + lasts, -1.0))
        elif what > 0.4:
            brake.append((time, time + lasts / 2, 1.0))
        time += lasts
    time = 1.5
    while time < _SECONDS - 1:
        lasts = rng.uniform(0.3, 2.0)
        wheel.append((time, time + lasts, float(rng.choice([-1, 1]))))
        time += lasts + rng.uniform(0.3, 2.5)
    return gas, wheel, brake


def _held(spans: Sequence[Span], time: float) -> float:
    return next((amount for a, b, amount in spans if a <= time < b), 0.0)


class _Body:
    """Where a car is and how it moves; ``bad`` names what lacks its time step."""

    def __init__(self, car: Car, bad: frozenset[str]) -> None:
        self.car, self.bad = car, bad
        self.place, self.v, self.speed = 0j, 0j, 0.0
        self.heading, self.wheel = math.radians(30.0), 0.0

    def step(self, what: str, h: float) -> float:
        """Return the step that a part of the update uses."""
        return _REFERENCE if what in self.bad else h

    def turn(self, h: float) -> None:
        """Turn by the wheel, radians."""
        car, v, w = self.car, self.speed, self.wheel
        rate = {
            "yaw": car.yaw * w,
            "curvature": car.curvature * w * v,
            "capped": max(-car.yaw, min(car.yaw, car.curvature * w * v)),
            "full": car.yaw * w * max(-1.0, min(1.0, v / car.full)),
            "half": car.yaw * w / (1 + abs(v) / car.half),
            "lock": car.curvature * v * math.tan(math.radians(car.lock) * w)
            / math.tan(math.radians(car.lock)),
        }[car.turn]  # fmt: skip
        self.heading += math.radians(rate) * self.step("steering", h)

    def steer(self, asked: float, h: float) -> None:
        """Move the wheel toward what is asked for."""
        rate = self.car.wheel
        kept = math.exp(-rate * self.step("wheel", h))
        if "wheel first order" in self.bad:
            kept = max(0.0, 1 - rate * h)
        self.wheel = asked + (self.wheel - asked) * kept if rate else asked

    def _dragged(self, v: float, h: float) -> float:
        car, step = self.car, self.step("drag", h)
        if car.drag:
            exact = car.kept and "drag first order" not in self.bad
            v *= math.exp(-car.drag * step) if exact else 1 - car.drag * step
        return v - car.quadratic * v * abs(v) * step

    def _slowed(self, v: float, brake: float, h: float) -> float:
        car = self.car
        loss = car.brake * brake * self.step("brake", h) + car.rolling * self.step("rolling", h)
        return math.copysign(max(0.0, abs(v) - loss), v) if v else 0.0

    def drive(self, gas: float, brake: float, h: float) -> None:
        """Change the speed along the heading."""
        car, v = self.car, self.speed
        push = gas * (car.push if gas > 0 else car.back) * self.step("push", h)
        if car.order == 0:
            v = self._slowed(self._dragged(v + push, h), brake, h)
        elif car.order == 1:
            v = self._slowed(self._dragged(v, h) + push, brake, h)
        else:
            v = self._slowed(self._dragged(v, h), brake, h) + push
        self.speed = max(-car.top, min(car.top, v)) if car.top else v

    def advance(self, gas: float, asked: float, brake: float, h: float) -> None:
        """Move on by a frame."""
        car = self.car
        along = complex(math.cos(self.heading), math.sin(self.heading))
        self.steer(asked, h)
        if car.grip:
            self.speed = (self.v * along.conjugate()).real
        if car.order == 0:
            self.turn(h)
            along = complex(math.cos(self.heading), math.sin(self.heading))
        own = self.v * along.conjugate()
        self.speed = own.real if car.grip else self.speed
        self.drive(gas, brake, h)
        aside = own.imag * math.exp(-car.grip * self.step("grip", h)) if car.grip else 0.0
        self.v = complex(self.speed, aside) * along
        if car.order != 0:
            self.turn(h)
            if not car.grip:
                self.v = self.speed * complex(math.cos(self.heading), math.sin(self.heading))
        self.place += self.v * self.step("place", h)


def drive(
    car: Car,
    steps: np.ndarray[Any, Any],
    held: tuple[list[Span], list[Span], list[Span]],
    bad: frozenset[str] = frozenset(),
) -> dict[str, np.ndarray[Any, Any]]:
    """Return the columns of a drive over steps, s."""
    body, rows, time = _Body(car, bad), [], 0.0
    for h in steps.tolist():
        gas, asked, brake = (_held(spans, time) for spans in held)
        body.advance(gas, asked, brake, h)
        time += h
        rows.append((time, h, body.place.real, body.place.imag, body.v.real, body.v.imag,
                     math.degrees(body.heading), gas, asked, brake))  # fmt: skip
    return dict(zip(_COLUMNS, np.array(rows).T, strict=True))


_DIGITS = (None, (6, 4), (4, 3), (3, 2))
"""Decimals of times, and of all else."""


def _take(
    car: Car, seed: Sequence[int], rate: float, uneven: float, digits: tuple[int, int] | None,
    bad: frozenset[str] = frozenset(),
) -> Take:  # fmt: skip
    rng = np.random.default_rng(seed)
    held = hands(rng)
    steps = rng.uniform(1 - uneven, 1 + uneven, int(_SECONDS * rate)) / rate
    columns = drive(car, steps, held, bad)
    if digits is not None:
        columns = {
            name: np.round(one, digits[0] if name in {"t", "dt"} else digits[1])
            for name, one in columns.items()
        }
    header = Header(kind="vehicle", view="top", length_unit="m", subject="car")
    return build_take(header, columns, name=f"take-{rate:g}")


def _truth(car: Car, columns: dict[str, Any]) -> dict[str, float]:
    """Return the constants of how a car turns, by the name that a law has for them.

    But what the drive does not show: a limit that no turn meets, a lock that is full or none.
    """
    turning = np.abs(columns["in_steer"]) > 0
    speed = np.hypot(columns["vx"], columns["vy"])[turning]
    at, limit = car.yaw / car.curvature, "capped_speed" if car.wheel else "full_speed"
    shapes = {
        "yaw": {"yaw_rate": car.yaw},
        "curvature": {"curvature": car.curvature},
        "capped": {"yaw_rate": car.yaw, limit: at},
        "full": {"yaw_rate": car.yaw, "full_speed": car.full},
        "half": {"yaw_rate": car.yaw, "half_speed": car.half},
        "lock": {"curvature": car.curvature, "lock": car.lock},
    }
    found = shapes[car.turn]
    if car.turn == "capped" and np.max(speed) < at:
        found = {"curvature": car.curvature}
    if "full_speed" in found and np.min(speed) > found["full_speed"]:
        found = {"yaw_rate": car.yaw}
    return found if car.wheel else {n: value for n, value in found.items() if n != "lock"}


def _is(law: Law | None, wanted: dict[str, float]) -> str:
    """Say whether a law has these constants, within four standard errors and a five-hundredth."""
    if law is None or law.family is None:
        return "none"
    told = {one.name: one for one in law.constants}
    right = set(wanted) <= set(told) and all(
        abs(told[name].value - value) <= 4 * (told[name].stderr or 0.0) + 2e-3 * abs(value)
        for name, value in wanted.items()
    )
    return "right" if right else "wrong"


def _push_is(law: Law, car: Car, *, rolls: bool) -> str:
    """Say whether a law has a car's push: as such, less what rolls, or as where that leads."""
    net = car.push - (0.0 if rolls else car.rolling)
    if law.law != "smoothing":
        return _is(law, {"acceleration": net})
    kept = law.value("factor")
    goal = net * law.frame / (1 - kept)
    words = {_is(law, {"goal": goal * share}) for share in (1.0, kept)}
    return "right" if "right" in words else "wrong"


def _read(seed: int) -> Counter[tuple[str, str]]:
    """Count what the laws of one drive tell."""
    rng = np.random.default_rng(seed)
    car, counts = car_of(rng), Counter[tuple[str, str]]()
    rate, uneven = float(rng.choice([30, 60, 144])), float(rng.choice([0.0, 0.1, 0.2]))
    take = _take(car, (seed,), rate, uneven, _DIGITS[int(rng.integers(4))])
    laws = {str(law.phase): law for law in recover_laws(take)}
    delayed = " behind a smoothed wheel" if car.wheel else ""
    counts[
        f"turning by {car.turn}{delayed}", _is(laws.get("steer"), _truth(car, take.columns))
    ] += 1
    if car.wheel:
        counts["smoothing of the wheel", _is(laws.get("steer response"), {"rate": car.wheel})] += 1
    if "speed-up" in laws:
        push = laws["speed-up"]
        rolls = any(one.name == "rolling" for one in push.constants)
        told = "none" if push.family is None else _push_is(push, car, rolls=rolls)
        counts["`speed-up`: the push", told] += 1
    for phase, name, value in (
        ("coast", "rate", car.drag), ("coast", "quadratic", car.quadratic),
        ("coast", "rolling", car.rolling), ("grip", "rate", car.grip),
    ):  # fmt: skip
        law = laws.get(phase)
        if not value or law is None:
            continue
        alone = name == "rolling" and law.law == "constant-acceleration"
        wanted = {"acceleration": -value} if alone else {name: value}
        counts[f"`{phase}`: {name}", _is(law, wanted)] += 1
    return counts


class _Mistake(NamedTuple):
    """What lacks its step, the name of its cause, and what a car needs to show it."""

    what: str
    cause: str
    needs: dict[str, object]


_DRAGGED: dict[str, object] = {"drag": 0.8, "quadratic": 0.0, "top": 0.0, "kept": True}
_SMOOTHED: dict[str, object] = {"wheel": 7.0}
_MISTAKES = (
    _Mistake("", "", {}),
    _Mistake("push", "acceleration-per-frame", {}),
    _Mistake("drag", "factor-per-frame", _DRAGGED),
    _Mistake("drag first order", "first-order-factor", _DRAGGED),
    _Mistake("rolling", "acceleration-per-frame", {"rolling": 3.0}),
    _Mistake("brake", "acceleration-per-frame", {}),
    _Mistake("grip", "factor-per-frame", {"body": "gripping", "grip": 6.0, "turn": "yaw"}),
    _Mistake("steering", "steering-per-frame", {}),
    _Mistake("wheel", "factor-per-frame", _SMOOTHED),
    _Mistake("wheel first order", "first-order-factor", _SMOOTHED),
    _Mistake("place", "position-per-frame", {}),
)
_RATES = ((30.0, 60.0, 144.0), (60.0, 144.0), (60.0,))
_GROUPS = ((_RATES[0], 0.0, None), (_RATES[0], 0.0, (4, 3)), (_RATES[0], 0.1, (4, 3)),
           (_RATES[1], 0.2, None), (_RATES[2], 0.2, None), (_RATES[2], 0.2, (4, 3)))  # fmt: skip
"""Rates, how uneven frames are, and decimals."""


_PAIRS = ((1, 6), (1, 7), (2, 7), (4, 5), (5, 7), (6, 7), (7, 8), (1, 8), (2, 5), (6, 8))
"""Mistakes that are made together."""

_Case = tuple[int, tuple[int, ...], int]


def _caused(case: _Case) -> tuple[tuple[int, ...], str]:
    """Return whether a group of drives with mistakes has their causes named, and no other."""
    seed, kinds, group = case
    rng = np.random.default_rng((seed, *kinds))
    mistakes, (rates, uneven, digits) = [_MISTAKES[k] for k in kinds], _GROUPS[group]
    car = car_of(rng)._replace(kept=True)
    for one in mistakes:
        car = car._replace(**one.needs)  # type: ignore[arg-type]
    bad = frozenset(one.what for one in mistakes if one.what)
    wanted = {one.cause for one in mistakes if one.cause}
    takes = [
        _take(car, (seed, *kinds, k), rate, uneven, digits, bad) for k, rate in enumerate(rates)
    ]
    found = frame_rates(takes)
    told = {cause.name for _, cause in found.causes}
    if len(takes) == 1:
        told = {one.name for one in found.suspicions[0].causes if one.confidence == "high"}
    told -= {"integration-order"}
    if told == wanted and (bad or not found.failed):
        return kinds, "right"
    return kinds, "missed" if told < wanted else "otherwise"


def cars_section(many: int = 120, each: int = 4, seed: int = 0) -> Sequence[str]:
    """Return the page's tables: what laws are told, and causes, alone and in pairs."""
    alone = [(k,) for k in range(len(_MISTAKES))]
    with ProcessPoolExecutor(2) as pool:
        counts = sum(pool.map(_read, range(seed, seed + many), chunksize=2), Counter())
    lines = ["| what one take tells | right | of | not told |", "|---|---|---|---|"]
    for what in sorted({what for what, _ in counts}):
        right, wrong, none = (counts[what, word] for word in ("right", "wrong", "none"))
        lines.append(f"| {what} | {right} | {right + wrong + none} | {none} |")
    return [*lines, "", *_causes_table(alone, each, seed), "", *pairs_table(1, seed)]


def pairs_table(each: int = 1, seed: int = 0) -> Sequence[str]:
    """Return the table of two mistakes at once."""
    return _causes_table(_PAIRS, each, seed)


def _causes_table(kinds: Sequence[tuple[int, ...]], each: int, seed: int) -> list[str]:
    """Return a table of groups of takes with each of some mistakes."""
    cases = [(seed + k, one, group) for k in range(each)
             for one in kinds for group in range(len(_GROUPS))]  # fmt: skip
    caused: dict[tuple[int, ...], Counter[str]] = defaultdict(Counter)
    with ProcessPoolExecutor(2) as pool:
        for one, word in pool.map(_caused, cases, chunksize=2):
            caused[one][word] += 1
    lines = ["| without its time step | right | of | one or all missed |", "|---|---|---|---|"]
    for one in kinds:
        words = " and ".join(_MISTAKES[k].what for k in one) or "nothing"
        found = caused[one]
        lines.append(f"| {words} | {found['right']} | {sum(found.values())} | {found['missed']} |")
    return lines
