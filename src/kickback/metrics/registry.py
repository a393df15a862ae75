"""The table of all metrics, and how one is looked up."""

from collections.abc import Callable, Iterable

from kickback.errors import UsageError, nearest
from kickback.metrics.record import Occurrences
from kickback.metrics.scene import Scene
from kickback.takes.record import Record

__all__ = ["Metric", "all_metrics", "metric_named", "select_metrics"]


class Metric(Record, frozen=True, kw_only=True):
    """One entry of the catalogue.

    ``dimension`` is ``time``, ``length``, ``speed``, ``frames`` or ``ms``; ``measure``
    turns a scene into occurrences.
    """

    name: str
    dimension: str
    title: str
    definition: str
    formula: str
    measure: Callable[[Scene], Occurrences]
    source: str = ""

    def unit(self, length_unit: str) -> str:
        """Return the unit in words, given the take's length unit."""
        return {
            "time": "s",
            "length": length_unit,
            "speed": f"{length_unit}/s",
            "frames": "frames",
            "ms": "ms",
        }[self.dimension]


def all_metrics() -> tuple[Metric, ...]:
    """Return the catalogue in its order."""
    from kickback.metrics import fall, inputs, jump, run, slowing, turning

    modules = (run, slowing, turning, jump, fall, inputs)
    return tuple(metric for module in modules for metric in module.METRICS)


def metric_named(name: str) -> Metric:
    """Return one metric; raises UsageError naming the nearest where there is none."""
    catalogue = {metric.name: metric for metric in all_metrics()}
    if name not in catalogue:
        raise UsageError(f"no metric '{name}'{nearest(name, catalogue)}")
    return catalogue[name]


def select_metrics(names: Iterable[str]) -> tuple[Metric, ...]:
    """Return the metrics that names and groups (``jump``, ``jump.air_time``) choose.

    All where there are no names; raises UsageError for one that fits nothing.
    """
    catalogue = all_metrics()
    wanted = [part.strip() for name in names for part in name.split(",") if part.strip()]
    if not wanted:
        return catalogue
    groups = {metric.name.split(".")[0] for metric in catalogue}
    known = [metric.name for metric in catalogue]
    for name in wanted:
        if name not in groups and name not in known:
            raise UsageError(
                f"no metric or group '{name}'{nearest(name, [*sorted(groups), *known])}"
            )
    return tuple(
        metric
        for metric in catalogue
        if metric.name in wanted or metric.name.split(".")[0] in wanted
    )
