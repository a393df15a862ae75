"""What is drawn of a character on foot: speed, height, inputs, and the arcs of its jumps."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.foot.motion import FootMotion
from kickback.kinds.foot.roles import ACROSS, UP
from kickback.kinds.picture import Curve, Gauge, Marks, Now, Path, Paths, Picture, Strip
from kickback.motion.motion import Event
from kickback.takes.quantities import LENGTH, SPEED

__all__ = ["foot_now", "foot_picture"]

_MARKED = ("takeoff", "apex", "landing", "ledge")


def foot_picture(motion: FootMotion, events: Sequence[Event]) -> Picture:
    """Return what a figure of a character on foot holds."""
    unit = motion.take.header.length_unit
    curves = []
    if motion.across is not None:
        curves.append(
            Curve(
                label="sideways speed",
                role=ACROSS.name,
                unit=SPEED.within(unit),
                t=motion.across.tv,
                y=motion.across.v,
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
            items=_arcs(motion),
        ),
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
    x = motion.across.p if motion.across is not None else motion.t
    arcs = []
    for k in np.flatnonzero(flights.jump).tolist():
        first, last = int(flights.start[k]) - 1, min(int(flights.stop[k]), len(y) - 1)
        path = slice(first, last + 1)
        way = -1.0 if x[last] < x[first] else 1.0
        arcs.append(
            Path(
                t=motion.t[path] - motion.t[first],
                x=(x[path] - x[first]) * way,
                y=y[path] - y[first],
                top=int(flights.top[k]) - first,
            )
        )
    return arcs


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
