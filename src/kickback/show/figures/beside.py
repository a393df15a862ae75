"""What stands beside a motion over time: movements over each other, the ground, and points."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from matplotlib.axes import Axes
from matplotlib.collections import LineCollection
from matplotlib.figure import Figure

from kickback.kinds.picture import Ground, Paths, Picture, Points
from kickback.show.figures.canvas import LINES, axis_label
from kickback.takes.plain import PlainDict
from kickback.workflows.plotting import PlotData

__all__ = ["beside_panels", "draw_beside"]

_ARROW = 0.07
"""Length of the arrow of a full press, as a share of the map."""

_TOP = {"apex": "o", "press": "o"}


def beside_panels(figure: Figure, place: Any, picture: Picture) -> PlainDict:
    """Return the panels beside, by name: the map, the small ones under it, and the facts."""
    small = [
        name
        for name, wanted in (
            ("turns", picture.turns),
            ("paths", picture.paths),
            ("points", picture.points),
        )
        if wanted is not None
    ]
    panels: PlainDict = {}
    if picture.ground is not None:
        cells = place.subgridspec(3, 1, height_ratios=[2.6, 1.7, 1.3])
        panels["ground"] = figure.add_subplot(cells[0])
        beside = cells[1].subgridspec(1, max(1, min(2, len(small))))
        for name, cell in zip(small, beside, strict=False):
            panels[name] = figure.add_subplot(cell)
        panels["facts"] = figure.add_subplot(cells[2])
        return panels
    heights = [1.7] * len(small) if len(small) > 1 else [6.0] * len(small)
    last = 1.2 if len(small) > 1 else 2.3
    cells = place.subgridspec(len(small) + 1, 1, height_ratios=[*heights, last])
    for name, cell in zip([*small, "facts"], cells, strict=True):
        panels[name] = figure.add_subplot(cell)
    return panels


def draw_beside(figure: Figure, panels: PlainDict, data: Sequence[PlotData]) -> None:
    """Draw the movements, points and ground of takes; the ground is the first one's."""
    first, unit = data[0].picture, data[0].motion.take.header.length_unit
    if first.ground is not None:
        _draw_ground(figure, panels["ground"], first.ground, unit)
    for name in ("turns", "paths"):
        if name in panels:
            words, several = getattr(first, name), [getattr(item.picture, name) for item in data]
            _draw_several(panels[name], several)
            none = not any(paths and paths.items for paths in several)
            _label_paths(panels[name], unit, words, none=none)
    if "turns" in panels:
        panels["turns"].set_aspect("equal", adjustable="datalim")
    if "points" in panels:
        _draw_all_points(panels["points"], [item.picture.points for item in data])


def _draw_several(axes: Axes, several: Sequence[Paths | None]) -> None:
    """Draw the movements of takes; the first are the widest, so that they show below the others."""
    for number, paths in enumerate(several):
        if paths is not None:
            width = 2.8 if number == 0 and len(several) > 1 else 1.4
            _draw_paths(axes, paths, LINES[number % len(LINES)], width)


def _draw_paths(axes: Axes, paths: Paths, colour: str, width: float) -> None:
    if paths.limit is not None:
        axes.plot(
            *paths.limit,
            color=colour,
            linewidth=1.0,
            linestyle=(0, (4, 2)),
            alpha=0.7,
            label="reach at that speed",
        )
    if paths.aim is not None:
        axes.plot(*paths.aim, "X", color="#d55e00", markersize=9, label="target")
    if paths.limit is not None or paths.aim is not None:
        axes.legend(loc="upper right", fontsize=8, frameon=False)
    for path in paths.items:
        axes.plot(path.x, path.y, color=colour, linewidth=width, marker=".", markersize=width + 3)
        axes.plot(
            path.x[path.top],
            path.y[path.top],
            _TOP.get(paths.top, "o"),
            color=colour,
            markersize=6,
            markerfacecolor="white",
        )


def _label_paths(axes: Axes, unit: str, words: Paths, *, none: bool) -> None:
    axes.set_title(f"{words.many}, from {words.begin}", loc="left", fontweight="bold")
    axes.set_xlabel(axis_label(words.x, unit))
    axes.set_ylabel(axis_label(words.y, unit))
    axes.axhline(0, color="#999999", linewidth=0.8)
    if none:
        text = f"no {words.many}"
        axes.text(0.5, 0.5, text, transform=axes.transAxes, ha="center", color="#777777")


def _draw_ground(figure: Figure, axes: Axes, ground: Ground, unit: str) -> None:
    """Draw the way over the ground with its speed as a colour, and what was pressed as arrows."""
    points = np.stack((ground.x, ground.y), axis=1)[:, None, :]
    pieces = list(np.concatenate((points[:-1], points[1:]), axis=1))
    way = LineCollection(pieces, cmap="viridis", linewidths=2.4)
    way.set_array(ground.speed[1:])
    way.set_clim(0.0, float(np.nanmax(ground.speed, initial=1e-9)))
    axes.add_collection(way)
    axes.set_aspect("equal", adjustable="datalim")
    axes.margins(0.12)
    axes.autoscale_view()
    size = _ARROW * max(float(np.ptp(ground.x)), float(np.ptp(ground.y)), 1e-9)
    for arrow in ground.arrows:
        axes.annotate(
            "",
            xy=(arrow.x + size * arrow.dx, arrow.y + size * arrow.dy),
            xytext=(arrow.x, arrow.y),
            arrowprops={"arrowstyle": "-|>", "color": "#d55e00", "linewidth": 1.1},
        )
    axes.set_title(f"over the ground, {ground.words}", loc="left", fontweight="bold")
    axes.set_xlabel(axis_label(ground.across, unit))
    axes.set_ylabel(axis_label(ground.along, unit))
    figure.colorbar(way, ax=axes, label=axis_label("speed", ground.unit), pad=0.02)


def _draw_all_points(axes: Axes, several: Sequence[Points | None]) -> None:
    """Draw the points of takes that are of the same thing as the first one's."""
    for number, points in enumerate(several):
        if points and several[0] and points.title == several[0].title:
            _draw_points(axes, points, LINES[number % len(LINES)])
    axes.set_ylim(bottom=0)


def _draw_points(axes: Axes, points: Points, colour: str) -> None:
    if points.line:
        axes.plot(points.x, points.y, color=colour, linewidth=1.4)
    else:
        order = np.argsort(points.x, kind="stable")
        x, y = points.x[order], points.y[order]
        axes.plot(x, y, color=colour, linewidth=0.9, alpha=0.6)
        axes.plot(x, y, "o", color=colour, markersize=5, markerfacecolor="white")
    axes.set_title(points.title, loc="left", fontweight="bold")
    axes.set_xlabel(points.x_label)
    axes.set_ylabel(points.y_label)
