"""What a comparison comes to in a sentence: what moved in words, and what is as before."""

from collections.abc import Sequence

from kickback.judging.compare import Comparison, MetricChange
from kickback.metrics.metric import Metric

__all__ = ["in_words"]

_MOVED = ("changed", "moved", "regressed", "closer", "missed")
_LEAST = 0.005
"""Share of a change that is told as one."""

_MOST = 5
"""Metrics that are told as moved."""


def in_words(result: Comparison, metrics: Sequence[Metric]) -> str:
    """Return words such as ``slides 60 % further, jumps 10 % higher; runs as before``."""
    by_name = {row.metric: row for row in result.worst}
    spoken = [one for one in metrics if one.phrases and one.name in by_name]
    told = [(one, by_name[one.name]) for one in spoken]
    moved = [pair for pair in told if _told_moved(pair[1])]
    moved.sort(key=lambda pair: -abs(pair[1].change_relative or 0.0))
    still = [one.phrases[2] for one, row in told if _as_before(row)]
    return "; ".join(filter(None, (_first(moved), _listed(still))))


def _first(moved: Sequence[tuple[Metric, MetricChange]]) -> str:
    """Return the phrases of the largest changes, and how many more there are."""
    parts = [_phrase(one, row) for one, row in moved[:_MOST]]
    if len(moved) > _MOST:
        parts.append(f"and {len(moved) - _MOST} more")
    return ", ".join(parts)


def _as_before(row: MetricChange) -> bool:
    return row.verdict in {"same", "met"} or (row.verdict in _MOVED and not _told_moved(row))


def _told_moved(row: MetricChange) -> bool:
    return row.verdict in _MOVED and abs(row.change_relative or 0.0) >= _LEAST


def _phrase(metric: Metric, row: MetricChange) -> str:
    share = row.change_relative or 0.0
    size = abs(share) * 100
    text = f"{size:.1f} %" if size < 10 else f"{size:.0f} %"
    return metric.phrases[0 if share > 0 else 1].format(text)


def _listed(words: Sequence[str]) -> str:
    every = list(dict.fromkeys(words))
    if len(every) < 2:
        return f"{every[0]} as before" if every else ""
    return f"{', '.join(every[:-1])} and {every[-1]} as before"
