"""Several takes of one parameter set together: what tries in all of them narrow down."""

from collections.abc import Sequence

from kickback.kinds.table import all_metrics
from kickback.metrics.metric import Metric
from kickback.metrics.record import Measurement, Measurements
from kickback.takes.record import replace

__all__ = ["narrowed_windows"]


def narrowed_windows(measured: Sequence[Measurements]) -> list[Measurement]:
    """Return the windows that several takes of a subject and parameter set show together.

    One measurement for each set of two takes and more, and metric that is known only from tries
    on either side of it, or from what each took part in once: subjects that are a shot each are
    of one set. Its take is called by how many there were.
    """
    if len(measured) < 2:
        return []
    metrics = {metric.name: metric for metric in all_metrics() if metric.combine.narrows}
    groups: dict[tuple[str, str | None, str], list[Measurement]] = {}
    for row in (row for item in measured for row in item):
        if row.metric in metrics and row.tries is not None and len(row.tries.value):
            groups.setdefault(_set_of(row, metrics[row.metric]), []).append(row)
    return [
        _narrowed(rows, metrics[name]) for (_, _, name), rows in groups.items() if len(rows) > 1
    ]


def _set_of(row: Measurement, metric: Metric) -> tuple[str, str | None, str]:
    """Return what the rows that are taken together share."""
    alone = metric.combine.one_each and row.tries is not None and len(row.tries.value) == 1
    return "" if alone else row.subject, row.parameters, row.metric


def _narrowed(rows: Sequence[Measurement], metric: Metric) -> Measurement:
    """Return what the tries of several takes come to."""
    found = metric.combine.of([row.tries for row in rows if row.tries is not None])
    count = len(found.value)
    return replace(
        rows[0],
        take=f"{len(rows)} takes",
        value=float(found.value[0]) if count else None,
        resolution=float(found.resolution[0]) if count else None,
        n=count,
        reason=found.remark or found.reason,
        occurrences=found,
        tries=None,
        spread=0.0,
    )
