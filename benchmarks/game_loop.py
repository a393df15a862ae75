"""A game's loop in plain lines, and its log as games write them; it shares nothing with us.

Random parameters, random hands, frame times even or not, numbers printed to a few digits. Each
frame carries the rule that moved it, so that what is read can be held against what was done.
"""

from collections.abc import Callable
from math import exp
from typing import Any, NamedTuple

import numpy as np

__all__ = ["Log", "Printing", "Rules", "again", "hands", "log_of", "play", "random_rules"]

Hands = Callable[[float], float]


class Rules(NamedTuple):
    """What moves the character: ``movement`` is constant, smoothing or friction.

    ``floor`` is the height of the ground, which need not lie on what heights are printed to;
    ``cut`` multiplies the upward speed once where the button is let go while rising.
    """

    movement: str
    order: str
    top: float
    push: float
    coast: float
    brake: float
    rate: float
    jump: float
    rise: float
    fall: float
    unit: float = 1.0
    floor: float = 0.0
    per_frame: str = ""
    cut: float = 1.0


class Printing(NamedTuple):
    """Decimals of each kind of column, None for all digits; ``dt`` whether it is written."""

    t: int | None = None
    v: int | None = None
    x: int | None = None
    dt: bool = True


class Log(NamedTuple):
    """Columns of a log, and of each frame the rule across and upward that moved it."""

    columns: dict[str, Any]
    across: list[str]
    upward: list[str]


_THETA = {"semi-implicit": 1.0, "explicit": 0.0, "trapezoid": 0.5}


def random_rules(rng: np.random.Generator, movement: str, order: str, unit: float = 1.0) -> Rules:
    """Return rules as games have them; ``unit``: length units to the metre."""
    return Rules(
        movement=movement, order=order,
        top=rng.uniform(4, 11) * unit, push=rng.uniform(18, 60) * unit,
        coast=rng.uniform(15, 45) * unit, brake=rng.uniform(30, 80) * unit,
        rate=rng.uniform(3.5, 10), jump=rng.uniform(8, 15) * unit,
        rise=rng.uniform(22, 50) * unit, fall=rng.uniform(25, 65) * unit, unit=unit,
        floor=rng.uniform(-2, 2) * unit,
    )  # fmt: skip


def hands(rng: np.random.Generator, seconds: float) -> tuple[Hands, Hands]:
    """Return a stick and a jump button as hands move them; the stick turns often."""
    spans, time = [], rng.uniform(0.3, 0.6)
    while time < seconds - 1:
        side = float(rng.choice([-1, 1]))
        stop = time + rng.uniform(0.6, 1.4)
        spans.append((time, stop, side))
        if rng.random() < 0.5:
            spans.append((stop, stop + rng.uniform(0.5, 1.0), -side))
            stop = spans[-1][1]
        time = stop + rng.uniform(0.5, 1.1)
    presses, time = [], rng.uniform(0.8, 1.2)
    while time < seconds - 1.5:
        presses.append((time, time + rng.uniform(0.35, 0.6), 1.0))
        time += rng.uniform(1.0, 2.0)
    return _held(spans), _held(presses)


def again(rng: np.random.Generator, seconds: float, script: int) -> tuple[Hands, Hands]:
    """Return the hands of one script as they play it again: presses ±30 ms, holds ±20 ms."""
    rule = np.random.default_rng(script)
    sticks, buttons = [], []
    for first in np.arange(0.4, seconds - 5.5, 5.8):
        side, hold = float(rule.choice([-1, 1])), float(rule.choice([0.1, 0.14, 0.18]))
        run, back = _late(rng, first, 0.9, side), _late(rng, first + 1.9, 0.8, -side)
        turn = (back[1], back[1] + 0.6 + rng.uniform(-0.02, 0.02), side)
        sticks += [run, back, turn, _late(rng, first + 3.9, 1.6, side)]
        buttons += [_late(rng, first + 1.2, hold, 1.0), _late(rng, first + 4.4, 0.55, 1.0)]
    return _held(sticks), _held(buttons)


