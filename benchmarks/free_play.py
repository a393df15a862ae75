"""A platform game of plain lines, played freely: ledges, jumps in the air, windows, other hands.

Each game has random numbers, a random world of ledges, steps and gaps, and hands that press when
they please. What the game did in each frame is kept, and held against what a take tells of it.
"""

from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np

from kickback.judging.compare import compare
from kickback.kinds.foot.throws import JUMP_KINDS
from kickback.kinds.measuring import measure
from kickback.metrics.record import Measurements
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.take import Take

__all__ = ["Game", "Jump", "Script", "free_play_section", "play"]

_NAMES = ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")
_GROUPS = {"jump": "jump", "coyote": "coyote_jump", "air": "air_jump", "air 2": "second_air_jump"}
_DIGITS = ((12, 12), (6, 4), (4, 3), (3, 3))
"""Decimals of times, and of places and speeds."""

Numbers = dict[str, float]
Script = tuple[list[tuple[float, float, float]], list[tuple[float, float]]]
"""When the stick is held to which side, and when the button, s."""


class Jump(NamedTuple):
    """A jump that the game made: its kind, the frame, how long after a ledge, s."""

    kind: str
    row: int
    late: float


class Game(NamedTuple):
    """What one play of a game left: its columns, its jumps, and its numbers."""

    columns: dict[str, np.ndarray[Any, Any]]
    jumps: list[Jump]
    numbers: Numbers
    rate: float


def _numbers(rng: np.random.Generator) -> Numbers:
    return {
        "top": rng.uniform(4, 8), "push": rng.uniform(25, 70), "slow": rng.uniform(25, 70),
        "air": rng.uniform(15, 50), "jump": rng.uniform(9, 13), "again": rng.uniform(7, 12),
        "gravity": rng.uniform(24, 40), "falling": rng.uniform(1.0, 1.6),
        "cut": rng.choice([0.4, 0.5, 0.6, 1.0]), "let_go": rng.choice([1.0, 1.0, 2.2]),
        "jumps": rng.choice([0, 1, 1, 2]), "coyote": rng.choice([0.0, 0.08, 0.1, 0.12]),
        "buffer": rng.choice([0.0, 0.08, 0.1, 0.15]), "fastest": rng.uniform(14, 22),
    }  # fmt: skip


def _world(rng: np.random.Generator) -> list[tuple[float, float, float]]:
    """Return pieces of ground: from, to, and how high."""
    found, x, y = [(-50.0, 6.0, 0.0)], 6.0, 0.0
    for _ in range(40):
        x += rng.choice([0.0, 0.0, rng.uniform(0.5, 2.5)])
        y += rng.choice([0.0, rng.uniform(-2.5, -0.4), rng.uniform(0.4, 1.2)])
        found.append((x, x + rng.uniform(2.5, 8.0), y))
        x = found[-1][1]
    return [*found, (x, x + 500.0, y - 1.0)]


def _hands(rng: np.random.Generator, seconds: float) -> Script:
    moves: list[tuple[float, float, float]] = []
    presses: list[tuple[float, float]] = []
    time = 0.3
    while time < seconds:
        lasts = rng.uniform(0.3, 2.5)
        moves.append((time, time + lasts, 1.0 if rng.random() < 0.75 else -1.0))
        time += lasts + rng.choice([0.0, rng.uniform(0.1, 0.6)])
    time = 0.6
    while time < seconds - 1:
        lasts = rng.choice([rng.uniform(0.05, 0.15), rng.uniform(0.2, 0.5)])
        presses.append((time, time + lasts))
        time += lasts + rng.choice([rng.uniform(0.06, 0.3), rng.uniform(0.3, 1.2)])
    return moves, presses


