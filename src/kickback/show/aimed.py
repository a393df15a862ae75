"""The ways in which a shot hits a target, or by how far it cannot."""

from typing import TYPE_CHECKING

from kickback.show.console import Printer
from kickback.show.tables import empty_table
from kickback.takes.numerals import plain
from kickback.takes.plain import PlainDict
from kickback.tuning.solve.shots import ShotSolution

if TYPE_CHECKING:
    from rich.table import Table

__all__ = ["aimed_records", "show_aimed"]


def show_aimed(
    printer: Printer,
    result: ShotSolution,
    target: tuple[float, float],
    unit: str,
    angle: float | None,
) -> None:
    """Print each way to hit, and how far it misses at other frame rates."""
    where = f"{plain(target[0])} {unit} across and {plain(target[1])} up"
    if not result.ways:
        printer.paragraph(_out_of_reach(result, where, unit, angle), style="bold red")
        return
    printer.line(f"to a target {where}, exactly at {result.rate:g} frames/s", style="bold")
    printer.table(lambda _: _ways(result, unit))
    if result.least_speed is not None:
        printer.line(f"the least speed that reaches it: {plain(result.least_speed)} {unit}/s")


def _out_of_reach(result: ShotSolution, where: str, unit: str, angle: float | None) -> str:
    if angle is not None:
        return f"no speed at {angle:g} degrees hits a target {where}"
    text = f"a target {where} is out of reach: the nearest that a shot comes is"
    text += f" {plain(result.beyond)} {unit}"
    if result.least_speed is None:
        return text + "; no speed reaches it"
    return text + f"; the least speed that reaches it is {plain(result.least_speed)} {unit}/s"


def _ways(result: ShotSolution, unit: str) -> "Table":
    rates = list(result.ways[0].misses)
    table = empty_table(
        "elevation",
        f"speed, {unit}/s",
        "flight time",
        "apex",
        "impact angle",
        f"impact, {unit}/s",
        *(f"off at {rate:g}" for rate in rates),
    )
    for one in result.ways:
        # rounded before it is written: a miss of nothing has no sign
        off = (
            "—" if miss is None else f"{round(miss, 3) or 0:+.3f}" for miss in one.misses.values()
        )
        table.add_row(
            f"{one.elevation:.3f} deg",
            plain(one.speed),
            f"{plain(one.flight_time)} s",
            f"{plain(one.apex_height)} {unit}",
            f"{one.impact_angle:.1f} deg",
            plain(one.impact_speed),
            *off,
        )
    return table


def aimed_records(result: ShotSolution) -> list[PlainDict]:
    """Return a flat record for each way; one with what is missing where there is none."""
    base = {"rate": result.rate, "least_speed": result.least_speed, "beyond": result.beyond}
    names = (
        "elevation",
        "speed",
        "flight_time",
        "apex_height",
        "impact_angle",
        "impact_speed",
        "residual",
    )
    if not result.ways:
        return [dict.fromkeys(names) | base]
    return [
        {name: getattr(one, name) for name in names}
        | base
        | {f"off_at_{rate:g}": miss for rate, miss in one.misses.items()}
        for one in result.ways
    ]
