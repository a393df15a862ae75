"""What is drawn of a character on foot: speed, height, inputs, and the arcs of its jumps."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.foot.scene import Scene
from kickback.kinds.foot.steering import Complexes
from kickback.kinds.foot.throws import GROUND_JUMP, throws_of
from kickback.kinds.foot.turns import turns_of
from kickback.kinds.picture import (
    Arrow,
    Curve,
    Gauge,
    Ground,
    Marks,
    Now,
    Path,
    Paths,
    Picture,
    Points,
    Strip,
)
from kickback.motion.motion import Event
from kickback.takes.quantities import LENGTH, SPEED
from kickback.takes.take import FloatArray

__all__ = ["foot_now", "foot_picture"]

_TURNED = 0.2
"""Change of an input, of size 1, from which it is drawn anew."""

_MOST_ARROWS = 60
"""Arrows that a map shows."""

_TURN_SHOWN = 0.6
"""Seconds of a turn that are drawn from its press."""

_FEWEST = 4
"""Holds of the button that show how a height goes with it."""

_MARKED = ("takeoff", "apex", "landing", "ledge")


def foot_picture(motion: FootMotion, events: Sequence[Event]) -> Picture:
    """Return what a figure of a character on foot holds."""
    unit = motion.take.header.length_unit
    curves = []
    if motion.across is not None:
        curves.append(
            Curve(
                label="sideways speed" if motion.plane is None else "speed",
                role=ACROSS.name,
                unit=SPEED.within(unit),
                t=motion.across.tv,
                y=motion.across.v if motion.plane is None else motion.size,
            )
        )
    if motion.up is not None:
        curves.append(
            Curve(
                label="height",
                role=UP.name,
                unit=LENGTH.within(unit),
                t=motion.t,
                y=motion.up.p,
                marks=_marks(motion, events),
            )
        )
    arcs = _arcs(motion)
    return Picture(
        curves=curves,
        inputs=_inputs(motion),
        paths=Paths(
            one="jump",
            many="jumps",
            begin="takeoff",
            top="apex",
            x="distance",
            y="height",
            items=arcs,
        )
        if arcs or motion.plane is None
        else None,
        ground=_ground(motion),
        turns=_turns(motion),
        points=_hops(motion),
        still=frozenset({"rest", "still", "grounded"}),
        stands_on=motion.sources,
    )


def _marks(motion: FootMotion, events: Sequence[Event]) -> list[Marks]:
    """Return where events lie on the height."""
    if motion.up is None:
        return []
    y, found = motion.up.p, []
    for name in _MARKED:
        chosen = [event for event in events if event.name == name]
        times = np.array([event.time for event in chosen])
        # an apex lies above the chord between its frames
        frames = np.array([event.frame for event in chosen], dtype=np.int64)
        heights = y[frames] if name == "apex" else np.interp(times, motion.t, y)
        found.append(Marks(name=name, t=times, y=heights))
    return found


def _inputs(motion: FootMotion) -> list[Strip]:
    strips = []
    if motion.inputs.source == "recorded":
        axes = [name for name in ("in_move_x", "in_move_y") if name in motion.take]
        names = ["move"] if motion.plane is None else [name.removeprefix("in_") for name in axes]
        strips += [
            Strip(name=name, values=motion.take.numbers(axis))
            for name, axis in zip(names, axes, strict=False)
        ]
    for name in ("jump", "brake", "dash"):
        button = getattr(motion.inputs, name)
        if button is not None:
            strips.append(Strip(name=name, values=button.astype(float)))
    return strips


def _arcs(motion: FootMotion) -> list[Path]:
    """Return the path of each jump from its takeoff, to the right."""
    if motion.up is None:
        return []
    flights, y = motion.flights, motion.up.p
    place, arcs = motion.place, []
    for k in np.flatnonzero(flights.jump).tolist():
        first, last = int(flights.start[k]) - 1, min(int(flights.stop[k]), len(y) - 1)
        path = slice(first, last + 1)
        arcs.append(
            Path(
                t=motion.t[path] - motion.t[first],
                x=_along(place[path] - place[first]) if motion.over_ground else motion.t[path],
                y=y[path] - y[first],
                top=int(flights.top[k]) - first,
            )
        )
    return arcs


def _along(way: Complexes) -> FloatArray:
    """Return how far ways over the ground go toward where they end, shape (k,)."""
    end = way[-1] / abs(way[-1]) if abs(way[-1]) > 0 else 1.0
    return np.asarray((way * np.conj(end)).real)


def _ground(motion: FootMotion) -> Ground | None:
    """Return the way over a plane, with what was pressed wherever that changes."""
    plane = motion.plane
    if plane is None:
        return None
    place, wanted = motion.place, motion.wanted
    fresh = np.flatnonzero(np.abs(np.diff(wanted)) > _TURNED) + 1
    rows = fresh[np.abs(wanted[fresh]) > 0][:_MOST_ARROWS]
    return Ground(
        x=place.real,
        y=place.imag,
        speed=motion.size,
        unit=SPEED.within(motion.take.header.length_unit),
        across=plane.first.axis,
        along=plane.second.axis,
        arrows=[
            Arrow(
                x=float(place[row].real),
                y=float(place[row].imag),
                dx=float(wanted[row].real),
                dy=float(wanted[row].imag),
            )
            for row in rows.tolist()
        ],
    )


def _turns(motion: FootMotion) -> Paths | None:
    """Return the turns at speed from their presses, each as if it had come up from below."""
    plane = motion.plane
    if plane is None or motion.inputs.source != "recorded" or motion.across is None:
        return None
    turns, items = turns_of(Scene(motion), plane), []
    for press, stop in zip(turns.press.tolist(), turns.stop.tolist(), strict=True):
        last = min(stop, int(np.searchsorted(motion.t, motion.t[press] + _TURN_SHOWN)))
        came = plane.velocity[press - 1]
        way = (motion.place[press - 1 : last] - motion.place[press - 1]) * np.conj(came) / abs(came)
        side = -1.0 if way[-1].imag > 0 else 1.0  # turns to the left and the right as one
        items.append(
            Path(
                t=motion.t[press - 1 : last] - motion.t[press - 1],
                x=-side * way.imag,
                y=way.real,
                top=0,
            )
        )
    return Paths(
        one="turn", many="turns", begin="press", top="press", x="aside", y="ahead", items=items
    )


def _hops(motion: FootMotion) -> Points | None:
    """Return how high jumps from the ground were over how long the button was held."""
    jump = motion.inputs.jump
    if jump is None or motion.up is None or not len(motion.flights):
        return None
    throws = throws_of(motion)
    keep = throws.of(GROUND_JUMP) & throws.landed
    start, top = throws.start[keep], throws.top[keep]
    if len(start) < _FEWEST:
        return None
    up = np.append(np.flatnonzero(~jump), len(jump) - 1)
    let_go = up[np.minimum(np.searchsorted(up, start), len(up) - 1)]
    hold = np.maximum(motion.begin[let_go] - motion.begin[start], 0.0)
    if len(np.unique(np.round(hold, 2))) < _FEWEST:
        return None
    unit = motion.take.header.length_unit
    return Points(
        title="height over hold time",
        x_label="button held after takeoff [s]",
        y_label=f"height [{unit}]",
        x=hold,
        y=motion.up.p[top] - motion.up.p[start - 1],
    )


def foot_now(motion: FootMotion, seconds: float) -> Now:
    """Return a character's speeds, its height over the floor it stood on last, and its way."""
    across, up, t = motion.across, motion.up, motion.t
    unit = motion.take.header.length_unit
    gauges, trail = [], []
    if across is not None:
        speed = float(motion.size[-1])
        gauges.append(Gauge(label="speed", value=speed, unit=SPEED.within(unit)))
    if up is not None:
        gauges.append(Gauge(label="up", value=float(up.v[-1]), unit=SPEED.within(unit)))
        floor = up.p[motion.grounded]
        if len(floor):
            height = round(float(up.p[-1] - floor[-1]), 3)
            gauges.append(Gauge(label="height", value=height, unit=LENGTH.within(unit)))
    if up is not None and across is not None:
        recent = t > t[-1] - seconds
        trail = list(zip(across.p[recent].tolist(), up.p[recent].tolist(), strict=True))
    return Now(gauges=gauges, trail=trail)
