"""What moves what, in sentences and tables; how two metrics go together."""

from collections.abc import Collection, Sequence
from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.tables import empty_table
from kickback.takes.numerals import plain
from kickback.takes.plain import PlainDict
from kickback.tuning.sweep.moved import MOVES
from kickback.tuning.sweep.record import Corner, Elasticity, Swept, Trade

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["show_movers", "show_sweep", "show_trade", "sweep_records"]

_TOLD = 12
"""Metrics that a sentence names, those that move most."""

_RANGES = 24
"""Metrics whose ranges are printed."""

_APART = 0.1
"""Per cent by which an elasticity of another frame rate is told too."""


def show_sweep(printer: Printer, result: Swept, headlines: Sequence[str]) -> None:
    """Print by how much each parameter moves the metrics, and how far they go over the ranges."""
    rate = result.rates[0]
    printer.line(f"what 1 % of a parameter moves, at {rate:g} frames/s", "bold")
    for name in result.plan.nudged:
        if name not in result.unmoved:
            printer.paragraph(_sentence(result, name, rate))
    if result.unmoved:
        printer.paragraph(
            f"moves nothing that this drill shows: {', '.join(result.unmoved)}", "dim"
        )
    for text in _other_rates(result):
        printer.paragraph(text, "yellow")
    if len(result.plan.sets) > result.plan.first_swept:
        printer.line()
        many = len(result.plan.sets) - result.plan.first_swept
        printer.line(f"over {many} sets, at {rate:g} frames/s", "bold")
        printer.table(lambda _: _ranges(result, rate, headlines))
    for one in result.trades:
        printer.line()
        show_trade(printer, one, result)


def _moved(result: Swept, name: str, rate: float) -> list[Elasticity]:
    return [one for one in result.of(name, rate) if abs(one.value) >= MOVES]


def _sentence(result: Swept, name: str, rate: float) -> str:
    rows = _moved(result, name, rate)
    named = ", ".join(_one(row) for row in rows[:_TOLD])
    end = f", and {len(rows) - _TOLD} more" if len(rows) > _TOLD else "; nothing else"
    return f"{name}: {named or 'nothing at this rate'}{end}"


def _one(row: Elasticity) -> str:
    uneven = " (in leaps)" if row.leaps else ""
    return f"{row.metric} {row.value:+.1f}%{uneven}"


def _other_rates(result: Swept) -> list[str]:
    """Say which elasticities are others at other frame rates, the farthest apart."""
    first = {
        (one.metric, one.parameter): one.value
        for one in result.elasticities
        if one.rate == result.rates[0]
    }
    rows = [
        (abs(one.value - first[one.metric, one.parameter]), one)
        for one in result.elasticities
        if one.rate != result.rates[0] and (one.metric, one.parameter) in first and not one.leaps
    ]
    rows = sorted((row for row in rows if row[0] >= _APART), key=lambda row: -row[0])[:3]
    return [
        f"at {one.rate:g} frames/s 1 % of {one.parameter} moves {one.metric}"
        f" {one.value:+.1f}%, not {first[one.metric, one.parameter]:+.1f}%"
        for _, one in rows
    ]


def _ranges(result: Swept, rate: float, headlines: Sequence[str]) -> "Table":
    """Return the lowest and highest of each metric that moves, what is looked at first first."""
    table = empty_table("metric", "at the base", "lowest", "highest", " ", "without")
    base, many = result.at(0, rate), len(result.over(rate))
    values = _values(result, rate)
    order = {name: place for place, name in enumerate(headlines)}
    moved = [name for name, known in values.items() if known and not _alike(known)]
    for name in sorted(moved, key=lambda one: order.get(one, len(order)))[:_RANGES]:
        known = values[name]
        ends = _number(base.get(name)), plain(min(known)), plain(max(known))
        table.add_row(name, *ends, result.units[name], str(many - len(known) or ""))
    return table


def _values(result: Swept, rate: float) -> dict[str, list[float]]:
    """Return what the sets show of each metric."""
    points = result.over(rate)
    return {
        name: [value for one in points if (value := one.metrics.get(name)) is not None]
        for name in result.units
    }


