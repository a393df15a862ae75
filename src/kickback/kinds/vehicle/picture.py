"""What is drawn of a vehicle: speeds, turning, slopes, its pedals, and the way from above."""

from collections.abc import Sequence

import numpy as np

from kickback.kinds.picture import (
    Arrow,
    Curve,
    Gauge,
    Ground,
    Now,
    Path,
    Paths,
    Picture,
    Points,
    Strip,
)
from kickback.kinds.vehicle.metrics.turns import moving, radius
from kickback.kinds.vehicle.motion import VehicleMotion
from kickback.kinds.vehicle.roles import FORWARD, PITCH, SIDEWAYS, UP, YAW
from kickback.motion.motion import Event
from kickback.takes.quantities import ANGLE, LENGTH, SPEED, TIME
from kickback.takes.take import FloatArray

__all__ = ["vehicle_now", "vehicle_picture"]

_ARROWS = 40
"""Headings that a map shows."""

_AFTER = 1.0
"""Seconds after a turn over which its slip is shown."""

_SLIP = 1.0
"""Degrees of slip below which there is none to look at."""

_MOVES = 0.05
"""Share of the highest speed from which a slip is one."""

_FEWEST = 4
"""Unlike speeds of turns that show how a turning goes with it."""

_UNLIKE = 1.2
"""Times that speeds lie apart to be unlike."""


def vehicle_picture(motion: VehicleMotion, _events: Sequence[Event]) -> Picture:
    """Return what a figure of a vehicle holds."""
    unit = motion.take.header.length_unit
    speed, turning = SPEED.within(unit), (ANGLE / TIME).within(unit)
    curves = [
        Curve(
            label="forward speed",
            role=FORWARD.name,
            unit=speed,
            t=motion.forward.tv,
            y=motion.forward.v,
        )
    ]
    if motion.yaw is not None:
        curves.append(
            Curve(label="turning", role=YAW.name, unit=turning, t=motion.yaw.tv, y=motion.yaw.v)
        )
    if motion.sideways is not None and _slips(motion):
        curves.append(
            Curve(
                label="sideways speed",
                role=SIDEWAYS.name,
                unit=speed,
                t=motion.sideways.tv,
                y=motion.sideways.v,
            )
        )
    if PITCH.name in motion.tracks:
        degrees = ANGLE.within(unit)
        take = motion.take
        curves.append(
            Curve(
                label="tilt",
                role=PITCH.name,
                unit=degrees,
                t=motion.t,
                y=take.numbers("pitch"),
                beside=take.numbers("ground_pitch"),
                names=("body", "slope"),
            )
        )
    if UP.name in motion.tracks:
        curves.append(
            Curve(
                label="height",
                role=UP.name,
                unit=LENGTH.within(unit),
                t=motion.t,
                y=motion.tracks[UP.name].p,
            )
        )
    return Picture(
        curves=curves,
        inputs=_inputs(motion),
        ground=_ground(motion),
        turns=_circles(motion),
        points=_by_speed(motion) or _slip(motion),
        still=frozenset({"rest", "straight"}),
        stands_on=motion.sources,
    )


def _inputs(motion: VehicleMotion) -> list[Strip]:
    pedals, found = motion.pedals, []
    for name, amount in (("throttle", pedals.throttle), ("steer", pedals.steer)):
        if amount is not None:
            found.append(Strip(name=name, values=amount))
    if pedals.brake is not None:
        found.append(Strip(name="brake", values=pedals.brake.astype(np.float64)))
    return found


def _ground(motion: VehicleMotion) -> Ground | None:
    """Return the way over the ground, with where it points along it."""
    if motion.take.header.view == "side":
        return None
    from kickback.takes.axes import ground_axes

    axes = ground_axes(motion.take.header)
    place = motion.place
    rows = np.unique(np.linspace(0, len(place) - 1, _ARROWS).astype(np.int64))
    along = np.exp(1j * np.deg2rad(motion.heading))
    arrows = [
        Arrow(
            x=float(place[k].real),
            y=float(place[k].imag),
            dx=float(along[k].real),
            dy=float(along[k].imag),
        )
        for k in rows.tolist()
    ]
    return Ground(
        x=place.real,
        y=place.imag,
        speed=np.abs(motion.velocity),
        unit=SPEED.within(motion.take.header.length_unit),
        across=axes[0],
        along=axes[1],
        arrows=arrows if motion.heading_source == "recorded" else [],
        words="heading as arrows",
    )


