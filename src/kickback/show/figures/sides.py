"""A figure of a comparison: moves before and after over each other, changes in their budgets."""

import math
import textwrap
from collections.abc import Sequence
from typing import Any

from matplotlib.axes import Axes
from matplotlib.figure import Figure

from kickback.judging.compare import MetricChange
from kickback.show.figures.canvas import axis_label, styled_figure
from kickback.workflows.comparing import Compared
from kickback.workflows.overlaying import LaidOver

__all__ = ["sides_figure"]

_BEFORE: Any = {"color": "#333333", "linestyle": "-", "linewidth": 2.2}
_AFTER: Any = {"color": "#d55e00", "linestyle": "--", "linewidth": 1.6}
_BAND = "#dde6ee"
_FAILS, _MOVED = "#8c1515", "#d55e00"

_WIDE = 120
"""Characters of a line of the words above."""

_FAR = 1000
"""Budgets beyond which no number is told."""

_MOST = 16
"""Bars that fit."""

_LONGEST = 6.0
"""Budgets that a bar is as long as, at most."""


def sides_figure(compared: Compared, moves: Sequence[LaidOver]) -> Figure:
    """Draw moves of both sides from the moment of the press, and the changes in budgets.

    The sides differ by line and by lightness, so that they are told apart in grey.
    """
    result = compared.result
    with styled_figure() as figure:
        grid = figure.add_gridspec(3, 3, width_ratios=(1, 1, 1.15))
        for number, one in enumerate(moves[:6]):
            _move(figure.add_subplot(grid[number // 2, number % 2]), one)
        _bars(figure.add_subplot(grid[:, 2]), result.worst)
        lines = [
            figure.axes[0].plot([], [], label=name, **look)[0]
            for name, look in ((result.base, _BEFORE), (result.candidate, _AFTER))
        ]
        figure.legend(handles=lines, loc="upper right", ncols=2, frameon=False)
        words = textwrap.wrap(compared.words, _WIDE)
        title = "\n".join([f"{result.base} → {result.candidate}", *words])
        figure.suptitle(title, fontsize=11, x=0.01, ha="left")
    return figure


def _move(axes: Axes, one: LaidOver) -> None:
    """Draw one move of both sides, with the budget of its metric as a band about the base."""
    row = one.row
    if row is not None and row.base is not None:
        low, high = row.base - row.allowed_down, row.base + row.allowed_up
        if high - low < float("inf"):
            (axes.axvspan if one.move.across else axes.axhspan)(low, high, color=_BAND, zorder=0)
    for trace, look in ((one.base, _BEFORE), (one.candidate, _AFTER)):
        if trace is not None:
            axes.plot(trace.t, trace.y, **look)
    axes.axvline(0, color="#999999", linewidth=0.8)
    axes.set(xlabel="since the press or release [s]", ylabel=axis_label(one.move.drawn, one.unit))
    said = f"{one.move.name}: {row.metric} {row.verdict}" if row is not None else one.move.name
    if row is not None and row.change_relative is not None:
        said += f" {row.change_relative + 0.0:+.1%}"
    axes.set_title(said, fontsize=9.5, color=_FAILS if row is not None and row.fails else "black")


def _bars(axes: Axes, rows: Sequence[MetricChange]) -> None:
    """Draw changes in units of their budgets, the largest first; the budget is the band."""
    shown, rest = _to_show(rows)
    axes.axvspan(-1, 1, color=_BAND, zorder=0)
    for place, row in enumerate(shown):
        size = math.copysign(min(row.over, _LONGEST), row.change or 0.0)
        colour, hatch = (_FAILS, "///") if row.fails else (_MOVED, None)
        axes.barh(place, size, edgecolor="white", height=0.62, color=colour, hatch=hatch)
        beyond = f"{row.over:.3g}×" if row.over < _FAR else "≫"
        text = f"{row.change_relative:+.1%} ({beyond})"
        axes.text(max(size, 0.0) + 0.15, place, text, va="center", fontsize=8)
    axes.axvline(0, color="#333333", linewidth=0.8)
    axes.set_yticks(range(len(shown)), [row.metric for row in shown], fontsize=8.5)
    axes.set_ylim(max(len(shown), 4) - 0.4, -0.6)
    axes.set_xlim(-_LONGEST * 1.1, _LONGEST * 1.6)
    axes.grid(visible=False, axis="y")
    axes.set(xlabel="change in budgets (band: within); hatched: fails")
    axes.set_title(f"changes; {rest}" if rest else "changes", fontsize=9.5, color="#444444")


def _to_show(rows: Sequence[MetricChange]) -> tuple[list[MetricChange], str]:
    """Return the rows that fit, what fails and the largest first, and a word on the others."""
    known = [row for row in rows if row.change is not None and row.change_relative is not None]
    moved = [row for row in known if row.verdict not in {"same", "met"}]
    moved.sort(key=lambda row: (not row.fails, -row.over))
    shown = moved[:_MOST]
    counts = ((len(moved) - len(shown), "more moved"), (len(known) - len(moved), "as before"))
    return shown, ", ".join(f"{many} {what}" for many, what in counts if many)
