"""Figures: motion over time with phases and events, and the arcs of jumps."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

from kickback.findings.finding import Finding
from kickback.motion.motion import Phase
from kickback.show.figures.canvas import LINES, styled_figure
from kickback.workflows.plotting import PlotData

__all__ = ["motion_figure"]

_MOST_CODES = 8
"""Kinds of findings that have a strip of their own."""

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
}
SEVERITIES = {"error": "#b2182b", "warning": "#e08214", "note": "#6a9fc0"}
EVENT_MARKS = {"takeoff": "^", "apex": "o", "landing": "v", "ledge": "s"}


def motion_figure(data: Sequence[PlotData]) -> Figure:
    """Draw takes over each other: speed, height, inputs and phases over time, arcs beside.

    Phases, inputs and findings are the first take's where there are several.
    """
    found = _by_code(data[0])
    with styled_figure() as figure:
        layout: list[Any] = [
            ["speed", "arcs"],
            ["height", "arcs"],
            ["inputs", "facts"],
            ["phases", "facts"],
        ]
        heights = [3.0, 3.0, 1.1, 1.1]
        if data[0].residuals is not None:
            layout.insert(2, ["misfit", "arcs"])
            heights.insert(2, 1.6)
        if found:
            layout.append(["findings", "facts"])
            heights.append(0.2 + 0.3 * len(found))
        rows = figure.subplot_mosaic(layout, width_ratios=[2.6, 1.0], height_ratios=heights)
        for name in ("height", "misfit", "inputs", "phases", "findings"):
            if name in rows:
                rows[name].sharex(rows["speed"])
        if data[0].residuals is not None:
            _draw_residuals(rows["misfit"], data[0])
        if found:
            _draw_findings(rows["findings"], data[0], found)
        unit = data[0].motion.take.header.length_unit
        for number, item in enumerate(data):
            # the first is the widest, so that it shows where the others lie on it
            width = 2.8 if number == 0 and len(data) > 1 else 1.4
            _draw_take(rows, item, LINES[number % len(LINES)], width, first=number == 0)
        _finish(rows, data, unit)
        return figure


def _by_code(item: PlotData) -> dict[str, list[Finding]]:
    """Return the findings by their code, the worst code first."""
    grouped: dict[str, list[Finding]] = {}
    for finding in item.findings:
        grouped.setdefault(finding.code, []).append(finding)
    return dict(list(grouped.items())[:_MOST_CODES])


def _draw_residuals(axes: Any, item: PlotData) -> None:
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
        top = max(
            top, _EXACT * (1.0 if item.speed is None else float(np.nanmax(np.abs(item.speed))))
        )
        axes.set_ylim(-1.9 * top - 1e-15, 2.6 * top + 1e-15)
    else:
        axes.text(0.5, 0.5, "no laws", transform=axes.transAxes, ha="center", color="#777777")


def _draw_findings(axes: Any, item: PlotData, found: dict[str, list[Finding]]) -> None:
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


def _draw_take(
    rows: dict[str, Any], item: PlotData, colour: str, width: float, *, first: bool
) -> None:
    motion = item.motion
    label = motion.take.name
    if motion.across is not None and item.speed is not None:
        rows["speed"].plot(motion.across.tv, item.speed, color=colour, linewidth=width, label=label)
    if motion.up is not None:
        rows["height"].plot(motion.t, motion.up.p, color=colour, linewidth=width, label=label)
        _mark_events(rows["height"], item, colour)
    for arc in item.arcs:
        rows["arcs"].plot(
            arc.x, arc.y, color=colour, linewidth=width, marker=".", markersize=width + 3
        )
        rows["arcs"].plot(
            arc.x[arc.top],
            arc.y[arc.top],
            EVENT_MARKS["apex"],
            color=colour,
            markersize=6,
            markerfacecolor="white",
        )
    if first:
        _draw_inputs(rows["inputs"], item)
        _draw_phases(rows["phases"], item.phases)
        _phase_bands(rows["speed"], item.phases, "travel", motion.t)
        _phase_bands(rows["height"], item.phases, "vertical", motion.t)
        _strip_times(rows["phases"], item.phases, motion.begin, motion.t)


def _mark_events(axes: Any, item: PlotData, colour: str) -> None:
    motion = item.motion
    if motion.up is None:
        return
    for name, mark in EVENT_MARKS.items():
        chosen = [event for event in item.events if event.name == name]
        times = [event.time for event in chosen]
        heights = np.interp(times, motion.t, motion.up.p)
        if name == "apex":
            heights = motion.up.p[[event.frame for event in chosen]] if chosen else heights
        axes.plot(
            times,
            heights,
            mark,
            color=colour,
            markersize=6,
            markerfacecolor="white",
            markeredgewidth=1.2,
        )


def _draw_inputs(axes: Any, item: PlotData) -> None:
    """Draw each input as a strip of its own."""
    motion = item.motion
    strips: list[tuple[str, Any]] = []
    if motion.inputs.source == "recorded":
        strips.append(("move", motion.take.numbers("in_move_x")))
    buttons = motion.inputs
    for name, button in (
        ("jump", buttons.jump),
        ("brake", buttons.brake),
        ("dash", buttons.dash),
    ):
        if button is not None:
            strips.append((name, button.astype(float)))
    for row, (_, values) in enumerate(reversed(strips)):
        axes.fill_between(
            motion.begin, row, row + 0.38 * values, step="post", color="#555555", linewidth=0
        )
    axes.set_yticks(range(len(strips)), [name for name, _ in reversed(strips)])
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


def _draw_phases(axes: Any, phases: Sequence[Phase]) -> None:
    axes.set_yticks([0, 1], ["vertical", "travel"])
    axes.set_ylim(-0.5, 1.5)
    axes.grid(visible=False)
    if any(phase.inferred for phase in phases):
        axes.set_title("phases marked ~ are inferred", fontsize=8, loc="right", color="#777777")


def _strip_times(axes: Any, phases: Sequence[Phase], begin: Any, t: Any) -> None:
    """Draw the phases as labelled strips; labels only where they fit."""
    whole = float(t[-1] - begin[0])
    for phase in phases:
        low, high = float(begin[phase.start]), float(t[phase.stop - 1])
        row = 1 if phase.track == "travel" else 0
        axes.barh(row, high - low, left=low, height=0.8, color=PHASES[phase.name], linewidth=0)
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


def _phase_bands(axes: Any, phases: Sequence[Phase], track: str, t: Any) -> None:
    """Tint a panel's background with the phases of one track."""
    for phase in phases:
        if phase.track == track and phase.name not in {"rest", "still", "grounded"}:
            low = float(t[max(phase.start - 1, 0)])
            axes.axvspan(
                low, float(t[phase.stop - 1]), color=PHASES[phase.name], alpha=0.55, linewidth=0
            )


