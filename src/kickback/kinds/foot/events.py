"""Events: instants between frames at which something begins, tops out or ends."""

import numpy as np

from kickback.kinds.foot.arcs import apex_times
from kickback.kinds.foot.motion import FootMotion
from kickback.motion.motion import Event
from kickback.motion.segments import BoolArray

__all__ = ["events_of"]


def events_of(motion: FootMotion) -> list[Event]:
    """Return presses, releases, takeoffs, ledges, apexes and landings in time order."""
    found: list[Event] = []
    inputs = motion.inputs
    if motion.across is not None:
        found += _edges(motion, inputs.move != 0, "move", inputs.source != "recorded")
    for name, button in (("jump", inputs.jump), ("brake", inputs.brake), ("dash", inputs.dash)):
        if button is not None:
            found += _edges(motion, button, name, False)
    flights = motion.flights
    inferred = motion.contact_source != "recorded"
    tops = apex_times(motion)
    n = len(motion.t)
    for k in range(len(flights)):
        start, stop, top = int(flights.start[k]), int(flights.stop[k]), int(flights.top[k])
        if start > 0:
            name = "takeoff" if flights.jump[k] else "ledge"
            found.append(
                Event(name=name, time=float(motion.begin[start]), frame=start, inferred=inferred)
            )
        if flights.jump[k] and top + 1 < n:
            found.append(Event(name="apex", time=float(tops[k]), frame=top, inferred=inferred))
        if stop < n:
            found.append(
                Event(name="landing", time=float(motion.t[stop]), frame=stop, inferred=inferred)
            )
    return sorted(found, key=lambda event: (event.time, event.frame))


def _edges(motion: FootMotion, held: BoolArray, name: str, inferred: bool) -> list[Event]:
    """Return presses and releases; what is held in the first frame was not pressed there."""
    rows = np.flatnonzero(held[1:] != held[:-1]) + 1
    return [
        Event(
            name=f"{name} {'press' if held[row] else 'release'}",
            time=float(motion.begin[row]),
            frame=int(row),
            inferred=inferred,
        )
        for row in rows
    ]
