"""Maps of what moves what, and two metrics against each other over all sets."""

from collections.abc import Sequence

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from kickback.motion.segments import BoolArray
from kickback.show.figures.canvas import axis_label, styled_figure
from kickback.takes.take import FloatArray
from kickback.tuning.sweep.moved import MOVES, pairs_of
from kickback.tuning.sweep.record import Elasticity, Swept, Trade

__all__ = ["sensitivity_figure", "trade_figure"]

_ROWS, _COLUMNS = 30, 16
"""Metrics and parameters that fit the map."""

_STRONG = 2.0
"""Elasticity from which colours grow no stronger."""


def sensitivity_figure(result: Swept, headlines: Sequence[str]) -> Figure:
    """Draw by how many per cent each metric moves with one per cent of each parameter."""
    rate = result.rates[0]
    rows = [one for one in result.elasticities if one.rate == rate]
    metrics, left = _chosen(result, rows, headlines)
    knobs = [name for name in result.plan.nudged if name not in result.unmoved][:_COLUMNS]
    values = np.zeros((len(metrics), len(knobs)))
    leaps = np.zeros(values.shape, dtype=bool)
    for one in rows:
        if one.metric in metrics and one.parameter in knobs:
            place = metrics.index(one.metric), knobs.index(one.parameter)
            values[place], leaps[place] = one.value, one.leaps
    with styled_figure() as figure:
        axes = figure.add_subplot()
        _map(figure, axes, values, leaps)
        axes.set_xticks(range(len(knobs)), knobs, rotation=25, ha="right", fontsize=9)
        axes.set_yticks(range(len(metrics)), metrics, fontsize=9)
        text = f"per cent of a metric for one per cent of a parameter, at {rate:g} frames/s"
        text += f"; {left} metrics more in the table" if left else ""
        axes.set_title(text, loc="left", fontsize=12)
    return figure


def _chosen(
    result: Swept, rows: Sequence[Elasticity], headlines: Sequence[str]
) -> tuple[list[str], int]:
    """Return the metrics that fit, in the catalogue's order, and how many that move do not."""
    strength: dict[str, float] = {}
    for one in rows:
        strength[one.metric] = max(strength.get(one.metric, 0.0), abs(one.value))
    order = {name: place for place, name in enumerate(headlines)}
    moved = [name for name, size in strength.items() if size >= MOVES]
    first = sorted(moved, key=lambda name: (order.get(name, len(order)), -strength[name]))[:_ROWS]
    return [name for name in result.units if name in first], len(moved) - len(first)


def _map(figure: Figure, axes: Axes, values: FloatArray, leaps: BoolArray) -> None:
    image = axes.imshow(values, cmap="PuOr_r", vmin=-_STRONG, vmax=_STRONG, aspect="auto")
    axes.grid(visible=False)
    axes.set_xticks(np.arange(values.shape[1] + 1) - 0.5, minor=True)
    axes.set_yticks(np.arange(values.shape[0] + 1) - 0.5, minor=True)
    axes.grid(which="minor", color="white", linewidth=1.5)
    axes.tick_params(which="minor", length=0)
    for (row, column), value in np.ndenumerate(values):
        if abs(value) >= MOVES:
            text = f"{value:+.1f}" + ("~" if leaps[row, column] else "")
            axes.text(
                column,
                row,
                text,
                ha="center",
                va="center",
                fontsize=9,
                color="white" if abs(value) > 0.7 * _STRONG else "#222222",
            )
    bar = figure.colorbar(image, ax=axes, fraction=0.025, pad=0.01)
    bar.set_label("% for 1 %   (~: in leaps of frames; blank: not moved)", fontsize=9)
    bar.outline.set_visible(False)


def trade_figure(result: Swept) -> Figure:
    """Draw two metrics of all sets against each other, coloured by what was varied most widely."""
    trade = result.trades[0]
    first, second = pairs_of(result, trade.first, trade.second, trade.rate)
    name, colours = _coloured(result, trade.first, trade.second, trade.rate)
    with styled_figure() as figure:
        axes = figure.add_subplot()
        low, high = (np.array([band[k] for band in trade.bands]) for k in (2, 3))
        edges = [(band[0], band[1]) for band in trade.bands]
        for (begin, end), least, most in zip(edges, low, high, strict=True):
            axes.fill_between([begin, end], least, most, color="#eef2f6", zorder=0)
        points = axes.scatter(first, second, c=colours, cmap="viridis", s=26, linewidths=0)
        base = result.at(0, trade.rate)
        one, other = base.get(trade.first), base.get(trade.second)
        if one is not None and other is not None:
            axes.scatter(one, other, marker="D", s=90, color="#d55e00", label="as it is", zorder=5)
            axes.legend(loc="best", frameon=False)
        bar = figure.colorbar(points, ax=axes, fraction=0.03, pad=0.01)
        bar.set_label(name)
        bar.outline.set_visible(False)
        axes.set(
            xlabel=axis_label(trade.first, result.units[trade.first]),
            ylabel=axis_label(trade.second, result.units[trade.second]),
        )
        text = (
            f"what can be had together, {trade.sets} of {trade.of} sets at {trade.rate:g} frames/s"
        )
        axes.set_title(text + _not_had(trade), loc="left", fontsize=12)
    return figure


def _not_had(trade: Trade) -> str:
    """Say which ends of two metrics no set has, on a line of its own."""
    none = [one for one in trade.corners if not one.sets]
    word = {True: "high", False: "low"}
    ends = "; ".join(
        f"{word[one.first_high]} {trade.first} with {word[one.second_high]} {trade.second}"
        for one in none
    )
    return f"\nnot to be had: {ends}" if none else ""


def _coloured(result: Swept, first: str, second: str, rate: float) -> tuple[str, FloatArray]:
    """Return the swept parameter that goes most with the second metric, and its values."""
    from scipy.stats import spearmanr

    rows = [
        one
        for one in result.over(rate)
        if None not in (one.metrics.get(first), one.metrics.get(second))
    ]
    other = [one.metrics[second] for one in rows]
    best: tuple[float, str, FloatArray] = (-1.0, "", np.zeros(len(rows)))
    for knob in result.plan.knobs:
        values = [{**result.plan.base, **result.plan.sets[one.number]}[knob.name] for one in rows]
        if knob.swept and len(set(values)) > 1:
            size = abs(float(spearmanr(values, other)[0]))
            if size > best[0]:
                best = (size, knob.name, np.array(values, dtype=np.float64))
    return best[1], best[2]
