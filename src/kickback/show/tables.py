"""Results as tables for people."""

from collections.abc import Sequence
from typing import Any

from kickback.comparison.compare import Comparison, MetricChange
from kickback.framerate.analyse import FrameRates, MetricOverRate
from kickback.metrics.record import Measurements
from kickback.metrics.registry import Metric
from kickback.show.console import Printer
from kickback.show.numbers import Units

__all__ = [
    "show_catalogue",
    "show_comparison",
    "show_each",
    "show_frame_rates",
    "show_measurements",
    "show_metric",
]

VERDICT_STYLES = {
    "steady": "green",
    "same": "green",
    "moved": "cyan",
    "closer": "cyan",
    "new": "cyan",
    "drifts": "yellow",
    "cannot-tell": "yellow",
    "breaks": "bold red",
    "regressed": "bold red",
    "lost": "bold red",
}


def _table(*headings: str) -> Any:
    """Return an empty table: the first column is text, the others are figures."""
    from rich import box
    from rich.table import Table

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    for number, heading in enumerate(headings):
        table.add_column(heading, justify="right" if number else "left", no_wrap=number == 0)
    return table


def _text(text: str, style: str = "") -> Any:
    from rich.text import Text

    return Text(text, style=style)


def show_measurements(printer: Printer, measured: Sequence[Measurements], units: Units) -> None:
    """Print metrics, a column a take; what no take shows is left to the notes."""
    columns = [item.by_metric() for item in measured]
    takes = [next(iter(item)) for item in measured]
    if len(measured) == 1:
        table = _table("metric", takes[0].take, "±", "n")
    else:
        table = _table("metric", *(item.take for item in takes))
    notes: dict[str, list[str]] = {}
    for name in columns[0]:
        cells = [column[name] for column in columns]
        shared = len({cell.reason for cell in cells}) == 1
        for cell in cells[:1] if shared else cells:
            if cell.reason:
                where = "" if shared else f" ({cell.take})"
                notes.setdefault(cell.reason, []).append(name + where)
        if all(cell.value is None for cell in cells):
            continue
        shown = [units.show(cell.value, cell.unit) for cell in cells]
        if len(cells) == 1:
            own = cells[0].resolution
            located = "exact" if not own else units.show(own, cells[0].unit, extra=False)
            table.add_row(name, shown[0], located, str(cells[0].n))
        else:
            table.add_row(name, *shown)
    printer.table(table)
    printer.line(units.note, style="dim")
    for reason, names in notes.items():
        printer.line(f"{_few(names)}: {reason}", style="dim")


def _few(names: Sequence[str]) -> str:
    """Return names joined; whole groups by ``group.*``."""
    groups: dict[str, list[str]] = {}
    for name in names:
        groups.setdefault(
            name.split(".")[0] + ("" if " (" not in name else name.partition(" ")[2]), []
        ).append(name)
    shown = []
    for members in groups.values():
        if len(members) > 3:
            take = members[0].partition(" ")[2]
            shown.append(f"{members[0].split('.')[0]}.*" + (f" {take}" if take else ""))
        else:
            shown += members
    return ", ".join(shown)


def show_each(printer: Printer, measured: Sequence[Measurements], units: Units) -> None:
    """Print every occurrence with its start and end."""
    table = _table("metric", "take", "start", "end", "value", "±")
    for item in measured:
        for record in item.to_records(each=True):
            if record["value"] is None:
                continue
            table.add_row(
                record["metric"],
                record["take"],
                f"{record['start']:.3f} s",
                f"{record['end']:.3f} s",
                units.show(record["value"], record["unit"]),
                units.show(record["resolution"], record["unit"], extra=False)
                if record["resolution"]
                else "exact",
            )
    printer.table(table)
    printer.line(units.note, style="dim")


def show_frame_rates(printer: Printer, result: FrameRates, units: Units) -> None:
    """Print the short answer, then a table a group."""
    for group in result.groups:
        rows = [row for row in result.rows if row.group == group.name]
        known = [row for row in rows if row.verdict != "cannot-tell"]
        bad = [row for row in known if row.beyond]
        rates = ", ".join(plain_rate(item.rate) for item in rows[0].values) if rows else ""
        printer.line(f"{group.name} at {rates} frames/s", style="bold")
        if not known:
            printer.line("No metric was found at two rates.")
            continue
        if bad:
            names = _few([row.metric for row in bad])
            printer.line(f"{len(bad)} of {len(known)} metrics do not hold: {names}", "bold red")
        else:
            printer.line(f"All {len(known)} metrics hold.", "green")
        _rate_table(printer, known, units)
    _notes(printer, [(row.metric, row.reason) for row in result.rows if row.reason])


