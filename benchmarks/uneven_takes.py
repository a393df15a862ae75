"""How often causes are named from several takes that are each uneven, played by other hands.

The games are plain loops that share nothing with the package: a push toward a speed, a smoothing
or a push against a friction on the ground, jumps and dashes, with one or two mistakes or none.
"""

from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import NamedTuple

import numpy as np

from kickback.framerate.analyse import frame_rates
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.take import FloatArray

__all__ = ["Game", "hands", "run", "uneven_section"]

_REFERENCE = 60.0
"""The frame rate at which what lacks its time step was tuned."""

_MOST = 1 / 90
"""The longest step of a game that clamps it, s."""

SECONDS = 14.0
RATES = {2: (60, 120), 3: (30, 60, 144)}
SPREADS = (0.0, 0.03, 0.12, 0.2)
DIGITS = (None, 3)
HANDS = 1
"""Groups of takes of each game, by other hands."""

_ORDER = {"integration-order"}
"""What each of these games shows by its order, which is no mistake."""

Presses = Callable[[float], tuple[complex, bool, bool]]


class Game(NamedTuple):
    """How a loop moves over the ground, its mistakes, and a dash's speed where it has one."""

    ground: str
    mistakes: tuple[str, ...] = ()
    dash: float = 0.0
    view: str = "side"


_PUSHES = ("acceleration-per-frame", "gravity-per-frame", "position-per-frame", "impulse-times-dt")
_SIDE = (
    *(Game(ground, (), 18.0) for ground in ("push", "smoothing", "friction")),
    *(Game("push", (mistake,)) for mistake in _PUSHES),
    Game("push", ("timer-in-frames",), 18.0),
    *(Game(ground, (mistake,)) for ground in ("smoothing", "friction")
      for mistake in ("factor-per-frame", "first-order-factor")),
    Game("friction", ("acceleration-per-frame",)),
    Game("push", ("acceleration-per-frame", "gravity-per-frame")),
    Game("push", ("gravity-per-frame", "timer-in-frames"), 18.0),
    Game("smoothing", ("factor-per-frame", "gravity-per-frame")),
    Game("friction", ("first-order-factor", "impulse-times-dt")),
)  # fmt: skip
_UP = {"gravity-per-frame", "impulse-times-dt"}
GAMES = (
    *_SIDE,
    *(game._replace(view="3d") for game in _SIDE),
    *(game._replace(view="top") for game in _SIDE if not _UP & {*game.mistakes}),
    Game("push", ("dt-clamped",)),
    Game("friction", ("dt-clamped",), view="3d"),
    Game("push", ("dt-clamped", "gravity-per-frame")),
)


def run(game: Game, steps: FloatArray, presses: Presses) -> dict[str, FloatArray]:
    """Return the columns of a run of a game over time steps, s."""
    top, jump, gravity, rate = 7.0, 12.5, 38.0, 6.0 if game.ground == "friction" else 9.0
    bad, flat = set(game.mistakes), game.view == "top"
    place, v, way = 0j, 0j, 1 + 0j
    y = vy = time = dash_left = 0.0
    ground, held, dash_held, rows = True, False, False, []
    for frame in steps:
        move, button, dash = presses(time)
        h = min(frame, _MOST) if "dt-clamped" in bad else frame
        push = 1 / _REFERENCE if "acceleration-per-frame" in bad else h
        kept = np.exp(-rate * (1 / _REFERENCE if "factor-per-frame" in bad else h))
        kept = max(0.0, 1 - rate * h) if "first-order-factor" in bad else kept
        gap = move * top - v
        if game.ground == "push":
            v = v + gap * min(1.0, 45.0 * push / abs(gap)) if gap else v
        elif game.ground == "smoothing":
            v = move * top - gap * kept
        else:
            v = (v + move * rate * top * push) * kept
        if button and not held and ground and not flat:
            vy, ground = jump * (h * _REFERENCE if "impulse-times-dt" in bad else 1.0), False
        held = button
        counts = "timer-in-frames" in bad
        way = move / abs(move) if move else way
        if dash and not dash_held and game.dash and dash_left <= 0:
            dash_left = round(0.16 * _REFERENCE) if counts else 0.16
        dash_held = dash
        if dash_left > 1e-9:
            v, vy = game.dash * way, 0.0
            dash_left -= 1 if counts else h
        elif not ground:
            vy -= gravity * (1 / _REFERENCE if "gravity-per-frame" in bad else h)
        moved = 1 / _REFERENCE if "position-per-frame" in bad else h
        place, y = place + v * moved, y + vy * moved
        if y <= 0:
            y, vy, ground = 0.0, 0.0, True
        time += frame
        rows.append((time, frame, place.real, place.imag, y, v.real, v.imag, vy, ground, move.real,
                     move.imag, button, dash))  # fmt: skip
    return _columns(game, rows)


