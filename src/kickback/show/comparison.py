"""Comparisons in text: what happened in words, the metrics that moved, why, and the rest."""

from collections.abc import Collection, Sequence
from itertools import pairwise
from typing import Any

from kickback.judging.chain import Chain, Link, MovedMetric
from kickback.judging.compare import ORDER, Comparison, MetricChange
from kickback.judging.differing import FirstDifference
from kickback.judging.repeating import Repeats
from kickback.show.console import Printer
from kickback.show.numbers import Units
from kickback.show.tables import VERDICT_STYLES, empty_table, few, notes, styled
from kickback.takes.numerals import plain
from kickback.workflows.comparing import Compared, Several

__all__ = ["show_chain", "show_comparison", "show_repeats", "show_rows", "show_several"]

_QUIET = ("same", "met")
"""Verdicts of metrics that are told in one line."""

_BAR = 10
"""Cells of the longest bar."""

_EIGHTHS = " ▏▎▍▌▋▊▉"


def show_comparison(printer: Printer, compared: Compared, units: Units, *, every: bool) -> None:
    """Print what happened in words, changed parameters and metrics, and why they moved."""
    result = compared.result
    printer.line(f"{result.base} → {result.candidate}", style="bold")
    if compared.words:
        printer.paragraph(compared.words)
    printer.line(_count(result), "bold red" if result.failed else "")
    if result.parameters:
        printer.table(lambda narrow: _parameters(result))  # noqa: ARG005 - one width only
    show_rows(printer, result, units, every=every)
    if compared.chain is not None:
        show_chain(printer, compared.chain)
    if compared.equal:
        printer.line("Fed the same, the takes are equal in every column and frame.", "green")
    if compared.first is not None:
        printer.paragraph(_parting(compared.first))
    for text in result.alone:
        printer.line(text, "yellow")


def _count(result: Comparison) -> str:
    """Say how many metrics came to what."""
    rows = result.worst
    counts = {name: sum(row.verdict == name for row in rows) for name in ORDER}
    parts = [f"{count} {name}" for name, count in counts.items() if count]
    text = f"{len(rows)} metrics: {', '.join(parts)}"
    return text + (f"; the worst of {result.exercises} exercises" if result.exercises > 1 else "")


def show_rows(printer: Printer, result: Comparison, units: Units, *, every: bool) -> None:
    """Print the metrics that moved, grouped, the largest change first, and name the others."""
    rows = list(result.worst)
    told = [row for row in rows if every or row.verdict not in _QUIET]
    if told:
        _table(printer, result, _ordered(told), units)
    quiet = [row.metric for row in rows if row.verdict in _QUIET]
    if quiet and not every:
        printer.paragraph(f"as before: {few(quiet)}", style="green")
    if told:
        printer.line(units.note(row.unit for row in told), style="dim")
    notes(printer, [(row.metric, row.reason) for row in told if row.reason])


def _ordered(rows: Sequence[MetricChange]) -> list[MetricChange]:
    """Return rows by group, each with what needs most attention first."""

    def rank(row: MetricChange) -> tuple[bool, int, float]:
        return (not row.fails, ORDER[row.verdict], -abs(row.change_relative or 0.0))

    first = {group: min(rank(r) for r in rows if r.group == group) for group in
             dict.fromkeys(row.group for row in rows)}  # fmt: skip
    return sorted(rows, key=lambda row: (first[row.group], row.group, rank(row)))


def _table(
    printer: Printer, result: Comparison, rows: Sequence[MetricChange], units: Units
) -> None:
    largest = max((abs(row.change_relative or 0.0) for row in rows), default=0.0)
    rated = result.exercises > 1

    def build(narrow: bool) -> Any:
        sides = (result.base, result.candidate)
        headings = sides if narrow else (sides[0], " ", sides[1], " ", "change", "%", "")
        more = ("worst at",) if rated else ()
        last = ("change", "verdict") if narrow else ("budget", "verdict")
        table = empty_table("metric", *headings, *more, *last)
        for column in table.columns:
            if column.header in {"", "worst at", "verdict"}:
                column.justify = "left"
        for row, after in pairwise([*rows, None]):
            if row is not None:
                cells = _cells(row, units, largest, narrow=narrow, rated=rated)
                table.add_row(*cells, end_section=after is not None and after.group != row.group)
        return table

    printer.table(build)


