"""A take's content as text and records."""

import textwrap
from collections import Counter
from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.findings import show_findings
from kickback.takes.numerals import plain
from kickback.takes.plain import PlainDict
from kickback.workflows.inspecting import Inspection

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["column_records", "show_inspection"]


def show_inspection(printer: Printer, found: Inspection) -> None:
    """Print header, findings, columns, phases and events."""
    take = found.take
    header, unit = take.header, take.header.length_unit
    least, median, most = (plain(1e3 * step) for step in found.steps)
    printer.line(take.name, style="bold")
    facts = [
        ("frames", f"{len(take)}, {take.duration:.2f} s at {take.frame_rate:.4g} frames/s"),
        ("time step", f"least {least} ms, median {median} ms, most {most} ms"),
        ("subject", f"{header.subject}, view {header.view}, up {header.up}, lengths in {unit}"),
        ("drill", header.drill or "none named"),
        ("parameters", _parameters(found)),
    ]
    if found.motion is not None:
        facts.append(("kind", found.kind))
        facts.append(("stands on", found.motion.sources))
    for name, text in (
        ("probe", header.probe),
        ("recorded at", header.recorded_at),
        ("notes", header.notes),
    ):
        if text:
            facts.append((name, text))
    if header.extra:
        facts.append(("also in the header", ", ".join(header.extra)))
    for name, text in facts:
        width = max(30, min(96, printer.width - 16))
        lines = textwrap.wrap(text, width, break_long_words=False) or [""]
        printer.line(f"  {name:<12} {lines[0]}")
        for line in lines[1:]:
            printer.line(f"  {'':<12} {line}")
    show_findings(printer, found.findings)
    printer.table(lambda narrow: _columns(found, narrow=narrow))
    if found.motion is not None:
        _show_motion(printer, found)


def _columns(found: Inspection, *, narrow: bool) -> "Table":
    """Return the table of columns; a narrow one does not explain them."""
    from rich import box
    from rich.table import Table

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    table.add_column("column", no_wrap=True)
    for heading in ("least", "most"):
        table.add_column(heading, justify="right", no_wrap=True)
    for heading in ("unit", "derived" if narrow else "what it is"):
        table.add_column(heading, no_wrap=True)
    for item in found.columns:
        derived = "derived" if item.derived else ""
        last = derived if narrow else item.about + (" (derived)" if derived else "")
        table.add_row(item.name, _end(item.low), _end(item.high), item.unit, last)
    return table


def _show_motion(printer: Printer, found: Inspection) -> None:
    counts: dict[str, Counter[str]] = {}
    for phase in found.phases:
        name = ("~" if phase.inferred else "") + phase.name
        counts.setdefault(phase.track, Counter())[name] += 1
    for track, names in counts.items():
        printer.line(f"  {track:<12} {_counted(names)}")
    events = Counter(event.name for event in found.events)
    printer.line(f"  {'events':<12} {_counted(events) or 'none'}")
    if any(phase.inferred for phase in found.phases):
        printer.line("  ~ inferred from the motion", style="dim")


def _counted(names: Counter[str]) -> str:
    return ", ".join(f"{n} {name}" for name, n in names.items())


def _parameters(found: Inspection) -> str:
    parameters = found.take.header.parameters
    if parameters is None:
        return "none in the header"
    values = ", ".join(
        f"{name} {value:g}" if isinstance(value, float) else f"{name} {value}"
        for name, value in parameters.values.items()
        if value != ""
    )
    return f"{parameters.name} ({values})" if values else parameters.name


def _end(value: float | None) -> str:
    return "" if value is None else plain(value)


def column_records(found: Inspection) -> list[PlainDict]:
    """Return a flat record a column."""
    return [
        {
            "take": found.take.name,
            "column": item.name,
            "unit": item.unit,
            "least": item.low,
            "most": item.high,
            "derived": item.derived,
            "frames": len(found.take),
            "about": item.about,
        }
        for item in found.columns
    ]
