"""Figures: motion over time with phases and events, and the arcs of jumps."""

import textwrap
from collections.abc import Sequence
from typing import Any

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

from kickback.findings.finding import Finding
from kickback.kinds.picture import Curve
from kickback.show.figures.beside import beside_panels, draw_beside
from kickback.show.figures.canvas import LINES, axis_label, styled_figure
from kickback.takes.plain import PlainDict
from kickback.workflows.plotting import PlotData

__all__ = ["motion_figure"]

_MOST_CODES = 8
"""Kinds of findings that have a strip of their own."""

_FACTS, _FACTS_WIDE = 58, 84
"""Characters of a line of facts, beside a side view and beside a plane's."""

_EXACT = 1e-6
"""Share of the highest speed below which a misfit is drawn as none."""

PHASES = {
    "rest": "#e8e8e8",
    "speed-up": "#b7dfb0",
    "cruise": "#d9edc2",
    "coast": "#cfe3f5",
    "brake": "#f7c9b6",
    "reverse": "#e6c3e0",
    "turn": "#d3b5e5",
    "still": "#f4f4f4",
    "dash": "#f2d16b",
    "grounded": "#ddd5c8",
    "rise": "#fbe7a8",
    "fall": "#c5d8ef",
    "veer": "#bfe3df",
}
SEVERITIES = {"error": "#b2182b", "warning": "#e08214", "note": "#6a9fc0"}
MARKS = {"takeoff": "^", "apex": "o", "landing": "v", "ledge": "s", "launch": "^", "hit": "v"}
OTHER_PHASES = ("#cfe3f5", "#fbe7a8", "#b7dfb0", "#e6c3e0", "#f7c9b6", "#ddd5c8")
OTHER_MARKS = ("o", "s", "D", "P", "X", "*")


def motion_figure(data: Sequence[PlotData]) -> Figure:
    """Draw takes over each other: curves, inputs and phases over time, movements beside.

    Panels, phases, inputs and findings are the first take's where there are several.
    """
    first = data[0]
    found = _by_code(first)
    with styled_figure() as figure:
        order, heights = _layout(first, len(found))
        wide = 1.35 if first.picture.ground else 2.6
        halves = figure.add_gridspec(1, 2, width_ratios=[wide, 1.0])
        rows = _panels(figure, halves[0], order, heights)
        rows |= beside_panels(figure, halves[1], first.picture)
        if first.residuals is not None:
            _draw_residuals(rows["misfit"], first)
        if found:
            _draw_findings(rows["findings"], first, found)
        for number, item in enumerate(data):
            # the first is the widest, so that it shows where the others lie on it
            width = 2.8 if number == 0 and len(data) > 1 else 1.4
            _draw_take(rows, item, LINES[number % len(LINES)], width)
        _draw_inputs(rows["inputs"], first)
        _draw_phases(rows["phases"], first)
        for curve in first.picture.curves:
            _phase_bands(rows[curve.label], first, curve.role)
        _finish(rows, order, data)
        draw_beside(figure, rows, data)
        return figure


def _layout(item: PlotData, codes: int) -> tuple[list[str], list[float]]:
    """Return the panels over time, from the top, and their heights."""
    rows = [(curve.label, 1.1 if curve.strip else 3.0) for curve in item.picture.curves]
    if item.residuals is not None:
        rows.append(("misfit", 1.6))
    high = max(1.1, 0.3 * len(item.picture.inputs))
    rows += [("inputs", high), ("phases", 0.1 + 0.5 * len(_tracks(item)))]
    if codes:
        rows.append(("findings", 0.2 + 0.3 * codes))
    return [name for name, _ in rows], [high for _, high in rows]


def _tracks(item: PlotData) -> list[str]:
    """Return the tracks that have phases, or might in another take."""
    return [role for role in item.roles if role in {phase.track for phase in item.phases}]


def _panels(
    figure: Figure, place: Any, order: Sequence[str], heights: Sequence[float]
) -> PlainDict:
    """Return the panels over time, which share it."""
    rows: PlainDict = {}
    for name, cell in zip(
        order, place.subgridspec(len(order), 1, height_ratios=heights), strict=True
    ):
        rows[name] = figure.add_subplot(cell, sharex=rows.get(order[0]))
    return rows


def _colours(item: PlotData) -> dict[str, str]:
    """Return the colour of each phase that a take shows, in the order of the known ones."""
    seen = list(dict.fromkeys(phase.name for phase in item.phases))
    others = [name for name in seen if name not in PHASES]
    spare = {name: OTHER_PHASES[at % len(OTHER_PHASES)] for at, name in enumerate(others)}
    return {name: colour for name, colour in PHASES.items() if name in seen} | spare