def _number(value: float | None) -> str:
    return "—" if value is None else plain(value)


def _alike(values: Sequence[float]) -> bool:
    return max(values) - min(values) <= 1e-9 * max(abs(one) for one in values)


def show_trade(printer: Printer, trade: Trade, result: Swept) -> None:
    """Print how two metrics go together, and which ends of both cannot be had."""
    first, second = result.units[trade.first], result.units[trade.second]
    head = f"{trade.first} against {trade.second}, at {trade.rate:g} frames/s"
    printer.line(f"{head} ({trade.sets} of {trade.of} sets show both)", "bold")

    def build(narrow: bool) -> "Table":
        del narrow
        table = empty_table(
            f"{trade.first} {first}".strip(), f"lowest {trade.second}", "highest", second or " "
        )
        for low, high, least, most in trade.bands:
            table.add_row(f"{plain(low)} to {plain(high)}", plain(least), plain(most), "")
        return table

    printer.table(build)
    printer.line(f"rank correlation {trade.rank:+.2f}")
    for corner in trade.corners:
        if not corner.sets:
            printer.paragraph(f"cannot be had together: {_ends(trade, corner)}", "yellow")


def _ends(trade: Trade, corner: Corner) -> str:
    one, other = ("high" if up else "low" for up in (corner.first_high, corner.second_high))
    return f"a {one} {trade.first} with a {other} {trade.second} (the outer third of each)"


def show_movers(printer: Printer, result: Swept, metric: str, leave: Collection[str]) -> None:
    """Print which parameters move a metric, those first that move least of what is to be left."""
    what = f", and leaves {', '.join(leave)} alone" if leave else ""
    printer.line(f"which parameter moves {metric}{what}?", "bold")
    found = [_mover(result, name, metric, leave) for name in result.plan.nudged]
    rows = [one for one in found if one is not None]
    if not rows:
        printer.line("none of those that were moved", "yellow")
    for own, spoilt in sorted(rows, key=lambda row: (_size(row[1]), -abs(row[0].value))):
        text = f"{own.parameter}: {own.value:+.1f}% for 1 %"
        if spoilt:
            text += f", but also {', '.join(_one(one) for one in spoilt[:4])}"
        elif leave:
            text += ", and nothing of these"
        printer.paragraph(text, "green" if leave and not spoilt else "", indent=2)


def _mover(
    result: Swept, name: str, metric: str, leave: Collection[str]
) -> tuple[Elasticity, list[Elasticity]] | None:
    """Return how a parameter moves a metric, and what it moves of what should stay."""
    moved = _moved(result, name, result.rates[0])
    own = next((one for one in moved if one.metric == metric), None)
    if own is None:
        return None
    return own, [one for one in moved if one.metric != metric and _in(one.metric, leave)]


def _size(rows: Sequence[Elasticity]) -> float:
    return sum(abs(one.value) for one in rows)


def _in(metric: str, groups: Collection[str]) -> bool:
    return any(metric == one or metric.startswith(f"{one}.") for one in groups)


def sweep_records(result: Swept) -> list[PlainDict]:
    """Return a flat record for each elasticity, and for each band and corner of a trade-off."""
    empty: PlainDict = dict.fromkeys(
        (
            "kind",
            "rate",
            "parameter",
            "metric",
            "other",
            "value",
            "leaps",
            "from",
            "to",
            "lowest",
            "highest",
            "sets",
        )
    )
    rows: list[PlainDict] = [
        {
            "kind": "elasticity",
            "rate": one.rate,
            "parameter": one.parameter,
            "metric": one.metric,
            "value": one.value,
            "leaps": one.leaps,
        }
        for one in result.elasticities
    ]
    for trade in result.trades:
        base = {"rate": trade.rate, "metric": trade.first, "other": trade.second}
        rows += [
            {"kind": "band", **base, "from": low, "to": high, "lowest": least, "highest": most}
            for low, high, least, most in trade.bands
        ]
        rows += [
            {
                "kind": f"corner {'high' if one.first_high else 'low'}"
                f"-{'high' if one.second_high else 'low'}",
                **base,
                "sets": one.sets,
            }
            for one in trade.corners
        ]
    return [empty | row for row in rows]
