"""A level's gaps: which a parameter set cannot clear, and which by fewer frames than are asked."""

from collections.abc import Mapping, Sequence

import numpy as np

from kickback.errors import UsageError
from kickback.takes.header import Value
from kickback.tuning.reach.reach import reach
from kickback.tuning.reach.record import Gap, Judged, Reach

__all__ = ["judge"]


def judge(
    parameters: Mapping[str, Value],
    gaps: Sequence[Gap],
    *,
    kind: str = "foot",
    rates: Sequence[float] = (60.0,),
) -> list[Judged]:
    """Return each gap's verdict, in order.

    Raises UsageError for a gap that is none, a way that the set has not, and what ``reach`` raises.
    """
    for gap in gaps:
        _check(gap)
    out: dict[int, Judged] = {}
    for ceiling in dict.fromkeys(gap.ceiling for gap in gaps):
        under = [k for k, gap in enumerate(gaps) if gap.ceiling == ceiling]
        some = [gaps[k] for k in under]
        found = reach(
            parameters,
            kind=kind,
            rates=rates,
            ceiling=ceiling,
            grid=(np.array([gap.across for gap in some]), np.array([gap.up for gap in some])),
        )
        out |= {k: _judged(found, gap) for k, gap in zip(under, some, strict=True)}
    return [out[k] for k in range(len(gaps))]


def _check(gap: Gap) -> None:
    if gap.across == 0 and gap.up <= 0:
        raise UsageError(f"'{gap.name}' is no gap and no step: across above 0, or up above 0")
    if gap.ceiling is not None and gap.up >= gap.ceiling:
        raise UsageError(f"'{gap.name}' ends above its ceiling")


def _judged(found: Reach, gap: Gap) -> Judged:
    """Return the verdict by the humblest way that does, by the best one where none does."""
    if gap.by is not None and gap.by not in found.ways:
        why = found.missing.get(gap.by, f"there are {', '.join(found.ways)}")
        raise UsageError(f"'{gap.name}' cannot be looked at by '{gap.by}': {why}")
    row = int(np.searchsorted(found.up, gap.up))
    column = int(np.searchsorted(found.across, gap.across))
    ways = [gap.by] if gap.by is not None else list(found.ways)
    judged = [_by(found, gap, way, row, column) for way in ways]
    enough = [one for one in judged if one.verdict == "clears"]
    return enough[0] if enough else max(judged, key=lambda one: (one.frames, one.sometimes))


def _by(found: Reach, gap: Gap, way: str, row: int, column: int) -> Judged:
    frames = {rate: int(found.found[way, rate].surely[row, column]) for rate in found.rates}
    best = [int(found.found[way, rate].at_best[row, column]) for rate in found.rates]
    worst = min(frames, key=lambda rate: (frames[rate], frames[rate] / rate))
    return Judged(
        gap=gap,
        way=way,
        rate=worst,
        frames=frames[worst],
        by_rate=frames,
        sometimes=not frames[worst] and min(best) > 0,
    )
