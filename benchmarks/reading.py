"""How well laws are read off printed logs: random loops, held against the rules that moved them."""

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from itertools import groupby
from math import exp
from typing import NamedTuple

import numpy as np

from benchmarks.game_loop import Printing, Rules, frame_times, hands, log_of, play, random_rules
from kickback.kinds.recovering import recover_laws
from kickback.takes.build import build_take
from kickback.takes.header import Header

__all__ = ["Read", "Setting", "readings", "section", "settings"]

FEWEST = 12
"""Frames of the longest stretch from which a phase should have a law."""

SECONDS = 10


class Setting(NamedTuple):
    """One log: what moves the character, at which rate, and how it is printed."""

    seed: int
    movement: str
    order: str
    rate: int
    uneven: float
    printing: Printing
    pixels: bool


class Read(NamedTuple):
    """What was read of one phase: ``law`` or ``none``, whether it is right, and by how much.

    ``misses``: of each constant, how many of its standard errors it lies off.
    """

    setting: Setting
    phase: str
    law: str
    right: bool
    misses: tuple[float, ...]


def settings(seed: int, many: int) -> list[Setting]:
    """Return random settings, seeded."""
    rng = np.random.default_rng(seed)
    found = []
    for number in range(many):
        pixels = bool(rng.random() < 0.25)
        printing = Printing(
            t=int(rng.choice([3, 4, 6])), v=int(rng.choice([2, 3, 4])),
            x=0 if pixels else int(rng.choice([2, 3, 4])), dt=bool(rng.random() < 0.5),
        )  # fmt: skip
        found.append(
            Setting(
                seed=1000 * seed + number,
                movement=str(rng.choice(["constant", "smoothing", "friction"])),
                order=str(rng.choice(["semi-implicit", "explicit", "trapezoid"])),
                rate=int(rng.choice([30, 60, 120, 144, 240])),
                uneven=float(rng.choice([0, 0.05, 0.2, 0.4])),
                printing=printing,
                pixels=pixels,
            )
        )
    return found


def _wanted(rules: Rules, setting: Setting) -> dict[str, dict[str, dict[str, float]]]:
    """Return by phase the laws that are right, with their constants."""
    k, h = rules.rate, 1 / setting.rate
    ground: dict[str, dict[str, dict[str, float]]]
    if rules.movement == "constant":
        ground = {
            name: {"constant-acceleration": {"acceleration": value}}
            for name, value in (
                ("speed-up", rules.push), ("coast", -rules.coast), ("brake", -rules.brake)
            )
        }  # fmt: skip
    else:
        ground = {"coast": {"friction": {"rate": k}}}
        kept = exp(-k * h)
        for name, way in (("speed-up", 1), ("brake", -1)):
            push, goal = way * rules.top * k, way * rules.top
            ground[name] = {"smoothing": {"goal": goal, "rate": k}}
            if rules.movement == "friction":  # at an even rate it is a smoothing as well
                goal = push * h * kept / (1 - kept)
                even = {} if setting.uneven else {"goal": goal, "rate": k}
                ground[name] = {"drive": {"acceleration": push, "rate": k}, "smoothing": even}
    air = {f"{name} in the air": laws for name, laws in ground.items()}
    up = {
        name: {"constant-acceleration": {"acceleration": -value}}
        for name, value in (("rise", rules.rise), ("fall", rules.fall))
    }
    return {**ground, **air, **up}


def _longest(labels: Sequence[str], name: str) -> int:
    return max((len(list(run)) for label, run in groupby(labels) if label == name), default=0)


def readings(setting: Setting) -> list[Read]:
    """Return what is read of each phase of a log that is long enough."""
    rng = np.random.default_rng(setting.seed)
    unit = 32.0 if setting.pixels else 1.0
    rules = random_rules(rng, setting.movement, setting.order, unit)
    dt = frame_times(rng, setting.rate, SECONDS, setting.uneven)
    log = play(rules, dt, *hands(rng, SECONDS))
    header = Header(length_unit="px" if setting.pixels else "m")
    laws = recover_laws(build_take(header, log_of(log, setting.printing), name="log"))
    rows = {str(row.phase): row for row in laws.rows}
    found = []
    for phase, options in _wanted(rules, setting).items():
        if max(_longest(log.across, phase), _longest(log.upward, phase)) < FEWEST:
            continue
        row = rows.get(phase)
        if row is None or row.family is None:
            found.append(Read(setting, phase, "none", right=False, misses=()))
            continue
        misses = []
        for name, value in options.get(row.law, {}).items():
            one = row.constant(name)
            misses.append(abs(one.value - value) / max(one.stderr or 0.0, 1e-15 * abs(value)))
        found.append(Read(setting, phase, row.law, row.law in options, tuple(misses)))
    return found


def section(many: int = 600, seed: int = 11) -> str:
    """Return the page's table of how well laws are read, by what makes it hard."""
    with ProcessPoolExecutor(2) as pool:
        every = [one for found in pool.map(readings, settings(seed, many), chunksize=8)
                 for one in found]  # fmt: skip
    lines = ["| logs | phases | have a law | right family | within 1 | within 3 errors |",
             "|---|---|---|---|---|---|", _row("all", every)]  # fmt: skip
    for share in (0, 0.05, 0.2, 0.4):
        chosen = [one for one in every if one.setting.uneven == share]
        lines.append(_row(f"frames uneven by {share:.0%}" if share else "even frames", chosen))
    for places in (3, 4, 6):
        chosen = [one for one in every if one.setting.printing.t == places]
        lines.append(_row(f"`t` to {places} decimals", chosen))
    for places in (2, 3, 4):
        chosen = [one for one in every if one.setting.printing.v == places]
        lines.append(_row(f"velocities to {places} decimals", chosen))
    lines.append(_row("positions in whole pixels", [one for one in every if one.setting.pixels]))
    return "\n".join(lines)


def _row(name: str, reads: Sequence[Read]) -> str:
    told = [one for one in reads if one.law != "none"]
    misses = np.array([miss for one in told if one.right for miss in one.misses])
    shares = (len(told) / len(reads), sum(one.right for one in told) / len(told),
              float(np.mean(misses < 1)), float(np.mean(misses < 3)))  # fmt: skip
    return f"| {name} | {len(reads)} | " + " | ".join(f"{share:.1%}" for share in shares) + " |"
