"""A figure of a group over the frame rate: motions overlaid, and metrics against the rate."""

from collections.abc import Sequence
from typing import Any

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.gridspec import GridSpec

from kickback.causes.cause import Cause
from kickback.framerate.record import FrameRates, OverRate
from kickback.show.figures.canvas import LINES, axis_label, styled_figure
from kickback.workflows.rating import Overlay

__all__ = ["rate_figure"]

_MOST = 6
"""Metrics that fit the figure."""

_VERDICTS = {"breaks": "#b2182b", "drifts": "#2f6690", "steady": "#1b7837"}
_TOO_FAR = "#c2560c"
_DASHES = ("-", "--", "-.", ":", (0, (5, 1)), (0, (1, 1)))


def rate_figure(result: FrameRates, overlays: Sequence[Overlay]) -> Figure:
    """Draw a result's first group: speed and arcs overlaid above, metrics over the rate below.

    Each metric has its values, its limit as the step gets small (dashed) and its budget as
    a band; those that do not hold come first.
    """
    group = result.groups[0]
    items = [item for item in overlays if item.group == group.name]
    rows = _chosen(
        [row for row in result.rows if row.group == group.name],
        items[0].headlines if items else (),
    )
    causes = [cause for name, cause in result.causes if name == group.name]
    with styled_figure() as figure:
        grid = figure.add_gridspec(3, 6, height_ratios=(1.15, 1, 1))
        _motions(figure, grid, items)
        for number, row in enumerate(rows):
            column = 2 * (number % 3)
            axes = figure.add_subplot(grid[1 + number // 3, column : column + 2])
            _metric(axes, row)
        text = "band: the budget; dashed: the limit as the time step gets small"
        figure.text(0.99, 0.985, text, ha="right", va="top", fontsize=9, color="#666666")
        figure.suptitle(_title(group.name, rows, causes), fontsize=11, x=0.01, ha="left")
    return figure


def _chosen(rows: Sequence[OverRate], first: Sequence[str]) -> list[OverRate]:
    """Return the metrics to draw: of what fails the worst of each group, then the headlines."""
    known = [row for row in rows if row.verdict != "cannot-tell" and row.spread is not None]
    held = [row for row in known if not row.beyond]
    order = {name: place for place, name in enumerate(first)}
    held.sort(key=lambda row: order.get(row.name, len(order)))
    return [*_in_turns([row for row in known if row.beyond], first), *held][:_MOST]


def _in_turns(failing: Sequence[OverRate], first: Sequence[str]) -> list[OverRate]:
    """Return metrics with the worst of each group first, then the second worst of each.

    Those that are looked at ``first`` go before others, that are often worse and say less.
    """
    seen: dict[str, int] = {}
    turns = []
    for row in sorted(
        failing, key=lambda row: (row.name in first, _share_moved(row)), reverse=True
    ):
        seen[row.metric_group] = seen.get(row.metric_group, 0) + 1
        turns.append((seen[row.metric_group], row))
    return [row for _, row in sorted(turns, key=lambda item: item[0])]


def _share_moved(row: OverRate) -> float:
    """Return how far a metric moves over the rates, as a share of its size."""
    size = max((abs(item.value) for item in row.values if item.value is not None), default=0.0)
    return (row.spread or 0.0) / size if size else 0.0


def _title(name: str, rows: Sequence[OverRate], causes: Sequence[Cause]) -> str:
    rates = ", ".join(f"{item.rate:.4g}" for item in rows[0].values) if rows else ""
    lines = [f"{name} at {rates} frames/s"]
    findings = [cause for cause in causes if cause.verdict != "note"]
    lines += [f"{cause.name}: {cause.kind.about}" for cause in findings[:3]]
    if not findings:
        lines.append("holds at every rate")
    return "\n".join(lines)


def _motions(figure: Figure, grid: GridSpec, items: Sequence[Overlay]) -> None:
    """Draw the first curves over time and the first movements over each other, a colour a rate."""
    speed, arc = figure.add_subplot(grid[0, :4]), figure.add_subplot(grid[0, 4:])
    items = sorted(items, key=lambda item: item.rate)
    for number, item in enumerate(items):
        look: Any = {
            "color": LINES[number % len(LINES)],
            "linestyle": _DASHES[number % len(_DASHES)],
            "linewidth": 1.4,
            "label": f"{item.rate:.4g}/s",
        }
        for curve in item.picture.curves[:1]:
            speed.plot(curve.t, curve.y, **look)
            speed.set(
                xlabel="time [s]", ylabel=axis_label(curve.label, curve.unit), title=curve.label
            )
        paths = item.picture.paths
        for path in paths.items[:1] if paths else ():
            arc.plot(path.t, path.y, **look)
    words = next((item.picture.paths for item in items if item.picture.paths), None)
    if words is None:
        arc.axis("off")
    else:
        arc.set(
            xlabel=f"since {words.begin} [s]",
            ylabel=axis_label(words.y, items[0].unit),
            title=f"first {words.one}",
        )
    # on the line of the title: inside it would lie on the curves
    speed.legend(loc="lower right", bbox_to_anchor=(1, 1), ncols=len(items), frameon=False)


def _metric(axes: Axes, row: OverRate) -> None:
    """Draw one metric against the rate, with its limit and its budget.

    The band is as high as the budget: values that keep to it lie inside.
    """
    known = [
        (item.rate, item.value, item.resolution or 0.0)
        for item in row.values
        if item.value is not None
    ]
    rate, value, error = (list(part) for part in zip(*known, strict=True))
    too_far = row.verdict == "drifts" and row.beyond
    colour = _TOO_FAR if too_far else _VERDICTS[row.verdict]
    middle = (max(value) + min(value)) / 2
    if row.budget:
        axes.axhspan(middle - row.budget / 2, middle + row.budget / 2, color="#e8eef4", zorder=0)
    if row.limit is not None:
        axes.axhline(row.limit, color="#555555", linewidth=1, linestyle="--")
    axes.errorbar(rate, value, yerr=error, color=colour, marker="o", markersize=5, capsize=3)
    axes.set_xscale("log")
    axes.set_xticks(rate, [f"{one:.4g}" for one in rate])
    axes.minorticks_off()
    _give_room(axes, row, value)
    axes.set(ylabel=str(row.unit), xlabel="frames/s")
    word = row.verdict + (" too far" if too_far else "")
    axes.set_title(f"{row.name}: {word}", color=colour, fontsize=9.5)


def _give_room(axes: Axes, row: OverRate, value: Sequence[float]) -> None:
    """Leave room above and below values, for the budget's band and the limit's line."""
    room = 0.25 * max(max(value) - min(value), row.budget or 0.0, 0.01 * abs(max(value)))
    shown = value if row.limit is None else [*value, row.limit]
    axes.set_ylim(min(shown) - room, max(shown) + room)
