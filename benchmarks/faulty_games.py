"""Faults of games, put into what a sound one played: which of them a take tells."""

from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np

from benchmarks.free_play import Game, Script, play
from kickback.kinds.examining import examine
from kickback.takes.build import build_take
from kickback.takes.header import Header

__all__ = ["faults_section"]

Columns = dict[str, np.ndarray[Any, Any]]
Fault = Callable[[Columns, float], None]

_SCRIPT: Script = (
    [(0.5, 3.0, 1.0), (3.5, 5.0, -1.0), (5.5, 8.5, 1.0), (9.0, 11.0, -1.0), (11.5, 15.5, 1.0)],
    [(1.2, 1.6), (2.2, 2.6), (4.2, 4.5), (6.0, 6.3), (7.0, 7.4)],
)
"""Runs both ways with jumps on the way, then on the ground alone."""


def _row(c: Columns, time: float) -> int:
    return int(np.searchsorted(c["t"], time))


def _landings(c: Columns) -> list[int]:
    rows: list[int] = (np.flatnonzero(np.diff(c["touch_ground"]) > 0) + 1).tolist()
    return rows


def _takeoffs(c: Columns) -> list[int]:
    rows: list[int] = (np.flatnonzero(np.diff(c["touch_ground"]) < 0) + 1).tolist()
    return rows


def _held(c: Columns, a: int, b: int) -> None:
    """Hold it from frame ``a`` to ``b``; then it speeds up again."""
    top, v = float(np.abs(c["vx"]).max()), 0.0
    c["x"][a : b + 1], c["vx"][a + 1 : b + 1] = c["x"][a], 0.0
    for k in range(b + 1, len(c["x"])):
        h = float(c["dt"][k])
        v += float(np.clip(c["in_move_x"][k] * top - v, -40.0 * h, 40.0 * h))
        c["vx"][k], c["x"][k] = v, c["x"][k - 1] + v * h


def _stuck(*spans: tuple[float, float]) -> Fault:
    def fault(c: Columns, _: float) -> None:
        for start, stop in spans:
            _held(c, _row(c, start), _row(c, stop))

    return fault


def _beside_nothing(c: Columns, _: float) -> None:
    _held(c, _row(c, 12.6), len(c["t"]) - 2)
    c["touch_side"] = 0.0 * c["t"]


def _late(seconds: float, pressed: bool = False) -> Fault:
    def fault(c: Columns, rate: float) -> None:
        for row in _landings(c):
            c["touch_ground"][row : row + int(seconds * rate)] = 0.0
            if pressed:
                c["in_jump"][row + int(0.05 * rate) : row + int(0.12 * rate)] = 1.0

    return fault


def _stays(c: Columns, rate: float) -> None:
    for row in _takeoffs(c):
        c["touch_ground"][row : row + int(0.15 * rate)] = 1.0


def _gone(start: float, stop: float) -> Fault:
    def fault(c: Columns, _: float) -> None:
        c["touch_ground"][_row(c, start) : _row(c, stop)] = 0.0

    return fault


def _inverted(c: Columns, _: float) -> None:
    c["touch_ground"] = 1.0 - c["touch_ground"]


def _sinks(depth: float, frames: int, every: int) -> Fault:
    def fault(c: Columns, _: float) -> None:
        for row in _landings(c)[::every]:
            c["y"][row : row + frames] -= depth

    return fault


def _dips(c: Columns, _: float) -> None:
    for time in (12.1, 12.9, 13.7, 14.3):
        c["y"][_row(c, time)] -= 0.3


def _falls_on(c: Columns, _: float) -> None:
    row = _landings(c)[-1]
    gone = np.cumsum(c["dt"][row:])
    v = c["vy"][row - 1] - 30.0 * gone
    c["y"][row:] = c["y"][row - 1] + np.cumsum(v * c["dt"][row:])
    c["vy"][row:], c["touch_ground"][row:] = v, 0.0
    c["x"][row:] = c["x"][row - 1] + 30.0 * gone  # to where it never stood


