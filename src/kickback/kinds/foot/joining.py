"""The motions of stretches between leaps, laid end to end: for whoever draws all frames."""

from collections.abc import Sequence
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from kickback.kinds.foot.dashes import Dashes
from kickback.kinds.foot.flights import Flights
from kickback.kinds.foot.footing import Footing
from kickback.kinds.foot.inputs import recorded_inputs
from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.plane import Plane
from kickback.motion.clock import clock_of
from kickback.motion.options import Options
from kickback.motion.prints import Prints
from kickback.motion.tracks import Track
from kickback.takes.record import replace
from kickback.takes.take import Take

__all__ = ["join_motions"]

N = TypeVar("N", bound=np.generic)


def join_motions(
    take: Take, parts: Sequence[tuple[int, FootMotion]], options: Options
) -> FootMotion:
    """Lay the motions of stretches end to end; frames of none have no speed and no contact.

    ``parts``: the frame that each stretch begins with, and its motion.
    """
    first = parts[0][1]
    n = len(take)
    prints = Prints(take)
    clock = clock_of(take, prints["t"], prints["dt"])
    inputs, plane = recorded_inputs(take), _joined_plane(take, parts)
    if inputs.source == "none" or plane is not None:
        move = _filled(n, [(start, one.inputs.move) for start, one in parts])
        leg = None if plane is None else plane.leg
        inputs = replace(inputs, move=move, source=first.inputs.source, leg=leg)
    contact = _filled(n, [(start, one.grounded) for start, one in parts])
    return FootMotion(
        take=take,
        clock=clock,
        options=options,
        tracks={
            name: _joined_track(take, [(start, one.tracks[name]) for start, one in parts])
            for name in first.tracks
        },
        plane=plane,
        footing=_joined_footing(n, [(start, one.footing) for start, one in parts]),
        rest_speed=max(one.rest_speed for _, one in parts),
        inputs=inputs,
        grounded=contact,
        contact_source=first.contact_source,
        flights=_joined_flights(parts),
        dashes=_joined_dashes(parts),
    )


def _filled(n: int, parts: Sequence[tuple[int, npt.NDArray[N]]]) -> npt.NDArray[N]:
    """Lay arrays end to end, each from its frame on; what none covers is 0."""
    out = np.zeros(n, dtype=parts[0][1].dtype)
    for start, values in parts:
        out[start : start + len(values)] = values
    return out


def _joined_track(take: Take, parts: Sequence[tuple[int, Track]]) -> Track:
    """Return a track of all frames; what tells most about the noise is the worst of the parts."""
    t, n = take.numbers("t"), len(take)
    v, tv = np.full(n, np.nan), t.copy()
    for start, one in parts:
        v[start : start + len(one.v)] = one.v
        tv[start : start + len(one.v)] = one.tv
    worst = max((one for _, one in parts), key=lambda one: one.noise)
    logs = [(start, one.logged) for start, one in parts if one.logged is not None]
    if worst.axis in take:
        p = take.numbers(worst.axis)
        logged = take.numbers(f"v{worst.axis}") if logs else None
    else:  # along the lines of a plane
        p = _filled(n, [(start, one.p) for start, one in parts])
        logged = _filled(n, logs) if logs else None
    return replace(worst, p=p, v=v, tv=tv, logged=logged)


def _joined_plane(take: Take, parts: Sequence[tuple[int, FootMotion]]) -> Plane | None:
    """Return the plane of all frames; its legs are counted on from part to part."""
    planes = [(start, one.plane) for start, one in parts if one.plane is not None]
    if not planes:
        return None
    n, first = len(take), planes[0][1]
    names = ("velocity", "size", "wanted", "before", "aside", "strayed", "curved", "straight")
    whole = {
        name: _filled(n, [(start, getattr(one, name)) for start, one in planes]) for name in names
    }
    line, leg, many = np.ones(n, dtype=np.complex128), np.zeros(n, dtype=np.int64), 0
    for start, one in planes:
        line[start : start + len(one.line)] = one.line
        leg[start:] = many
        leg[start : start + len(one.leg)] += one.leg
        many = int(leg[start + len(one.leg) - 1]) + 1
    return replace(
        first,
        **whole,
        first=_joined_track(take, [(start, one.first) for start, one in planes]),
        second=_joined_track(take, [(start, one.second) for start, one in planes]),
        line=line,
        leg=leg,
        slow=max(one.slow for _, one in planes),
    )


def _joined_footing(n: int, parts: Sequence[tuple[int, Footing]]) -> Footing:
    carried = [(start, one.carried) for start, one in parts if one.carried is not None]
    return Footing(
        carried=_filled(n, carried) if carried else None,
        sloped=_filled(n, [(start, one.sloped) for start, one in parts]),
        moving=_filled(n, [(start, one.moving) for start, one in parts]),
    )


def _joined_flights(parts: Sequence[tuple[int, FootMotion]]) -> Flights:
    names = ("start", "stop", "top")
    moved = {
        name: np.concatenate([getattr(one.flights, name) + start for start, one in parts])
        for name in names
    }
    return Flights(
        **moved,
        jump=np.concatenate([one.flights.jump for _, one in parts]),
        whole=np.concatenate([one.flights.whole for _, one in parts]),
    )


def _joined_dashes(parts: Sequence[tuple[int, FootMotion]]) -> Dashes:
    moved = {
        name: np.concatenate([getattr(one.dashes, name) + start for start, one in parts])
        for name in ("press", "start", "stop", "presses")
    }
    return Dashes(
        **moved,
        speed=np.concatenate([one.dashes.speed for _, one in parts]),
        held=np.concatenate([one.dashes.held for _, one in parts]),
    )