def _cells(
    row: MetricChange, units: Units, largest: float, *, narrow: bool, rated: bool
) -> list[Any]:
    relative = row.change_relative if row.change is not None else None
    share = "" if relative is None else f"{relative + 0.0:+.1%}"
    style = "bold red" if row.fails else VERDICT_STYLES[row.verdict]
    verdict = styled(row.verdict, style)
    sides = [units.show(value, row.unit) for value in (row.base, row.candidate)]
    where = [_where(row)] if rated else []
    if narrow:
        return [row.metric, *sides, *where, share, verdict]
    also = [units.also(value, row.unit) for value in (row.base, row.candidate)]
    sign = "+" if (row.change or 0.0) > 0 else ""
    change = "" if row.change is None else sign + units.show(row.change, row.unit)
    bar = styled(_bar(abs(relative or 0.0), largest), style)
    budget = "" if row.budget is None else units.show(row.budget, row.unit)
    return [row.metric, sides[0], also[0], sides[1], also[1], change, share, bar, *where, budget,
            verdict]  # fmt: skip


def _where(row: MetricChange) -> str:
    parts = [row.parameters, row.drill, f"{row.frame_rate:.4g}/s"]
    return " ".join(part for part in parts if part)


def _bar(size: float, largest: float) -> str:
    """Return a bar of blocks, as long as a change is large beside the largest."""
    if not largest:
        return ""
    eighths = round(8 * _BAR * size / largest)
    full, part = divmod(eighths, 8)
    return "█" * full + (_EIGHTHS[part] if part else "")


def _parameters(result: Comparison) -> Any:
    table = empty_table("changed parameter", result.base, result.candidate)
    for item in result.parameters:
        table.add_row(item.name, _value(item.base), _value(item.candidate))
    return table


def _value(value: object) -> str:
    if value is None:
        return "—"
    return f"{value:g}" if isinstance(value, float) else str(value)


def show_chain(printer: Printer, chain: Chain) -> None:
    """Print what moved what."""
    if not chain.links and not chain.unexplained and not chain.idle:
        return
    printer.line()
    printer.line("Why", style="bold")
    told: set[str] = set()
    for link in chain.links:
        printer.paragraph(_link(link, told))
        told |= {one.metric for one in link.metrics}
    for item in chain.idle:
        printer.paragraph(
            f"{item.name} {_value(item.base)} → {_value(item.candidate)}: moved nothing that these"
            " takes show: not played, or not used",
            style="yellow",
        )
    if chain.unexplained:
        names = ", ".join(f"{one.metric} {one.share:+.1%}" for one in chain.unexplained)
        if not chain.parameters_known:
            text = f"no constant that was read explains {names}; the takes name no parameters"
        elif any(link.parameter for link in chain.links) or chain.idle:
            text = f"no parameter that changed explains {names}"
        else:
            text = f"no parameter changed, and these did, so the code has: {names}"
        printer.paragraph(text, style="yellow")


def _link(link: Link, told: Collection[str]) -> str:
    """Return a chain in a sentence: the parameter, its constants, the metrics that these move.

    Metrics that are ``told`` already, or that no closed form foretells, are named only.
    """
    head = "no parameter changed"
    if link.parameter is not None:
        own = link.parameter
        head = f"{own.name} {_value(own.base)} → {_value(own.candidate)}"
    constants = ", ".join(
        f"{one.name} {plain(one.base)} → {plain(one.candidate)} {one.unit} ({one.ratio - 1:+.1%})"
        for one in link.constants
    )
    text = f"{head}: {constants}"
    new = [one for one in link.metrics if one.foretold is not None and one.metric not in told]
    others = [one.metric for one in link.metrics if one not in new]
    parts = [_metric(one) for one in new] + ([few(others)] if others else [])
    if parts:
        text += f"; {', '.join(parts)}"
    if link.besides:
        text += f" — beside its own also {', '.join(link.besides)}"
    return text


