"""What can be cleared, in tables of tiles; a level's verdicts; a shot's envelope."""

from collections.abc import Sequence
from itertools import groupby
from typing import TYPE_CHECKING

import numpy as np

from kickback.show.console import Printer
from kickback.show.tables import empty_table, styled
from kickback.takes.plain import PlainDict
from kickback.tuning.reach.record import ALWAYS, NEVER, Envelope, Judged, Level, Reach

if TYPE_CHECKING:
    from rich.table import Table
    from rich.text import Text

__all__ = [
    "envelope_records",
    "level_cases",
    "reach_records",
    "show_envelope",
    "show_level",
    "show_reach",
    "tiles_of",
]

_STYLES = {"clears": "green", "tight": "yellow", "cannot": "bold red"}
_HARD = 4
"""Frames below which a takeoff is marked as hard."""

_STEP_WIDTH, _CELL_WIDTH = 14, 6
"""Characters of the first column of a table of frames, and of each further one."""

_DISTANCES = 16
"""Distances of an envelope that are printed."""


def tiles_of(value: float, tile: float) -> str:
    """Return a length in tiles, without a tail of zeros."""
    return f"{value / tile:.2f}".rstrip("0").rstrip(".")


def show_reach(printer: Printer, result: Reach, shown: list[str]) -> None:
    """Print the widest gap of each way at each step, and the frames of the ways ``shown``."""
    rate = result.rates[0]
    size = f"tiles of {result.tile:g} {result.length}"
    under = (
        "" if result.ceiling is None else f", under a ceiling of {_tiles(result.ceiling, result)}"
    )
    printer.line(f"widest gap that is surely cleared, {rate:g} frames/s, {size}{under}", "bold")
    printer.table(lambda _: _widest(result, rate))
    for way in shown:
        _show_way(printer, result, way, rate)
    printer.line(
        "·: not; ~: only where the run-up's frames fall well; *: not at every frame rate",
        style="dim",
    )
    for way, why in result.missing.items():
        printer.line(f"{way} is left out: {why}", style="dim")