def _signs(item: PlotData) -> dict[str, str]:
    """Return the sign of each event that is marked."""
    names = dict.fromkeys(marks.name for curve in item.picture.curves for marks in curve.marks)
    return {
        name: MARKS.get(name, OTHER_MARKS[at % len(OTHER_MARKS)]) for at, name in enumerate(names)
    }


def _by_code(item: PlotData) -> dict[str, list[Finding]]:
    """Return the findings by their code, the worst code first."""
    grouped: dict[str, list[Finding]] = {}
    for finding in item.findings:
        grouped.setdefault(finding.code, []).append(finding)
    return dict(list(grouped.items())[:_MOST_CODES])


def _draw_beside(axes: Axes, curve: Curve, colour: str) -> None:
    """Draw what a quantity is held against, dashed, and say which is which."""
    if curve.beside is None:
        return
    axes.plot(curve.t, curve.beside, color=colour, linewidth=1.0, linestyle=(0, (4, 2)), alpha=0.8)
    text = f"{curve.names[0]} (line) against {curve.names[1]} (dashed)"
    axes.text(0.005, 0.04, text, transform=axes.transAxes, ha="left", va="bottom", fontsize=8)


def _draw_residuals(axes: Axes, item: PlotData) -> None:
    """Draw what each law leaves of its steps, a colour a phase."""
    residuals, take = item.residuals or (), item.motion.take
    for number, one in enumerate(residuals):
        colour = LINES[number % len(LINES)]
        axes.plot(one.t, one.v, ".", markersize=3.5, color=colour, label=one.phase)
    axes.set_ylabel(f"misfit [{take.header.length_unit}/s]")
    axes.axhline(0, color="#999999", linewidth=0.8)
    axes.tick_params(labelbottom=False)
    if residuals:
        axes.legend(loc="upper right", ncols=len(residuals), fontsize=7.5, framealpha=0.9)
        top = max(float(np.max(np.abs(one.v), initial=0.0)) for one in residuals)
        sizes = [float(np.nanmax(np.abs(curve.y))) for curve in item.picture.curves[:1]]
        top = max(top, *(_EXACT * size for size in sizes))
        axes.set_ylim(-1.9 * top - 1e-15, 2.6 * top + 1e-15)
    else:
        axes.text(0.5, 0.5, "no laws", transform=axes.transAxes, ha="center", color="#777777")


def _draw_findings(axes: Axes, item: PlotData, found: dict[str, list[Finding]]) -> None:
    """Draw a strip for each code, over the frames that it is about; short ones as marks."""
    motion = item.motion
    least = 0.004 * float(motion.t[-1] - motion.begin[0])
    for row, findings in enumerate(found.values()):
        for one in findings:
            low, high = float(motion.begin[one.start]), float(motion.t[one.stop - 1])
            colour = SEVERITIES[one.severity]
            axes.barh(row, max(high - low, least), left=low, height=0.7, color=colour, linewidth=0)
    axes.set_yticks(range(len(found)), list(found), fontsize=8)
    axes.set_ylim(len(found) - 0.4, -0.6)


def _draw_take(rows: PlainDict, item: PlotData, colour: str, width: float) -> None:
    signs = _signs(item)
    for curve in item.picture.curves:
        if curve.label not in rows:
            continue
        axes = rows[curve.label]
        axes.plot(curve.t, curve.y, color=colour, linewidth=width, label=item.motion.take.name)
        if curve.beside is not None:
            _draw_beside(axes, curve, colour)
        for marks in curve.marks:
            axes.plot(
                marks.t,
                marks.y,
                signs[marks.name],
                color=colour,
                markersize=6,
                markerfacecolor="white",
                markeredgewidth=1.2,
            )


def _draw_inputs(axes: Axes, item: PlotData) -> None:
    """Draw each input as a strip of its own."""
    strips = list(reversed(item.picture.inputs))
    for row, strip in enumerate(strips):
        axes.fill_between(
            item.motion.begin,
            row,
            row + 0.38 * strip.values,
            step="post",
            color="#555555",
            linewidth=0,
        )
    axes.set_yticks(range(len(strips)), [strip.name for strip in strips])
    axes.set_ylim(-0.6, max(len(strips) - 0.4, 0.6))
    if not strips:
        axes.text(
            0.5,
            0.5,
            "no inputs recorded",
            transform=axes.transAxes,
            ha="center",
            va="center",
            color="#777777",
        )


