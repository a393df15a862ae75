"""Metrics over the frame rate as tables."""

from collections.abc import Sequence
from typing import Any

from kickback.framerate.analyse import FrameRates, MetricOverRate
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, empty_table, notes, styled

__all__ = ["show_frame_rates"]


def show_frame_rates(printer: Printer, result: FrameRates, units: Units) -> None:
    """Print the short answer, then a table a group."""
    for group in result.groups:
        rows = [row for row in result.rows if row.group == group.name]
        known = [row for row in rows if row.verdict != "cannot-tell"]
        bad = [row for row in known if row.beyond]
        rates = ", ".join(_plain_rate(item.rate) for item in rows[0].values) if rows else ""
        printer.line(f"{group.name} at {rates} frames/s", style="bold")
        if not known:
            printer.line("No metric was found at two rates.")
            continue
        if bad:
            names = ", ".join(dict.fromkeys(row.metric.split(".")[0] for row in bad))
            printer.line(f"{len(bad)} of {len(known)} metrics do not hold: {names}", "bold red")
        else:
            printer.line(f"All {len(known)} metrics hold.", "green")
        _rate_table(printer, known, units)
    notes(printer, [(row.metric, row.reason) for row in result.rows if row.reason])


def _rate_table(printer: Printer, rows: Sequence[MetricOverRate], units: Units) -> None:
    rates = [_plain_rate(item.rate) + "/s" for item in rows[0].values]
    order = {"breaks": 0, "drifts": 1, "steady": 2}
    ordered = sorted(rows, key=lambda row: (not row.beyond, order[row.verdict]))

    def build(narrow: bool) -> Any:
        more = () if narrow else ("spread", "budget", "limit", "∝ rate^p")
        table = empty_table("metric", *rates, *more, "verdict")
        for row in ordered:
            values = [units.show(item.value, row.unit) for item in row.values]
            table.add_row(
                row.metric, *values, *(() if narrow else _details(row, units)), _verdict(row)
            )
        return table

    printer.table(build)


def _details(row: MetricOverRate, units: Units) -> tuple[str, str, str, str]:
    exponent = "" if row.exponent is None else f"{row.exponent + 0.0:+.2f}"
    return (
        units.show(row.spread, row.unit),
        units.show(row.budget, row.unit),
        "none" if row.limit is None else units.show(row.limit, row.unit),
        exponent if row.verdict != "steady" else "",
    )


def _verdict(row: MetricOverRate) -> Any:
    """Return the verdict in its colour; a drift says where it is beyond its budget."""
    text = row.verdict + (" too far" if row.verdict == "drifts" and row.beyond else "")
    return styled(text, "bold red" if row.beyond else VERDICT_STYLES[row.verdict])


def _plain_rate(rate: float) -> str:
    """Return a frame rate in as few digits as tell it apart."""
    return f"{rate:.4g}"
