"""What comparisons say of equal parameter sets, and of sets that differ, played by hands."""

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, NamedTuple

import numpy as np

from benchmarks.game_loop import (
    Printing,
    Rules,
    again,
    frame_times,
    hands,
    log_of,
    play,
    random_rules,
)
from kickback.judging.budgets import parse_budget
from kickback.judging.compare import Comparison, compare
from kickback.takes.build import build_take
from kickback.takes.header import Header
from kickback.takes.take import Take

__all__ = ["Case", "comparing_section", "rules_of", "take_of"]

_SECONDS = 20.0
_GROUPS = ("run", "coast", "brake", "reverse", "turn", "jump", "hop", "fall")
_BUDGETS = {group: parse_budget("2 %") for group in _GROUPS}
_PARAMETERS = {
    "push": "constant",
    "coast": "constant",
    "brake": "constant",
    "rate": "smoothing",
    "top": "smoothing",
    "jump": "friction",
    "rise": "constant",
    "fall": "smoothing",
}
"""Parameters, and a ground movement that uses each."""


class Case(NamedTuple):
    """A comparison: its seed, takes a side, what is changed by which factor, how it is played."""

    seed: int
    takes: int
    field: str = ""
    factor: float = 1.0
    free: bool = False
    exact: bool = False


def rules_of(case: Case) -> Rules:
    """Return the base's rules of a comparison."""
    rng = np.random.default_rng(case.seed)
    movement = _PARAMETERS.get(case.field) or ("constant", "smoothing", "friction")[case.seed % 3]
    order = ("semi-implicit", "explicit", "trapezoid")[case.seed // 3 % 3]
    return random_rules(rng, movement, order)._replace(cut=float(rng.uniform(0.3, 0.6)))


def take_of(rules: Rules, case: Case, number: int) -> Take:
    """Return one take: each is played again, with other hands and other frame times."""
    rng = np.random.default_rng([case.seed, number])
    uneven = 0.0 if case.exact else 0.2
    dt = frame_times(rng, (60, 144)[case.seed % 2], _SECONDS, uneven)
    played = hands(rng, _SECONDS) if case.free else again(rng, _SECONDS, case.seed)
    printing = Printing() if case.exact else Printing(t=4, v=3, x=3)
    header = Header(length_unit="m", drill=None if case.free else "script")
    return build_take(header, log_of(play(rules, dt, *played), printing), name=f"take {number}")


def _compared(case: Case) -> Comparison:
    base = rules_of(case)
    other = (
        base._replace(**{case.field: getattr(base, case.field) * case.factor})
        if case.field
        else base
    )
    first = 0 if case.exact else case.takes  # the same hands, where takes are exact
    sides = [
        [take_of(rules, case, start + k) for k in range(case.takes)]
        for rules, start in ((base, 0), (other, first))
    ]
    return compare(sides[0], sides[1], budgets={} if case.field else _BUDGETS)


def _verdict(case: Case) -> tuple[bool, int, int]:
    """Return whether any metric is called moved, how many are settled, and how many there are."""
    rows = [
        row for row in _compared(case).rows if row.base is not None and row.candidate is not None
    ]
    moved = any(row.verdict in {"changed", "moved", "regressed"} for row in rows if case.field)
    moved |= any(row.verdict == "regressed" for row in rows)
    return moved, sum(row.verdict != "cannot-tell" for row in rows), len(rows)


def _line(pool: ProcessPoolExecutor, what: str, cases: Sequence[Case]) -> str:
    found: list[tuple[bool, int, int]] = list(pool.map(_verdict, cases, chunksize=4))
    moved = float(np.mean([one for one, _, _ in found]))
    settled = sum(n for _, n, _ in found) / sum(n for _, _, n in found)
    return f"| {what} | {len(cases)} | {moved:.1%} | {settled:.0%} |"


def comparing_section(many: int = 1000, seed: int = 7000) -> str:
    """Return the page's table: how often any metric is called moved."""
    lines = ["| played | comparisons | any called moved | metrics that could be told |",
             "|---|---|---|---|"]  # fmt: skip
    plans: list[tuple[str, list[Case]]] = []
    for share, takes in ((0.5, 1), (0.3, 4), (0.2, 8)):
        for free in (False, True):
            n = round(many * share / 2)
            how = "freely" if free else "a script again"
            cases = [Case(seed + k, takes, free=free) for k in range(n)]
            plans.append((f"equal sets, {how}, {takes} a side", cases))
    for field in _PARAMETERS:
        cases = [Case(seed + k, 8, field, 1.05) for k in range(25)]
        plans.append((f"`{field}` 5 % more, 8 a side", cases))
    for field in _PARAMETERS:
        exact: Any = [Case(seed + k, 1, field, 1.01, exact=True) for k in range(40)]
        plans.append((f"`{field}` 1 % more, the same inputs", exact))
    plans.append(
        ("equal sets, the same inputs", [Case(seed + k, 1, exact=True) for k in range(100)])
    )
    with ProcessPoolExecutor(2) as pool:
        lines += [_line(pool, what, cases) for what, cases in plans]
    return "\n".join(lines)
