"""Maps of what can be cleared: the edge of each way, and how many frames each place has."""

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from kickback.show.figures.canvas import LINES, axis_label, styled_figure
from kickback.takes.take import FloatArray
from kickback.tuning.reach.record import ALWAYS, NEVER, Envelope, Reach

__all__ = ["envelope_figure", "reach_figure"]

_DASHES = ("-", "--", "-.", ":", (0, (5, 1, 1, 1)))
_SHADES = ((12, "#cfe3f1"), (6, "#e2eef6"), (3, "#fbeed3"), (1, "#f8d9c4"))
"""The least frames of each shade, from the easiest to the hardest."""

_SOMETIMES, _APART = "#f1d5e3", "#b2182b"


def reach_figure(result: Reach, way: str) -> Figure:
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
        axes.legend(
            handles,
            labels,
            loc="upper right",
            frameon=True,
            framealpha=0.95,
            edgecolor="#dddddd",
            title="widest gap, surely",
        )
        where = (
            "" if result.ceiling is None else f", ceiling at {result.ceiling / result.tile:g} tiles"
        )
        axes.set_title(
            f"frames in which the takeoff clears a gap, {way} first, at {rate:g} frames/s{where}",
            loc="left",
            fontsize=12,
            pad=36,
        )
        _key(axes, result)
    return figure


def _cells(axes: Axes, result: Reach, way: str, rate: float) -> None:
    """Draw each place's frames, by the way that is shown or by the next that gets there."""
    wide, high = _spacing(result.across, result.tile), _spacing(result.up, result.tile)
    ways = result.ways[result.ways.index(way) :]
    for row in range(len(result.up)):
        for column in range(len(result.across)):
            able = [one for one in ways if result.state(one, rate, row, column) != NEVER]
            if able or result.differs(way)[row, column]:
                _cell(axes, result, (able[0] if able else way), (rate, row, column), (wide, high))
                if result.differs(way)[row, column]:
                    _apart(axes, result, (row, column), (wide, high))


def _cell(
    axes: Axes, result: Reach, way: str, where: tuple[float, int, int], size: tuple[float, float]
) -> None:
    from matplotlib.patches import Rectangle

    rate, row, column = where
    state, count = result.state(way, rate, row, column), _count(result, way, where)
    across, up = result.across[column] / result.tile, result.up[row] / result.tile
    colour = _SOMETIMES
    if state == ALWAYS:
        colour = next(shade for least, shade in _SHADES if count >= least)
    corner = (across - size[0] / 2, up - size[1] / 2)
    axes.add_patch(Rectangle(corner, *size, color=colour, linewidth=0, zorder=1))
    text = str(count) if state == ALWAYS else "~" if state != NEVER else "·"
    box = {"boxstyle": "round,pad=0.12", "facecolor": colour, "edgecolor": "none"}
    axes.text(
        across,
        up,
        text,
        ha="center",
        va="center",
        fontsize=10,
        zorder=6,
        bbox=box,
        color=LINES[result.ways.index(way) % len(LINES)],
        fontweight="bold",
    )


def _count(result: Reach, way: str, where: tuple[float, int, int]) -> int:
    rate, row, column = where
    return int(result.found[way, rate].surely[row, column])


def _apart(axes: Axes, result: Reach, where: tuple[int, int], size: tuple[float, float]) -> None:
    """Put a frame around a place that is not cleared at every rate."""
    from matplotlib.patches import Rectangle

    across, up = result.across[where[1]] / result.tile, result.up[where[0]] / result.tile
    inner = (across - 0.46 * size[0], up - 0.46 * size[1])
    axes.add_patch(
        Rectangle(
            inner,
            0.92 * size[0],
            0.92 * size[1],
            fill=False,
            zorder=4,
            edgecolor=_APART,
            linewidth=1.6,
        )
    )


def _spacing(values: FloatArray, tile: float) -> float:
    return float(np.min(np.diff(values))) / tile if len(values) > 1 else 1.0


def _edge(axes: Axes, result: Reach, way: str, rate: float, number: int, which: int) -> None:
    """Draw the widest gap of a way over the steps, at a frame rate."""
    label = way if not which else None
    axes.plot(
        result.edges[way, rate] / result.tile,
        result.finely / result.tile,
        label=label,
        zorder=5,
        color=LINES[number % len(LINES)],
        linewidth=2.2 if not which else 1.1,
        linestyle=_DASHES[which % len(_DASHES)],
    )


def _frame(axes: Axes, result: Reach) -> None:
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


def _key(axes: Axes, result: Reach) -> None:
    """Say above the map what its shades and signs are."""
    text = "number: frames for the takeoff by the way of its colour, whatever the run-up"
    text += "    ~: only where its frames fall well"
    if len(result.rates) > 1:
        others = ", ".join(f"{one:g}" for one in result.rates[1:])
        text += f"\nthin dashes: {others} frames/s    red frame: not cleared at every rate"
    axes.text(0.0, 1.012, text, transform=axes.transAxes, fontsize=9, color="#555555")


def envelope_figure(result: Envelope, tile: float) -> Figure:
    """Draw how high shots get over each distance, a line a frame rate, and at which elevation."""
    with styled_figure() as figure:
        axes, below = figure.subplots(2, 1, height_ratios=(3, 1), sharex=True)
        across = result.across / tile
        for number, (rate, high) in enumerate(result.highest.items()):
            label = f"{rate:g} frames/s: {result.level[rate] / tile:.2f} on the level"
            axes.plot(
                across,
                high / tile,
                color=LINES[number % len(LINES)],
                label=label,
                linestyle=_DASHES[number % len(_DASHES)],
                linewidth=1.8,
            )
        first = next(iter(result.highest.values())) / tile
        axes.fill_between(across, first, np.nanmin(first), color="#e8eef4", zorder=0)
        axes.axhline(0.0, color="#888888", linewidth=1.0)
        unit = f"tiles of {tile:g} {result.length}"
        axes.set(ylabel=axis_label("highest over the launch", unit))
        axes.set_title("what a shot reaches", loc="left", fontsize=12)
        axes.legend(loc="upper right", frameon=False)
        known = np.isfinite(first)
        below.plot(across[known], result.elevation[known], color=LINES[0])
        below.set(
            xlabel=axis_label("distance from the launch", unit),
            ylabel=axis_label("by elevation", "deg"),
        )
    return figure