def _columns(game: Game, rows: Sequence[tuple[float, ...]]) -> dict[str, FloatArray]:
    """Return what a game of its view logs; one that clamps its steps does not log these."""
    names = ("t", "dt", "x", "z", "y", "vx", "vz", "vy", "touch_ground", "in_move_x", "in_move_y",
             "in_jump", "in_dash")  # fmt: skip
    columns = dict(zip(names, np.array(rows, dtype=float).T, strict=True))
    if game.view == "top":
        columns["y"], columns["vy"] = columns["z"], columns["vz"]
    unused = {"side": {"z", "vz", "in_move_y"}, "top": {"z", "vz", "touch_ground", "in_jump"}}
    left_out = unused.get(game.view, set()) | ({"dt"} if "dt-clamped" in game.mistakes else set())
    return {name: one for name, one in columns.items() if name not in left_out}


def hands(rng: np.random.Generator, view: str) -> Presses:
    """Return presses of a hand, which are never twice alike."""
    spans: list[tuple[str, float, float, complex]] = []
    at = 0.4
    while at < SECONDS - 2:
        long = rng.uniform(0.9, 1.6)
        way = 1 + 0j if rng.random() < 0.6 else -1 + 0j
        if view != "side":  # eight ways of a stick
            way = np.exp(0.25j * np.pi * rng.integers(8))
            way = complex(np.round(way.real, 12), np.round(way.imag, 12))
        spans.append(("move", at, at + long, way))
        if rng.random() < 0.75:
            begin = at + rng.uniform(0.35, 0.7)
            hold = rng.choice([0.09, 0.5]) * rng.uniform(0.9, 1.2)
            spans.append(("jump", begin, begin + hold, 1))
        if rng.random() < 0.4 or at < 1:  # what nobody plays shows no mistake
            begin = at + rng.uniform(0.2, 0.6)
            spans.append(("dash", begin, begin + 0.1, 1))
        at += long + rng.uniform(0.5, 1.0)

    def presses(time: float) -> tuple[complex, bool, bool]:
        now = {name: value for name, a, b, value in spans if a <= time < b}
        return now.get("move", 0j), "jump" in now, "dash" in now

    return presses


class _Setting(NamedTuple):
    game: Game
    spread: float
    digits: int | None
    rates: int
    hands: int


def _named(setting: _Setting) -> tuple[_Setting, set[str], list[set[str]], bool]:
    """Return the causes named of a group of takes, of each alone, and whether the group fails."""
    seed = [GAMES.index(setting.game), int(100 * setting.spread), setting.digits or 0,
            setting.rates, setting.hands]  # fmt: skip
    rng, takes = np.random.default_rng(seed), []
    for rate in RATES[setting.rates]:
        steps = np.full(int(SECONDS * rate), 1 / rate)
        steps *= np.clip(1 + setting.spread * rng.standard_normal(len(steps)), 0.4, 1.9)
        columns: Mapping[str, FloatArray] = run(setting.game, steps, hands(rng, setting.game.view))
        if setting.digits is not None:
            columns = {name: np.round(one, setting.digits) for name, one in columns.items()}
        header = Header(length_unit="m", view=setting.game.view)
        takes.append(build_take(header, columns, name=f"take-{rate}"))
    found = frame_rates(takes)
    alone = [frame_rates([take]).suspicions[0] for take in takes] if setting.spread else []
    sure = [{one.name for one in item.causes if one.confidence == "high"} - _ORDER
            for item in alone]  # fmt: skip
    return setting, {cause.name for _, cause in found.causes} - _ORDER, sure, found.failed


def uneven_section() -> Sequence[str]:
    """Return the section's table."""
    settings = [
        _Setting(game, spread, digits, rates, hands)
        for game in GAMES for spread in SPREADS for digits in DIGITS
        for rates in RATES for hands in range(HANDS)
    ]  # fmt: skip
    counts: dict[tuple[float, int | None], Counter[str]] = defaultdict(Counter)
    with ProcessPoolExecutor() as pool:
        for setting, causes, alone, failed in pool.map(_named, settings, chunksize=4):
            true, count = set(setting.game.mistakes), counts[setting.spread, setting.digits]
            which = "sound" if not true else "mistaken"
            count[which] += 1
            count[f"{which} right"] += causes == true and (bool(true) or not failed)
            count["besides"] += bool(true) and true < causes and causes - true == {"unexplained"}
            count["false"] += bool(causes - true - {"unexplained"})
            count["lost"] += bool((set().union(*alone) & true) - causes)
            if "dt-clamped" not in true:  # that no take tells alone
                count["takes"] += len(alone)
                count["alone right"] += sum(one == true for one in alone)
                count["alone false"] += sum(bool(one - true) for one in alone)
    heads = ("frame times", "printed", "causes right", "also `unexplained`", "sound ones pass",
             "false causes", "lost of those that a take alone names", "one take alone right",
             "one take alone false")  # fmt: skip
    lines = [f"| {' | '.join(heads)} |", "|---" * len(heads) + "|"]
    for (spread, digits), one in sorted(counts.items(), key=str):
        cells = (
            f"uneven by {spread:.0%}" if spread else "even",
            "exactly" if digits is None else f"{digits} decimals",
            f"{one['mistaken right']} of {one['mistaken']}",
            f"{one['besides']}",
            f"{one['sound right']} of {one['sound']}",
            f"{one['false']}",
            f"{one['lost']}",
            f"{one['alone right']} of {one['takes']}" if spread else "",
            f"{one['alone false']}" if spread else "",
        )
        lines.append(f"| {' | '.join(cells)} |")
    return lines