def _late(
    rng: np.random.Generator, start: float, lasts: float, value: float
) -> tuple[float, float, float]:
    begin = start + rng.uniform(-0.03, 0.03)
    return begin, begin + lasts + rng.uniform(-0.02, 0.02), value


def _held(spans: list[tuple[float, float, float]]) -> Hands:
    return lambda time: next((v for a, b, v in spans if a <= time < b), 0.0)


def frame_times(
    rng: np.random.Generator, rate: float, seconds: float, uneven: float
) -> np.ndarray[Any, Any]:
    """Return the steps of frames that last as long as each other, or not, by a share."""
    return np.asarray(rng.uniform(1 - uneven, 1 + uneven, round(rate * seconds)) / rate)


def play(rules: Rules, dt: np.ndarray[Any, Any], stick: Hands, button: Hands) -> Log:
    """Run the loop once; rows are written after the update."""
    theta = _THETA[rules.order]
    usual = float(np.median(dt))
    time = x = y = vx = vy = 0.0
    ground, held, rising = True, False, False
    rows, across, upward = [], [], []
    for h in dt.tolist():
        move, jump = stick(time), bool(button(time))
        old = vx
        vx, rule = _moved(rules, vx, move, usual if rules.per_frame == "ground" else h)
        across.append(f"{rule} in the air" if not ground else rule)
        x += h * ((1 - theta) * old + theta * vx)
        rule = ""
        if jump and not held and ground:
            vy, ground, rising, rule = rules.jump, False, True, "takeoff"
        elif not ground:
            rule = "rise" if vy > 0 else "fall"
        if rising and not jump and vy > 0:
            vy, rising = vy * rules.cut, False
        if not ground:
            pull = rules.rise if vy > 0 else rules.fall
            before, vy = vy, vy - pull * (usual if rules.per_frame == "gravity" else h)
            y += h * ((1 - theta) * before + theta * vy)
            if y <= 0 and vy < 0:
                y, vy, ground, rule = 0.0, 0.0, True, "landing"
        upward.append(rule)
        held = jump
        time += h
        rows.append((time, h, x, rules.floor + y, vx, vy, float(ground), move, float(jump)))
    names = ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")
    columns = {n: np.array(c) for n, c in zip(names, zip(*rows, strict=True), strict=True)}
    return Log(columns, across, upward)


def _moved(rules: Rules, v: float, move: float, h: float) -> tuple[float, str]:
    """Return the sideways speed after one update, and the rule's name; "limit" where it ends."""
    goal = move * rules.top
    if rules.movement == "constant":
        if move and v * move < 0:
            rate, rule = rules.brake, "brake"
        else:
            rate, rule = (rules.push, "speed-up") if move else (rules.coast, "coast")
        if abs(goal - v) <= rate * h:
            return goal, "limit"
        return v + (rate if goal > v else -rate) * h, rule
    rule = ("brake" if v * move < 0 else "speed-up") if move else "coast"
    keep = exp(-rules.rate * h)
    if rules.movement == "smoothing":
        after = goal + (v - goal) * keep
    else:
        after = (v + move * rules.top * rules.rate * h) * keep
    still = not move and abs(after) < 0.02 * rules.unit
    return (0.0, "limit") if still else (after, rule)


def log_of(log: Log, printing: Printing) -> dict[str, Any]:
    """Return the columns as a log of so many decimals holds them."""
    places = {"t": printing.t, "dt": printing.t, "x": printing.x, "y": printing.x,
              "vx": printing.v, "vy": printing.v}  # fmt: skip
    out = {}
    for name, column in log.columns.items():
        if name == "dt" and not printing.dt:
            continue
        digits = places.get(name)
        out[name] = column if digits is None else np.round(column, digits)
    return out