class _Body:
    """The character: where it is, how it moves, and what it may still do."""

    def __init__(self, p: Numbers, ground: list[tuple[float, float, float]]) -> None:
        self.p, self.ground = p, ground
        self.x = self.y = self.vx = self.vy = self.coyote = self.left_at = 0.0
        self.asked, self.left = -9.0, p["jumps"]
        self.stands, self.jumped, self.cuts, self.held = True, False, False, False

    def press(self, time: float, down: bool) -> str:
        """Read the button, and return which jump begins, if any."""
        fresh, self.held = down and not self.held, down
        self.asked = time if fresh else self.asked
        if self.stands:
            return "jump" if fresh or time - self.asked <= self.p["buffer"] else ""
        if not fresh:
            return ""
        if self.coyote > 1e-9 and not self.jumped:
            return "coyote"
        return "air" if self.left > 0 else ""

    def jump(self, kind: str) -> str:
        """Begin a jump; return its kind, with its number in the air."""
        self.left -= kind == "air"
        self.vy = self.p["again"] if kind == "air" else self.p["jump"]
        self.stands, self.jumped, self.cuts = False, True, True
        self.asked, self.coyote = -9.0, 0.0
        return "air 2" if kind == "air" and self.p["jumps"] - self.left == 2 else kind

    def push(self, h: float, move: float) -> None:
        """Change the speeds of a frame."""
        p = self.p
        most = ((p["push"] if move else p["slow"]) if self.stands else p["air"]) * h
        self.vx += max(-most, min(most, move * p["top"] - self.vx))
        if self.cuts and not self.held and self.vy > 0:
            self.vy, self.cuts = self.vy * p["cut"], False
        if not self.stands:
            rising = 1.0 if self.held else p["let_go"]
            pull = p["gravity"] * (p["falling"] if self.vy <= 0 else rising)
            self.vy = max(self.vy - pull * h, -p["fastest"])

    def move(self, h: float, time: float) -> bool:
        """Move by a frame, against what is there; return whether it walked off a ledge."""
        over, before = self.x, self.y
        self.x += self.vx * h
        for a, b, top in self.ground:  # the sides of what is higher
            if self.y < top - 1e-9 and a < self.x < b:
                self.x, self.vx = (a - 1e-6 if over <= a else b + 1e-6), 0.0
        here = [top for a, b, top in self.ground if a - 1e-5 <= self.x <= b + 1e-5]
        if not self.stands:
            self.y, self.coyote = self.y + self.vy * h, self.coyote - h
            under = [top for top in here if before >= top - 1e-9 >= self.y - 1e-9]
            if self.vy <= 0 and under:
                self.y, self.vy, self.stands, self.left = max(under), 0.0, True, self.p["jumps"]
                self.jumped = self.cuts = False
            return False
        if any(abs(top - self.y) < 1e-9 for top in here):
            return False
        self.stands, self.jumped, self.left = False, False, self.p["jumps"]
        self.coyote, self.left_at = self.p["coyote"], time + h
        return True


def play(
    seed: int,
    hand: int = 0,
    *,
    flat: bool = False,
    seconds: float = 20.0,
    script: Script | None = None,
    **own: float,
) -> Game:
    """Play the game of a seed by one hand, or by a ``script``; ``own``: factors of numbers."""
    rng = np.random.default_rng(seed)
    p, ground = _numbers(rng), _world(rng)
    p.update({name: p[name] * factor for name, factor in own.items()})
    rate, uneven = float(rng.choice([30, 60, 144])), float(rng.choice([0.0, 0.1, 0.2]))
    rng = np.random.default_rng([seed, hand])
    moves, presses = _hands(rng, seconds) if script is None else script
    body = _Body(p, [(-500.0, 500.0, 0.0)] if flat else ground)
    rows, jumps, time = [], [], 0.0
    for row, h in enumerate(rng.uniform(1 - uneven, 1 + uneven, int(seconds * rate)) / rate):
        move = next((side for a, b, side in moves if a <= time < b), 0.0)
        kind = body.press(time, any(a <= time < b for a, b in presses))
        if kind:
            jumps.append(Jump(body.jump(kind), row, time - body.left_at))
        body.push(h, move)
        if body.move(h, time) and rng.random() < 0.8:  # it means to jump off the ledge
            late = time + h + rng.uniform(0.0, 0.22)
            presses.append((late, late + rng.uniform(0.05, 0.3)))
        time += h
        state = (body.x, body.y, body.vx, body.vy, float(body.stands))
        rows.append((time, h, *state, move, float(body.held)))
    columns = dict(zip(_NAMES, np.array(rows).T, strict=True))
    return Game(columns, jumps, p, rate)


def _take(game: Game, seed: int) -> Take:
    times, others = _DIGITS[seed % len(_DIGITS)]
    printed = {
        n: np.round(c, times if n in {"t", "dt"} else others) for n, c in game.columns.items()
    }
    return build_take(Header(length_unit="m"), printed, name=f"take {seed}")


def _told(found: Measurements) -> dict[float, str]:
    """Return when jumps began, s, and of which kind they are told to be."""
    starts: dict[float, str] = {}
    for kind in JUMP_KINDS:
        for group in (kind.group, kind.hop):
            shown = found[f"{group}.takeoff_speed"].occurrences
            starts |= {float(at): kind.group for at in shown.start}
    return starts


