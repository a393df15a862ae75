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
    told = [(one, by_name[one.name]) for one in metrics if one.phrases and one.name in by_name]
    moved = [(one, row) for one, row in told if _told_moved(row)]
    moved.sort(key=lambda pair: -abs(pair[1].change_relative or 0.0))
    rest = len(moved) - _MOST
    parts = [_phrase(one, row) for one, row in moved[:_MOST]]
    if rest > 0:
        parts.append(f"and {rest} more")
    still = [one.phrases[2] for one, row in told if row.verdict in {"same", "met"}]
    still += [one.phrases[2] for one, row in told if row.verdict in _MOVED and not _told_moved(row)]
    tail = f"{_listed(still)} as before" if still else ""
    return "; ".join(part for part in (", ".join(parts), tail) if part)


def _told_moved(row: MetricChange) -> bool:
    return row.verdict in _MOVED and abs(row.change_relative or 0.0) >= _LEAST


def _phrase(metric: Metric, row: MetricChange) -> str:
    share = row.change_relative or 0.0
    size = abs(share) * 100
    text = f"{size:.1f} %" if size < 10 else f"{size:.0f} %"
    return metric.phrases[0 if share > 0 else 1].format(text)


def _listed(words: Sequence[str]) -> str:
    every = list(dict.fromkeys(words))
    return every[0] if len(every) == 1 else f"{', '.join(every[:-1])} and {every[-1]}"