def _show_way(printer: Printer, result: Reach, way: str, rate: float) -> None:
    printer.line()
    printer.line(f"{way}: frames in which the takeoff clears a gap", "bold")
    room = max(1, (printer.width - _STEP_WIDTH) // _CELL_WIDTH)
    printer.table(lambda narrow: _frames(result, way, rate, room if narrow else None))
    for text in _apart(result, way):
        printer.paragraph(text, style="yellow")


def _tiles(value: float, result: Reach) -> str:
    return f"{tiles_of(value, result.tile)} tiles"


def _step(value: float, tile: float) -> str:
    count = value / tile
    return "level" if abs(count) < 1e-9 else f"{count:+.2f}".rstrip("0").rstrip(".")


def _widest(result: Reach, rate: float) -> "Table":
    table = empty_table("step", *result.ways)
    for row in reversed(range(len(result.up))):
        cells = []
        for way in result.ways:
            far = float(result.found[way, rate].farthest[row])
            cells.append("·" if np.isnan(far) else f"{far / result.tile:.2f}")
        table.add_row(_step(float(result.up[row]), result.tile), *cells)
    return table


def _frames(result: Reach, way: str, rate: float, room: int | None) -> "Table":
    """Return the frames of a way; where there is ``room`` for so many gaps, every second or so."""
    found, differs = result.found[way, rate], result.differs(way)
    some = (found.at_best > 0) | differs
    # one gap and one step beyond what is cleared are shown, as a border
    wide = min(len(result.across), int(np.max(np.flatnonzero(some.any(axis=0)), initial=0)) + 2)
    high = min(len(result.up), int(np.max(np.flatnonzero(some.any(axis=1)), initial=0)) + 2)
    columns = range(0, wide, 1 if room is None else -(-wide // room))
    headings = [tiles_of(float(result.across[column]), result.tile) for column in columns]
    table = empty_table("step \\ gap", *headings)
    for row in reversed(range(high)):
        cells = [_cell(result, way, rate, row, column) for column in columns]
        table.add_row(_step(float(result.up[row]), result.tile), *cells)
    return table


def _cell(result: Reach, way: str, rate: float, row: int, column: int) -> "Text":
    state, apart = result.state(way, rate, row, column), bool(result.differs(way)[row, column])
    count = int(result.found[way, rate].surely[row, column])
    text = str(count) if state == ALWAYS else "·" if state == NEVER else "~"
    hard = state != NEVER and count < _HARD
    return styled(f"{text}*" if apart else text, "yellow" if hard or apart else "")


def _apart(result: Reach, way: str) -> list[str]:
    """Say which gaps are cleared at one frame rate and not at another, gaps side by side as one."""
    rates = sorted(result.rates)
    sure = np.array([result.found[way, rate].surely > 0 for rate in rates])
    out = []
    for row in reversed(range(len(result.up))):
        columns = np.flatnonzero(result.differs(way)[row]).tolist()
        keys = {column: (*sure[:, row, column].tolist(),) for column in columns}
        for key, some in groupby(columns, key=keys.__getitem__):
            out.append(_where(result, row, list(some)) + _sides(rates, key))
    return out


def _where(result: Reach, row: int, columns: Sequence[int]) -> str:
    first, last = (
        tiles_of(float(result.across[k]), result.tile) for k in (columns[0], columns[-1])
    )
    step = _step(float(result.up[row]), result.tile)
    gaps = f"gaps of {first} to {last}" if len(columns) > 1 else f"a gap of {first}"
    return f"step {step}, {gaps}"


def _sides(rates: Sequence[float], sure: Sequence[bool]) -> str:
    good, bad = (
        ", ".join(f"{rate:g}" for rate, one in zip(rates, sure, strict=True) if one is side)
        for side in (True, False)
    )
    return f": cleared at {good} frames/s, not for sure at {bad}"


def reach_records(result: Reach) -> list[PlainDict]:
    """Return a flat record for each way, rate and place, and for the widest gap of each step."""
    rows: list[PlainDict] = []
    nothing = dict.fromkeys(("cleared", "frames", "at_best", "late"))
    for (way, rate), found in result.found.items():
        for row, up in enumerate(result.up.tolist()):
            base = {
                "way": way,
                "rate": rate,
                "up": up,
                "up_tiles": up / result.tile,
                "unit": result.length,
            }
            far = float(found.farthest[row])
            wide = _across(None if np.isnan(far) else far, result)
            rows.append({"kind": "widest", **base, **wide, **nothing})
            for column, across in enumerate(result.across.tolist()):
                place = {
                    "cleared": result.state(way, rate, row, column),
                    "frames": int(found.surely[row, column]),
                    "at_best": int(found.at_best[row, column]),
                    "late": int(found.late[row, column]),
                }
                rows.append({"kind": "place", **base, **_across(across, result), **place})
    return rows


def _across(value: float | None, result: Reach) -> dict[str, float | None]:
    return {"across": value, "across_tiles": None if value is None else value / result.tile}


def show_level(printer: Printer, level: Level) -> None:
    """Print each gap of a level with its verdict."""
    printer.table(lambda _: _gaps(level))
    bad = [one for one in level.gaps if one.verdict != "clears"]
    for one in bad:
        printer.paragraph(_said(one, level), style=_STYLES[one.verdict])
    if not bad:
        printer.line("Every gap is cleared, by as many frames as are asked for.", style="green")


def _gaps(level: Level) -> "Table":
    rates = list(level.gaps[0].by_rate)
    table = empty_table(
        "gap", "across", "step", "by", *(f"at {rate:g}" for rate in rates), "asked", "verdict"
    )
    for column in (table.columns[3], table.columns[-1]):
        column.justify = "left"
    for one in level.gaps:
        table.add_row(
            one.gap.name,
            tiles_of(one.gap.across, level.tile),
            _step(one.gap.up, level.tile),
            one.way if one.frames or one.sometimes else "—",
            *(str(count) for count in one.by_rate.values()),
            str(one.gap.frames),
            styled(one.verdict, _STYLES[one.verdict]),
        )
    return table


def _said(one: Judged, level: Level) -> str:
    gap = one.gap
    where = (
        f"{gap.name}: {tiles_of(gap.across, level.tile)} tiles across, {_step(gap.up, level.tile)}"
    )
    if gap.ceiling is not None:
        where += f" under {tiles_of(gap.ceiling, level.tile)}"
    if one.verdict == "tight":
        has = f"{one.way} at {one.rate:g} frames/s has {one.frames} frames for the takeoff"
        return f"{where}: {has}, {gap.frames} are asked for"
    by = f"by {one.way}" if gap.by else "by any way"
    if one.sometimes:
        return f"{where}: only where the run-up's frames fall well, {by}, at {one.rate:g} frames/s"
    return f"{where}: cannot be cleared {by} at {one.rate:g} frames/s"


def level_cases(level: Level) -> list[tuple[str, str, str | None]]:
    """Return a case for each gap."""
    cases = []
    for one in level.gaps:
        text = f"{one.verdict}: {one.frames} frames by {one.way} at {one.rate:g} frames/s"
        failed = None if one.verdict == "clears" else _said(one, level)
        cases.append((one.gap.name, text, failed))
    return cases


def show_envelope(printer: Printer, result: Envelope, tile: float) -> None:
    """Print how high shots get over each distance."""
    printer.line(
        f"how high a shot gets, tiles of {tile:g} {result.length}, from its launch on", "bold"
    )
    printer.table(lambda _: _heights(result, tile))
    far = ", ".join(f"{tiles_of(one, tile)} at {rate:g}" for rate, one in result.level.items())
    printer.line(f"farthest on the level: {far} frames/s")


def _heights(result: Envelope, tile: float) -> "Table":
    rates = list(result.highest)
    table = empty_table("across", *(f"up at {rate:g}" for rate in rates), "elevation")
    for far, k in _rows(result, tile):
        cells = []
        for rate in rates:
            high = float(result.highest[rate][k])
            cells.append("·" if np.isnan(high) else f"{high / tile:+.2f}")
        table.add_row(f"{far / tile:g}", *cells, f"{result.elevation[k]:.1f} deg")
    return table


def _rows(result: Envelope, tile: float) -> list[tuple[float, int]]:
    """Return round distances, and where in the envelope they are."""
    most = float(result.across[-1]) / tile
    step = next(one for one in (1, 2, 5, 10, 20, 50, 100, 10**9) if most / one <= _DISTANCES)
    places = tile * step * np.arange(1, int(most / step) + 1)
    return [(float(one), int(np.argmin(np.abs(result.across - one)))) for one in places]


def envelope_records(result: Envelope) -> list[PlainDict]:
    """Return a flat record for each distance and frame rate."""
    return [
        {
            "rate": rate,
            "across": float(across),
            "highest": float(high),
            "unit": result.length,
            "elevation": float(elevation) if rate == next(iter(result.highest)) else None,
        }
        for rate, heights in result.highest.items()
        for across, high, elevation in zip(result.across, heights, result.elevation, strict=True)
    ]
