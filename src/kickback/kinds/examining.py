"""All checks of a take, in the order in which one rules out another."""

from collections.abc import Sequence

import numpy as np

from kickback.errors import InputError
from kickback.findings.clock import check_clock, check_frames
from kickback.findings.finding import SEVERITIES, Finding
from kickback.findings.interrupted import check_interruptions
from kickback.findings.leaps import check_leaps
from kickback.findings.steps import check_steps
from kickback.kinds.analysis import AnyAnalysis
from kickback.kinds.interrupted import interruptions_of
from kickback.kinds.table import analyse
from kickback.motion.clock import clock_of
from kickback.motion.fixed_step import FixedStep
from kickback.motion.interruptions import PAUSE, RESPAWN, Interruption, interrupted_frames
from kickback.motion.options import Options
from kickback.motion.prints import Prints
from kickback.takes.computed_once import computed_once
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["examine"]

_LONG = {"hitch", "frames-dropped"}
"""What a pause also looks like."""


def examine(take: Take | AnyAnalysis, options: Options | None = None) -> list[Finding]:
    """Return what a take's user should know before building on it, worst first.

    Of the ``options`` the thinnest floor (where the header does not say) and the side of the
    level's tiles matter. Takes of no known kind are examined for their clock and leaps alone.
    """
    analysis = analyse(take, options)
    if analysis.clock != "wall":  # what interrupts it is on the wall clock
        wall = replace(analysis.shown, header=replace(analysis.shown.header, clock="wall"))
        analysis = analyse(wall, analysis.options)
    return findings_of(analysis)


@computed_once
def findings_of(analysis: AnyAnalysis) -> list[Finding]:
    """Return what is found in an analysed take, on the wall clock."""
    found = check_clock(analysis.shown)
    if found:
        return _named(found, analysis.take)  # nothing else can be told without a clock
    with np.errstate(all="ignore"):  # numbers near the end of their range are no motion
        return _named(_causes_only(_joined(_found(analysis))), analysis.take)


def _found(analysis: AnyAnalysis) -> list[Finding]:
    shown, steps = analysis.shown, analysis.fixed_step
    prints = analysis.prints if steps is None else Prints(shown)
    found = check_frames(shown, clock_of(shown, prints["t"], prints["dt"]))
    found += check_steps(steps, shown.frame_rate, len(shown))
    read = check_leaps(analysis.take, analysis.breaks)
    try:
        interrupted = interruptions_of(analysis)
    except InputError:  # of no known kind
        return found + [_as_shown(item, steps) for item in read]
    if steps is None:
        found = _without_pauses(analysis, found, interrupted)
    dead = _known_leaps(analysis, interrupted)
    read = [one for one in read if one.code != "teleport" or one.start not in dead]
    read += check_interruptions(interrupted, len(analysis.take)) + _of_kind(analysis)
    return found + [_as_shown(item, steps) for item in read]


def _known_leaps(analysis: AnyAnalysis, interrupted: Sequence[Interruption]) -> set[int]:
    """Return the frames of leaps that are a respawn, or no interruption to the take's kind."""
    respawns = {one.start for one in interrupted if one.kind is RESPAWN}
    kept = {one.start for one in interrupted}
    return respawns | {one.start for one in analysis.interruptions} - kept


def _of_kind(analysis: AnyAnalysis) -> list[Finding]:
    """Return what the checks of a take's kind find, piece by piece."""
    checks = analysis.kind.measuring.checks
    return [
        _moved(item, piece.start)
        for piece in analysis.pieces
        for check in checks
        for item in check(piece.motion)
    ]


def _without_pauses(
    analysis: AnyAnalysis, found: list[Finding], interrupted: Sequence[Interruption]
) -> list[Finding]:
    """Leave out the long frames in which the game stood still, or nothing was to be written."""
    pauses = [one for one in interrupted if one.kind is PAUSE]
    paused = interrupted_frames(pauses, len(analysis.shown))
    for piece in analysis.pieces:
        for row in analysis.kind.reading.begins(piece.motion):
            paused[piece.start + row] = True
    return [one for one in found if one.code not in _LONG or not paused[one.start]]


def _as_shown(item: Finding, steps: FixedStep | None) -> Finding:
    """Return a finding of a take's steps as one of the frames that show them."""
    if steps is None:
        return item
    rows = np.flatnonzero(np.diff(steps.index, prepend=steps.index[0] - 1) > 0)
    rows = np.append(rows, len(steps.index))
    last = len(rows) - 1
    return replace(
        item, start=int(rows[min(item.start, last)]), stop=int(rows[min(item.stop, last)])
    )


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
    """Return findings with the take's name, worst first."""
    kept = [replace(item, take=take.name) for item in found]
    return sorted(kept, key=lambda item: (-SEVERITIES.index(item.severity), item.start))