def _counted(seed: int) -> Counter[tuple[str, str]]:
    """Count the jumps of a game whose kind is told, and what is told of its windows."""
    game = play(seed)
    found, counts = measure(_take(game, seed)), Counter[tuple[str, str]]()
    told, begin = _told(found), game.columns["t"] - game.columns["dt"]
    for jump in game.jumps:
        step = float(game.columns["dt"][jump.row])
        if jump.kind == "coyote" and jump.late < 1.5 * step:
            continue  # a flag that is a frame early tells the same
        near = [kind for at, kind in told.items() if abs(at - begin[jump.row]) < 0.6 * step + 2e-3]
        counts[_GROUPS[jump.kind], "right" if near == [_GROUPS[jump.kind]] else "wrong"] += 1
    for name in ("coyote", "buffer"):
        counts.update(_of_window(found, name, game))
    return counts


def _of_window(found: Measurements, name: str, game: Game) -> Iterator[tuple[str, str]]:
    """Say whether a window's bounds hold what the game had, within two frames."""
    row, true, frame = found[f"{name}.window"], game.numbers[name], 2 / game.rate
    if row.value is not None and row.resolution is not None:
        yield (
            f"{name}.window",
            "right" if abs(row.value - true) <= row.resolution + frame else "wrong",
        )
        return
    words = (row.reason or "").split()
    if words[:2] == ["less", "than"]:
        yield f"{name}.window", "right" if true <= float(words[2]) + frame else "wrong"
    elif words[:2] == ["more", "than"]:
        yield f"{name}.window", "right" if true >= float(words[2]) - frame else "wrong"


class _Change(NamedTuple):
    """What one side has more of, and the metrics of which one shows it where both were played."""

    own: dict[str, float]
    shown_by: tuple[str, ...] = ()


_CHANGES = (
    _Change({}),
    _Change({"jump": 1.08}, ("jump.takeoff_speed", "hop.takeoff_speed")),
    _Change({"gravity": 1.08}, ("jump.apex_height", "hop.apex_height")),
    _Change({"top": 1.08}, ("run.top_speed",)),
    _Change({"push": 1.2}, ("run.time_to_90",)),
    _Change({"slow": 1.2}, ("coast.stop_time",)),
)


class _Found(NamedTuple):
    """Which change it is, whether both sides show it, and whether anything is called changed."""

    change: int
    shown: bool
    told: bool


def _compared(case: tuple[int, int]) -> _Found:
    """Hold two sides of a game against each other, one of them with a change."""
    seed, change = case
    flat, many = seed % 2 == 0, 3 if seed % 3 == 2 else 1
    sides = [
        [_take(play(seed, first + k, flat=flat, **own), seed) for k in range(many)]
        for first, own in ((0, {}), (100, _CHANGES[change].own))
    ]
    rows = compare(*sides).rows
    both = {row.metric for row in rows if None not in (row.base, row.candidate)}
    return _Found(
        change,
        not both.isdisjoint(_CHANGES[change].shown_by) or not change,
        any(row.verdict in {"changed", "lost", "new"} for row in rows),
    )


def free_play_section(many: int = 150, pairs: int = 120, seed: int = 0) -> Sequence[str]:
    """Return the page's tables: jumps and windows, and comparisons of other hands."""
    with ProcessPoolExecutor(2) as pool:
        counts = sum(pool.map(_counted, range(seed, seed + many), chunksize=4), Counter())
        cases = [(seed + k, 0) for k in range(pairs)]
        cases += [(seed + k, 1 + k % (len(_CHANGES) - 1)) for k in range(pairs)]
        found = list(pool.map(_compared, cases, chunksize=2))
    lines = ["| told | right | of |", "|---|---|---|"]
    for name in (*_GROUPS.values(), "coyote.window", "buffer.window"):
        right, wrong = counts[name, "right"], counts[name, "wrong"]
        lines.append(f"| `{name}` | {right} | {right + wrong} |")
    heads = ("each side played by other hands", "anything changed, lost or new", "of",
             "told where both show it", "of")  # fmt: skip
    lines += ["", f"| {' | '.join(heads)} |", "|---" * len(heads) + "|"]
    for place, change in enumerate(_CHANGES):
        here = [one for one in found if one.change == place]
        shown = [one for one in here if one.shown]
        what = ", ".join(f"`{name}` {factor - 1:.0%} more" for name, factor in change.own.items())
        counts_of = f"{sum(o.told for o in here)} | {len(here)} | {sum(o.told for o in shown)}"
        lines.append(f"| {what or 'equal numbers'} | {counts_of} | {len(shown)} |")
    return lines