def _metric(one: MovedMetric) -> str:
    text = f"{one.metric} {one.share:+.1%}"
    if one.foretold is None:  # pragma: no cover - such are named only
        return text
    if one.as_foretold:
        return f"{text} as {one.words} foretells"
    return f"{text} where {one.words} foretells {one.foretold:+.1%}"


def _parting(first: FirstDifference) -> str:
    """Say where two takes part, and how far."""
    names = ", ".join(first.columns[:4]) + (", …" if len(first.columns) > 4 else "")
    text = (
        f"The takes part in frame {first.frame}, at {first.time:.4g} s ({first.phase}): {names}"
        f" ({plain(first.base)} against {plain(first.candidate)})"
    )
    if first.inputs:
        text += "; inputs or frame times differ there, so that the game need not"
    grown = [f"{apart:.3g} {first.unit} after {k} frames" for k, apart in first.growth if k]
    return f"{text}. They are apart by {', '.join(grown)}." if grown else f"{text}."


def show_several(printer: Printer, several: Several, units: Units) -> None:
    """Print three or more sides: the first is the base, one column each, and what is nearest."""
    results = [one.result for one in several.found]
    names = [results[0].base, *(result.candidate for result in results)]
    printer.line(f"{names[0]} against {', '.join(names[1:])}", style="bold")
    for one in several.found:
        printer.paragraph(f"{one.result.candidate}: {one.words}")
    sides = [{row.metric: row for row in result.worst} for result in results]
    first = {name: row for side in reversed(sides) for name, row in side.items()}
    told = [{row.metric for row in s.values() if row.verdict not in _QUIET} for s in sides]
    moved = [name for name in first if any(name in own for own in told)]

    def build(narrow: bool) -> Any:
        del narrow
        table = empty_table(
            "metric", names[0], *(part for name in names[1:] for part in (name, " "))
        )
        for name in moved:
            own = [side.get(name) for side in sides]
            cells = [units.show(next((r.base for r in own if r), None), first[name].unit)]
            for row in own:
                cells += [units.show(row.candidate if row else None, first[name].unit), _share(row)]
            table.add_row(name, *cells)
        return table

    if moved:
        printer.table(build)
    quiet = [name for name in first if name not in moved]
    if quiet:
        printer.paragraph(f"as before in all: {few(quiet)}", "green")
    for result in results:
        printer.line(f"{result.candidate}: {_count(result)}", "bold red" if result.failed else "")
    for near in several.nearest:
        target, value = (units.show(one, near.unit) for one in (near.target, near.value))
        printer.line(f"nearest to {near.metric} of {target}: {near.side} with {value}", "cyan")


def _share(row: MetricChange | None) -> Any:
    if row is None or row.change_relative is None:
        return ""
    style = "bold red" if row.fails else VERDICT_STYLES[row.verdict]
    return styled(f"{row.change_relative + 0.0:+.1%}", style)


def show_repeats(printer: Printer, found: Sequence[Repeats], units: Units) -> None:
    """Print whether the game is deterministic, and how wide each metric's noise is."""
    for one in found:
        printer.line(f"{one.exercise}: {one.takes} takes", style="bold")
        if one.deterministic is None:
            text = "No two were fed the same inputs and frame times, so the noise is that of hands."
        elif one.deterministic:
            text = f"Deterministic: {one.alike} of {one.alike} pairs fed the same are equal."
        else:
            unequal = one.alike - one.equal
            text = f"Not deterministic: {unequal} of {one.alike} pairs fed the same differ."
        printer.paragraph(text, "green" if one.deterministic else "yellow")
        if one.first is not None:
            printer.paragraph(_parting(one.first))

        def build(narrow: bool, own: Repeats = one) -> Any:
            del narrow
            table = empty_table("metric", "value", "noise ±", "%", "takes")
            for row in sorted(own.noise, key=lambda row: -(row.share or 0.0)):
                share = "" if row.share is None else f"{row.share:.2%}"
                table.add_row(row.metric, units.show(row.value, row.unit),
                              units.show(row.width, row.unit), share, str(row.takes))  # fmt: skip
            return table

        printer.table(build)
    printer.line("noise: within this one more take lies in 95 % of cases", style="dim")
