"""Maps of what can be cleared: the edge of each way, and how many frames each place has."""

from typing import Any

import numpy as np

from kickback.reaching.record import ALWAYS, NEVER, Envelope, Reach
from kickback.show.figures.canvas import LINES, axis_label, styled_figure

__all__ = ["envelope_figure", "reach_figure"]

_DASHES = ("-", "--", "-.", ":", (0, (5, 1, 1, 1)))
_SHADES = ((12, "#cfe3f1"), (6, "#e2eef6"), (3, "#fbeed3"), (1, "#f8d9c4"))
"""The least frames of each shade, from the easiest to the hardest."""

_SOMETIMES, _APART = "#f1d5e3", "#b2182b"


def reach_figure(result: Reach, way: str) -> Any:
    """Draw the edges of all ways, and in the cells of tiles the frames of one of them.

    A cell's middle is its gap and its step; what is cleared at one rate and not at another has
    a frame of its own. Dashed edges of the same colour are other frame rates.
    """
    rate = result.rates[0]
    with styled_figure() as figure:
        axes = figure.add_subplot()
        _cells(axes, result, way, rate)
        for number, name in enumerate(result.ways):
            for which, one in enumerate(result.rates):
                _edge(axes, result, name, one, number, which)
        _frame(axes, result)
        handles, labels = axes.get_legend_handles_labels()
        axes.legend(handles, labels, loc="upper right", frameon=True, framealpha=0.95,
                    edgecolor="#dddddd", title="widest gap, surely")  # fmt: skip
        where = (
            "" if result.ceiling is None else f", ceiling at {result.ceiling / result.tile:g} tiles"
        )
        axes.set_title(
            f"{way}: frames in which the takeoff clears a gap, at {rate:g} frames/s{where}",
            loc="left", fontsize=12, pad=28,
        )  # fmt: skip
        _key(axes, result)
    return figure


def _cells(axes: Any, result: Reach, way: str, rate: float) -> None:
    from matplotlib.patches import Rectangle
    from matplotlib.patheffects import withStroke

    found, differs = result.found[way, rate], result.differs(way)
    wide, high = _spacing(result.across, result.tile), _spacing(result.up, result.tile)
    for row, up in enumerate((result.up / result.tile).tolist()):
        for column, across in enumerate((result.across / result.tile).tolist()):
            state, count = result.state(way, rate, row, column), int(found.surely[row, column])
            if state == NEVER and not differs[row, column]:
                continue
            colour = _SOMETIMES if state != ALWAYS else next(
                shade for least, shade in _SHADES if count >= least
            )  # fmt: skip
            corner = (across - wide / 2, up - high / 2)
            axes.add_patch(Rectangle(corner, wide, high, color=colour, linewidth=0, zorder=1))
            if differs[row, column]:
                inner = (corner[0] + 0.04 * wide, corner[1] + 0.04 * high)
                axes.add_patch(Rectangle(inner, 0.92 * wide, 0.92 * high, fill=False, zorder=4,
                                         edgecolor=_APART, linewidth=1.6))  # fmt: skip
            text = str(count) if state == ALWAYS else "~" if state != NEVER else "·"
            axes.text(
                across,
                up,
                text,
                ha="center",
                va="center",
                fontsize=10.5,
                zorder=6,
                color="#222222",
                path_effects=[withStroke(linewidth=3, foreground=colour)],
            )


def _spacing(values: Any, tile: float) -> float:
    return float(np.min(np.diff(values))) / tile if len(values) > 1 else 1.0


def _edge(axes: Any, result: Reach, way: str, rate: float, number: int, which: int) -> None:
    """Draw the widest gap of a way over the steps, at a frame rate."""
    label = way if not which else None
    axes.plot(
        result.edges[way, rate] / result.tile, result.finely / result.tile, label=label, zorder=5,
        color=LINES[number % len(LINES)], linewidth=2.2 if not which else 1.1,
        linestyle=_DASHES[which % len(_DASHES)],
    )  # fmt: skip


def _frame(axes: Any, result: Reach) -> None:
    across, up = result.across / result.tile, result.up / result.tile
    wide, high = _spacing(result.across, result.tile), _spacing(result.up, result.tile)
    axes.set_xlim(min(0.0, across[0] - wide / 2), across[-1] + wide / 2)
    axes.set_ylim(up[0] - high / 2, up[-1] + high / 2)
    unit = f"tiles of {result.tile:g} {result.length}"
    axes.set(xlabel=axis_label("gap", unit), ylabel=axis_label("step up", unit))
    if len(across) <= 40:
        axes.set_xticks(across)
    if len(up) <= 40:
        axes.set_yticks(up)
    axes.axhline(0.0, color="#888888", linewidth=1.0, zorder=0.5)


def _key(axes: Any, result: Reach) -> None:
    """Say above the map what its shades and signs are."""
    text = (
        "number: frames for the takeoff, whatever the run-up    ~: only where its frames fall well"
    )
    if len(result.rates) > 1:
        others = ", ".join(f"{one:g}" for one in result.rates[1:])
        text += f"    thin dashes: {others} frames/s; red frame: not cleared at every rate"
    axes.text(0.0, 1.012, text, transform=axes.transAxes, fontsize=9, color="#555555")


def envelope_figure(result: Envelope, tile: float) -> Any:
    """Draw how high shots get over each distance, a line a frame rate, and at which elevation."""
    with styled_figure() as figure:
        axes, below = figure.subplots(2, 1, height_ratios=(3, 1), sharex=True)
        across = result.across / tile
        for number, (rate, high) in enumerate(result.highest.items()):
            label = f"{rate:g} frames/s: {result.level[rate] / tile:.2f} on the level"
            axes.plot(across, high / tile, color=LINES[number % len(LINES)], label=label,
                      linestyle=_DASHES[number % len(_DASHES)], linewidth=1.8)  # fmt: skip
        first = next(iter(result.highest.values())) / tile
        axes.fill_between(across, first, np.nanmin(first), color="#e8eef4", zorder=0)
        axes.axhline(0.0, color="#888888", linewidth=1.0)
        unit = f"tiles of {tile:g} {result.length}"
        axes.set(ylabel=axis_label("highest over the launch", unit))
        axes.set_title("what a shot reaches", loc="left", fontsize=12)
        axes.legend(loc="upper right", frameon=False)
        known = np.isfinite(first)
        below.plot(across[known], result.elevation[known], color=LINES[0])
        below.set(xlabel=axis_label("distance from the launch", unit),
                  ylabel=axis_label("by elevation", "deg"))  # fmt: skip
    return figure
