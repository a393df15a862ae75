"""All checks of a take, in the order in which one rules out another."""

from collections.abc import Sequence

import numpy as np

from kickback.errors import InputError
from kickback.integrity.finding import SEVERITIES, Finding
from kickback.integrity.flights import check_flights
from kickback.integrity.ground import (
    check_contact,
    check_fell_through,
    check_floor,
    check_probe,
)
from kickback.integrity.inputs import check_inputs
from kickback.integrity.leaps import check_leaps
from kickback.integrity.timing import check_clock, check_frames
from kickback.integrity.velocity import check_positions, check_velocity
from kickback.motion.analyse import Motion, analyse
from kickback.motion.breaks import find_breaks, pieces_of
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["examine"]

_MOST = 20
_EXPLAINS = {
    "speed-on-ground": ("constant-fall",),  # a fall begins with what had gathered
    "straight-jump": ("constant-fall",),
    "velocity-per-frame": ("velocity-disagrees", "position-frozen"),
    "up-flipped": ("velocity-disagrees", "fell-through"),
    "contact-disagrees": ("no-fall", "constant-fall", "straight-jump", "fell-through"),
    "positions-repeated": ("velocity-disagrees", "velocity-scale"),
}


def examine(
    take: Take, *, floor_thickness: float | None = None, tile: float | None = None
) -> list[Finding]:
    """Return what a take's user should know before building on it, worst first.

    ``floor_thickness``, length: the thinnest floor, where the header does not say;
    ``tile``, length: the side of the level's tiles. Only side views are examined for
    their motion.
    """
    found = check_clock(take)
    if found:
        return _named(found, take)  # nothing else can be told without a clock
    with np.errstate(all="ignore"):  # numbers near the end of their range are no motion
        return _named(_causes_only(_joined(_found(take, floor_thickness, tile))), take)


def _found(take: Take, floor_thickness: float | None, tile: float | None) -> list[Finding]:
    found = check_frames(take)
    breaks = find_breaks(take)
    found += check_leaps(take, breaks)
    if take.header.view == "side":
        thin = take.header.extra.get("floor_thickness", floor_thickness)
        thickness = float(thin) if isinstance(thin, int | float) else None
        for start, piece in pieces_of(take, breaks):
            try:
                motion = analyse(piece)
            except InputError:
                continue
            found += [_moved(item, start) for item in _motion_checks(motion, thickness, tile)]
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
    codes = {item.code for item in found}
    explained = {code for cause in codes for code in _EXPLAINS.get(cause, ())}
    return [item for item in found if item.code not in explained]


def _motion_checks(motion: Motion, thickness: float | None, tile: float | None) -> list[Finding]:
    return [
        *check_velocity(motion),
        *check_positions(motion),
        *check_contact(motion),
        *check_flights(motion),
        *check_inputs(motion),
        *check_floor(motion, thickness),
        *check_fell_through(motion),
        *check_probe(motion, tile),
    ]


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