def _finish(rows: dict[str, Any], data: Sequence[PlotData], unit: str) -> None:
    """Label the panels."""
    rows["speed"].set_ylabel(f"sideways speed [{unit}/s]")
    rows["height"].set_ylabel(f"height [{unit}]")
    last = "findings" if "findings" in rows else "phases"
    rows[last].set_xlabel("time [s]")
    names = [item.motion.take.name for item in data]
    title = names[0] if len(names) == 1 else "phases and inputs: " + names[0]
    rows["speed"].set_title(title, loc="left", fontweight="bold")
    if len(names) > 1:
        rows["speed"].legend(loc="upper right", framealpha=0.9)
    for name in ("speed", "height", "inputs", *(["phases"] if last == "findings" else [])):
        rows[name].tick_params(labelbottom=False)
    arcs = rows["arcs"]
    arcs.set_title("jumps, from takeoff", loc="left", fontweight="bold")
    arcs.set_xlabel(f"distance [{unit}]")
    arcs.set_ylabel(f"height [{unit}]")
    arcs.axhline(0, color="#999999", linewidth=0.8)
    if not any(item.arcs for item in data):
        arcs.text(0.5, 0.5, "no jumps", transform=arcs.transAxes, ha="center", color="#777777")
    begin, end = float(data[0].motion.begin[0]), max(float(item.motion.t[-1]) for item in data)
    rows["speed"].set_xlim(begin, end)
    _legend(rows["facts"], data)


def _legend(axes: Any, data: Sequence[PlotData]) -> None:
    """Explain marks and colours, and say what each take's motion stands on."""
    axes.axis("off")
    axes.set(xlim=(0, 1), ylim=(0, 1))
    for place, (name, mark) in enumerate(EVENT_MARKS.items()):
        left = 0.02 + 0.26 * place
        axes.plot(left, 0.95, mark, color="#555555", markerfacecolor="white")
        axes.text(left + 0.035, 0.95, name, va="center", fontsize=8.5)
    seen = {phase.name for phase in data[0].phases}
    for place, name in enumerate(name for name in PHASES if name in seen):
        left, low = 0.26 * (place % 4), 0.77 - 0.13 * (place // 4)
        axes.add_patch(Rectangle((left, low - 0.04), 0.045, 0.08, color=PHASES[name], linewidth=0))
        axes.text(left + 0.055, low, name, va="center", fontsize=8.5)
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


def _fact(item: PlotData) -> str:
    take = item.motion.take
    source = item.motion.across.source if item.motion.across is not None else "none"
    return (
        f"{take.name}: {len(take)} frames at {take.frame_rate:.4g}/s\n"
        f"    speed {source}, contact {item.motion.contact_source},"
        f" inputs {item.motion.inputs.source}"
    )
