"""Metrics over the frame rate as tables."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kickback.causes.cause import Cause
from kickback.framerate.record import FrameRates, OverRate
from kickback.framerate.single import Suspicion
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, absent_groups, empty_table, notes, styled
from kickback.takes.numerals import plain

if TYPE_CHECKING:
    from rich.table import Table
    from rich.text import Text

__all__ = ["show_frame_rates"]


def show_frame_rates(
    printer: Printer, result: FrameRates, units: Units, *, chosen: bool = False
) -> None:
    """Print the short answer, a paragraph a cause, then a table a group; then single takes.

    Where something fails, what is steady is named in a line below the table. What was not played
    at any rate is named in a closing line, unless metrics were ``chosen``.
    """
    for group in result.groups:
        rows = [row for row in result.rows if row.group == group.name]
        causes = [cause for name, cause in result.causes if name == group.name]
        _show_group(printer, group.name, rows, causes, units)
    for item in result.suspicions:
        _show_suspicion(printer, item)
    _say_rest(printer, result.rows, chosen=chosen)


def _say_rest(printer: Printer, rows: Sequence[OverRate], *, chosen: bool) -> None:
    """Say why metrics were not had, and of which groups nothing was played at any rate."""
    played = [row for row in rows if chosen or any(one.value is not None for one in row.values)]
    notes(printer, [(row.name, row.reason) for row in played if row.reason])
    there = {row.metric_group for row in played}
    every = [(row.metric_group, row.reason) for row in rows]
    absent = absent_groups([one for one in every if one[0] not in there])
    if absent:
        text = f"not in these takes: {', '.join(absent)} (--only GROUP says why)"
        printer.paragraph(text, style="dim")


def _show_group(
    printer: Printer, name: str, rows: Sequence[OverRate], causes: Sequence[Cause], units: Units
) -> None:
    known = [row for row in rows if row.verdict != "cannot-tell"]
    rates = ", ".join(_plain_rate(item.rate) for item in rows[0].values) if rows else ""
    printer.line(f"{name} at {rates} frames/s", style="bold")
    if not known and not causes:
        printer.line("No metric was found at two rates.")
        return
    _answer(printer, known, causes)
    aside = _steady_aside(known)
    shown = [row for row in known if row not in aside]
    if shown:
        _rate_table(printer, shown, units)
    if aside:
        printer.paragraph(f"steady: {', '.join(row.name for row in aside)}", "green", 0)


def _steady_aside(known: Sequence[OverRate]) -> list[OverRate]:
    """Return the steady metrics that are only named: where others fail."""
    if not any(row.beyond for row in known):
        return []
    return [row for row in known if row.verdict == "steady"]


def _answer(printer: Printer, known: Sequence[OverRate], causes: Sequence[Cause]) -> None:
    """Print whether all holds, and a paragraph a cause, worst first."""
    bad = [row for row in known if row.beyond]
    findings = [cause for cause in causes if cause.verdict != "note"]
    failing = any(cause.verdict == "breaks" for cause in findings) or bad
    if bad:
        printer.line(f"{len(bad)} of {len(known)} metrics do not hold.", "bold red")
    elif failing:
        printer.line(f"All {len(known)} metrics hold, but not the code:", "bold red")
    else:
        printer.line(f"All {len(known)} metrics hold.", "green")
    for cause in causes:
        style = {"breaks": "red", "drifts": "yellow"}.get(cause.verdict, "dim")
        what = cause.kind.about
        printer.paragraph(f"{cause.name}: {what}{_moves(cause, known)}", style, 0)
        if cause.evidence:
            printer.paragraph("; ".join(filter(None, (cause.evidence, cause.other))), "dim", 4)
        if cause.fix:
            printer.paragraph(f"instead: {cause.fix}", "", 4)


def _moves(cause: Cause, rows: Sequence[OverRate]) -> str:
    """Return which metrics a cause moves, by group."""
    groups: dict[str, list[str]] = {}
    for row in rows:
        if row.name in cause.metrics:
            part = row.name[len(row.metric_group) + 1 :]
            groups.setdefault(row.metric_group, []).append(part.replace("_", " "))
    parts = [f"{group} {', '.join(names)}" for group, names in groups.items()]
    word = {"breaks": "broken", "note": "drifting"}.get(cause.verdict, "drifting")
    return f" — {word} by it: {'; '.join(parts)}" if parts else ""


def _show_suspicion(printer: Printer, item: Suspicion) -> None:
    """Print what a single take lets suspect, or what to look for at another rate."""
    printer.line(f"{item.take}, a single take at {_plain_rate(item.rate)} frames/s", style="bold")
    if not item.even and not item.causes and (item.read or not item.unread):
        text = "Its uneven frame times show no dependence on the frame rate"
        text += f" in what could be read: {', '.join(item.read)}." if item.unread else "."
        printer.paragraph(text, "green", 0)
    for cause in item.causes:
        sure = {"high": "suspected", "low": "perhaps"}[cause.confidence]
        shown = (
            ""
            if cause.exponent is None
            else f" — constant·dt^p with p {_tidy(cause.exponent)} in"
            f" {_tidy(cause.low)} to {_tidy(cause.high)}"
        )
        printer.paragraph(f"{sure} {cause.name}: {cause.text}{shown}", "yellow", 0)
    _show_unread(printer, item)
    if item.causes:
        printer.paragraph("A take at a second rate would settle it and give the cure.", "dim", 0)
    if item.step is not None:
        text = (
            f"fixed-step: the physics makes {1 / item.step:.4g} steps/s whatever the display's"
            " rate, which therefore changes nothing in the motion"
        )
        printer.paragraph(text, "green", 0)
    elif item.forecasts or item.even:
        _forecasts(printer, item)


def _show_unread(printer: Printer, item: Suspicion) -> None:
    """Print which phases tell nothing, by the reason."""
    reasons = dict.fromkeys(one.reason for one in item.unread)
    for reason in reasons:
        phases = ", ".join(one.phase for one in item.unread if one.reason == reason)
        printer.paragraph(f"cannot tell of {phases}: {reason}", "yellow", 0)


def _tidy(value: float | None) -> str:
    """Return an exponent to two places, without the sign of a zero."""
    return f"{round(value or 0.0, 2) + 0.0:.2f}"


def _forecasts(printer: Printer, item: Suspicion) -> None:
    why = "Its frames lasted equally long, so it cannot tell. " if item.even else ""
    text = (
        f"{why}At other rates these numbers stay if the constants belong to the second, and"
        " become those below if they belong to the frame:"
    )
    printer.paragraph(text, "", 0)
    if not item.forecasts:
        return

    def build(narrow: bool) -> "Table":
        del narrow
        rates = [f"{_plain_rate(rate)}/s" for rate in item.forecasts[0].rates]
        table = empty_table("if per frame", "stays", *rates)
        for one in item.forecasts:
            values = [f"{plain(value)} {one.unit}" for value in one.per_frame]
            table.add_row(one.what, f"{plain(one.per_second[0])} {one.unit}", *values)
        return table

    printer.table(build)


def _rate_table(printer: Printer, rows: Sequence[OverRate], units: Units) -> None:
    every = sorted({item.rate for row in rows for item in row.values})
    rates = [_plain_rate(rate) + "/s" for rate in every]
    order = {"breaks": 0, "drifts": 1, "steady": 2, "cannot-tell": 3}
    ordered = sorted(rows, key=lambda row: (not row.beyond, order[row.verdict]))

    def build(narrow: bool) -> "Table":
        more = () if narrow else ("spread", "budget", "limit", "∝ rate^p")
        table = empty_table(rows[0].kind, *rates, *more, "verdict")
        for row in ordered:
            by_rate = {item.rate: item.value for item in row.values}
            values = [units.show(by_rate.get(rate), row.unit) for rate in every]
            table.add_row(
                row.name, *values, *(() if narrow else _details(row, units)), _verdict(row)
            )
        return table

    printer.table(build)


def _details(row: OverRate, units: Units) -> tuple[str, str, str, str]:
    exponent = "" if row.exponent is None else f"{row.exponent + 0.0:+.2f}"
    return (
        units.show(row.spread, row.unit),
        units.show(row.budget, row.unit),
        "none" if row.limit is None else units.show(row.limit, row.unit),
        exponent if row.verdict != "steady" else "",
    )


def _verdict(row: OverRate) -> "Text":
    """Return the verdict in its colour; a drift says where it is beyond its budget."""
    text = row.verdict + (" too far" if row.verdict == "drifts" and row.beyond else "")
    return styled(text, "bold red" if row.beyond else VERDICT_STYLES[row.verdict])


def _plain_rate(rate: float) -> str:
    """Return a frame rate in as few digits as tell it apart."""
    return f"{rate:.4g}"
