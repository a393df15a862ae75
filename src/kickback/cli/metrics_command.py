"""``kickback metrics``."""

import click

from kickback.cli.common import format_option

__all__ = ["command"]


@click.command("metrics")
@click.argument("name", required=False)
@format_option()
def command(name: str | None, how: str) -> None:
    """List all metrics, or explain the one called NAME (or a group such as jump)."""
    from kickback.metrics.registry import all_metrics, metric_named, select_metrics

    groups = {metric.name.split(".")[0] for metric in all_metrics()}
    if name is None or name in groups:
        chosen = select_metrics([name] if name else [])
    else:
        chosen = (metric_named(name),)
    if how != "text":
        from kickback.show.records import render_records

        records = [
            {
                "metric": item.name,
                "title": item.title,
                "unit": item.unit("L"),
                "definition": item.definition,
                "formula": item.formula,
            }
            for item in chosen
        ]
        click.echo(render_records(records, how))
        return
    from kickback.show.catalogue import show_catalogue, show_metric
    from kickback.show.console import Printer

    if len(chosen) == 1:
        show_metric(Printer(), chosen[0])
    else:
        show_catalogue(Printer(), chosen)
