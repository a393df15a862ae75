"""The catalogue of metrics as text."""

import textwrap
from collections.abc import Sequence

from kickback.metrics.metric import Metric
from kickback.show.console import Printer

__all__ = ["show_catalogue", "show_metric"]


def show_catalogue(printer: Printer, metrics: Sequence[Metric]) -> None:
    """Print the catalogue: name, unit and a line each."""
    from rich import box
    from rich.table import Table

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold")
    for heading in ("metric", "unit", "what it is"):
        table.add_column(heading, no_wrap=heading != "what it is", max_width=88)
    for metric in metrics:
        table.add_row(
            metric.name, str(metric.unit("L")), metric.definition.split(". ")[0].rstrip(".")
        )
    printer.table(lambda narrow: table)  # noqa: ARG005 - one width only
    printer.line("L is the take's length unit.", style="dim")


def show_metric(printer: Printer, metric: Metric) -> None:
    """Print one metric's whole entry."""
    printer.line(f"{metric.name}  —  {metric.title}", style="bold")
    printer.line()
    for line in textwrap.wrap(metric.definition, min(88, printer.width)):
        printer.line(line)
    printer.line()
    printer.line(f"formula   {metric.formula}")
    printer.line(
        f"unit      {metric.unit('L')}"
        + (" (L: the take's length unit)" if metric.dimension.length else "")
    )
    if metric.depends:
        printer.line(f"goes with  {'; '.join(one.words for one in metric.depends)}")
    if metric.source:
        printer.line(f"source    {metric.source}")