def _in_vain(c: Columns, _: float) -> None:
    for time in (12.0, 12.5, 13.0, 13.5):
        c["in_jump"][_row(c, time) : _row(c, time + 0.15)] = 1.0


def _drifts(c: Columns, _: float) -> None:
    row, stop = _row(c, 8.6), _row(c, 8.95)
    c["in_move_x"][row:stop] = 0.0
    speed = np.linspace(0.0, 5.0, stop - row)
    c["vx"][row:stop], c["x"][row:stop] = speed, c["x"][row] + np.cumsum(speed * c["dt"][row:stop])


def _flickers(c: Columns, _: float) -> None:
    c["touch_ground"][40:-40:9] = 0.0


def _leaps(c: Columns, _: float) -> None:
    c["x"][_row(c, 12.5) :] += 9.0


_FAULTS: dict[str, tuple[Fault, set[str]]] = {
    "held at a seam for 1.6 s": (_stuck((12.6, 14.2)), {"input-without-motion", "seam-stop"}),
    "held at a seam for 0.6 s": (_stuck((12.6, 13.2)), {"input-without-motion", "seam-stop"}),
    "held at four seams": (_stuck((12.0, 12.25), (13.0, 13.25), (14.0, 14.25)), {"seam-stop"}),
    "held for good, no contact told": (_beside_nothing, {"input-without-motion", "seam-stop"}),
    "the flag comes 0.12 s late": (_late(0.12), {"contact-late"}),
    "the flag comes late, and presses with it": (_late(0.2, True), {"contact-late"}),
    "the flag stays for 0.15 s": (_stays, {"contact-late"}),
    "the flag is gone for good": (_gone(8.6, 99.0), {"no-fall", "contact-stuck"}),
    "the flag is gone for a second": (_gone(12.0, 13.0), {"no-fall", "contact-stuck"}),
    "the flag says the opposite": (_inverted, {"contact-disagrees"}),
    "the flag flickers": (_flickers, {"contact-flicker"}),
    "drawn into the ground at each landing": (_sinks(0.08, 1, 1), {"sinks-in", "position-glitch"}),
    "drawn in at every third, two frames": (_sinks(0.1, 2, 3), {"sinks-in", "position-glitch"}),
    "drawn into the ground while running": (_dips, {"sinks-in", "position-glitch"}),
    "falls through, and on": (_falls_on, {"falls-on", "fell-through"}),
    "presses in vain": (_in_vain, {"presses-in-vain"}),
    "drifts with no input": (_drifts, {"motion-without-input"}),
    "leaps": (_leaps, {"teleport", "screen-wrap"}),
}


def _codes(game: Game, fault: Fault | None, seed: int) -> set[str]:
    columns = {name: column.copy() for name, column in game.columns.items()}
    if fault is not None:
        fault(columns, game.rate)
    places = (12, 4, 3)[seed % 3]
    printed = {name: np.round(column, places) for name, column in columns.items()}
    return {one.code for one in examine(build_take(Header(length_unit="m"), printed, name="take"))}


def _told(seed: int) -> tuple[dict[str, bool], set[str]]:
    """Return which faults are told of a game, and what is said of the sound one."""
    game = play(seed, flat=True, seconds=16.0, script=_SCRIPT, jumps=0.0)
    return (
        {name: bool(_codes(game, fault, seed) & codes) for name, (fault, codes) in _FAULTS.items()},
        _codes(game, None, seed),
    )


def faults_section(many: int = 24) -> Sequence[str]:
    """Return the page's table of faults."""
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_told, range(many)))
    lines = ["| fault | told | of |", "|---|---|---|"]
    lines += [f"| {name} | {sum(one[name] for one, _ in found)} | {many} |" for name in _FAULTS]
    return [*lines, f"| none, and something is said | {sum(bool(s) for _, s in found)} | {many} |"]