def _draw_phases(axes: Axes, item: PlotData) -> None:
    """Draw the phases as a labelled strip a track; labels only where they fit."""
    tracks = list(reversed(_tracks(item)))
    axes.set_yticks(range(len(tracks)), tracks)
    axes.set_ylim(-0.5, len(tracks) - 0.5)
    axes.grid(visible=False)
    if any(phase.inferred for phase in item.phases):
        axes.set_title("phases marked ~ are inferred", fontsize=8, loc="right", color="#777777")
    begin, t, colours = item.motion.begin, item.motion.t, _colours(item)
    whole = float(t[-1] - begin[0])
    for phase in item.phases:
        low, high = float(begin[phase.start]), float(t[phase.stop - 1])
        row = tracks.index(phase.track)
        axes.barh(row, high - low, left=low, height=0.8, color=colours[phase.name], linewidth=0)
        name = ("~" if phase.inferred else "") + phase.name
        if high - low > 0.0095 * whole * len(name):
            axes.text(
                (low + high) / 2,
                row,
                name,
                ha="center",
                va="center",
                fontsize=7.5,
                color="#333333",
                clip_on=True,
            )


def _phase_bands(axes: Axes, item: PlotData, role: str) -> None:
    """Tint a panel's background with the phases of its track."""
    t, colours = item.motion.t, _colours(item)
    for phase in item.phases:
        if phase.track == role and phase.name not in item.picture.still:
            low = float(t[max(phase.start - 1, 0)])
            high = float(t[phase.stop - 1])
            axes.axvspan(low, high, color=colours[phase.name], alpha=0.55, linewidth=0)


def _finish(rows: PlainDict, order: Sequence[str], data: Sequence[PlotData]) -> None:
    """Label the panels, which lie in this order."""
    picture = data[0].picture
    for curve in picture.curves:
        rows[curve.label].set_ylabel(
            axis_label(curve.label, curve.unit).replace(" ", "\n")
            if curve.strip
            else axis_label(curve.label, curve.unit),
            **({"fontsize": 7} if curve.strip else {}),
        )
    rows[order[-1]].set_xlabel("time [s]")
    for name in order[:-1]:
        rows[name].tick_params(labelbottom=False)
    names = [item.motion.take.name for item in data]
    title = names[0] if len(names) == 1 else "phases and inputs: " + names[0]
    top = rows[order[0]]
    top.set_title(title, loc="left", fontweight="bold")
    if len(names) > 1 and picture.curves:
        top.legend(loc="upper right", framealpha=0.9)
    begin, end = float(data[0].motion.begin[0]), max(float(item.motion.t[-1]) for item in data)
    top.set_xlim(begin, end)
    _legend(rows["facts"], data)


def _legend(axes: Axes, data: Sequence[PlotData]) -> None:
    """Explain marks and colours, and say what each take's motion stands on."""
    axes.axis("off")
    axes.set(xlim=(0, 1), ylim=(0, 1))
    for place, (name, mark) in enumerate(_signs(data[0]).items()):
        left = 0.02 + 0.26 * place
        axes.plot(left, 0.95, mark, color="#555555", markerfacecolor="white")
        axes.text(left + 0.035, 0.95, name, va="center", fontsize=8.5)
    for place, (name, colour) in enumerate(_colours(data[0]).items()):
        left, low = 0.26 * (place % 4), 0.77 - 0.13 * (place // 4)
        axes.add_patch(Rectangle((left, low - 0.04), 0.045, 0.08, color=colour, linewidth=0))
        axes.text(left + 0.055, low, name, va="center", fontsize=8)
    severities = dict.fromkeys(finding.severity for finding in data[0].findings)
    for place, name in enumerate(severities):
        left = 0.26 * place
        axes.add_patch(Rectangle((left, 0.34), 0.045, 0.05, color=SEVERITIES[name], linewidth=0))
        axes.text(left + 0.055, 0.365, name, va="center", fontsize=8.5)
    axes.text(
        0.0,
        0.27 if severities else 0.38,
        "\n".join(_fact(item) for item in data[:3]),
        va="top",
        fontsize=8,
        color="#555555",
    )
    for text in axes.texts:
        text.set_in_layout(False)  # long facts must not narrow what is drawn


def _fact(item: PlotData) -> str:
    take = item.motion.take
    lines = [f"{take.name}: {len(take)} frames at {take.frame_rate:.4g}/s"]
    width = _FACTS_WIDE if item.picture.ground is not None else _FACTS
    lines += textwrap.wrap(
        item.picture.stands_on, width, initial_indent="    ", subsequent_indent="    "
    )
    return "\n".join(lines)
