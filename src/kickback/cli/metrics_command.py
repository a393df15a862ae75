"""``kickback metrics``."""

import click

from kickback.cli.common import format_option
from kickback.cli.output import tell

__all__ = ["command"]


@click.command("metrics")
@click.argument("name", required=False)
@format_option()
def command(name: str | None, how: str) -> None:
    """List all metrics, or explain the one called NAME (or a group such as jump)."""
    from kickback.errors import UsageError, nearest
    from kickback.kinds.table import all_metrics
    from kickback.metrics.metric import select_metrics

    catalogue = all_metrics()
    known = {metric.group for metric in catalogue} | {metric.name for metric in catalogue}
    if name is not None and name not in known:
        raise UsageError(f"no metric '{name}'{nearest(name, sorted(known))}")
    chosen = select_metrics(catalogue, [name] if name else [])
    if how != "text":
        from kickback.show.records import render_records

        records = [
            {
                "metric": item.name,
                "title": item.title,
                "unit": str(item.unit("L")),
                "definition": item.definition,
                "formula": item.formula,
            }
            for item in chosen
        ]
        tell(render_records(records, how))
        return
    from kickback.show.catalogue import show_catalogue, show_metric
    from kickback.show.console import Printer

    if len(chosen) == 1:
        show_metric(Printer(), chosen[0])
    else:
        show_catalogue(Printer(), chosen)
