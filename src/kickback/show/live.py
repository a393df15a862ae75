"""The live view of a recorder on a terminal."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.show.visible import visible
from kickback.takes.numerals import plain
from kickback.workflows.coaching import Cue
from kickback.workflows.live import Figure, LiveSubject, LiveView

if TYPE_CHECKING:
    from rich.console import RenderableType
    from rich.panel import Panel
    from rich.text import Text

__all__ = ["braille", "cue_text", "render_view"]

_DOTS = ((0x01, 0x08), (0x02, 0x10), (0x04, 0x20), (0x40, 0x80))
"""Bits of the eight dots of a braille sign, by row and column."""

_HEIGHT = 9
"""Lines of the picture."""

_NARROWEST = 40
"""Columns below which it is not drawn."""

_STAGES = {"waiting": "yellow", "countdown": "yellow", "playing": "bold green", "pause": "cyan"}


def render_view(view: LiveView, width: int) -> "Panel":
    """Return the view as a Rich renderable, no wider than ``width``."""
    from rich import box
    from rich.console import Group
    from rich.panel import Panel

    parts: list[RenderableType] = [_counts(view)]
    if view.cue is not None:
        parts += ["", *_cue(view.cue, width)]
    for subject in view.subjects:
        parts += ["", *_subject(subject, width)]
    title = f"recording · {view.streams} connected · {view.takes} saved"
    return Panel(
        Group(*parts),
        title=title,
        title_align="left",
        subtitle="Ctrl-C ends",
        subtitle_align="right",
        box=box.HORIZONTALS,
        border_style="dim",
        width=min(width, 110),
    )


def _counts(view: LiveView) -> "Text":
    from rich.text import Text

    text = Text()
    text.append(f"{view.rate:8.1f} frames/s", style="bold" if view.rate else "dim")
    text.append(f"   {view.frames:,} frames")
    for name, count in (
        ("lost", view.lost),
        ("dropped", view.dropped),
        ("refused", view.refused),
    ):
        text.append(f"   {name} {count:,}", style="bold red" if count else "dim")
    return text


def _cue(cue: Cue, width: int) -> list["Text"]:
    """Return what a person is told: now, what comes next, and how far the drill is."""
    from rich.text import Text

    bar = min(40, width - 30)
    done = round(bar * cue.share)
    now = Text().append("  now   ", "dim").append(cue.now)
    now.stylize(_STAGES[cue.stage], 8)
    if cue.stage != "waiting":
        now.append(f"   {max(0.0, cue.left):.1f} s", style="bold")
    lines = [now]
    if cue.after:
        lines.append(Text().append("  next  ", "dim").append(cue.after))
    if cue.stage == "playing":
        lines.append(Text("  ").append("━" * done, "green").append("━" * (bar - done), "dim"))
    return lines


def cue_text(cue: Cue) -> str:
    """Return a cue as one plain line."""
    if cue.stage == "waiting":
        return cue.now
    after = f", then {cue.after}" if cue.after else ""
    return f"{cue.now} ({cue.left:.1f} s){after}"


def _subject(subject: LiveSubject, width: int) -> list["Text"]:
    from rich.text import Text

    head = Text("  ").append(visible(subject.name), style="bold")
    for gauge in subject.now.gauges if subject.now else ():
        head.append(f"   {gauge.label} {plain(gauge.value):>7} {gauge.unit or ''}".rstrip())
    head.append(f"   {' · '.join(subject.phases)}", style="cyan")
    lines = [head]
    if subject.now is not None and len(subject.now.trail) > 1:
        columns = max(_NARROWEST, min(100, width - 8))
        lines += [
            Text(f"    {row}", style="green")
            for row in braille(subject.now.trail, columns, _HEIGHT)
        ]
    for group, figures in subject.figures.items():
        if figures:
            lines.append(Text().append(f"  {'last ' + group:<12}", "dim").append(_figures(figures)))
    return lines


def _figures(figures: Sequence[Figure]) -> str:
    return "   ".join(f"{figure.part} {plain(figure.value)} {figure.unit}" for figure in figures)


def braille(points: Sequence[tuple[float, float]], columns: int, rows: int) -> list[str]:
    """Return points as lines of braille dots, y up, both axes to the same scale."""
    wide, high = 2 * columns, 4 * rows
    xs, ys = [x for x, _ in points], [y for _, y in points]
    scale = max((max(xs) - min(xs)) / (wide - 1), (max(ys) - min(ys)) / (high - 1), 1e-9)
    left, low = (min(xs) + max(xs) - (wide - 1) * scale) / 2, min(ys)
    cells = [[0] * columns for _ in range(rows)]
    for x, y in points:
        across, up = round((x - left) / scale), round((y - low) / scale)
        down = high - 1 - up
        cells[down // 4][across // 2] |= _DOTS[down % 4][across % 2]
    return ["".join(chr(0x2800 + cell) for cell in row).rstrip("\u2800") for row in cells]
