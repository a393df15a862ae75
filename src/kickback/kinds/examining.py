"""All checks of a take, in the order in which one rules out another."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from kickback.errors import InputError
from kickback.findings.clock import check_clock, check_frames
from kickback.findings.finding import SEVERITIES, Finding
from kickback.findings.leaps import check_leaps
from kickback.kinds.table import analyse
from kickback.motion.analysis import Analysis
from kickback.motion.clock import clock_of
from kickback.motion.options import Options
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["examine"]

_MOST = 20
"""Findings of one code that are listed: more say the same."""


def examine(take: Take | Analysis[Any], options: Options | None = None) -> list[Finding]:
    """Return what a take's user should know before building on it, worst first.

    Of the ``options`` the thinnest floor (where the header does not say) and the side of the
    level's tiles matter. Takes of no known kind are examined for their clock and leaps alone.
    """
    analysis = analyse(take, options)
    return analysis.once("findings", lambda: _examined(analysis))


def _examined(analysis: Analysis[Any]) -> list[Finding]:
    found = check_clock(analysis.take)
    if found:
        return _named(found, analysis.take)  # nothing else can be told without a clock
    with np.errstate(all="ignore"):  # numbers near the end of their range are no motion
        return _named(_causes_only(_joined(_found(analysis))), analysis.take)


def _found(analysis: Analysis[Any]) -> list[Finding]:
    take = analysis.take
    found = check_frames(take, clock_of(take, analysis.prints["t"], analysis.prints["dt"]))
    found += check_leaps(take, analysis.breaks)
    try:
        kind: Any = analysis.kind
    except InputError:
        return found
    for piece in analysis.pieces:
        for check in kind.checks:
            found += [_moved(item, piece.start) for item in check(piece.motion)]
    return found


def _joined(found: list[Finding]) -> list[Finding]:
    """Make one of what was found on both sides of a leap, where the frames meet."""
    kept: list[Finding] = []
    for item in sorted(found, key=lambda one: (one.code, one.start)):
        last = kept[-1] if kept else None
        meets = last is not None and last.code == item.code and last.stop == item.start
        if last is not None and meets and item.stop - item.start > 1:
            kept[-1] = replace(last, stop=item.stop)
        else:
            kept.append(item)
    return kept


def _causes_only(found: list[Finding]) -> list[Finding]:
    """Leave out what another finding explains."""
    explained = {code for item in found for code in item.kind.explains}
    return [item for item in found if item.code not in explained]


def _moved(item: Finding, start: int) -> Finding:
    return replace(item, start=item.start + start, stop=item.stop + start)


def _named(found: Sequence[Finding], take: Take) -> list[Finding]:
    """Return findings with the take's name, at most twenty of a code, worst first."""
    counts: dict[str, int] = {}
    kept = []
    for item in found:
        counts[item.code] = counts.get(item.code, 0) + 1
        if counts[item.code] <= _MOST:
            kept.append(replace(item, take=take.name))
    return sorted(kept, key=lambda item: (-SEVERITIES.index(item.severity), item.start))