def _circles(motion: VehicleMotion) -> Paths | None:
    """Return the turns at full lock from their presses, each as if it had come up from below."""
    turns = moving(motion)
    if not turns:
        return None
    items = []
    for turn in turns:
        rows = slice(turn.start - 1, turn.stop)
        came = motion.velocity[turn.start - 1]
        way = (motion.place[rows] - motion.place[turn.start - 1]) * np.conj(came) / abs(came)
        side = -1.0 if way[-1].imag > 0 else 1.0  # turns to the left and the right as one
        t = motion.t[rows] - motion.t[turn.start - 1]
        items.append(Path(t=t, x=-side * way.imag, y=way.real, top=0))
    return Paths(
        one="turn", many="turns", begin="press", top="press", x="aside", y="ahead", items=items
    )


def _slip(motion: VehicleMotion) -> Points | None:
    """Return the slip over the way from the press of full lock, turns apart from each other."""
    angle = _angle(motion)
    along, slip = [np.zeros(0)], [np.zeros(0)]
    for turn in moving(motion) if _slips(motion) else ():
        rows = slice(turn.start, _straight(motion, turn.stop))
        way = np.cumsum(np.abs(motion.velocity[rows]) * motion.step[rows])
        along += [way, np.full(1, np.nan)]
        slip += [angle[rows], np.full(1, np.nan)]
    if len(slip) < 2:
        return None
    unit = motion.take.header.length_unit
    return Points(
        title="slip over the way",
        x_label=f"way from the press [{unit}]",
        y_label="slip [deg]",
        x=np.concatenate(along),
        y=np.concatenate(slip),
        line=True,
    )


def _slips(motion: VehicleMotion) -> bool:
    """Whether its motion ever points away from its heading, but at rest."""
    pace = np.abs(motion.velocity)
    moves = pace > _MOVES * float(np.nanmax(pace, initial=0.0))
    return bool(np.nanmax(_angle(motion)[moves], initial=0.0) >= _SLIP)


def _angle(motion: VehicleMotion) -> FloatArray:
    """Return the slip in each frame, degrees, shape (n,)."""
    aside = motion.sideways
    across = np.zeros(len(motion.t)) if aside is None else np.abs(aside.v)
    return np.rad2deg(np.arctan2(across, np.abs(motion.forward.v)))


def _straight(motion: VehicleMotion, stop: int) -> int:
    """Return the frame up to which a slip is shown after a turn: the next turn, or soon."""
    wheel = motion.pedals.steer
    last = int(np.searchsorted(motion.t, motion.t[stop - 1] + _AFTER))
    turned = np.flatnonzero(wheel[stop:last]) if wheel is not None else np.zeros(0)
    return stop + int(turned[0]) if turned.size else last


def _by_speed(motion: VehicleMotion) -> Points | None:
    """Return how turning at full lock goes with the speed."""
    turns = [one for one in moving(motion) if radius(motion, one) is not None]
    speeds = np.array([one.speed for one in turns])
    if len(np.unique(np.floor(np.log(speeds) / np.log(_UNLIKE)))) < _FEWEST:
        return None
    unit = motion.take.header.length_unit
    return Points(
        title="turning over speed",
        x_label=f"speed [{SPEED.within(unit)}]",
        y_label=f"turning [{(ANGLE / TIME).within(unit)}]",
        x=speeds,
        y=np.array([abs(one.mean) for one in turns]),
    )


def vehicle_now(motion: VehicleMotion, seconds: float) -> Now:
    """Return a vehicle at its last frame, and where it was of late."""
    unit = motion.take.header.length_unit
    gauges = [
        Gauge(label="forward speed", value=float(motion.forward.v[-1]), unit=SPEED.within(unit))
    ]
    if motion.yaw is not None:
        gauges.append(
            Gauge(label="turning", value=float(motion.yaw.v[-1]), unit=(ANGLE / TIME).within(unit))
        )
    if motion.sideways is not None:
        gauges.append(
            Gauge(
                label="sideways speed", value=float(motion.sideways.v[-1]), unit=SPEED.within(unit)
            )
        )
    first = int(np.searchsorted(motion.t, motion.t[-1] - seconds))
    place = motion.place[first:]
    return Now(gauges=gauges, trail=[(float(one.real), float(one.imag)) for one in place])