def _rate_table(printer: Printer, rows: Sequence[MetricOverRate], units: Units) -> None:
    rates = [plain_rate(item.rate) + "/s" for item in rows[0].values]
    table = _table("metric", *rates, "spread", "budget", "limit", "∝ rate^p", "verdict")
    order = {"breaks": 0, "drifts": 1, "steady": 2}
    for row in sorted(rows, key=lambda row: (not row.beyond, order[row.verdict])):
        exponent = "" if row.exponent is None else f"{row.exponent + 0.0:+.2f}"
        verdict = row.verdict + (" (beyond)" if row.verdict == "drifts" and row.beyond else "")
        style = "bold red" if row.beyond else VERDICT_STYLES[row.verdict]
        table.add_row(
            row.metric,
            *(units.show(item.value, row.unit, extra=False) for item in row.values),
            units.show(row.spread, row.unit, extra=False),
            units.show(row.budget, row.unit, extra=False),
            "none" if row.limit is None else units.show(row.limit, row.unit, extra=False),
            exponent if row.verdict != "steady" else "",
            _text(verdict, style),
        )
    printer.table(table)


def plain_rate(rate: float) -> str:
    """Return a frame rate in as few digits as tell it apart."""
    return f"{rate:.4g}"


def show_comparison(printer: Printer, result: Comparison, units: Units) -> None:
    """Print changed parameters, then changed metrics, worst first."""
    printer.line(f"{result.base} → {result.candidate}", style="bold")
    if result.parameters:
        table = _table("changed parameter", result.base, result.candidate)
        for item in result.parameters:
            table.add_row(item.name, _value(item.base), _value(item.candidate))
        printer.table(table)
    bad = [row for row in result.rows if row.verdict in {"regressed", "lost"}]
    count = len(result.rows)
    if bad:
        printer.line(f"{len(bad)} of {count} metrics moved beyond their budget.", "bold red")
    else:
        printer.line(f"All {count} metrics are within their budgets.", "green")
    order = ("lost", "regressed", "closer", "cannot-tell", "new", "moved", "same")
    table = _table("metric", result.base, result.candidate, "change", "", "budget", "verdict")
    for row in sorted(result.rows, key=lambda row: order.index(row.verdict)):
        table.add_row(*_change_cells(row, units))
    printer.table(table)
    _notes(printer, [(row.metric, row.reason) for row in result.rows if row.reason])


def _change_cells(row: MetricChange, units: Units) -> list[Any]:
    change = ""
    if row.change is not None:
        sign = "+" if row.change > 0 else ""
        change = sign + units.show(row.change, row.unit, extra=False)
    relative = "" if row.change_relative is None else f"{row.change_relative:+.1%}"
    if row.verdict == "same":
        change = relative = ""
    return [
        row.metric,
        units.show(row.base, row.unit),
        units.show(row.candidate, row.unit),
        change,
        relative,
        "" if row.budget is None else units.show(row.budget, row.unit, extra=False),
        _text(row.verdict, VERDICT_STYLES[row.verdict]),
    ]


def _value(value: object) -> str:
    if value is None:
        return "—"
    return f"{value:g}" if isinstance(value, float) else str(value)


def _notes(printer: Printer, notes: Sequence[tuple[str, str | None]]) -> None:
    grouped: dict[str, list[str]] = {}
    for name, reason in notes:
        grouped.setdefault(reason or "", []).append(name)
    for reason, names in grouped.items():
        printer.line(f"{_few(list(dict.fromkeys(names)))}: {reason}", style="dim")


def show_catalogue(printer: Printer, metrics: Sequence[Metric]) -> None:
    """Print the catalogue: name, unit and a line each."""
    from rich import box
    from rich.table import Table

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    for heading in ("metric", "unit", "what it is"):
        table.add_column(heading, no_wrap=heading != "what it is")
    for metric in metrics:
        table.add_row(metric.name, metric.unit("L"), metric.definition.split(". ")[0].rstrip("."))
    printer.table(table)
    printer.line("L is the take's length unit.", style="dim")


def show_metric(printer: Printer, metric: Metric) -> None:
    """Print one metric's whole entry."""
    printer.line(f"{metric.name}  —  {metric.title}", style="bold")
    printer.line()
    printer.line(metric.definition)
    printer.line()
    printer.line(f"formula   {metric.formula}")
    printer.line(
        f"unit      {metric.unit('L')}"
        + (" (L: the take's length unit)" if "L" in metric.unit("L") else "")
    )
    if metric.source:
        printer.line(f"source    {metric.source}")
